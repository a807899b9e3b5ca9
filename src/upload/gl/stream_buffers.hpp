// A ring of pixel buffers, each with a fence behind its last use.
#pragma once

#include <array>

#include "upload/gl/functions.hpp"

namespace yl::gl {

class StreamBuffers {
 public:
    explicit StreamBuffers(std::shared_ptr<const Functions> functions)
        : functions_(std::move(functions)) {}
    ~StreamBuffers();
    StreamBuffers(const StreamBuffers&) = delete;
    StreamBuffers& operator=(const StreamBuffers&) = delete;

    /// Lets `fill` write `bytes` bytes into the next buffer, which the device no longer reads, and
    /// then `copy` use it by its name; it waits for nothing but its own use of three turns ago.
    template <class Fill, class Copy>
    [[nodiscard]] Status use(std::uint64_t bytes, const Fill& fill, const Copy& copy) {
        auto staging = begin(bytes);
        if (!staging)
            return tl::unexpected(staging.error());
        fill(*staging);
        if (Status status = unmap(); !status)
            return status;
        copy(buffers_[turn_].name);
        end();
        return {};
    }

 private:
    struct StreamBuffer {
        GLuint name = 0;
        std::uint64_t bytes = 0;
        GLsync fence = nullptr;
    };

    [[nodiscard]] Result<std::span<std::byte>> begin(std::uint64_t bytes);
    [[nodiscard]] Status unmap();
    void end();
    void wait(StreamBuffer& buffer) const;

    std::shared_ptr<const Functions> functions_;
    std::array<StreamBuffer, 3> buffers_ = {};
    std::size_t turn_ = 0;
    GLuint bound_before_ = 0;
};

}  // namespace yl::gl
