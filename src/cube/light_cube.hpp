// A cube of linear light in floats, with a frame of the neighbours' texels around each face.
#pragma once

#include <vector>

#include <yl/cube.hpp>
#include "resample/working_format.hpp"

namespace yl {

using Light = std::array<float, 4>;

/// Six faces of working pixels. Around each lies a frame one texel wide with those texels that meet
/// the face at its edges; in the frame's corners, where three faces meet, is the mean of their
/// three corner texels. So a place on a face is filtered across edges without asking where they
/// are, as seamless filtering asks for (OpenGL 4.6, section 8.15; ARB_seamless_cube_map).
class LightCube {
 public:
    explicit LightCube(std::uint32_t size)
        : size_(size), texels_(std::size_t{6} * (size + 2) * (size + 2) * 4) {}

    /// Loads one level; `fill_frames` is done already.
    [[nodiscard]] static LightCube of(const Texture& cube, std::uint32_t level, std::uint32_t layer,
                                      const WorkingFormat& format);
    void store(Texture& cube, std::uint32_t level, std::uint32_t layer,
               const WorkingFormat& format) const;

    [[nodiscard]] std::uint32_t size() const { return size_; }

    /// x and y from -1 to `size`.
    [[nodiscard]] float* texel(std::size_t face, std::int64_t x, std::int64_t y) {
        return texels_.data() + offset(face, x, y);
    }
    [[nodiscard]] const float* texel(std::size_t face, std::int64_t x, std::int64_t y) const {
        return texels_.data() + offset(face, x, y);
    }

    /// To be done after texels have changed.
    void fill_frames();

    /// Bilinear, across edges.
    [[nodiscard]] Light sample(const FacePoint& point) const;
    [[nodiscard]] Light sample(const Direction& direction) const {
        return sample(face_point(direction));
    }

 private:
    [[nodiscard]] std::size_t offset(std::size_t face, std::int64_t x, std::int64_t y) const {
        const std::size_t side = size_ + 2;
        return ((face * side + static_cast<std::size_t>(y + 1)) * side +
                static_cast<std::size_t>(x + 1)) *
               4;
    }

    std::uint32_t size_;
    std::vector<float> texels_;
};

/// A texel of a face.
struct CubeTexel {
    std::size_t face = 0;
    std::uint32_t x = 0, y = 0;
};

/// The texel of another face that lies beside texel (x, y), one of which is -1 or `size`.
[[nodiscard]] CubeTexel texel_beyond_edge(CubeFace face, std::int64_t x, std::int64_t y,
                                          std::uint32_t size);

/// The texel that a place lies in.
[[nodiscard]] CubeTexel texel_at(const FacePoint& point, std::uint32_t size);

/// The middle of a texel.
[[nodiscard]] FacePoint middle_of(std::size_t face, double x, double y, std::uint32_t size);

[[nodiscard]] WorkingFormat working_format_of(const Texture& texture);

}  // namespace yl
