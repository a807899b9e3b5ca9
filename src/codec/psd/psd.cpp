// PSD: the merged picture, which shows all layers.
#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include <yl/status_macros.hpp>
#include "codec/color_conversion.hpp"
#include "codec/picture_format.hpp"
#include "codec/profile.hpp"
#include "codec/psd/header.hpp"
#include "codec/tiff/samples.hpp"
#include "codec/tiff/unpack.hpp"

namespace yl::psd {
namespace {

enum class Packing : std::uint16_t { none = 0, run_lengths = 1, zlib = 2, predicted_zlib = 3 };

/// The rows of all channels, one channel after the other.
class Planes {
 public:
    static Result<Planes> open(const Document& document) {
        ByteReader reader(document.picture);
        YL_TRY(const auto packing, reader.read_big<std::uint16_t>());
        if (packing > 3)
            return fail(ErrorKind::malformed, fmt::format("packing {} is unknown", packing),
                        document.picture_offset);
        Planes planes(document, static_cast<Packing>(packing));
        planes.data_ = document.picture.subspan(reader.offset());
        const Status status = planes.packing_ == Packing::run_lengths ? planes.find_rows(reader)
                              : planes.packing_ == Packing::none      ? planes.check_size()
                                                                      : planes.unpack_all();
        YL_CHECK(status);
        return planes;
    }

    [[nodiscard]] std::size_t row_bytes() const { return row_bytes_; }

    Status read_row(std::uint32_t channel, std::uint32_t y, std::span<std::byte> row) const {
        const std::size_t number = std::size_t{channel} * document_.height + y;
        if (packing_ == Packing::run_lengths) {
            const ByteSpan packed =
                data_.subspan(offsets_[number], offsets_[number + 1] - offsets_[number]);
            return tiff::unpack(tiff::Compression::run_lengths, packed, row);
        }
        const ByteSpan from = packing_ == Packing::none ? data_ : ByteSpan(unpacked_);
        std::copy_n(from.begin() + static_cast<std::ptrdiff_t>(number * row_bytes_), row_bytes_,
                    row.begin());
        if (packing_ != Packing::predicted_zlib)
            return {};
        if (document_.is_float())
            tiff::join_float_planes(row, 1, 4, true);
        else
            tiff::add_differences(row, 1, document_.bits / 8, true);
        return {};
    }

 private:
    Planes(const Document& document, Packing packing)
        : document_(document),
          packing_(packing),
          row_bytes_((std::size_t{document.width} * document.bits + 7) / 8) {}

    [[nodiscard]] std::size_t rows() const {
        return std::size_t{document_.channels} * document_.height;
    }

    /// The lengths of all packed rows come first.
    Status find_rows(ByteReader& reader) {
        offsets_ = {0};
        const std::size_t size = document_.is_large ? 4 : 2;
        YL_TRY(const ByteSpan lengths, reader.take(std::uint64_t{rows()} * size));
        data_ = document_.picture.subspan(reader.offset());
        for (std::size_t i = 0; i < rows(); ++i) {
            const std::byte* at = lengths.data() + i * size;
            const std::size_t length = document_.is_large
                                           ? load<std::uint32_t, std::endian::big>(at)
                                           : load<std::uint16_t, std::endian::big>(at);
            if (length > data_.size() - offsets_.back())
                return fail(ErrorKind::malformed, "the file ends within its pixels",
                            document_.picture_offset + document_.picture.size());
            offsets_.push_back(offsets_.back() + length);
        }
        constexpr std::uint64_t max_growth = 64;  // 128 bytes of two
        if (offsets_.back() < std::uint64_t{rows()} * row_bytes_ / max_growth)
            return fail(ErrorKind::malformed,
                        fmt::format("{} bytes cannot hold the pixels", offsets_.back()));
        return {};
    }

    Status check_size() const {
        if (data_.size() / std::max<std::size_t>(row_bytes_, 1) < rows())
            return fail(ErrorKind::malformed,
                        fmt::format("the file ends within its pixels: {} bytes of {}", data_.size(),
                                    rows() * row_bytes_));
        return {};
    }

    Status unpack_all() {
        constexpr std::uint64_t max_growth = 1032;  // of a zlib stream
        const std::uint64_t size = std::uint64_t{rows()} * row_bytes_;
        if (size / max_growth > data_.size())
            return fail(ErrorKind::malformed,
                        fmt::format("{} bytes cannot hold {} unpacked ones", data_.size(), size));
        unpacked_.resize(static_cast<std::size_t>(size));
        return tiff::unpack(tiff::Compression::deflate, data_, unpacked_);
    }

    const Document& document_;
    Packing packing_;
    std::size_t row_bytes_;
    ByteSpan data_{};
    std::vector<std::size_t> offsets_{};
    std::vector<std::byte> unpacked_{};
};

/// A row of one channel, big-endian, to every `step`-th sample of a row of texels.
void spread_samples(ByteSpan row, std::uint32_t count, std::uint32_t bits, std::byte* to,
                    std::size_t step) {
    for (std::size_t x = 0; x < count; ++x, to += step) {
        if (bits == 1)
            *to = std::byte((std::to_integer<unsigned>(row[x / 8]) >> (7 - x % 8) & 1U) != 0 ? 0
                                                                                             : 255);
        else if (bits == 8)
            *to = row[x];
        else if (bits == 16)
            store(to, load<std::uint16_t, std::endian::big>(row.data() + 2 * x));
        else
            store(to, load<std::uint32_t, std::endian::big>(row.data() + 4 * x));
    }
}

/// The channels of the file that are those of the image.
Status read_channels(const Planes& planes, const Document& document, ImageView image) {
    const std::uint32_t channels = info(image.format).channel_count;
    const std::size_t sample = document.bits == 1 ? 1 : document.bits / 8;
    std::vector<std::byte> row(planes.row_bytes());
    for (std::uint32_t c = 0; c < channels; ++c)
        for (std::uint32_t y = 0; y < image.height; ++y) {
            YL_CHECK(planes.read_row(c, y, row));
            spread_samples(row, image.width, document.bits, image.row(y).data() + c * sample,
                           channels * sample);
        }
    return {};
}

Status read_palette(const Planes& planes, const Document& document, ImageView image) {
    const std::size_t channels = info(image.format).channel_count;
    std::vector<std::byte> row(planes.row_bytes());
    for (std::uint32_t y = 0; y < image.height; ++y) {
        YL_CHECK(planes.read_row(0, y, row));
        std::byte* to = image.row(y).data();
        for (const std::byte code : row) {
            const auto index = std::to_integer<std::size_t>(code);
            for (std::size_t c = 0; c < 3; ++c)
                to[c] = document.palette[256 * c + index];
            if (channels == 4)
                to[3] = std::byte(index == *document.clear_index ? 0 : 255);
            to += channels;
        }
    }
    return {};
}

/// Files hold the light that inks leave.
Status read_inks(const Planes& planes, const Document& document, const ReadOptions& options,
                 ImageView image) {
    YL_TRY(Image inks, Image::create(plain_format({4, document.bits, false}), image.width,
                                     image.height, Limits::none()));
    YL_CHECK(read_channels(planes, document, inks.view()));
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::byte& byte : inks.view().row(y))
            byte = ~byte;
    if (applies_ink_profile(document.profile, options))
        return convert_inks(std::as_const(inks).view(), document.profile, image);
    tiff::ink_to_light(std::as_const(inks).view(), image);
    return {};
}

template <class Number>
void take_off_white(ImageView image, std::uint32_t channels) {
    constexpr std::uint32_t white = static_cast<Number>(-1);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        std::byte* at = image.row(y).data();
        for (std::uint32_t x = 0; x < image.width; ++x, at += channels * sizeof(Number)) {
            const std::uint64_t alpha = load<Number>(at + (channels - 1) * sizeof(Number));
            for (std::size_t c = 0; c + 1 < channels && alpha > 0 && alpha < white; ++c) {
                std::byte* place = at + c * sizeof(Number);
                const std::uint64_t paper = white - alpha, mixed = load<Number>(place);
                const std::uint64_t own = mixed > paper ? mixed - paper : 0;
                store(place, static_cast<Number>(std::min<std::uint64_t>(
                                 (own * white + alpha / 2) / alpha, white)));
            }
        }
    }
}

/// Programs store the merged picture as it looks on white paper; alpha says how much that is.
void undo_paper(Picture& picture, const Document& document) {
    const std::uint32_t channels = document.texel_channels();
    if (document.bits == 8)
        take_off_white<std::uint8_t>(picture.image.view(), channels);
    else if (document.bits == 16)
        take_off_white<std::uint16_t>(picture.image.view(), channels);
    picture.info.remarks.emplace_back(
        "its colours were mixed with white by alpha, which was undone");
}

void describe(Picture& picture, const Document& document, const ReadOptions& options) {
    PictureInfo& info = picture.info;
    info.file_channels = document.texel_channels();
    info.file_bits = document.bits;
    info.has_palette = document.mode == ColorMode::palette;
    if (document.pixels_per_metre && *document.pixels_per_metre > 0)
        info.pixels_per_metre = {*document.pixels_per_metre, *document.pixels_per_metre};
    if (!document.has_merged)
        info.remarks.emplace_back(
            "the file was saved without a merged picture: what is read may be blank");
    if (document.mode == ColorMode::duotone)
        info.remarks.emplace_back("its inks are not known: it is read as gray");
    const bool is_of_inks = document.mode == ColorMode::cmyk;
    if (is_of_inks)
        describe_inks(info, document.profile, applies_ink_profile(document.profile, options));
    else if (!document.profile.empty() && !document.is_float()) {
        take_profile(info, profile_description(document.profile),
                     {document.profile.begin(), document.profile.end()});
        settle_transfer(picture, options);
    }
}

PictureStart start_of(const Document& document) {
    return {.width = document.width,
            .height = document.height,
            .channels = document.texel_channels(),
            .bits = std::max(document.bits, 8U),
            .is_float = document.is_float()};
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Document document, parse_header(reader));
    return header_of(start_of(document));
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const Document document, parse(bytes));
    YL_CHECK(check_size(document.width, document.height, options.limits));
    YL_TRY(const Planes planes, Planes::open(document));
    YL_TRY(Picture picture, start_picture(start_of(document), options));
    const ImageView image = picture.image.view();
    if (document.mode == ColorMode::palette)
        YL_CHECK(read_palette(planes, document, image));
    else if (document.mode == ColorMode::cmyk)
        YL_CHECK(read_inks(planes, document, options, image));
    else
        YL_CHECK(read_channels(planes, document, image));
    describe(picture, document, options);
    if (document.is_see_through && document.has_alpha() && !document.is_float())
        undo_paper(picture, document);
    return picture;
}

}  // namespace
}  // namespace yl::psd

namespace yl {

PictureFormat psd_format() {
    return {.name = "PSD",
            .endings = {"psd", "psb"},
            .recognise = psd::recognise,
            .read = psd::read,
            .peek = psd::peek,
            .write = nullptr,
            .held = {}};
}

}  // namespace yl
