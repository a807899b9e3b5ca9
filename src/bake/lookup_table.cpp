#include <yl/lookup_table.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include <yl/edit.hpp>
#include <yl/status_macros.hpp>
#include "base/files.hpp"
#include "base/number.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/rows.hpp"

namespace yl {
namespace {

constexpr std::uint32_t max_side_3d = 256, max_side_1d = 65536;  // of the specification

std::string_view trimmed(std::string_view text) {
    constexpr std::string_view blank = " \t\r";
    const std::size_t begin = text.find_first_not_of(blank);
    if (begin == std::string_view::npos)
        return {};
    return text.substr(begin, text.find_last_not_of(blank) + 1 - begin);
}

/// The first word, which is taken off the text.
std::string_view take_word(std::string_view& text) {
    const std::size_t end = std::min(text.find_first_of(" \t"), text.size());
    const std::string_view word = text.substr(0, end);
    text = trimmed(text.substr(end));
    return word;
}

template <class Number>
bool read_number(std::string_view word, Number& number) {
    if (word.starts_with('+'))
        word.remove_prefix(1);
    const auto read = number_from_chars(word.data(), word.data() + word.size(), number);
    return read.ec == std::errc{} && read.ptr == word.data() + word.size();
}

class TableReader {
 public:
    explicit TableReader(const Limits& limits) : limits_(limits) {}

    Result<LookupTable> run(std::string_view text) {
        for (line_ = 1; !text.empty(); ++line_) {
            const std::size_t end = std::min(text.find('\n'), text.size());
            const std::string_view line = trimmed(text.substr(0, end));
            text.remove_prefix(std::min(end + 1, text.size()));
            if (!line.empty() && line[0] != '#')
                YL_CHECK(read_line(line));
        }
        if (side_ == 0)
            return fail(ErrorKind::malformed, "neither LUT_3D_SIZE nor LUT_1D_SIZE is said");
        if (rgba_.size() != 4 * wanted())
            return fail(ErrorKind::malformed,
                        fmt::format("it ends after {} of {} colours", rgba_.size() / 4, wanted()));
        return finished();
    }

 private:
    [[nodiscard]] auto wrong(std::string message) const {
        return fail_at({ErrorKind::malformed, std::move(message)}, fmt::format("line {}", line_));
    }

    [[nodiscard]] std::size_t wanted() const {
        return is_3d_ ? std::size_t{side_} * side_ * side_ : side_;
    }

    Status read_line(std::string_view line) {
        const bool is_number = line[0] == '-' || line[0] == '+' || line[0] == '.' ||
                               (line[0] >= '0' && line[0] <= '9');
        if (is_number)
            return read_color(line);
        const std::string_view word = take_word(line);
        if (word == "TITLE") {
            const bool is_quoted = line.size() > 1 && line.front() == '"' && line.back() == '"';
            table_.title = is_quoted ? line.substr(1, line.size() - 2) : line;
            return {};
        }
        if (word == "LUT_3D_SIZE" || word == "LUT_1D_SIZE")
            return read_side(line, word == "LUT_3D_SIZE");
        if (word == "DOMAIN_MIN")
            return read_three(line, table_.input_min);
        if (word == "DOMAIN_MAX")
            return read_three(line, table_.input_max);
        if (word == "LUT_3D_INPUT_RANGE" || word == "LUT_1D_INPUT_RANGE")
            return read_range(line);
        return wrong(fmt::format("'{}' is not a keyword of .cube files", word.substr(0, 40)));
    }

    Status read_side(std::string_view text, bool is_3d) {
        if (side_ != 0)
            return wrong("the size is said twice; tables of both kinds are not read");
        const std::uint32_t most = is_3d ? max_side_3d : max_side_1d;
        std::uint32_t side = 0;
        if (!read_number(text, side) || side < 2 || side > most)
            return wrong(fmt::format("the size is not a number from 2 to {}", most));
        side_ = side;
        is_3d_ = is_3d;
        constexpr std::uint64_t texel_bytes = 8;
        if (wanted() * texel_bytes > limits_.max_bytes)
            return fail(ErrorKind::limit,
                        fmt::format("it has {} colours, which take more than {} bytes", wanted(),
                                    limits_.max_bytes));
        return {};
    }

    Status read_three(std::string_view text, std::array<float, 3>& numbers) {
        for (float& number : numbers)
            if (!read_number(take_word(text), number) || !std::isfinite(number))
                return wrong("three numbers are needed");
        return text.empty() ? Status{} : wrong("more follows after three numbers");
    }

    Status read_range(std::string_view text) {
        float least = 0, most = 0;
        if (!read_number(take_word(text), least) || !read_number(take_word(text), most) ||
            !text.empty())
            return wrong("two numbers are needed");
        table_.input_min.fill(least);
        table_.input_max.fill(most);
        return {};
    }

    Status read_color(std::string_view line) {
        if (side_ == 0)
            return wrong("colours come before the size is said");
        if (rgba_.size() == 4 * wanted())
            return wrong(fmt::format("more than {} colours", wanted()));
        std::array<float, 3> color = {};
        YL_CHECK(read_three(line, color));
        rgba_.insert(rgba_.end(), color.begin(), color.end());
        rgba_.push_back(1);
        return {};
    }

    Result<LookupTable> finished() {
        for (std::size_t c = 0; c < 3; ++c)
            if (!(table_.input_min[c] < table_.input_max[c]))
                return fail(ErrorKind::malformed, "the input range ends before it begins");
        TextureShape shape{.format = Format::rgba16_float, .width = side_};
        shape.height = shape.depth = is_3d_ ? side_ : 1;
        shape.is_1d = !is_3d_;
        shape.is_3d = is_3d_;
        YL_TRY(table_.texture, Texture::create(shape, limits_));
        const auto bytes = table_.texture.level(0);
        row_codec(shape.format, Transfer::linear).store(rgba_.data(), bytes.data(), wanted());
        TextureMetadata& metadata = table_.texture.metadata;
        metadata.transfer = Transfer::linear;
        const LookupTable plain;
        if (table_.input_min != plain.input_min || table_.input_max != plain.input_max)
            metadata.key_values[std::string(input_range_note)] = fmt::format(
                "{} {} {} {} {} {}", table_.input_min[0], table_.input_min[1], table_.input_min[2],
                table_.input_max[0], table_.input_max[1], table_.input_max[2]);
        return std::move(table_);
    }

    const Limits& limits_;
    LookupTable table_ = {};
    std::vector<float> rgba_ = {};
    std::uint32_t side_ = 0;
    bool is_3d_ = false;
    std::size_t line_ = 0;
};

}  // namespace

Result<LookupTable> parse_lookup_table(std::string_view text, const Limits& limits) try {
    return TableReader(limits).run(text);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<LookupTable> read_lookup_table(const std::filesystem::path& path, const Limits& limits,
                                      const std::shared_ptr<const Files>& files) try {
    return parse_file(files, path, limits.max_bytes,
                      [&](std::string_view text) { return parse_lookup_table(text, limits); });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<Picture>> slices_of_strip(const Picture& strip, std::uint32_t slices) try {
    const ConstImageView image = strip.image.view();
    YL_CHECK(check_view(image, "picture"));
    const bool is_row = image.width >= image.height;
    const std::uint32_t longer = is_row ? image.width : image.height;
    if (slices == 0 || longer % slices != 0)
        return fail_at(
            {ErrorKind::usage, fmt::format("{} x {} pixels cannot be cut into {} equal slices",
                                           image.width, image.height, slices)},
            "slices");
    const std::uint32_t step = longer / slices;
    std::vector<Picture> result(slices);
    for (std::uint32_t i = 0; i < slices; ++i) {
        const Box box =
            is_row ? Box{i * step, 0, step, image.height} : Box{0, i * step, image.width, step};
        YL_TRY(const ConstImageView part, cropped(image, box));
        Picture& slice = result[i];
        slice.transfer = strip.transfer;
        slice.alpha = strip.alpha;
        slice.swizzle = strip.swizzle;
        slice.info = strip.info;
        YL_TRY(slice.image, with_orientation(part, Orientation::none));
    }
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
