// Whether a block format is enough for a texture, by encoding a sample of it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/block.hpp>
#include <yl/measure.hpp>
#include <yl/status_macros.hpp>
#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

constexpr std::uint32_t tile = 32;       // texels on a side
constexpr std::uint32_t tiles_most = 5;  // across and down
constexpr int effort = 2;                // of the sample's encoding: 0.4 dB from the best

/// Tiles from all over the first level, side by side, as stored numbers.
Result<Texture> sample_of(const Plane& plane, Format format) {
    const auto count = [](std::uint32_t side) { return std::clamp(side / tile, 1U, tiles_most); };
    const auto start = [&](std::uint32_t i, std::uint32_t side) {
        return side <= tile ? 0 : i * (side - tile) / std::max(count(side) - 1, 1U) / 4 * 4;
    };
    const std::uint32_t across = count(plane.width), down = count(plane.height);
    const std::uint32_t width = std::min(plane.width, tile), height = std::min(plane.height, tile);
    YL_TRY(Texture sample,
           Texture::create({.format = format, .width = across * width, .height = down * height}));
    const ImageView view = sample.image(0);
    for (std::uint32_t y = 0; y < view.height; ++y)
        for (std::uint32_t x = 0; x < view.width; ++x) {
            const float* texel = plane.at(start(x / width, plane.width) + x % width,
                                          start(y / height, plane.height) + y % height);
            for (std::size_t c = 0; c < 4; ++c)
                view.row(y)[4 * x + c] =
                    static_cast<std::byte>(std::lround(255 * std::clamp(texel[c], 0.0F, 1.0F)));
        }
    return sample;
}

/// What is lost, and beyond what it is seen.
struct Loss {
    std::string_view of = {};
    std::string unit = {};
    double measured = 0, limit = 0;

    [[nodiscard]] bool shows() const { return measured > limit; }
};

int code_at(ConstImageView image, std::uint32_t x, std::uint32_t y, std::size_t channel) {
    return std::to_integer<int>(image.row(y)[4 * x + channel]);
}

/// The steps from each texel of a part to those beside and below it, into the next one as well.
template <class Visit>
void for_steps(std::uint32_t left, std::uint32_t top, std::uint32_t side, const Visit& visit) {
    for (std::uint32_t y = top; y < top + side; ++y)
        for (std::uint32_t x = left; x < left + side; ++x) {
            visit(x, y, x + 1, y);
            visit(x, y, x, y + 1);
        }
}

/// Whether a channel rises gently over a part, as skies do: grain hides bands.
bool is_gradient(ConstImageView image, std::uint32_t left, std::uint32_t top, std::uint32_t side,
                 std::size_t channel) {
    constexpr int gentle = 2, least_rise = 3;  // codes
    int least = 255, most = 0, steepest = 0;
    bool is_seen = true;
    for_steps(left, top, side, [&](auto x, auto y, auto u, auto v) {
        const int here = code_at(image, x, y, channel), there = code_at(image, u, v, channel);
        is_seen = is_seen && code_at(image, x, y, 3) > 127;
        least = std::min({least, here, there});
        most = std::max({most, here, there});
        steepest = std::max(steepest, std::abs(there - here));
    });
    return is_seen && steepest <= gentle && most - least >= least_rise;
}

/// What the format adds to the steps of gradients, as the root of the mean square in codes. Over
/// gradients of 13 to 130 codes in 128 texels BC7 adds 0.1 to 0.5, and BC1 0.3 to 1.
Loss banding(ConstImageView before, ConstImageView after) {
    constexpr std::uint32_t side = 8;
    double squares = 0, steps = 0;
    for (std::uint32_t top = 0; top + side < before.height; top += side)
        for (std::uint32_t left = 0; left + side < before.width; left += side)
            for (std::size_t c = 0; c < 3; ++c) {
                if (!is_gradient(before, left, top, side, c))
                    continue;
                for_steps(left, top, side, [&](auto x, auto y, auto u, auto v) {
                    const int added = code_at(after, u, v, c) - code_at(after, x, y, c) -
                                      code_at(before, u, v, c) + code_at(before, x, y, c);
                    squares += static_cast<double>(added * added);
                    ++steps;
                });
            }
    constexpr double enough = 2000;  // steps: a fiftieth of a sample
    return {"gradients", "codes a texel", steps > enough ? std::sqrt(squares / steps) : 0, 0.9};
}

Loss alpha_loss(ConstImageView before, ConstImageView after) {
    double squares = 0;
    for (std::uint32_t y = 0; y < before.height; ++y)
        for (std::uint32_t x = 0; x < before.width; ++x)
            squares += std::pow(code_at(before, x, y, 3) - code_at(after, x, y, 3), 2);
    return {"alpha", "codes", std::sqrt(squares / (double{1} * before.width * before.height)), 12};
}

/// The worst of what an encoding loses that matters to the role.
Result<Loss> loss_of(const Subject& subject, const Texture& sample, Format format) {
    YL_TRY(const Texture blocks,
           encode_texture(sample, format,
                          {.role = subject.role, .alpha = subject.alpha, .effort = effort}));
    YL_TRY(const Texture decoded, decode_texture(blocks));
    // What the format lacks is seen as the GPU shows it: 0, and an alpha of 1.
    YL_TRY(const Image after,
           convert(decoded.image(0), sample.shape().format, {.source_transfer = subject.transfer}));
    const ConstImageView before = sample.image(0);
    if (subject.role == Role::normal) {
        YL_TRY(const ImageDifference difference,
               measure_difference(before, decoded.image(0), {.role = Role::normal}));
        // The demo's normals are off by 1.1 in BC1, 0.25 in BC7 and 0.15 in BC5.
        return Loss{"directions", "degrees", difference.mean_angle.value_or(0), 0.8};
    }
    const Loss alpha = subject.channels.is_opaque ? Loss{} : alpha_loss(before, after.view());
    if (alpha.shows())
        return alpha;
    const Loss bands = banding(before, after.view());
    if (bands.shows() || subject.role != Role::color)
        return bands;
    YL_TRY(
        const ImageDifference difference,
        measure_difference(before, after.view(), {.role = subject.role, .alpha = subject.alpha}));
    constexpr double least_psnr = 26;  // dB, where grain and edges are visibly others
    return Loss{"colours", "dB of noise", -difference.psnr, -least_psnr};
}

/// Formats of the same family that hold more.
std::vector<Format> stronger_than(Format format, const Subject& subject) {
    const bool is_srgb = info(format).transfer == Transfer::srgb;
    std::vector<Format> formats;
    const auto add = [&](Format linear, std::optional<Format> srgb = {}) {
        formats.push_back(is_srgb && srgb ? *srgb : linear);
    };
    switch (info(format).family) {
        case BlockFamily::bc:
            if (subject.role == Role::normal)
                add(Format::bc5_unorm);
            add(Format::bc7_unorm, Format::bc7_srgb);
            break;
        case BlockFamily::etc2:
            if (subject.role == Role::normal)
                add(Format::eac_rg11_unorm);
            add(Format::etc2_rgba8_unorm, Format::etc2_rgba8_srgb);
            break;
        case BlockFamily::astc:
            add(Format::astc_6x6_unorm, Format::astc_6x6_srgb);
            add(Format::astc_4x4_unorm, Format::astc_4x4_srgb);
            break;
        default:
            break;
    }
    std::erase(formats, format);
    return formats;
}

}  // namespace

Status check_encoding(const Subject& subject, Format format, Found& found) {
    const FormatInfo& f = info(format);
    if (!f.is_block() || info(subject.shape.format).is_block() || subject.is_float() ||
        f.is_float() || f.kind == NumericKind::snorm || f.channel_count < 2 ||
        subject.content.is_uniform)
        return {};
    YL_TRY(const Texture sample,
           sample_of(subject.whole_top(),
                     f.transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba8_unorm));
    YL_TRY(const Loss loss, loss_of(subject, sample, format));
    if (!loss.shows())
        return {};
    std::string remedy = "store it without block compression";
    for (const Format stronger : stronger_than(format, subject)) {
        YL_TRY(const Loss less, loss_of(subject, sample, stronger));
        if (less.shows())
            continue;
        remedy = fmt::format("store it as {}", info(stronger).name);
        break;
    }
    Finding finding = {"format-too-weak",
                       fmt::format("a sample in {} loses {:.1f} {} of its {}", f.name,
                                   std::abs(loss.measured), loss.unit, loss.of),
                       std::move(remedy)};
    found.push_back({std::move(finding), "", std::abs(loss.measured), std::abs(loss.limit)});
    return {};
}

}  // namespace yl::lint_checks
