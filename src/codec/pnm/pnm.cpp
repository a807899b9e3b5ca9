// Binary PGM (P5) and PPM (P6): a header of decimal numbers, then rows of big-endian samples.
#include <fmt/format.h>

#include <algorithm>

#include "base/attempt.hpp"
#include "codec/picture_format.hpp"

namespace yl {
namespace {

/// Reads decimal numbers with white space and comments between them.
class HeaderReader {
 public:
    explicit HeaderReader(ByteReader& reader) : reader_(reader) {}

    /// A number, and the one character after it.
    Result<std::uint32_t> number(const char* name) {
        YL_TRY(char letter, skip_space());
        std::uint64_t value = 0;
        const std::size_t offset = reader_.offset() - 1;
        if (letter < '0' || letter > '9')
            return fail(ErrorKind::malformed, fmt::format("the header's {} is not a number", name),
                        offset);
        while (letter >= '0' && letter <= '9') {
            value = value * 10 + static_cast<std::uint64_t>(letter - '0');
            if (value > 0xFFFFFFFF)
                return fail(ErrorKind::malformed, fmt::format("the header's {} is too large", name),
                            offset);
            YL_TRY(letter, next());
        }
        return static_cast<std::uint32_t>(value);
    }

 private:
    Result<char> next() {
        YL_TRY(const auto byte, reader_.read<std::uint8_t>());
        return static_cast<char>(byte);
    }

    Result<char> skip_space() {
        while (true) {
            YL_TRY(char letter, next());
            if (letter == '#')
                while (letter != '\n') {
                    YL_TRY(letter, next());
                }
            else if (letter != ' ' && letter != '\t' && letter != '\n' && letter != '\r')
                return letter;
        }
    }

    ByteReader& reader_;
};

/// Copies samples, from 0 .. `greatest` to the whole range of `Sample`.
template <class Sample>
void scale_samples(ByteSpan stored, std::uint32_t greatest, std::span<std::byte> target) {
    constexpr std::uint64_t full = static_cast<Sample>(~Sample{0});
    for (std::size_t i = 0; i < target.size(); i += sizeof(Sample)) {
        const std::uint64_t sample =
            std::min<std::uint64_t>(load<Sample, std::endian::big>(stored.data() + i), greatest);
        store<Sample>(target.data() + i,
                      static_cast<Sample>((sample * full + greatest / 2) / greatest));
    }
}

Result<Picture> read_pnm(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const ByteSpan magic, reader.take(2));
    const std::uint32_t channels = as_text(magic) == "P6" ? 3 : 1;
    HeaderReader header(reader);
    YL_TRY(const auto width, header.number("width"));
    YL_TRY(const auto height, header.number("height"));
    YL_TRY(const auto greatest, header.number("greatest value"));
    if (greatest == 0 || greatest > 65535)
        return fail(ErrorKind::malformed,
                    fmt::format("the header's greatest value is {}; it lies between 1 and 65535",
                                greatest));
    const std::uint32_t bits = greatest > 255 ? 16 : 8;
    Picture picture;
    picture.info.file_channels = channels;
    picture.info.file_bits = bits;
    settle_transfer(picture, options.role);
    picture.swizzle = channel_swizzle(channels);
    const Format format = integer_format(channels, bits, picture.transfer);
    const TextureShape shape{.format = format, .width = width, .height = height};
    if (auto fits = check_shape(shape, options.limits); !fits)
        return fail(width == 0 || height == 0 ? ErrorKind::malformed : ErrorKind::limit,
                    fits.error().message);
    YL_TRY(const ByteSpan samples, reader.take(shape.total_bytes()));
    if (reader.left() > 0)
        picture.info.remarks.push_back(
            fmt::format("{} bytes follow the end of the picture", reader.left()));
    YL_TRY(picture.image, Image::create(format, width, height, options.limits));
    const std::span<std::byte> target(picture.image.view().data, samples.size());
    if (bits == 8)
        scale_samples<std::uint8_t>(samples, greatest, target);
    else
        scale_samples<std::uint16_t>(samples, greatest, target);
    return picture;
}

Result<std::vector<std::byte>> write_pnm(ConstImageView image, std::uint32_t channels) {
    const FormatInfo& f = info(image.format);
    const bool whole =
        f.kind == NumericKind::unorm && f.type_size * f.channel_count == f.block_bytes;
    if (!whole || f.channel_count != channels)
        return fail(ErrorKind::usage,
                    fmt::format("{} does not hold {}; it takes 8 or 16 bits of {}",
                                channels == 3 ? "PPM" : "PGM", f.name,
                                channels == 3 ? "red, green and blue" : "one channel"));
    ByteWriter writer;
    writer.append(fmt::format("P{}\n{} {}\n{}\n", channels == 3 ? 6 : 5, image.width, image.height,
                              f.type_size == 2 ? 65535 : 255));
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const ByteSpan row = image.row(y);
        if (f.type_size == 1)
            writer.append(row);
        else
            for (std::size_t i = 0; i < row.size(); i += 2)
                writer.write_big(load<std::uint16_t>(row.data() + i));
    }
    return writer.release();
}

template <char digit>
bool recognise(ByteSpan bytes) {
    return bytes.size() > 2 && as_text(bytes)[0] == 'P' && as_text(bytes)[1] == digit &&
           std::string_view(" \t\r\n#").find(as_text(bytes)[2]) != std::string_view::npos;
}

template <std::uint32_t channels>
Result<std::vector<std::byte>> write_channels(ConstImageView image, const WriteOptions&) {
    return write_pnm(image, channels);
}

}  // namespace

PictureFormat ppm_format() {
    return {"PPM", {"ppm"}, recognise<'6'>, read_pnm, write_channels<3>};
}
PictureFormat pgm_format() {
    return {"PGM", {"pgm"}, recognise<'5'>, read_pnm, write_channels<1>};
}

}  // namespace yl
