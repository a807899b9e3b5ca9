#include "upload/gl/saved_state.hpp"

namespace yl::gl {
namespace {

constexpr std::array<GLenum, 8> unpack_names = {
    GL_UNPACK_ALIGNMENT, GL_UNPACK_ROW_LENGTH,  GL_UNPACK_IMAGE_HEIGHT, GL_UNPACK_SKIP_PIXELS,
    GL_UNPACK_SKIP_ROWS, GL_UNPACK_SKIP_IMAGES, GL_UNPACK_SWAP_BYTES,   GL_UNPACK_LSB_FIRST};
constexpr std::array<GLenum, 8> pack_names = {
    GL_PACK_ALIGNMENT, GL_PACK_ROW_LENGTH,  GL_PACK_IMAGE_HEIGHT, GL_PACK_SKIP_PIXELS,
    GL_PACK_SKIP_ROWS, GL_PACK_SKIP_IMAGES, GL_PACK_SWAP_BYTES,   GL_PACK_LSB_FIRST};

}  // namespace

TightPixelStore::TightPixelStore(const Functions& functions, Direction direction)
    : gl_(functions),
      names_(direction == Direction::unpack ? unpack_names : pack_names),
      buffer_target_(direction == Direction::unpack ? GL_PIXEL_UNPACK_BUFFER
                                                    : GL_PIXEL_PACK_BUFFER) {
    const GLenum binding = direction == Direction::unpack ? GL_PIXEL_UNPACK_BUFFER_BINDING
                                                          : GL_PIXEL_PACK_BUFFER_BINDING;
    buffer_ = static_cast<GLuint>(gl_.integer(binding));
    gl_.BindBuffer(buffer_target_, 0);
    for (std::size_t i = 0; i < names_.size(); ++i) {
        values_[i] = gl_.integer(names_[i]);
        gl_.PixelStorei(names_[i], i == 0 ? 1 : 0);  // the alignment, and zeros for the rest
    }
}

TightPixelStore::~TightPixelStore() {
    for (std::size_t i = 0; i < names_.size(); ++i)
        gl_.PixelStorei(names_[i], values_[i]);
    gl_.BindBuffer(buffer_target_, buffer_);
}

}  // namespace yl::gl
