// The levels of 3D textures, each halved in depth as well.
#include <algorithm>

#include "base/parallel.hpp"
#include "resample/level_chain.hpp"
#include "resample/level_stages.hpp"
#include "resample/rows_simd.hpp"

namespace yl {
namespace {

/// A volume's slices in working pixels.
struct Volume {
    std::uint32_t width = 0, height = 0, depth = 0;
    std::vector<float> floats = {};

    [[nodiscard]] std::size_t slice_floats() const { return std::size_t{width} * height * 4; }
    [[nodiscard]] std::span<float> slice(std::uint32_t z) {
        return std::span(floats).subspan(z * slice_floats(), slice_floats());
    }
};

ImageView slice_view(Texture& texture, std::uint32_t level, std::uint32_t z) {
    ImageView view = texture.image(level);
    view.data += z * texture.shape().surface_bytes(level);
    return view;
}

class VolumeStep {
 public:
    VolumeStep(Texture& texture, std::uint32_t from, std::uint32_t level,
               const WorkingFormat& format, const MipOptions& options)
        : texture_(texture),
          level_(level),
          from_(from),
          format_(format),
          options_(options),
          across_(weights(options.edges[0], &TextureShape::width_at)),
          down_(weights(options.edges[1], &TextureShape::height_at)),
          deep_(weights(options.edges[1], &TextureShape::depth_at)) {}

    /// The volume of `level`, from that of `from`, whose working pixels are in `above` unless it is
    /// to be taken from the texture.
    Volume run(Volume& above) {
        Volume volume{across_.size(), down_.size(), deep_.size()};
        volume.floats.resize(volume.slice_floats() * volume.depth);
        parallel_each(volume.depth, [&](std::size_t z) {
            make_slice(static_cast<std::uint32_t>(z), above,
                       volume.slice(static_cast<std::uint32_t>(z)));
        });
        return volume;
    }

 private:
    [[nodiscard]] AxisWeights weights(Edge edge, std::uint32_t (TextureShape::*side)(std::uint32_t)
                                                     const) const {
        const TextureShape& shape = texture_.shape();
        return axis_weights(options_.kernel.value_or(Kernel{}), edge, (shape.*side)(from_),
                            (shape.*side)(level_));
    }

    void make_slice(std::uint32_t z, Volume& above, std::span<float> result) {
        std::vector<float> reduced(result.size());
        const bool blends = options_.reduction == Reduction::average;
        const CoveredTexels print = covered_texels(z, deep_.source, deep_.size());
        const std::int64_t first = blends ? deep_.first[z] : print.begin;
        const std::int64_t end = blends ? first + deep_.taps : print.end;
        for (std::int64_t place = first; place < end; ++place) {
            const std::int64_t rest = place % deep_.source;
            reduce_slice(static_cast<std::uint32_t>(rest < 0 ? rest + deep_.source : rest), above,
                         reduced);
            const bool is_first = place == first;
            const float weight = blends ? deep_.of(z)[place - first] : 0;
            for (std::size_t i = 0; i < result.size(); ++i) {
                if (blends)
                    result[i] = (is_first ? 0.0F : result[i]) + weight * reduced[i];
                else if (is_first)
                    result[i] = reduced[i];
                else
                    result[i] = options_.reduction == Reduction::minimum
                                    ? std::min(result[i], reduced[i])
                                    : std::max(result[i], reduced[i]);
            }
        }
        store(z, result);
    }

    void reduce_slice(std::uint32_t z, Volume& above, std::vector<float>& reduced) {
        const auto rows =
            above.floats.empty()
                ? stored_rows(slice_view(texture_, from_, z), format_, options_)
                : std::make_unique<MemoryRows>(above.slice(z), above.width, above.height);
        const Reducer reducer{across_, down_, options_.limit_ringing.value_or(false),
                              reducer_kind(options_.reduction)};
        ReducedRows result(*rows, reducer, format_, {});
        const std::size_t row_floats = std::size_t{across_.size()} * 4;
        for (std::uint32_t y = 0; y < down_.size(); ++y)
            std::copy_n(result.row(y), row_floats, reduced.data() + y * row_floats);
    }

    void store(std::uint32_t z, std::span<const float> slice) {
        const ImageView target = slice_view(texture_, level_, z);
        const std::size_t row_floats = std::size_t{target.width} * 4;
        std::vector<float> row(row_floats);
        for (std::uint32_t y = 0; y < target.height; ++y) {
            std::copy_n(slice.data() + y * row_floats, row_floats, row.data());
            format_.store(row.data(), row.data(), target.row(y).data(), target.width, {y, level_});
        }
    }

    Texture& texture_;
    std::uint32_t level_;
    std::uint32_t from_;
    const WorkingFormat& format_;
    const MipOptions& options_;
    AxisWeights across_;
    AxisWeights down_;
    AxisWeights deep_;
};

}  // namespace

void build_volumes(Texture& texture, std::uint32_t from, std::uint32_t end,
                   const WorkingFormat& format, const MipOptions& options,
                   ProgressCounter& progress) {
    Volume above;
    const TextureShape& shape = texture.shape();
    for (std::uint32_t level = from + 1; level < end && !progress.cancelled(); ++level) {
        const std::uint32_t source = options.from_top ? from : level - 1;
        Volume volume = VolumeStep(texture, source, level, format, options).run(above);
        if (!options.from_top)
            above = std::move(volume);
        progress.add(std::uint64_t{shape.width_at(level)} * shape.height_at(level) *
                     shape.depth_at(level));
    }
}

}  // namespace yl
