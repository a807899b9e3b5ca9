#include "codec/exr/chunk.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/exr/b44.hpp"
#include "codec/exr/dwa.hpp"
#include "codec/exr/piz.hpp"
#include "codec/exr/unpack.hpp"

namespace yl::exr {
namespace {

/// Some compressions keep channels apart; the reader has them row by row.
std::vector<std::byte> rows_of_planes(ByteSpan planes, const Header& h, const Area& area) {
    std::vector<const std::byte*> next;
    const std::byte* start = planes.data();
    for (const Channel& c : h.channels) {
        next.push_back(start);
        start += area.bytes(c);
    }
    std::vector<std::byte> rows(planes.size());
    std::byte* out = rows.data();
    for (std::int64_t y = area.y0; y <= area.y1; ++y)
        for (std::size_t i = 0; i < h.channels.size(); ++i) {
            if (sample_count(h.channels[i].step_y, y, y) == 0)
                continue;
            const std::size_t bytes = area.columns(h.channels[i]) * h.channels[i].sample_bytes();
            out = std::copy_n(next[i], bytes, out);
            next[i] += bytes;
        }
    return rows;
}

Result<std::vector<std::byte>> unpack_piz_planes(ByteSpan packed, const Header& h,
                                                 const Area& area) {
    std::vector<PizChannel> channels;
    for (const Channel& c : h.channels)
        channels.push_back({area.columns(c), area.rows(c), c.sample_bytes() / 2});
    YL_TRY(const auto words, unpack_piz(packed, channels));
    std::vector<std::byte> planes(words.size() * 2);
    for (std::size_t i = 0; i < words.size(); ++i)
        store(planes.data() + 2 * i, words[i]);
    return planes;
}

/// The runs of samples of a chunk, row by row and in each channel by channel.
std::vector<SampleRun> sample_runs(const Header& h, const Area& area) {
    std::vector<SampleRun> runs;
    for (std::int64_t y = area.y0; y <= area.y1; ++y)
        for (const Channel& c : h.channels)
            if (sample_count(c.step_y, y, y) != 0)
                runs.push_back({area.columns(c), c.type});
    return runs;
}

}  // namespace

Result<std::vector<std::byte>> unpack_chunk(ByteSpan packed, const Header& h, const Area& area) {
    const std::size_t size = area.bytes(h);
    if (packed.size() == size ||
        h.compression == Compression::none) {  // packing that gains nothing is left out
        if (packed.size() != size)
            return fail(ErrorKind::malformed,
                        fmt::format("a chunk has {} bytes instead of {}", packed.size(), size));
        return std::vector<std::byte>(packed.begin(), packed.end());
    }
    std::vector<std::byte> planes;
    switch (h.compression) {
        case Compression::rle:
            return unpack_rle(packed, size);
        case Compression::pxr24:
            return unpack_pxr24(packed, sample_runs(h, area), size);
        case Compression::none:
        case Compression::zips:
        case Compression::zip:
            return unpack_zip(packed, size);
        case Compression::piz: {
            YL_TRY(planes, unpack_piz_planes(packed, h, area));
            break;
        }
        case Compression::b44:
        case Compression::b44a: {
            YL_TRY(planes, unpack_b44(packed, h, area));
            break;
        }
        case Compression::dwaa:
        case Compression::dwab: {
            YL_TRY(planes, unpack_dwa(packed, h, area));
            break;
        }
    }
    return rows_of_planes(planes, h, area);
}

}  // namespace yl::exr
