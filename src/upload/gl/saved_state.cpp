#include "upload/gl/saved_state.hpp"

namespace yl::gl {
namespace {

// OpenGL ES knows the first ones of each; of packing, not the height of images.
constexpr std::array<GLenum, 12> unpack_names = {GL_UNPACK_ALIGNMENT,
                                                 GL_UNPACK_ROW_LENGTH,
                                                 GL_UNPACK_SKIP_PIXELS,
                                                 GL_UNPACK_SKIP_ROWS,
                                                 GL_UNPACK_SKIP_IMAGES,
                                                 GL_UNPACK_IMAGE_HEIGHT,
                                                 GL_UNPACK_SWAP_BYTES,
                                                 GL_UNPACK_LSB_FIRST,
                                                 GL_UNPACK_COMPRESSED_BLOCK_WIDTH,
                                                 GL_UNPACK_COMPRESSED_BLOCK_HEIGHT,
                                                 GL_UNPACK_COMPRESSED_BLOCK_DEPTH,
                                                 GL_UNPACK_COMPRESSED_BLOCK_SIZE};
constexpr std::size_t embedded_unpack_names = 6;
constexpr std::array<GLenum, 12> pack_names = {GL_PACK_ALIGNMENT,
                                               GL_PACK_ROW_LENGTH,
                                               GL_PACK_SKIP_PIXELS,
                                               GL_PACK_SKIP_ROWS,
                                               GL_PACK_SKIP_IMAGES,
                                               GL_PACK_IMAGE_HEIGHT,
                                               GL_PACK_SWAP_BYTES,
                                               GL_PACK_LSB_FIRST,
                                               GL_PACK_COMPRESSED_BLOCK_WIDTH,
                                               GL_PACK_COMPRESSED_BLOCK_HEIGHT,
                                               GL_PACK_COMPRESSED_BLOCK_DEPTH,
                                               GL_PACK_COMPRESSED_BLOCK_SIZE};
constexpr std::size_t names_before_blocks = 8;  ///< of OpenGL before 4.2
constexpr std::size_t embedded_pack_names = 4;

std::span<const GLenum> names_for(const Functions& gl, TightPixelStore::Direction direction) {
    const std::size_t of_desktop =
        gl.has_block_pixel_store ? unpack_names.size() : names_before_blocks;
    if (direction == TightPixelStore::Direction::unpack)
        return std::span(unpack_names).first(gl.is_embedded ? embedded_unpack_names : of_desktop);
    return std::span(pack_names).first(gl.is_embedded ? embedded_pack_names : of_desktop);
}

}  // namespace

GLenum binding_name(GLenum target) {
    switch (target) {
        case GL_TEXTURE_1D:
            return GL_TEXTURE_BINDING_1D;
        case GL_TEXTURE_1D_ARRAY:
            return GL_TEXTURE_BINDING_1D_ARRAY;
        case GL_TEXTURE_3D:
            return GL_TEXTURE_BINDING_3D;
        case GL_TEXTURE_CUBE_MAP:
            return GL_TEXTURE_BINDING_CUBE_MAP;
        case GL_TEXTURE_2D_ARRAY:
            return GL_TEXTURE_BINDING_2D_ARRAY;
        case GL_TEXTURE_CUBE_MAP_ARRAY:
            return GL_TEXTURE_BINDING_CUBE_MAP_ARRAY;
        default:
            return GL_TEXTURE_BINDING_2D;
    }
}

namespace {

/// What leaves numbers as they are, with its value (OpenGL 4.6 compatibility profile, table 8.3).
struct Transfer {
    GLenum name;
    GLfloat plain;
};

constexpr std::array<Transfer, 9> transfers = {{{0x0D10, 0},    // GL_MAP_COLOR
                                                {0x0D14, 1},    // GL_RED_SCALE
                                                {0x0D15, 0},    // GL_RED_BIAS
                                                {0x0D18, 1},    // GL_GREEN_SCALE
                                                {0x0D19, 0},    // GL_GREEN_BIAS
                                                {0x0D1A, 1},    // GL_BLUE_SCALE
                                                {0x0D1B, 0},    // GL_BLUE_BIAS
                                                {0x0D1C, 1},    // GL_ALPHA_SCALE
                                                {0x0D1D, 0}}};  // GL_ALPHA_BIAS

}  // namespace

PlainTransfer::PlainTransfer(const Functions& functions) : gl_(functions) {
    if (!gl_.has_pixel_transfer)
        return;
    for (std::size_t i = 0; i < transfers.size(); ++i) {
        gl_.GetFloatv(transfers[i].name, &values_[i]);
        gl_.PixelTransferf(transfers[i].name, transfers[i].plain);
    }
}

PlainTransfer::~PlainTransfer() {
    if (gl_.has_pixel_transfer)
        for (std::size_t i = 0; i < transfers.size(); ++i)
            gl_.PixelTransferf(transfers[i].name, values_[i]);
}

TightPixelStore::TightPixelStore(const Functions& functions, Direction direction, GLuint buffer)
    : gl_(functions),
      names_(names_for(functions, direction)),
      transfer_(functions),
      buffer_target_(direction == Direction::unpack ? GL_PIXEL_UNPACK_BUFFER
                                                    : GL_PIXEL_PACK_BUFFER) {
    const GLenum binding = direction == Direction::unpack ? GL_PIXEL_UNPACK_BUFFER_BINDING
                                                          : GL_PIXEL_PACK_BUFFER_BINDING;
    buffer_ = static_cast<GLuint>(gl_.integer(binding));
    gl_.BindBuffer(buffer_target_, buffer);
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
