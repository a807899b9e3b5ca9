#include "upload/gl/stream_buffers.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl::gl {
namespace {

constexpr std::uint64_t min_bytes = 1U << 20;
constexpr GLuint64 a_second = 1'000'000'000;  // nanoseconds

}  // namespace

StreamBuffers::~StreamBuffers() {
    for (StreamBuffer& buffer : buffers_) {
        if (buffer.fence != nullptr)
            functions_->DeleteSync(buffer.fence);
        if (buffer.name != 0)
            functions_->DeleteBuffers(1, &buffer.name);
    }
}

void StreamBuffers::wait(StreamBuffer& buffer) const {
    if (buffer.fence == nullptr)
        return;
    GLenum state = GL_TIMEOUT_EXPIRED;
    while (state == GL_TIMEOUT_EXPIRED)
        state = functions_->ClientWaitSync(buffer.fence, GL_SYNC_FLUSH_COMMANDS_BIT, a_second);
    functions_->DeleteSync(buffer.fence);
    buffer.fence = nullptr;
}

Result<std::span<std::byte>> StreamBuffers::begin(std::uint64_t bytes) {
    const Functions& gl = *functions_;
    turn_ = (turn_ + 1) % buffers_.size();
    StreamBuffer& buffer = buffers_[turn_];
    wait(buffer);
    bound_before_ = static_cast<GLuint>(gl.integer(GL_PIXEL_UNPACK_BUFFER_BINDING));
    if (buffer.name == 0)
        gl.GenBuffers(1, &buffer.name);
    gl.BindBuffer(GL_PIXEL_UNPACK_BUFFER, buffer.name);
    if (buffer.bytes < bytes) {
        buffer.bytes = std::max(bytes, min_bytes);
        gl.BufferData(GL_PIXEL_UNPACK_BUFFER, static_cast<GLsizeiptr>(buffer.bytes), nullptr,
                      GL_STREAM_DRAW);
    }
    void* memory = gl.MapBufferRange(
        GL_PIXEL_UNPACK_BUFFER, 0, static_cast<GLsizeiptr>(bytes),
        GL_MAP_WRITE_BIT | GL_MAP_INVALIDATE_BUFFER_BIT | GL_MAP_UNSYNCHRONIZED_BIT);
    if (memory == nullptr) {
        buffer.bytes = 0;
        gl.BindBuffer(GL_PIXEL_UNPACK_BUFFER, bound_before_);
        YL_CHECK(gl.check("take memory for pixel buffers"));
        return fail(ErrorKind::memory, "OpenGL has no memory for a pixel buffer");
    }
    return std::span(static_cast<std::byte*>(memory), bytes);
}

Status StreamBuffers::unmap() {
    const bool is_whole = functions_->UnmapBuffer(GL_PIXEL_UNPACK_BUFFER) == GL_TRUE;
    functions_->BindBuffer(GL_PIXEL_UNPACK_BUFFER, bound_before_);
    if (!is_whole)  // the memory behind it was lost: a change of screen mode, for one
        return fail(ErrorKind::device, "OpenGL lost a pixel buffer while it was being filled");
    return {};
}

void StreamBuffers::end() {
    buffers_[turn_].fence = functions_->FenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
}

}  // namespace yl::gl
