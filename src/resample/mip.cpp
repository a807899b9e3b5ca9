#include <yl/mip.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"
#include "resample/level_chain.hpp"
#include "resample/rows_simd.hpp"
#include "resample/sharpen.hpp"

namespace yl {
namespace {

Status check(const TextureShape& shape, const MipOptions& options, const WorkingFormat& format) {
    const auto wrong = [](std::string message) {
        return fail(ErrorKind::usage, std::move(message));
    };
    if (format.codec.load == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("no mip chain can be made of {}; make it before packing to blocks",
                                info(shape.format).name));
    if ((options.given_levels & 1) == 0)
        return wrong("level 0 is what the others are made of: it has to be given");
    if (options.fade && options.fade->begin >= options.fade->end)
        return wrong(fmt::format("a fade from level {} to level {} has no levels",
                                 options.fade->begin, options.fade->end));
    if (!(options.sharpen >= 0 && options.sharpen <= 2))
        return wrong(fmt::format("a sharpening of {} is out of range: 0 to 2", options.sharpen));
    return {};
}

/// The mean of level 0, whatever its layers and faces.
std::array<float, 4> mean_of(const Texture& texture, const WorkingFormat& format) {
    const TextureShape& shape = texture.shape();
    std::array<double, 4> sum{};
    std::vector<float> row(std::size_t{shape.width} * 4);
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face)
            for (std::uint32_t y = 0; y < shape.height; ++y) {
                const ConstImageView image = texture.image(0, layer, face);
                format.load(image.row(y).data(), row.data(), shape.width);
                for (std::size_t i = 0; i < row.size(); ++i)
                    sum[i % 4] += static_cast<double>(row[i]);
            }
    const double count =
        static_cast<double>(shape.width) * shape.height * shape.layers * shape.faces;
    std::array<float, 4> mean{};
    for (std::size_t c = 0; c < 4; ++c)
        mean[c] = static_cast<float>(sum[c] / count);
    if (format.weigh_by_alpha)
        undo_weighing(mean.data(), mean.data(), 1);
    return mean;
}

/// Calls `work(from, end)` for each run of levels that are made of a given one.
template <class Work>
void for_each_run(const TextureShape& shape, std::uint32_t given, const Work& work) {
    for (std::uint32_t from = 0; from < shape.levels;) {
        std::uint32_t end = from + 1;
        while (end < shape.levels && (given >> end & 1) == 0)
            ++end;
        if (end > from + 1)
            work(from, end);
        from = end;
    }
}

std::uint64_t texels_to_make(const TextureShape& shape, std::uint32_t given) {
    std::uint64_t texels = 0;
    for_each_run(shape, given, [&](std::uint32_t from, std::uint32_t end) {
        for (std::uint32_t level = from + 1; level < end; ++level)
            texels += std::uint64_t{shape.width_at(level)} * shape.height_at(level) *
                      shape.depth_at(level) * shape.layers * shape.faces;
    });
    return texels;
}

}  // namespace

Kernel default_kernel(Role role) {
    if (role == Role::color || role == Role::normal)
        return {.kind = Kernel::Kind::kaiser};
    return {};
}

double light_of_fireflies(ConstImageView image, const Edges& edges) {
    if (!info(image.format).is_float() || info(image.format).is_block())
        return 0;
    const auto format = WorkingFormat::of(image.format, Transfer::linear, AlphaMode::data);
    StoredRows stored(image, format);
    GuardedRows guarded(image, format, edges);
    double before = 0, after = 0;
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const float* own = stored.row(y);
        const float* dimmed = guarded.row(y);
        for (std::size_t i = 0; i < std::size_t{image.width} * 4; i += 4) {
            before += static_cast<double>(light_of(own + i));
            after += static_cast<double>(light_of(dimmed + i));
        }
    }
    return before > 0 ? std::clamp(1 - after / before, 0.0, 1.0) : 0;
}

Status build_mips(Texture& texture, const MipOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    const TextureShape& shape = texture.shape();
    WorkingFormat format = WorkingFormat::of_chain(shape.format, texture.metadata, options);
    if (auto sound = check(shape, options, format); !sound)
        return sound;
    if (options.fade)
        format.mean = mean_of(texture, format);
    ProgressCounter progress(options.progress, Phase::levels,
                             texels_to_make(shape, options.given_levels));
    for_each_run(shape, options.given_levels, [&](std::uint32_t from, std::uint32_t end) {
        if (shape.depth > 1)
            return build_volumes(texture, from, end, format, options, progress);
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face) {
                build_levels(texture, layer, face, from, end, format, options, progress);
                for (std::uint32_t level = from + 1; level < end && options.sharpen > 0; ++level)
                    sharpen(texture.image(level, layer, face), level, options.sharpen,
                            options.edges, format);
            }
    });
    return progress.finish();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
