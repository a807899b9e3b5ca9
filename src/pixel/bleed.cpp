#include <yl/edit.hpp>

#include <cstring>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

/// For each pixel the place of a pixel that is not transparent, the nearest found so far.
class NearestField {
 public:
    static constexpr std::uint32_t none = ~0U;

    explicit NearestField(ConstImageView image)
        : width_(image.width),
          height_(image.height),
          nearest_(std::size_t{image.width} * image.height, none) {
        const RowCodec codec = number_codec(image.format);
        std::vector<float> rgba(std::size_t{width_} * 4);
        for (std::uint32_t y = 0; y < height_; ++y) {
            codec.load(image.row(y).data(), rgba.data(), width_);
            for (std::uint32_t x = 0; x < width_; ++x)
                if (rgba[std::size_t{x} * 4 + 3] > 0)
                    nearest_[at(x, y)] = static_cast<std::uint32_t>(at(x, y));
        }
    }

    /// Twice over the rows, down and up, each row in both directions.
    void spread() {
        for (std::int64_t y = 0; y < height_; ++y)
            sweep_row(y, -1);
        for (std::int64_t y = height_; y-- > 0;)
            sweep_row(y, 1);
    }

    [[nodiscard]] std::uint32_t nearest(std::uint32_t x, std::uint32_t y) const {
        return nearest_[at(x, y)];
    }

 private:
    [[nodiscard]] std::size_t at(std::int64_t x, std::int64_t y) const {
        return static_cast<std::size_t>(y) * width_ + static_cast<std::size_t>(x);
    }

    void sweep_row(std::int64_t y, int from_row) {
        for (std::int64_t x = 0; x < width_; ++x) {
            for (int dx = -1; dx <= 1; ++dx)
                take(x, y, x + dx, y + from_row);
            take(x, y, x - 1, y);
        }
        for (std::int64_t x = width_; x-- > 0;)
            take(x, y, x + 1, y);
    }

    /// Whether the neighbour's nearest is nearer than this one's.
    void take(std::int64_t x, std::int64_t y, std::int64_t neighbour_x, std::int64_t neighbour_y) {
        if (neighbour_x < 0 || neighbour_x >= width_ || neighbour_y < 0 || neighbour_y >= height_)
            return;
        const std::uint32_t candidate = nearest_[at(neighbour_x, neighbour_y)];
        std::uint32_t& own = nearest_[at(x, y)];
        if (candidate != none && (own == none || distance(x, y, candidate) < distance(x, y, own)))
            own = candidate;
    }

    [[nodiscard]] std::int64_t distance(std::int64_t x, std::int64_t y, std::uint32_t place) const {
        const std::int64_t dx = x - place % width_;
        const std::int64_t dy = y - place / width_;
        return dx * dx + dy * dy;
    }

    std::uint32_t width_;
    std::uint32_t height_;
    std::vector<std::uint32_t> nearest_;
};

}  // namespace

Status bleed_colors(ImageView image) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    if (f.channel_count != 4 || f.type_size * 4 != f.block_bytes ||
        f.channels[3].channel != Channel::alpha)
        return fail(ErrorKind::usage,
                    fmt::format("{} has no colours under an alpha of whole bytes", f.name));
    NearestField field(image);
    field.spread();
    const std::size_t color_bytes = f.block_bytes - f.type_size;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::uint32_t x = 0; x < image.width; ++x) {
            const std::uint32_t place = field.nearest(x, y);
            if (place == NearestField::none || place == y * image.width + x)
                continue;
            std::memcpy(image.row(y).data() + std::size_t{x} * f.block_bytes,
                        image.row(place / image.width).data() +
                            std::size_t{place % image.width} * f.block_bytes,
                        color_bytes);
        }
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
