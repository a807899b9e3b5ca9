// A zlib stream (RFC 1950) unpacked piece by piece, by zlib; slower than all at once.
#pragma once

#include <memory>
#include <span>

#include "base/bytes.hpp"

struct z_stream_s;

namespace yl {

class InflateStream {
 public:
    [[nodiscard]] static Result<InflateStream> create();

    /// What one step took of the packed bytes and gave of the unpacked ones.
    struct Step {
        std::size_t taken = 0, given = 0;
    };
    /// Until `packed` is used up, `target` is full or the stream ends. The message says what is wrong
    /// with the stream, for a caller that adds whose it is.
    [[nodiscard]] Result<Step> unpack(ByteSpan packed, std::span<std::byte> target);

    [[nodiscard]] bool has_ended() const { return has_ended_; }

 private:
    struct End {
        void operator()(z_stream_s* stream) const;
    };
    InflateStream() = default;

    std::unique_ptr<z_stream_s, End> stream_ = {};
    bool has_ended_ = false;
};

}  // namespace yl
