// PFM: "PF" (RGB) or "Pf" (one channel), width, height, and a scale whose sign tells the byte
// order: negative is little endian. Rows from the bottom, 32-bit floats.
#include <fmt/format.h>

#include <cmath>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/number.hpp"
#include "base/text.hpp"
#include "codec/picture_format.hpp"
#include "codec/pnm/header.hpp"

namespace yl {
namespace {

Result<double> read_scale(pnm::HeaderReader& words) {
    YL_TRY(const std::string text, words.word());
    double scale = 0;
    const std::string_view number = without_plus(text);
    const auto [end, error] =
        number_from_chars(number.data(), number.data() + number.size(), scale);
    if (error != std::errc{} || end != number.data() + number.size() || scale == 0 ||
        !std::isfinite(scale))
        return fail(ErrorKind::malformed,
                    fmt::format("the header's scale is '{}'; it is a number other than 0",
                                printable(text)));
    return scale;
}

struct Header {
    PictureStart start;
    double scale = 1;
};

Result<Header> read_header(ByteReader& reader) {
    YL_TRY(const ByteSpan magic, reader.take(2));
    pnm::HeaderReader words(reader);
    Header h{.start = {.channels = as_text(magic) == "PF" ? 3U : 1U, .bits = 32, .is_float = true}};
    YL_TRY(h.start.width, words.number("header's width"));
    YL_TRY(h.start.height, words.number("header's height"));
    YL_TRY(h.scale, read_scale(words));
    return h;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    return header_of(h.start);
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    const auto& [start, scale] = h;
    const std::uint64_t row_bytes = start.width * start.channels * 4;
    if (std::max(start.width, start.height) <= options.limits.max_side &&
        row_bytes * start.height > reader.left())
        return fail(ErrorKind::malformed,
                    fmt::format("the file ends early: {} bytes are too few for {} x {} pixels",
                                reader.left(), start.width, start.height),
                    reader.offset());
    YL_TRY(Picture picture, start_picture(start, options));
    for (std::uint32_t y = picture.image.height(); y-- > 0;) {
        YL_TRY(const ByteSpan stored, reader.take(row_bytes));
        const auto row = picture.image.view().row(y);
        if (scale < 0) {
            std::copy(stored.begin(), stored.end(), row.begin());
            continue;
        }
        for (std::size_t i = 0; i < row.size(); i += 4)
            store(row.data() + i, load<std::uint32_t, std::endian::big>(stored.data() + i));
    }
    if (std::abs(scale) != 1)
        picture.info.remarks.push_back(
            fmt::format("a scale of {} is declared and was not applied", std::abs(scale)));
    return picture;
}

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions&) {
    if (image.format != Format::r32_float && image.format != Format::rgb32_float)
        return fail(ErrorKind::usage,
                    "PFM holds r32-float and rgb32-float; convert the picture first");
    ByteWriter writer;
    writer.append(fmt::format("{}\n{} {}\n-1.0\n", image.format == Format::r32_float ? "Pf" : "PF",
                              image.width, image.height));
    for (std::uint32_t y = image.height; y-- > 0;)
        writer.append(image.row(y));
    return writer.release();
}

bool recognise(ByteSpan bytes) {
    if (bytes.size() < 3)
        return false;
    const std::string_view start = as_text(bytes).substr(0, 2);
    return (start == "PF" || start == "Pf") &&
           std::string_view(" \t\r\n").find(as_text(bytes)[2]) != std::string_view::npos;
}

}  // namespace

PictureFormat pfm_format() {
    return {"PFM", {"pfm"}, recognise, read, peek, write, {.channels = "13", .singles = true}};
}

}  // namespace yl
