#include "upload/memory_blocks.hpp"

#include "base/checked.hpp"

namespace yl {

std::optional<std::uint64_t> FreeRanges::cut(std::uint64_t bytes, std::uint64_t alignment) {
    for (const auto& [begin, size] : sizes_) {
        const std::uint64_t offset = round_up(begin, std::max<std::uint64_t>(alignment, 1));
        const std::uint64_t end = begin + size;
        if (offset > end || end - offset < bytes)
            continue;
        const std::uint64_t free_begin = begin;
        sizes_.erase(free_begin);
        if (offset > free_begin)
            sizes_[free_begin] = offset - free_begin;
        if (end > offset + bytes)
            sizes_[offset + bytes] = end - offset - bytes;
        return offset;
    }
    return std::nullopt;
}

void FreeRanges::give_back(std::uint64_t offset, std::uint64_t bytes) {
    auto range = sizes_.emplace(offset, bytes).first;
    if (const auto next = std::next(range);
        next != sizes_.end() && range->first + range->second == next->first) {
        range->second += next->second;
        sizes_.erase(next);
    }
    if (range == sizes_.begin())
        return;
    const auto before = std::prev(range);
    if (before->first + before->second == range->first) {
        before->second += range->second;
        sizes_.erase(range);
    }
}

}  // namespace yl
