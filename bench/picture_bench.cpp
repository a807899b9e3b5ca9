// Picture files: decoding to RGBA and encoding, on one thread, against the general-purpose
// libraries for the same files.
#include <cstdio>

#include <ImfArray.h>
#include <ImfRgbaFile.h>
#include <jpeglib.h>
#include <libdeflate.h>
#include <png.h>
#include <tbb/task_arena.h>
#include <tiffio.h>
#include <webp/decode.h>
#include <webp/encode.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "against_copy.hpp"
#include "subjects.hpp"

namespace {

constexpr std::uint32_t side = 2048;
constexpr std::size_t rgba_bytes = std::size_t{side} * side * 4;
using Bytes = std::vector<std::byte>;

const yl::Image& subject(bool drawn) {
    static const yl::Image photograph = bench::photograph(side);
    static const yl::Image drawing = bench::drawing(side);
    return drawn ? drawing : photograph;
}

/// On one thread, with the memory that the decoded picture takes in copies of.
template <class Work>
void run_alone(benchmark::State& state, std::size_t bytes, const Work& work) {
    tbb::task_arena arena(1);
    arena.execute([&] { bench::run_against_copy(state, bytes, work); });
}

void decode(benchmark::State& state, const Bytes& file, std::size_t bytes = rgba_bytes) {
    run_alone(state, bytes, [&] {
        auto picture = yl::read_picture(file, {.widen_to_rgba = true});
        if (!picture)
            std::abort();
        benchmark::DoNotOptimize(picture->image.view().data);
    });
    state.counters["file_bytes"] = static_cast<double>(file.size());
}

Bytes png_by_library(const yl::Image& image) {
    png_image header{};
    header.version = PNG_IMAGE_VERSION;
    header.width = image.width();
    header.height = image.height();
    header.format = PNG_FORMAT_RGB;
    png_alloc_size_t size = 0;
    png_image_write_get_memory_size(header, size, 0, image.view().data, 0, nullptr);
    Bytes file(size);
    png_image_write_to_memory(&header, file.data(), &size, 0, image.view().data, 0, nullptr);
    file.resize(size);
    return file;
}

void png_decode(benchmark::State& state, bool drawn, bool by_library, bool of_library) {
    const Bytes file = of_library ? png_by_library(subject(drawn))
                                  : *yl::encode_picture("png", subject(drawn).view());
    if (!by_library)
        return decode(state, file);
    run_alone(state, rgba_bytes, [&] {
        png_image image{};
        image.version = PNG_IMAGE_VERSION;
        png_image_begin_read_from_memory(&image, file.data(), file.size());
        image.format = PNG_FORMAT_RGBA;
        const std::unique_ptr<std::byte[]> pixels(new std::byte[PNG_IMAGE_SIZE(image)]);
        png_image_finish_read(&image, nullptr, pixels.get(), 0, nullptr);
        benchmark::DoNotOptimize(pixels.get());
    });
}

std::string temporary_tiff() {
    return (std::filesystem::temp_directory_path() / "yl-bench.tif").string();
}

/// RGB of 8 bits in strips of 64 rows, as differences.
Bytes tiff_by_library(const yl::Image& image, int compression) {
    constexpr std::uint32_t rows = 64;
    const std::string path = temporary_tiff();
    TIFF* tiff = TIFFOpen(path.c_str(), "w");
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, side);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, side);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 3);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 8);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_RGB);
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, compression);
    TIFFSetField(tiff, TIFFTAG_PREDICTOR, PREDICTOR_HORIZONTAL);
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, rows);
    Bytes strip(std::size_t{3} * side * rows);
    for (std::uint32_t top = 0; top < side; top += rows) {
        for (std::uint32_t y = 0; y < rows; ++y)
            std::ranges::copy(image.view().row(top + y),
                              strip.begin() + static_cast<std::ptrdiff_t>(y * 3 * side));
        TIFFWriteEncodedStrip(tiff, top / rows, strip.data(), static_cast<tmsize_t>(strip.size()));
    }
    TIFFClose(tiff);
    std::ifstream in(path, std::ios::binary);
    Bytes file(std::filesystem::file_size(path));
    in.read(reinterpret_cast<char*>(file.data()), static_cast<std::streamsize>(file.size()));
    return file;
}

void tiff_decode(benchmark::State& state, int compression, bool by_library) {
    const Bytes file = tiff_by_library(subject(false), compression);
    const std::size_t bytes = std::size_t{3} * side * side;
    run_alone(state, bytes, [&] {
        if (!by_library) {
            auto picture = yl::read_picture(file);
            if (!picture)
                std::abort();
            benchmark::DoNotOptimize(picture->image.view().data);
            return;
        }
        TIFF* tiff = TIFFOpen(temporary_tiff().c_str(), "r");
        const std::unique_ptr<std::byte[]> pixels(new std::byte[bytes]);
        std::byte* at = pixels.get();
        for (std::uint32_t strip = 0; strip < TIFFNumberOfStrips(tiff); ++strip)
            at += TIFFReadEncodedStrip(tiff, strip, at, -1);
        TIFFClose(tiff);
        benchmark::DoNotOptimize(pixels.get());
    });
}

Bytes webp_by_library(const yl::Image& image, bool is_lossless) {
    const yl::ConstImageView view = image.view();
    const auto* pixels = reinterpret_cast<const std::uint8_t*>(view.data);
    const int size = static_cast<int>(side), stride = static_cast<int>(view.row_stride);
    std::uint8_t* written = nullptr;
    constexpr float quality = 90;
    const std::size_t bytes = is_lossless
                                  ? WebPEncodeLosslessRGB(pixels, size, size, stride, &written)
                                  : WebPEncodeRGB(pixels, size, size, stride, quality, &written);
    const auto all = std::as_bytes(std::span(written, bytes));
    Bytes file(all.begin(), all.end());
    WebPFree(written);
    return file;
}

void webp_decode(benchmark::State& state, bool is_lossless, bool by_library) {
    const Bytes file = webp_by_library(subject(false), is_lossless);
    run_alone(state, std::size_t{3} * side * side, [&] {
        if (!by_library) {
            auto picture = yl::read_picture(file);
            if (!picture)
                std::abort();
            benchmark::DoNotOptimize(picture->image.view().data);
            return;
        }
        int width = 0, height = 0;
        std::uint8_t* pixels = WebPDecodeRGB(reinterpret_cast<const std::uint8_t*>(file.data()),
                                             file.size(), &width, &height);
        benchmark::DoNotOptimize(pixels);
        WebPFree(pixels);
    });
}

/// What the decompressor alone needs for the image data of that file.
void inflate_alone(benchmark::State& state, bool drawn) {
    const yl::Image& image = subject(drawn);
    const std::size_t size = image.row_stride() * side;
    Bytes packed(size + 65536);
    libdeflate_compressor* compressor = libdeflate_alloc_compressor(6);
    packed.resize(libdeflate_zlib_compress(compressor, image.view().data, size, packed.data(),
                                           packed.size()));
    libdeflate_free_compressor(compressor);
    libdeflate_decompressor* decompressor = libdeflate_alloc_decompressor();
    Bytes target(size);
    run_alone(state, size, [&] {
        std::size_t actual = 0;
        libdeflate_zlib_decompress(decompressor, packed.data(), packed.size(), target.data(), size,
                                   &actual);
    });
    libdeflate_free_decompressor(decompressor);
}

void png_encode(benchmark::State& state, bool drawn, bool by_library) {
    std::size_t size = 0;
    const yl::Image& image = subject(drawn);
    run_alone(state, image.row_stride() * side, [&] {
        size = by_library ? png_by_library(image).size()
                          : yl::encode_picture("png", image.view())->size();
    });
    state.counters["file_bytes"] = static_cast<double>(size);
}

struct JpegKind {
    bool progressive = false;
    int luma = 2;  ///< sampling factors of the first component
    int quality = 90;
};

Bytes jpeg_file(const JpegKind& kind) {
    const yl::Image& image = subject(false);
    jpeg_compress_struct info{};
    jpeg_error_mgr errors{};
    info.err = jpeg_std_error(&errors);
    jpeg_create_compress(&info);
    unsigned char* memory = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&info, &memory, &size);
    info.image_width = info.image_height = side;
    info.input_components = 3;
    info.in_color_space = JCS_RGB;
    jpeg_set_defaults(&info);
    jpeg_set_quality(&info, kind.quality, TRUE);
    info.comp_info[0].h_samp_factor = info.comp_info[0].v_samp_factor = kind.luma;
    if (kind.progressive)
        jpeg_simple_progression(&info);
    jpeg_start_compress(&info, TRUE);
    for (std::uint32_t y = 0; y < side; ++y) {
        auto* row =
            const_cast<JSAMPLE*>(reinterpret_cast<const JSAMPLE*>(image.view().row(y).data()));
        jpeg_write_scanlines(&info, &row, 1);
    }
    jpeg_finish_compress(&info);
    const Bytes file(reinterpret_cast<std::byte*>(memory),
                     reinterpret_cast<std::byte*>(memory) + size);
    jpeg_destroy_compress(&info);
    std::free(memory);
    return file;
}

void decode_jpeg_by_library(const Bytes& file) {
    jpeg_decompress_struct info{};
    jpeg_error_mgr errors{};
    info.err = jpeg_std_error(&errors);
    jpeg_create_decompress(&info);
    jpeg_mem_src(&info, reinterpret_cast<const unsigned char*>(file.data()), file.size());
    jpeg_read_header(&info, TRUE);
    info.out_color_space = JCS_EXT_RGBA;
    jpeg_start_decompress(&info);
    const std::unique_ptr<JSAMPLE[]> pixels(new JSAMPLE[rgba_bytes]);
    while (info.output_scanline < info.output_height) {
        JSAMPLE* row = pixels.get() + std::size_t{info.output_scanline} * side * 4;
        jpeg_read_scanlines(&info, &row, 1);
    }
    jpeg_finish_decompress(&info);
    jpeg_destroy_decompress(&info);
    benchmark::DoNotOptimize(pixels.get());
}

void jpeg_decode(benchmark::State& state, const JpegKind& kind, bool by_library) {
    const Bytes file = jpeg_file(kind);
    if (!by_library)
        return decode(state, file);
    run_alone(state, rgba_bytes, [&] { decode_jpeg_by_library(file); });
}

void other_decode(benchmark::State& state, const char* ending, yl::Format format) {
    const yl::Image image = bench::as_format(subject(false), format);
    const auto file = yl::encode_picture(ending, image.view());
    if (!file)
        return state.SkipWithError(file.error().message.c_str());
    const std::size_t channel = yl::info(format).type_size;
    decode(state, *file, std::size_t{side} * side * 4 * channel);
}

/// The photograph in half floats, packed by the library; in a file, since that is what it reads.
class PackedExr {
 public:
    explicit PackedExr(Imf::Compression compression) {
        const yl::Image image = bench::as_format(subject(false), yl::Format::rgba16_float);
        Imf::RgbaOutputFile file(path_.c_str(), side, side, Imf::WRITE_RGB, 1, {0, 0}, 1,
                                 Imf::INCREASING_Y, compression);
        // The library only reads the pixels that it is given.
        file.setFrameBuffer(reinterpret_cast<const Imf::Rgba*>(image.view().data), 1, side);
        file.writePixels(side);
    }
    PackedExr(const PackedExr&) = delete;
    PackedExr& operator=(const PackedExr&) = delete;
    ~PackedExr() { std::filesystem::remove(path_); }

    [[nodiscard]] const std::string& path() const { return path_; }

 private:
    std::string path_ = (std::filesystem::temp_directory_path() / "packed_bench.exr").string();
};

void exr_decode(benchmark::State& state, Imf::Compression compression, bool by_library) {
    const PackedExr file(compression);
    run_alone(state, rgba_bytes * 2, [&] {
        if (by_library) {
            Imf::RgbaInputFile input(file.path().c_str(), 0);
            Imf::Array2D<Imf::Rgba> pixels(side, side);
            input.setFrameBuffer(&pixels[0][0], 1, side);
            input.readPixels(0, side - 1);
            benchmark::DoNotOptimize(&pixels[0][0]);
        } else {
            auto picture =
                yl::read_picture(std::filesystem::path(file.path()), {.widen_to_rgba = true});
            if (!picture)
                std::abort();
            benchmark::DoNotOptimize(picture->image.view().data);
        }
    });
}

}  // namespace

#define YL_PAIR(name, function, ...)                                                      \
    BENCHMARK_CAPTURE(function, name, __VA_ARGS__, false)->Unit(benchmark::kMillisecond); \
    BENCHMARK_CAPTURE(function, name##_by_library, __VA_ARGS__, true)->Unit(benchmark::kMillisecond)

BENCHMARK_CAPTURE(png_decode, photograph, false, false, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, photograph_by_library, false, true, false)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, photograph_of_library, false, false, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, photograph_of_library_by_library, false, true, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, drawing, true, false, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, drawing_by_library, true, true, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(tiff_decode, lzw, COMPRESSION_LZW, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(tiff_decode, lzw_by_library, COMPRESSION_LZW, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(tiff_decode, deflate, COMPRESSION_ADOBE_DEFLATE, false)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(tiff_decode, deflate_by_library, COMPRESSION_ADOBE_DEFLATE, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(webp_decode, lossless, true, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(webp_decode, lossless_by_library, true, true)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(webp_decode, lossy, false, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(webp_decode, lossy_by_library, false, true)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(inflate_alone, photograph, false)->Unit(benchmark::kMillisecond);
YL_PAIR(photograph, png_encode, false);
YL_PAIR(drawing, png_encode, true);
YL_PAIR(baseline_420, jpeg_decode, JpegKind{});
YL_PAIR(baseline_444, jpeg_decode, (JpegKind{.luma = 1}));
YL_PAIR(baseline_420_q75, jpeg_decode, (JpegKind{.quality = 75}));
YL_PAIR(progressive_420, jpeg_decode, (JpegKind{.progressive = true}));
YL_PAIR(progressive_444, jpeg_decode, (JpegKind{.progressive = true, .luma = 1}));

#define YL_OTHER(name, ending, format) \
    BENCHMARK_CAPTURE(other_decode, name, ending, yl::Format::format)->Unit(benchmark::kMillisecond)

YL_OTHER(bmp_24, "bmp", rgb8_srgb);
YL_OTHER(bmp_32, "bmp", rgba8_srgb);
YL_OTHER(tga_24, "tga", rgb8_srgb);
YL_OTHER(tga_32, "tga", rgba8_srgb);
YL_OTHER(ppm, "ppm", rgb8_srgb);
YL_OTHER(pfm, "pfm", rgb32_float);
YL_OTHER(qoi, "qoi", rgba8_srgb);
YL_OTHER(hdr, "hdr", rgb32_float);
YL_OTHER(exr_zip_half, "exr", rgb16_float);

YL_PAIR(zip, exr_decode, Imf::ZIP_COMPRESSION);
YL_PAIR(piz, exr_decode, Imf::PIZ_COMPRESSION);
YL_PAIR(pxr24, exr_decode, Imf::PXR24_COMPRESSION);

BENCHMARK_MAIN();
