// Measures what is lost between the blocks of one format and those of another, and prints the table
// src/upload/transcode_losses.hpp: transcode_losses PICTURE...
//
// Both are compared as texels, in the channels that the first format has: the mean of the pictures'
// decibels; floats by their logarithm, of which 16 stops are the whole range. Every second picture is
// opaque. Alphas of the others are their brightness mirrored, or whether that is more than a half where
// the first format has holes alone.
#include <cmath>
#include <cstdio>
#include <vector>
#include <yl/yl.hpp>

#include "or_quit.hpp"

namespace {

constexpr std::uint32_t side = 256;
constexpr yl::ConvertOptions as_numbers{.source_transfer = yl::Transfer::linear};
const int effort = yl::UploadOptions{}.transcode_effort;

bool has_holes_alone(const yl::FormatInfo& f) {
    return f.name.starts_with("bc1a") || f.name.starts_with("etc2-rgb8a1");
}

/// 8-bit RGBA out of the middle of each picture.
std::vector<yl::Image> subjects(std::span<char*> paths) {
    std::vector<yl::Image> all;
    for (const char* path : paths) {
        const yl::Picture picture = or_quit(yl::read_picture(std::filesystem::path(path)));
        const yl::ConstImageView view = picture.image.view();
        const std::uint32_t width = std::min(view.width, side),
                            height = std::min(view.height, side);
        const yl::ConstImageView part = or_quit(yl::cropped(
            view, {(view.width - width) / 2, (view.height - height) / 2, width, height}));
        yl::Image image = or_quit(yl::convert(part, yl::Format::rgba8_unorm,
                                              {.source_transfer = picture.transfer,
                                               .target_transfer = picture.transfer,
                                               .swizzle = picture.swizzle}));
        for (std::uint32_t y = 0; y < height; ++y)
            for (std::size_t x = 0; x < width; ++x)
                image.view().row(y)[4 * x + 3] = all.size() % 2 == 0
                                                     ? std::byte{255}
                                                     : image.view().row(y)[4 * (width - 1 - x) + 1];
        all.push_back(std::move(image));
    }
    return all;
}

yl::Image subject_for(const yl::FormatInfo& f, const yl::Image& image) {
    yl::Image own = or_quit(yl::convert(image.view(), yl::Format::rgba8_unorm, as_numbers));
    for (std::uint32_t y = 0; y < own.height(); ++y)
        for (std::size_t x = 0; x < own.width(); ++x) {
            std::byte& alpha = own.view().row(y)[4 * x + 3];
            if (has_holes_alone(f))
                alpha = std::to_integer<int>(alpha) > 127 ? std::byte{255} : std::byte{0};
        }
    return own;
}

yl::Image floats(yl::ConstImageView blocks) {
    const yl::Image texels = or_quit(yl::decode_blocks(blocks));
    return or_quit(yl::convert(texels.view(), yl::Format::rgba32_float, as_numbers));
}

double squares(const yl::FormatInfo& f, const yl::Image& a, const yl::Image& b) {
    const double range = f.kind == yl::NumericKind::snorm ? 2 : 1;
    double sum = 0;
    const auto value = [&](const yl::Image& image, std::uint32_t y, std::size_t i) {
        const auto number = double(reinterpret_cast<const float*>(image.view().row(y).data())[i]);
        return f.is_float() ? std::log2(std::max(number, 1e-4)) / 16 : number / range;
    };
    for (std::uint32_t y = 0; y < a.height(); ++y)
        for (std::size_t x = 0; x < a.width(); ++x)
            for (std::size_t c = 0; c < f.channel_count; ++c) {
                const double off = value(a, y, 4 * x + c) - value(b, y, 4 * x + c);
                sum += off * off;
            }
    return sum;
}

/// Blocks of 4 x 4 texels that hold what `from` does. A device that has larger ones of a family has
/// these as well, and they lose less.
bool may_become(const yl::FormatInfo& from, const yl::FormatInfo& to) {
    const bool same_numbers =
        from.kind == to.kind || (from.is_float() && to.kind == yl::NumericKind::signed_float);
    return to.is_block() && from.format != to.format && to.transfer == yl::Transfer::linear &&
           to.block_width == 4 && to.block_height == 4 && same_numbers &&
           to.channel_count >= from.channel_count;
}

double measured(const std::vector<yl::Image>& images, const yl::FormatInfo& from,
                const yl::FormatInfo& to) {
    const yl::Role role = from.is_float() ? yl::Role::hdr : yl::Role::data;
    constexpr double as_good_as_equal = 60;
    double sum = 0;
    for (const yl::Image& image : images) {
        const yl::Image subject = subject_for(from, image);
        const yl::Image blocks =
            or_quit(yl::encode_blocks(subject.view(), from.format, {.role = role}));
        const yl::Image texels = or_quit(yl::decode_blocks(blocks.view()));
        const yl::Image others =
            or_quit(yl::encode_blocks(texels.view(), to.format, {.role = role, .effort = effort}));
        const double off = squares(from, floats(blocks.view()), floats(others.view()));
        const double count = double(image.width()) * image.height() * from.channel_count;
        sum += std::min(10 * std::log10(count / std::max(off, 1e-9)), as_good_as_equal);
    }
    return sum / static_cast<double>(images.size());
}

std::string enumerator(const yl::FormatInfo& f) {
    std::string name(f.name);
    std::ranges::replace(name, '-', '_');
    return name;
}

constexpr char head[] =
    "// What is lost between blocks: made by scripts/measure-blocks transcoding.\n"
    "#pragma once\n\n#include <yl/format.hpp>\n\nnamespace yl {\n\n"
    "struct TranscodeLoss {\n    Format from, to;\n"
    "    float decibels;  ///< between the texels of both; more is better, and 100 is the "
    "same\n};\n\n"
    "// clang-format off\ninline constexpr TranscodeLoss transcode_losses[] = {\n";

}  // namespace

int main(int count, char** arguments) {
    const auto images = subjects(std::span(arguments, static_cast<std::size_t>(count)).subspan(1));
    std::fputs(head, stdout);
    for (const yl::FormatInfo& from : yl::all_formats())
        if (from.is_block() && from.transfer == yl::Transfer::linear)
            for (const yl::FormatInfo& to : yl::all_formats())
                if (may_become(from, to))
                    std::printf("    {Format::%s, Format::%s, %.1fF},\n", enumerator(from).c_str(),
                                enumerator(to).c_str(), measured(images, from, to));
    std::fputs("};\n// clang-format on\n\n}  // namespace yl\n", stdout);
    return 0;
}
