// Rows of working pixels, produced one after the other on demand.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "resample/weights.hpp"
#include "resample/working_format.hpp"

namespace yl {

/// Luminance of BT.709.
[[nodiscard]] inline float light_of(const float* pixel) {
    return 0.2126F * pixel[0] + 0.7152F * pixel[1] + 0.0722F * pixel[2];
}

/// Rows of one image. They are asked for with rising numbers; beyond the ends, where only repeated
/// images are asked, the rows begin again. A row stays valid until the next one is asked for.
class RowSource {
 public:
    virtual ~RowSource() = default;
    [[nodiscard]] virtual const float* row(std::int64_t y) = 0;

    /// The row of an image that repeats downwards.
    [[nodiscard]] static std::uint32_t wrapped(std::int64_t y, std::uint32_t height) {
        const std::int64_t rest = y % height;
        return static_cast<std::uint32_t>(rest < 0 ? rest + height : rest);
    }
};

/// Stored rows as they come out of a file. They are asked for with rising numbers; each two that
/// begin with an even one stay valid until the next are asked for.
class RowFlow {
 public:
    virtual ~RowFlow() = default;
    [[nodiscard]] virtual const std::byte* row(std::uint32_t y) = 0;
};

/// Stored rows, of an image in memory or of one whose rows flow.
class TexelRows {
 public:
    TexelRows(ConstImageView image)  // NOLINT: an image is its rows
        : width(image.width), height(image.height), image_(image) {}
    TexelRows(RowFlow& flow, std::uint32_t image_width, std::uint32_t image_height)
        : width(image_width), height(image_height), flow_(&flow) {}

    [[nodiscard]] const std::byte* row(std::uint32_t y) const {
        return flow_ != nullptr ? flow_->row(y) : image_.row(y).data();
    }

    std::uint32_t width, height;

 private:
    ConstImageView image_ = {};
    RowFlow* flow_ = nullptr;
};

/// The stored rows of an image.
class StoredRows final : public RowSource {
 public:
    StoredRows(TexelRows texels, const WorkingFormat& format);
    const float* row(std::int64_t y) override;

 private:
    TexelRows texels_;
    const WorkingFormat& format_;
    std::vector<float> row_;
};

/// Working rows that lie in memory.
class MemoryRows final : public RowSource {
 public:
    MemoryRows(std::span<const float> rows, std::uint32_t width, std::uint32_t height)
        : rows_(rows), width_(width), height_(height) {}
    const float* row(std::int64_t y) override {
        return rows_.data() + std::size_t{wrapped(y, height_)} * width_ * 4;
    }

 private:
    std::span<const float> rows_;
    std::uint32_t width_;
    std::uint32_t height_;
};

/// The rows of a stored image, with single texels dimmed that outshine their neighbours: a texel
/// may have no more than `most_ratio` times the light of the brightest of the eight around it.
class GuardedRows final : public RowSource {
 public:
    GuardedRows(ConstImageView image, const WorkingFormat& format, const Edges& edges);
    const float* row(std::int64_t y) override;

    static constexpr float most_ratio = 4;

 private:
    ConstImageView image_;
    const WorkingFormat& format_;
    Edges edges_;
    std::vector<float> rows_[3];
    std::vector<float> result_;
};

/// How an image becomes one of another size, and where its rows are stored.
struct Reducer {
    const AxisWeights& across;
    const AxisWeights& down;
    bool limit_ringing = false;
    enum class Kind : std::uint8_t { blend, minimum, maximum } kind = Kind::blend;
};

/// Takes the rows of a level that is not in memory, one after the other.
class RowSink {
 public:
    virtual ~RowSink() = default;
    /// Where the texels of row `y` are to be stored.
    [[nodiscard]] virtual std::byte* begin_row(std::uint32_t y) = 0;
    /// They are.
    virtual void end_row(std::uint32_t y) = 0;
};

/// Which rows of a level to store on the way: [begin, end), in the image or in the sink.
struct RowTarget {
    ImageView image = {};
    std::uint32_t level = 0;
    std::uint32_t begin = 0;
    std::uint32_t end = 0;
    RowSink* sink = nullptr;

    /// Stores `count` texels of row `virtual_y`, if it is one of them.
    void store(std::int64_t virtual_y, const WorkingFormat& format, const float* row,
               float* scratch, std::size_t count, bool is_opaque = false) const;
};

/// The rows of another size of `source`, which also stores those rows that are its own.
class ReducedRows final : public RowSource {
 public:
    ReducedRows(RowSource& source, const Reducer& reducer, const WorkingFormat& format,
                RowTarget target);
    const float* row(std::int64_t y) override;

 private:
    /// Source rows, already as wide as the target; the last so many of them.
    struct Ring {
        std::uint32_t rows = 0;
        std::size_t row_floats = 0;
        std::vector<float> data = {};
        [[nodiscard]] float* row(std::int64_t y) {
            return data.data() + wrapped(y, rows) * row_floats;
        }
    };

    void take_source_row(std::int64_t y);
    void extremes_across(const float* wide, float* min, float* max) const;
    void blend_down(std::uint32_t y, std::int64_t first);
    void limit_to_range(std::uint32_t y, std::int64_t source_start);
    void take_extreme(std::uint32_t y, std::int64_t source_start);

    RowSource& source_;
    Reducer reducer_;
    const WorkingFormat& format_;
    RowTarget target_;
    std::int64_t next_source_row_ = 0;
    std::int64_t last_row_ = -1;
    bool started_ = false;
    Ring blended_;
    Ring min_, max_;  ///< of the texels that each target texel covers across
    std::vector<float> padded_;
    std::vector<float> row_;
    std::vector<float> scratch_;
};

}  // namespace yl
