#include "lint/subject.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/bake.hpp>
#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/environment.hpp>
#include <yl/status_macros.hpp>
#include "measure/content.hpp"
#include "pixel/stored_rows.hpp"

namespace yl::lint_checks {
namespace {

Plane plane_of(ConstImageView image, const Swizzle& swizzle, bool is_whole) {
    Plane plane = plane_for(image.width, image.height, is_whole);
    plane.rgba.resize(plane.rows.size() * image.width * 4);
    const RowCodec codec = number_codec(image.format);
    for (std::size_t i = 0; i < plane.rows.size(); ++i) {
        float* row = &plane.rgba[i * image.width * 4];
        codec.load(image.row(plane.rows[i]).data(), row, image.width);
        apply_swizzle(swizzle, row, image.width);
    }
    return plane;
}

Role role_by_content(const Subject& subject) {
    if (subject.is_float())
        return Role::hdr;
    // Bluish pictures hold directions too; of normal maps nearly every texel is one.
    constexpr float nearly_all = 0.97F;
    if (!subject.channels.is_gray && !subject.content.is_uniform &&
        subject.content.looks_like_normals() && subject.content.directions > nearly_all)
        return Role::normal;
    const FormatInfo& f = info(subject.shape.format);
    const bool has_two = f.channel_count == 2 && f.has(Channel::green) && !subject.channels.is_gray;
    if (has_two && !subject.is_picture && looks_like_slopes(subject.top()))
        return Role::normal;
    return subject.transfer == Transfer::srgb ? Role::color : Role::data;
}

std::uint32_t bits_of(Format format) {
    const FormatInfo& f = info(format);
    return f.is_block() ? 8 : f.channels[0].bits;
}

void measure_top(Subject& subject, ConstImageView top, const Swizzle& swizzle,
                 const LintOptions& options) {
    ContentCounter counter(swizzle);
    const std::vector<std::uint32_t>& rows = subject.top().rows;
    for (std::size_t i = 0; i < rows.size();) {
        std::uint32_t count = 1;
        while (i + count < rows.size() && rows[i + count] == rows[i] + count)
            ++count;
        counter.add({top.row(rows[i]).data(), top.format, top.width, count, top.row_stride});
        i += count;
    }
    subject.channels = analyse_channels(top, swizzle);
    subject.content = counter.content();
    subject.whole_top = [top, swizzle] { return plane_of(top, swizzle, true); };
    if (subject.sampler)
        subject.seams = measure_seams(top);
    subject.role = options.role.value_or(role_by_content(subject));
    subject.role_is_given = options.role.has_value();
    subject.packed = options.packed;
    subject.alpha_use = options.alpha_use;
}

}  // namespace

Result<Subject> subject_of(const Texture& texture, const LintOptions& options) {
    Subject subject;
    subject.shape = texture.shape();
    const FormatInfo& f = info(subject.shape.format);
    subject.transfer = f.transfer == Transfer::srgb ? Transfer::srgb : texture.metadata.transfer;
    subject.alpha = texture.metadata.alpha;
    subject.sampler = options.sampler ? options.sampler : texture.metadata.sampler;
    subject.roughness = roughness_of_levels(texture);
    subject.bits = subject.bits_in_use = bits_of(subject.shape.format);
    if (f.is_block()) {
        YL_TRY(Texture decoded, decode_texture(texture));
        subject.decoded = std::make_shared<const Texture>(std::move(decoded));
    }
    const Texture& plain = subject.decoded ? *subject.decoded : texture;
    const Swizzle& swizzle = texture.metadata.swizzle;
    if (!f.is_block())
        subject.bits_in_use = bits_in_use(texture.image(0, 0, 0));
    const bool is_whole = !subject.roughness.empty();  // whose levels are made again
    constexpr std::array<std::string_view, 6> faces = {"+X", "-X", "+Y", "-Y", "+Z", "-Z"};
    for (std::uint32_t layer = 0; layer < subject.shape.layers; ++layer)
        for (std::uint32_t face = 0; face < subject.shape.faces; ++face) {
            Chain chain;
            if (subject.shape.layers > 1)
                chain.place = fmt::format("layer {}", layer);
            if (subject.shape.faces == 6)
                chain.place +=
                    fmt::format("{}face {}", chain.place.empty() ? "" : ", ", faces[face]);
            for (std::uint32_t level = 0; level < subject.shape.levels; ++level)
                chain.levels.push_back(
                    plane_of(plain.image(level, layer, face), swizzle, is_whole));
            subject.chains.push_back(std::move(chain));
        }
    measure_top(subject, plain.image(0, 0, 0), swizzle, options);
    return subject;
}

Result<Subject> subject_of(const Picture& picture, const LintOptions& options) {
    Subject subject;
    subject.is_picture = true;
    const ConstImageView image = picture.image.view();
    subject.shape = {.format = image.format, .width = image.width, .height = image.height};
    subject.transfer = picture.info.declared_transfer.value_or(info(image.format).transfer);
    subject.alpha = picture.alpha;
    subject.sampler = options.sampler;
    subject.bits = bits_of(image.format);
    subject.bits_in_use = bits_in_use(image);
    Chain chain;
    chain.levels.push_back(plane_of(image, picture.swizzle, false));
    subject.chains.push_back(std::move(chain));
    measure_top(subject, image, picture.swizzle, options);
    if (!options.role && subject.role != Role::normal)
        subject.role =
            guess_role(picture).role == Role::normal ? Role::color : guess_role(picture).role;
    return subject;
}

Plane plane_for(std::uint32_t width, std::uint32_t height, bool is_whole) {
    constexpr std::uint32_t strip = 8;  // rows: as many as the widest filter and block need
    constexpr std::uint32_t strips = 16;
    Plane plane{width, height, {}, {}, std::vector(height, Plane::no_row)};
    const auto add = [&](std::uint32_t y) {
        plane.row_place[y] = static_cast<std::uint32_t>(plane.rows.size());
        plane.rows.push_back(y);
    };
    if (is_whole || height <= strip * strips) {
        for (std::uint32_t y = 0; y < height; ++y)
            add(y);
        return plane;
    }
    for (std::uint32_t i = 0; i < strips; ++i) {
        const auto top =
            static_cast<std::uint32_t>(std::uint64_t{height} * i / strips / strip * strip);
        for (std::uint32_t y = top; y < std::min(top + strip, height); ++y)
            add(y);
    }
    return plane;
}

std::vector<std::uint32_t> Plane::rows_with(std::uint32_t before, std::uint32_t after,
                                            std::size_t most) const {
    std::vector<std::uint32_t> found;
    for (const std::uint32_t y : rows)
        if (y >= before && y + after < height && has(y - before, y + after + 1))
            found.push_back(y);
    if (found.size() <= most)
        return found;
    std::vector<std::uint32_t> spread;
    for (std::size_t i = 0; i < most; ++i)
        spread.push_back(found[i * found.size() / most]);
    return spread;
}

Plane halved(const Plane& above, std::uint32_t width, std::uint32_t height) {
    Plane half = plane_for(width, height, true);
    half.rgba.resize(half.texels() * 4);
    const auto range = [](std::uint32_t i, std::uint32_t from, std::uint32_t to) {
        const auto begin = std::uint64_t{i} * from / to;
        const auto end = (std::uint64_t{i + 1} * from + to - 1) / to;
        return std::array{static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(end)};
    };
    parallel_ranges(height, edited_rows_at_least, [&](std::size_t first, std::size_t last) {
        for (auto y = static_cast<std::uint32_t>(first); y < last; ++y) {
            const auto [top, bottom] = range(y, above.height, height);
            for (std::uint32_t x = 0; x < width; ++x) {
                const auto [left, right] = range(x, above.width, width);
                std::array<float, 4> sum{};
                for (std::uint32_t v = top; v < bottom; ++v)
                    for (std::uint32_t u = left; u < right; ++u)
                        for (std::size_t c = 0; c < 4; ++c)
                            sum[c] += above.at(u, v)[c];
                const float share = 1.0F / static_cast<float>((bottom - top) * (right - left));
                for (std::size_t c = 0; c < 4; ++c)
                    half.rgba[(std::size_t{y} * width + x) * 4 + c] = sum[c] * share;
            }
        }
    });
    return half;
}

std::string counted(std::size_t count, std::string_view noun) {
    return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

}  // namespace yl::lint_checks
