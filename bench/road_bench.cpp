// The road of a texture, step by step: PNG in, mip chain, KTX 2.0 out and in.
#include <png.h>
#include <tbb/task_arena.h>

#include <cmath>
#include <filesystem>
#include <random>
#include <yl/yl.hpp>

#include "against_copy.hpp"

namespace {

/// Something like a photograph: smooth light with a little noise.
yl::Texture photograph(std::uint32_t side, yl::Format format) {
    yl::Texture texture = *yl::Texture::create({.format = format,
                                                .width = side,
                                                .height = side,
                                                .levels = yl::full_level_count(side, side)});
    std::mt19937 random(1);
    const std::size_t channels = yl::info(format).block_bytes;
    for (std::uint32_t y = 0; y < side; ++y) {
        const auto row = texture.image(0).row(y);
        for (std::uint32_t x = 0; x < side; ++x) {
            const std::uint32_t noise = static_cast<std::uint32_t>(random());
            for (std::size_t c = 0; c < channels; ++c) {
                const double light = 120 + 80 * std::sin(x * 0.004 * static_cast<double>(c + 1)) *
                                               std::cos(y * 0.003);
                row[x * channels + c] =
                    c == 3 ? std::byte{255}
                           : static_cast<std::byte>(light + ((noise >> (8 * c)) & 7));
            }
        }
    }
    return texture;
}

/// Flat shapes with hard edges, as people draw them.
yl::Texture drawing(std::uint32_t side) {
    yl::Texture texture =
        *yl::Texture::create({.format = yl::Format::rgb8_srgb, .width = side, .height = side});
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const bool ring =
                static_cast<int>(std::hypot(x % 300 - 150.0, y % 260 - 130.0)) / 12 % 2 == 0;
            std::byte* pixel = texture.image(0).row(y).data() + std::size_t{x} * 3;
            pixel[0] = std::byte{ring ? std::uint8_t{240} : std::uint8_t{30}};
            pixel[1] = std::byte{static_cast<std::uint8_t>(x / 64 * 16)};
            pixel[2] = std::byte{static_cast<std::uint8_t>(y / 128 * 32)};
        }
    return texture;
}

/// What the general-purpose PNG library needs for the same file, RGBA out.
void decode_by_library(const std::vector<std::byte>& file) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    png_image_begin_read_from_memory(&image, file.data(), file.size());
    image.format = PNG_FORMAT_RGBA;
    std::vector<png_byte> pixels(PNG_IMAGE_SIZE(image));
    png_image_finish_read(&image, nullptr, pixels.data(), 0, nullptr);
    benchmark::DoNotOptimize(pixels.data());
}

enum class Subject { photograph, drawing };

std::vector<std::byte> png_file(Subject subject) {
    const yl::Texture texture =
        subject == Subject::photograph ? photograph(2048, yl::Format::rgb8_srgb) : drawing(2048);
    return *yl::encode_picture("png", texture.image(0));
}

void png_decode(benchmark::State& state, Subject subject, bool by_library) {
    const auto file = png_file(subject);
    bench::run_against_copy(state, std::size_t{2048} * 2048 * 3, [&] {
        if (by_library)
            decode_by_library(file);
        else
            benchmark::DoNotOptimize(yl::read_picture(file));
    });
}

void png_encode(benchmark::State& state, Subject subject) {
    const yl::Texture texture =
        subject == Subject::photograph ? photograph(2048, yl::Format::rgb8_srgb) : drawing(2048);
    std::size_t size = 0;
    bench::run_against_copy(state, std::size_t{2048} * 2048 * 3,
                            [&] { size = yl::encode_picture("png", texture.image(0))->size(); });
    state.counters["bytes"] = static_cast<double>(size);
}

void mip_chain(benchmark::State& state, int threads, const char* kernel, bool limited) {
    const yl::MipOptions options{.kernel = *yl::parse_kernel(kernel), .limit_ringing = limited};
    yl::Texture texture = photograph(4096, yl::Format::rgba8_srgb);
    tbb::task_arena arena(threads);
    bench::run_against_copy(state, texture.level(0).size(), [&] {
        arena.execute([&] { benchmark::DoNotOptimize(yl::build_mips(texture, options)); });
    });
}

const std::string scratch_file =
    (std::filesystem::temp_directory_path() / "yellow-lattice-bench.ktx2").string();

void ktx2_write(benchmark::State& state, yl::Supercompression scheme) {
    const yl::Texture texture = photograph(4096, yl::Format::rgba8_srgb);
    bench::run_against_copy(state, texture.shape().total_bytes(), [&] {
        benchmark::DoNotOptimize(yl::write_texture(
            scratch_file, texture,
            {.supercompression = scheme, .level = scheme == yl::Supercompression::zstd ? 3 : 0}));
    });
    std::filesystem::remove(scratch_file);
}

void ktx2_read(benchmark::State& state, yl::Supercompression scheme) {
    const yl::Texture texture = photograph(4096, yl::Format::rgba8_srgb);
    if (!yl::write_texture(
            scratch_file, texture,
            {.supercompression = scheme, .level = scheme == yl::Supercompression::zstd ? 3 : 0}))
        return state.SkipWithError("the scratch file cannot be written");
    bench::run_against_copy(state, texture.shape().total_bytes(),
                            [&] { benchmark::DoNotOptimize(yl::read_texture(scratch_file)); });
    std::filesystem::remove(scratch_file);
}

}  // namespace

BENCHMARK_CAPTURE(png_decode, photograph, Subject::photograph, false)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, photograph_by_libpng, Subject::photograph, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, drawing, Subject::drawing, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_decode, drawing_by_libpng, Subject::drawing, true)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_encode, photograph, Subject::photograph)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(png_encode, drawing, Subject::drawing)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(mip_chain, 4096_rgba8_srgb_one_thread, 1, "box", false)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(mip_chain, 4096_rgba8_srgb_two_threads, 2, "box", false)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(mip_chain, 4096_rgba8_srgb_kaiser_two_threads, 2, "kaiser:3", false)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(mip_chain, 4096_rgba8_srgb_default_one_thread, 1, "kaiser:3", true)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(mip_chain, 4096_rgba8_srgb_default_two_threads, 2, "kaiser:3", true)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(ktx2_write, plain, yl::Supercompression::none)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(ktx2_write, zstd_3, yl::Supercompression::zstd)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(ktx2_read, plain, yl::Supercompression::none)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(ktx2_read, zstd_3, yl::Supercompression::zstd)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

BENCHMARK_MAIN();
