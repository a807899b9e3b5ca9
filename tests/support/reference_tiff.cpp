#include "support/reference_tiff.hpp"

#include <doctest/doctest.h>
#include <tiffio.h>

#include <algorithm>
#include <cstring>
#include <filesystem>

#include "support/files.hpp"

namespace support {
namespace {

/// Samples packed as the library wants them: native numbers, or bits from the left.
class Packer {
 public:
    explicit Packer(std::uint32_t bits) : bits_(bits) {}

    void add(std::uint64_t sample) {
        if (bits_ % 8 == 0) {
            for (std::uint32_t b = 0; b < bits_ / 8; ++b)
                bytes_.push_back(static_cast<std::byte>(sample >> (8 * b)));
            return;
        }
        for (std::uint32_t b = bits_; b-- > 0;) {
            if (filled_ % 8 == 0)
                bytes_.push_back(std::byte{0});
            bytes_.back() |= std::byte((sample >> b & 1U) << (7 - filled_ % 8));
            ++filled_;
        }
    }
    void end_row() { filled_ = 0; }
    [[nodiscard]] std::vector<std::byte> take() { return std::move(bytes_); }

 private:
    std::uint32_t bits_;
    std::uint64_t filled_ = 0;
    std::vector<std::byte> bytes_ = {};
};

void set_fields(TIFF* tiff, const TiffKind& kind) {
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, kind.width);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, kind.height);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, static_cast<int>(kind.channels));
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, static_cast<int>(kind.bits));
    TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, static_cast<int>(kind.format));
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, static_cast<int>(kind.photometric));
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, static_cast<int>(kind.compression));
    if (kind.predictor != 1)
        TIFFSetField(tiff, TIFFTAG_PREDICTOR, static_cast<int>(kind.predictor));
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, kind.is_planar ? 2 : 1);
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, static_cast<int>(kind.orientation));
    TIFFSetField(tiff, TIFFTAG_FILLORDER, kind.reverses_bits ? 2 : 1);
    if (kind.tile_width > 0) {
        TIFFSetField(tiff, TIFFTAG_TILEWIDTH, kind.tile_width);
        TIFFSetField(tiff, TIFFTAG_TILELENGTH, kind.tile_height);
    } else {
        TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, kind.rows_per_strip);
    }
    if (!kind.extra.empty())
        TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, static_cast<int>(kind.extra.size()),
                     kind.extra.data());
    if (!kind.palette.empty()) {
        const std::size_t count = kind.palette.size() / 3;
        std::vector<std::uint16_t> map = kind.palette;
        TIFFSetField(tiff, TIFFTAG_COLORMAP, map.data(), map.data() + count,
                     map.data() + 2 * count);
    }
    if (!kind.white.empty())
        TIFFSetField(tiff, TIFFTAG_WHITEPOINT, kind.white.data());
    if (!kind.primaries.empty())
        TIFFSetField(tiff, TIFFTAG_PRIMARYCHROMATICITIES, kind.primaries.data());
    if (kind.transfer.size() == 1)
        TIFFSetField(tiff, TIFFTAG_TRANSFERFUNCTION, kind.transfer[0].data());
    if (kind.transfer.size() == 3)
        TIFFSetField(tiff, TIFFTAG_TRANSFERFUNCTION, kind.transfer[0].data(),
                     kind.transfer[1].data(), kind.transfer[2].data());
    if (!kind.profile.empty())
        TIFFSetField(tiff, TIFFTAG_ICCPROFILE, static_cast<std::uint32_t>(kind.profile.size()),
                     kind.profile.data());
}

/// One strip or tile; what lies beyond the picture is its last texel's.
std::vector<std::byte> packed_piece(const TiffKind& kind, std::span<const std::uint64_t> samples,
                                    std::uint32_t left, std::uint32_t top, std::uint32_t columns,
                                    std::uint32_t rows, std::uint32_t plane) {
    Packer packer(kind.bits);
    for (std::uint32_t y = top; y < top + rows; ++y) {
        for (std::uint32_t x = left; x < left + columns; ++x)
            for (std::uint32_t c = 0; c < kind.channels; ++c)
                if (!kind.is_planar || c == plane) {
                    const std::size_t pixel =
                        std::size_t{std::min(y, kind.height - 1)} * kind.width +
                        std::min(x, kind.width - 1);
                    packer.add(samples[pixel * kind.channels + c]);
                }
        packer.end_row();
    }
    return packer.take();
}

void write_page(TIFF* tiff, const TiffKind& kind, std::span<const std::uint64_t> samples) {
    set_fields(tiff, kind);
    const bool is_tiled = kind.tile_width > 0;
    const std::uint32_t wide = is_tiled ? kind.tile_width : kind.width;
    const std::uint32_t high = is_tiled ? kind.tile_height : kind.rows_per_strip;
    for (std::uint32_t plane = 0; plane < (kind.is_planar ? kind.channels : 1); ++plane)
        for (std::uint32_t top = 0; top < kind.height; top += high)
            for (std::uint32_t left = 0; left < kind.width; left += wide) {
                const std::uint32_t rows = is_tiled ? high : std::min(high, kind.height - top);
                auto piece = packed_piece(kind, samples, left, top, wide, rows, plane);
                const auto size = static_cast<tmsize_t>(piece.size());
                [[maybe_unused]] const tmsize_t written =
                    is_tiled
                        ? TIFFWriteEncodedTile(tiff,
                                               TIFFComputeTile(tiff, left, top, 0,
                                                               static_cast<std::uint16_t>(plane)),
                                               piece.data(), size)
                        : TIFFWriteEncodedStrip(
                              tiff, TIFFComputeStrip(tiff, top, static_cast<std::uint16_t>(plane)),
                              piece.data(), size);
                REQUIRE(written == size);
            }
    REQUIRE(TIFFWriteDirectory(tiff) == 1);
}

TIFF* open_to_write(const std::string& path, const TiffKind& kind) {
    std::string mode = "w";
    mode += kind.big_endian ? "b" : "l";
    if (kind.big_tiff)
        mode += "8";
    TIFFSetErrorHandler(nullptr);
    TIFFSetWarningHandler(nullptr);
    TIFF* tiff = TIFFOpen(path.c_str(), mode.c_str());
    REQUIRE(tiff != nullptr);
    return tiff;
}

}  // namespace

std::vector<std::byte> reference_tiff(const TiffKind& kind,
                                      std::span<const std::uint64_t> samples) {
    const TemporaryFolder folder;
    const std::string path = folder.path("reference.tif");
    TIFF* tiff = open_to_write(path, kind);
    for (std::uint16_t page = 0; page < kind.pages; ++page)
        write_page(tiff, kind, samples);
    TIFFClose(tiff);
    return read_bytes(path);
}

std::vector<std::byte> reference_ycbcr_tiff(std::uint32_t width, std::uint32_t height,
                                            std::uint16_t across, std::uint16_t down,
                                            std::span<const std::byte> units) {
    const TemporaryFolder folder;
    const std::string path = folder.path("reference.tif");
    const TiffKind kind = {.width = width,
                           .height = height,
                           .channels = 3,
                           .photometric = PHOTOMETRIC_YCBCR,
                           .rows_per_strip = height};
    TIFF* tiff = open_to_write(path, kind);
    set_fields(tiff, kind);
    TIFFSetField(tiff, TIFFTAG_YCBCRSUBSAMPLING, static_cast<int>(across), static_cast<int>(down));
    std::vector<std::byte> copy(units.begin(), units.end());
    REQUIRE(TIFFWriteRawStrip(tiff, 0, copy.data(), static_cast<tmsize_t>(copy.size())) ==
            static_cast<tmsize_t>(copy.size()));
    TIFFClose(tiff);
    return read_bytes(path);
}

ReadTiff read_by_reference(std::span<const std::byte> file) {
    const TemporaryFolder folder;
    const std::string path = folder.path("written.tif");
    write_bytes(path, file);
    TIFF* tiff = TIFFOpen(path.c_str(), "r");
    REQUIRE(tiff != nullptr);
    ReadTiff result;
    TiffKind& kind = result.kind;
    std::uint16_t channels = 0, bits = 0;
    TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &kind.width);
    TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &kind.height);
    TIFFGetField(tiff, TIFFTAG_SAMPLESPERPIXEL, &channels);
    TIFFGetField(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
    TIFFGetField(tiff, TIFFTAG_SAMPLEFORMAT, &kind.format);
    TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &kind.photometric);
    kind.channels = channels;
    kind.bits = bits;
    std::uint16_t extra_count = 0;
    std::uint16_t* extra = nullptr;
    if (TIFFGetField(tiff, TIFFTAG_EXTRASAMPLES, &extra_count, &extra) == 1)
        kind.extra.assign(extra, extra + extra_count);
    std::uint32_t profile_bytes = 0;
    void* profile = nullptr;
    if (TIFFGetField(tiff, TIFFTAG_ICCPROFILE, &profile_bytes, &profile) == 1) {
        const auto* bytes = static_cast<const std::byte*>(profile);
        kind.profile.assign(bytes, bytes + profile_bytes);
    }
    std::vector<std::byte> row(static_cast<std::size_t>(TIFFScanlineSize(tiff)));
    for (std::uint32_t y = 0; y < kind.height; ++y) {
        REQUIRE(TIFFReadScanline(tiff, row.data(), y, 0) == 1);
        for (std::size_t i = 0; i < std::size_t{kind.width} * channels; ++i) {
            std::uint64_t sample = 0;
            std::memcpy(&sample, row.data() + i * bits / 8, bits / 8);
            result.samples.push_back(sample);
        }
    }
    TIFFClose(tiff);
    return result;
}

}  // namespace support
