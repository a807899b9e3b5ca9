#include "lint/subject.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/bake.hpp>
#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/status_macros.hpp>
#include "measure/content.hpp"
#include "pixel/stored_rows.hpp"

namespace yl::lint_checks {
namespace {

Plane plane_of(ConstImageView image, const Swizzle& swizzle) {
    Plane plane{image.width, image.height, {}};
    plane.rgba.resize(plane.texels() * 4);
    const RowCodec codec = number_codec(image.format);
    parallel_ranges(image.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        for (std::size_t y = begin; y < end; ++y) {
            float* row = &plane.rgba[y * image.width * 4];
            codec.load(image.row(static_cast<std::uint32_t>(y)).data(), row, image.width);
            apply_swizzle(swizzle, row, image.width);
        }
    });
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
    return subject.transfer == Transfer::srgb ? Role::color : Role::data;
}

std::uint32_t bits_of(Format format) {
    const FormatInfo& f = info(format);
    return f.is_block() ? 8 : f.channels[0].bits;
}

void measure_top(Subject& subject, ConstImageView top, const Swizzle& swizzle,
                 const LintOptions& options) {
    ContentCounter counter(swizzle);
    counter.add(top);
    subject.channels = counter.use();
    subject.content = counter.content();
    if (subject.sampler)
        subject.seams = measure_seams(top);
    subject.role = options.role.value_or(role_by_content(subject));
    subject.role_is_given = options.role.has_value();
}

}  // namespace

Result<Subject> subject_of(const Texture& texture, const LintOptions& options) {
    Subject subject;
    subject.shape = texture.shape();
    const FormatInfo& f = info(subject.shape.format);
    subject.transfer = f.transfer == Transfer::srgb ? Transfer::srgb : texture.metadata.transfer;
    subject.alpha = texture.metadata.alpha;
    subject.sampler = options.sampler ? options.sampler : texture.metadata.sampler;
    subject.bits = subject.bits_in_use = bits_of(subject.shape.format);
    Texture decoded;
    if (f.is_block()) {
        YL_TRY(decoded, decode_texture(texture));
    }
    const Texture& plain = f.is_block() ? decoded : texture;
    const Swizzle& swizzle = texture.metadata.swizzle;
    if (!f.is_block())
        subject.bits_in_use = bits_in_use(texture.image(0, 0, 0));
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
                chain.levels.push_back(plane_of(plain.image(level, layer, face), swizzle));
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
    chain.levels.push_back(plane_of(image, picture.swizzle));
    subject.chains.push_back(std::move(chain));
    measure_top(subject, image, picture.swizzle, options);
    if (!options.role && subject.role != Role::normal)
        subject.role =
            guess_role(picture).role == Role::normal ? Role::color : guess_role(picture).role;
    return subject;
}

std::vector<std::uint32_t> spread_rows(std::uint32_t begin, std::uint32_t end, std::uint32_t most) {
    std::vector<std::uint32_t> rows;
    const std::uint32_t count = end > begin ? end - begin : 0;
    const std::uint32_t taken = std::min(count, most);
    for (std::uint32_t i = 0; i < taken; ++i)
        rows.push_back(begin + static_cast<std::uint32_t>(std::uint64_t{i} * count / taken));
    return rows;
}

Plane halved(const Plane& above, std::uint32_t width, std::uint32_t height) {
    Plane half{width, height, {}};
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
