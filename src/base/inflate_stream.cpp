#include "base/inflate_stream.hpp"

#include <zlib.h>

#include <algorithm>
#include <limits>

namespace yl {
namespace {

uInt as_count(std::size_t bytes) {
    return static_cast<uInt>(std::min<std::size_t>(bytes, std::numeric_limits<uInt>::max()));
}

}  // namespace

void InflateStream::End::operator()(z_stream_s* stream) const {
    inflateEnd(stream);
    delete stream;
}

Result<InflateStream> InflateStream::create() {
    auto stream = std::make_unique<z_stream>();
    if (inflateInit(stream.get()) != Z_OK)
        return fail(ErrorKind::memory, "no memory for decompression");
    InflateStream result;
    result.stream_.reset(stream.release());
    return result;
}

Result<InflateStream::Step> InflateStream::unpack(ByteSpan packed, std::span<std::byte> target) {
    const uInt packed_count = as_count(packed.size()), target_count = as_count(target.size());
    // zlib reads the input alone, but its interface does not say so.
    stream_->next_in = reinterpret_cast<Bytef*>(const_cast<std::byte*>(packed.data()));  // NOLINT
    stream_->avail_in = packed_count;
    stream_->next_out = reinterpret_cast<Bytef*>(target.data());
    stream_->avail_out = target_count;
    const int outcome = inflate(stream_.get(), Z_NO_FLUSH);
    has_ended_ = has_ended_ || outcome == Z_STREAM_END;
    if (outcome == Z_MEM_ERROR)
        return fail(ErrorKind::memory, "no memory for decompression");
    if (outcome != Z_OK && outcome != Z_STREAM_END && outcome != Z_BUF_ERROR)
        return fail(ErrorKind::malformed, "data are damaged: they cannot be decompressed");
    return Step{packed_count - stream_->avail_in, target_count - stream_->avail_out};
}

}  // namespace yl
