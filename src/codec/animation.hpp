// The canvas that the frames of an animation are drawn onto.
#pragma once

#include <yl/picture.hpp>

namespace yl {

/// What happens to a frame's place once it has been shown.
enum class Disposal : std::uint8_t {
    keep,
    clear,     ///< it becomes transparent
    previous,  ///< it becomes what was there before
};

/// A part of the canvas, in four plain channels of 8 or 16 bits.
struct Frame {
    ConstImageView image = {};
    std::uint32_t x = 0, y = 0;
    bool replaces = false;  ///< alpha and all; otherwise it is composited, as stored
    Disposal disposal = Disposal::keep;
    double seconds = 0;
};

class Canvas {
 public:
    /// Transparent at first. Fails with `ErrorKind::limit` if `count` pictures of this size exceed the
    /// limits.
    [[nodiscard]] static Result<Canvas> create(std::uint32_t width, std::uint32_t height,
                                               Format format, std::size_t count,
                                               const Limits& limits);

    /// Draws the frame and adds the whole picture that is seen then. Fails with
    /// `ErrorKind::malformed` if it reaches beyond the canvas.
    [[nodiscard]] Status show(const Frame& frame, PictureFrames& frames);

 private:
    Image canvas_ = {};
    Image before_ = {};
    Frame last_ = {};
};

}  // namespace yl
