#include <yl/normals.hpp>

#include <algorithm>
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"
#include "pixel/dither.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

std::uint32_t beyond(std::int64_t place, std::uint32_t size, Edge edge) {
    if (edge == Edge::repeat)
        return static_cast<std::uint32_t>((place + size) % size);
    return static_cast<std::uint32_t>(std::clamp<std::int64_t>(place, 0, size - 1));
}

/// Directions out of a row of numbers and back into it.
struct NormalRows {
    RowCodec input = {}, output = {};
    NormalEncoding from = NormalEncoding::biased, to = NormalEncoding::biased;
    Swizzle swizzle = identity_swizzle;
    bool rebuilds_third = false;
    /// How far the length of a unit vector can be off by the rounding of its components alone.
    float slack = 0;
    bool keeps_units = true;

    /// Adds up the lengths, and how many look inwards.
    void normalise(float* pixel, double& lengths, std::uint64_t& inward) const {
        float n[3] = {};
        for (int c = 0; c < 3; ++c)
            n[c] = from == NormalEncoding::biased ? 2 * pixel[c] - 1 : pixel[c];
        if (rebuilds_third)
            n[2] = std::sqrt(std::max(0.0F, 1 - n[0] * n[0] - n[1] * n[1]));
        const float length = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
        const bool has_direction = length > 1e-6F && std::isfinite(length);
        lengths += has_direction ? static_cast<double>(length) : 0;
        inward += n[2] < 0 ? 1 : 0;
        const bool is_unit = keeps_units && std::abs(length - 1) <= slack;
        if (is_unit && from == to && !rebuilds_third)
            return;
        for (int c = 0; c < 3; ++c) {
            const float part = is_unit         ? n[c]
                               : has_direction ? n[c] / length
                                               : (c == 2 ? 1.0F : 0.0F);
            pixel[c] = to == NormalEncoding::biased ? 0.5F + 0.5F * part : part;
        }
    }
};

float rounding_slack(const FormatInfo& f) {
    constexpr float root3 = 1.7320508F;
    const bool is_wide = f.channels[0].bits >= 16;
    switch (f.kind) {
        case NumericKind::unorm:
            return root3 /
                   static_cast<float>((1U << std::min<unsigned>(f.channels[0].bits, 16)) - 1);
        case NumericKind::snorm:
            return root3 / (is_wide ? 65534.0F : 254.0F);
        default:
            return 1.0F / 1024;  // of a half
    }
}

}  // namespace

NormalEncoding normal_encoding(Format format) {
    return info(format).kind == NumericKind::unorm ? NormalEncoding::biased : NormalEncoding::as_is;
}

NormalEncoding measured_normal_encoding(ConstImageView image) {
    const RowCodec codec = number_codec(image.format);
    if (codec.load == nullptr || !info(image.format).is_float())
        return normal_encoding(image.format);
    const bool lacks_third = info(image.format).channel_count < 3;
    std::vector<float> rgba(std::size_t{image.width} * 4);
    double off_biased = 0, off_as_is = 0;
    for (std::uint32_t y = 0; y < image.height; ++y) {
        codec.load(image.row(y).data(), rgba.data(), image.width);
        for (const float* pixel = rgba.data(); pixel != rgba.data() + rgba.size(); pixel += 4) {
            const auto off = [&](float scale, float shift) {
                float squared = 0;
                for (int c = 0; c < (lacks_third ? 2 : 3); ++c)
                    squared += (scale * pixel[c] + shift) * (scale * pixel[c] + shift);
                const float length = std::sqrt(squared);
                const float error = lacks_third ? std::max(length - 1, 0.0F) : length - 1;
                return std::min(static_cast<double>(std::abs(error)), 1.0);
            };
            off_biased += off(2, -1);
            off_as_is += off(1, 0);
            // Nothing but a sign tells two components apart.
            if (lacks_third && (pixel[0] < -1e-3F || pixel[1] < -1e-3F))
                off_biased += 1;
        }
    }
    return off_biased < off_as_is || (lacks_third && off_biased == off_as_is)
               ? NormalEncoding::biased
               : NormalEncoding::as_is;
}

Result<NormalMeasure> convert_normals(ConstImageView source, ImageView target,
                                      const NormalConversion& conversion) try {
    YL_CHECK(check_view(source, "source"));
    YL_CHECK(check_view(target, "target"));
    const FormatInfo& f = info(source.format);
    if (source.width != target.width || source.height != target.height)
        return fail(ErrorKind::usage,
                    fmt::format("{} x {} normals cannot be converted into {} x {}", source.width,
                                source.height, target.width, target.height));
    NormalRows rows{.input = number_codec(source.format), .output = number_codec(target.format)};
    if (rows.input.load == nullptr || rows.output.store == nullptr)
        return fail(ErrorKind::unsupported, fmt::format("{} cannot be converted to {} as normals",
                                                        f.name, info(target.format).name));
    if (f.channel_count < 2 || info(target.format).channel_count < 2)
        return fail(ErrorKind::usage, fmt::format("{} to {}: normals have two or three components",
                                                  f.name, info(target.format).name));
    rows.from = conversion.source_encoding.value_or(measured_normal_encoding(source));
    rows.to = normal_encoding(target.format);
    rows.swizzle = conversion.swizzle;
    rows.rebuilds_third = f.channel_count == 2 && conversion.swizzle == identity_swizzle;
    rows.slack = rounding_slack(f);
    rows.keeps_units = info(target.format).channel_count > 2;
    Mutex mutex;
    double lengths = 0;
    std::uint64_t inward = 0;
    parallel_ranges(source.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rgba(std::size_t{source.width} * 4);
        double own_lengths = 0;
        std::uint64_t own_inward = 0;
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            rows.input.load(source.row(y).data(), rgba.data(), source.width);
            apply_swizzle(rows.swizzle, rgba.data(), source.width);
            for (float* pixel = rgba.data(); pixel != rgba.data() + rgba.size(); pixel += 4)
                rows.normalise(pixel, own_lengths, own_inward);
            if (conversion.dither)
                dither_row(rgba.data(), source.width, conversion.first_row + y, target.format,
                           Transfer::linear);
            rows.output.store(rgba.data(), target.row(y).data(), target.width);
        }
        const Locked lock(mutex);
        lengths += own_lengths;
        inward += own_inward;
    });
    const double texels = static_cast<double>(source.width) * source.height;
    return NormalMeasure{lengths / texels, static_cast<double>(inward) / texels};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> normals_from_height(ConstImageView height, const NormalOptions& options) try {
    YL_CHECK(check_view(height, "height"));
    const RowCodec input = number_codec(height.format);
    if (input.load == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be read as heights", info(height.format).name));
    const bool is_deep = info(height.format).channels[0].bits > 8;
    YL_TRY(Image normals,
           Image::create(is_deep ? Format::rgba16_unorm : Format::rgba8_unorm, height.width,
                         height.height, {.max_bytes = ~std::uint64_t{0}}));
    const ImageView target = normals.view();
    const RowCodec output = number_codec(target.format);
    parallel_ranges(height.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rows[3];
        for (auto& row : rows)
            row.resize(std::size_t{height.width} * 4);
        std::vector<float> result(rows[0].size());
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            for (int i = 0; i < 3; ++i)
                input.load(
                    height.row(beyond(std::int64_t{y} + i - 1, height.height, options.edges[1]))
                        .data(),
                    rows[i].data(), height.width);
            for (std::uint32_t x = 0; x < height.width; ++x) {
                const std::size_t left =
                    beyond(std::int64_t{x} - 1, height.width, options.edges[0]);
                const std::size_t right =
                    beyond(std::int64_t{x} + 1, height.width, options.edges[0]);
                const auto at = [&](int row, std::size_t column) { return rows[row][4 * column]; };
                // Weights 3, 10, 3 across the direction, over two texels along it.
                const auto slope = [&](float a, float b, float c) {
                    return (3 * a + 10 * b + 3 * c) / 32 * options.height;
                };
                const float dx = slope(at(0, right) - at(0, left), at(1, right) - at(1, left),
                                       at(2, right) - at(2, left));
                const float dy = slope(at(2, left) - at(0, left), at(2, x) - at(0, x),
                                       at(2, right) - at(0, right));
                const float length = std::sqrt(dx * dx + dy * dy + 1);
                float* normal = &result[std::size_t{x} * 4];
                normal[0] = 0.5F - 0.5F * dx / length;
                normal[1] = 0.5F + (options.green_up ? 0.5F : -0.5F) * dy / length;
                normal[2] = 0.5F + 0.5F / length;
                normal[3] = 1;
            }
            output.store(result.data(), target.row(y).data(), target.width);
        }
    });
    return normals;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
