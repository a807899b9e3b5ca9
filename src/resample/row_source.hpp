// Rows of working pixels, produced one after the other on demand.
#pragma once

#include <span>
#include <vector>

#include <yl/image.hpp>
#include <yl/texture.hpp>
#include "pixel/rows.hpp"
#include "resample/weights.hpp"

namespace yl {

/// How stored pixels become working pixels: linear float RGBA in which colour is multiplied by
/// a weight wherever straight alpha has to count.
struct WorkingFormat {
    RowCodec codec;
    bool weigh_by_alpha = false;

    [[nodiscard]] static WorkingFormat of(const TextureShape& shape, const TextureTraits& traits);

    void load(const std::byte* texels, float* working, std::size_t count) const;
    /// Uses `working` as scratch: its values are spoilt.
    void store(float* working, std::byte* texels, std::size_t count) const;
};

/// Rows of one level of a chain. They are asked for with rising numbers; a row stays valid until
/// the next one is asked for.
class RowSource {
 public:
    virtual ~RowSource() = default;
    [[nodiscard]] virtual const float* row(std::uint32_t y) = 0;
};

/// The stored rows of an image.
class StoredRows final : public RowSource {
 public:
    StoredRows(ConstImageView image, const WorkingFormat& format);
    const float* row(std::uint32_t y) override;

 private:
    ConstImageView image_;
    const WorkingFormat& format_;
    std::vector<float> row_;
};

/// Working rows that lie in memory.
class MemoryRows final : public RowSource {
 public:
    MemoryRows(std::span<const float> rows, std::uint32_t width) : rows_(rows), width_(width) {}
    const float* row(std::uint32_t y) override {
        return rows_.data() + std::size_t{y} * width_ * 4;
    }

 private:
    std::span<const float> rows_;
    std::uint32_t width_;
};

/// The rows of the level below `source`, which also stores those rows that are its own.
class ReducedRows final : public RowSource {
 public:
    struct Target {
        ImageView image;
        std::uint32_t begin = 0;  ///< rows to store: [begin, end)
        std::uint32_t end = 0;
    };

    ReducedRows(RowSource& source, const AxisWeights& horizontal, const AxisWeights& vertical,
                const WorkingFormat& format, Target target);
    const float* row(std::uint32_t y) override;

 private:
    [[nodiscard]] float* ring_row(std::uint32_t y) {
        return ring_.data() + y % vertical_.taps * row_floats_;
    }
    void reduce_row(const float* wide, float* narrow) const;

    RowSource& source_;
    const AxisWeights& horizontal_;
    const AxisWeights& vertical_;
    const WorkingFormat& format_;
    Target target_;
    std::size_t row_floats_;
    std::uint32_t next_source_row_ = 0;
    bool started_ = false;
    std::vector<float> ring_;  ///< the last `vertical.taps` source rows, already narrow
    std::vector<float> row_;
    std::vector<float> scratch_;
};

}  // namespace yl
