#include <yl/mip.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "base/parallel.hpp"
#include "resample/row_source.hpp"

namespace yl {
namespace {

/// The chain of one surface. Rows flow through all levels at once, so that no level has to be kept
/// in working pixels but one small one: the level where the bands, which run in parallel, meet.
class SurfaceChain {
 public:
    SurfaceChain(Texture& texture, std::uint32_t layer, std::uint32_t face,
                 const WorkingFormat& format)
        : texture_(texture), layer_(layer), face_(face), format_(format) {
        const TextureShape& shape = texture.shape();
        for (std::uint32_t level = 0; level + 1 < shape.levels; ++level) {
            horizontal_.push_back(box_weights(shape.width_at(level), shape.width_at(level + 1)));
            vertical_.push_back(box_weights(shape.height_at(level), shape.height_at(level + 1)));
        }
        while (meeting_level_ + 1 < shape.levels &&
               shape.height_at(meeting_level_ + 1) >= least_meeting_rows)
            ++meeting_level_;
    }

    void build() {
        const TextureShape& shape = texture_.shape();
        if (meeting_level_ == 0) {
            StoredRows top(texture_.image(0, layer_, face_), format_);
            run(top, 0, shape.levels - 1, 0, shape.height_at(shape.levels - 1), nullptr);
            return;
        }
        const std::uint32_t width = shape.width_at(meeting_level_);
        const std::uint32_t height = shape.height_at(meeting_level_);
        std::vector<float> meeting(std::size_t{width} * height * 4);
        const std::uint32_t bands = height / rows_in_band;
        parallel_each(bands, [&](std::size_t band) {
            StoredRows top(texture_.image(0, layer_, face_), format_);
            run(top, 0, meeting_level_, static_cast<std::uint32_t>(band * height / bands),
                static_cast<std::uint32_t>((band + 1) * height / bands), meeting.data());
        });
        if (meeting_level_ + 1 == shape.levels)
            return;
        MemoryRows rest(meeting, width);
        run(rest, meeting_level_, shape.levels - 1, 0, shape.height_at(shape.levels - 1), nullptr);
    }

 private:
    static constexpr std::uint32_t least_meeting_rows = 32;
    static constexpr std::uint32_t rows_in_band = 4;

    /// Makes the levels after `from` up to `to` out of the rows of level `from`: of level `to` the
    /// rows [begin, end), of those between whatever lies above them. Keeps the working rows of
    /// level `to` in `kept`, unless that is null.
    void run(RowSource& rows, std::uint32_t from, std::uint32_t to, std::uint32_t begin,
             std::uint32_t end, float* kept) {
        std::vector<ReducedRows::Target> targets(to - from);
        for (std::uint32_t level = to, b = begin, e = end; level > from; --level) {
            targets[level - from - 1] = {texture_.image(level, layer_, face_), b, e};
            b = first_row_above(level, b);
            e = first_row_above(level, e);
        }
        std::vector<std::unique_ptr<ReducedRows>> stages;
        RowSource* source = &rows;
        for (std::uint32_t level = from; level < to; ++level) {
            stages.push_back(std::make_unique<ReducedRows>(
                *source, horizontal_[level], vertical_[level], format_, targets[level - from]));
            source = stages.back().get();
        }
        if (source == &rows)
            return;
        const std::size_t row_floats = std::size_t{texture_.shape().width_at(to)} * 4;
        for (std::uint32_t y = begin; y < end; ++y) {
            const float* row = source->row(y);
            if (kept != nullptr)
                std::copy_n(row, row_floats, kept + y * row_floats);
        }
    }

    /// Where the rows above row `y` of `level` begin; every band calls those its own from here on.
    [[nodiscard]] std::uint32_t first_row_above(std::uint32_t level, std::uint32_t y) const {
        const AxisWeights& axis = vertical_[level - 1];
        return y < axis.size() ? axis.first[y] : texture_.shape().height_at(level - 1);
    }

    Texture& texture_;
    std::uint32_t layer_;
    std::uint32_t face_;
    const WorkingFormat& format_;
    std::vector<AxisWeights> horizontal_;  ///< from each level to the next
    std::vector<AxisWeights> vertical_;
    std::uint32_t meeting_level_ = 0;
};

}  // namespace

Status build_mips(Texture& texture) {
    const TextureShape& shape = texture.shape();
    const WorkingFormat format = WorkingFormat::of(shape, texture.traits);
    if (format.codec.load == nullptr || shape.depth > 1)
        return fail(ErrorKind::unsupported,
                    fmt::format("no mip chain can be made of {} with a depth of {}",
                                info(shape.format).name, shape.depth));
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face)
            SurfaceChain(texture, layer, face, format).build();
    return {};
}

}  // namespace yl
