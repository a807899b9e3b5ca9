#include "batch/cache/hash.hpp"

#include <fmt/format.h>

#include <charconv>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"

namespace yl::batch {

std::string Hash::text() const {
    return fmt::format("{:016x}{:016x}", high, low);
}

std::optional<Hash> Hash::parse(std::string_view text) {
    constexpr std::size_t digits = 16;
    if (text.size() != 2 * digits)
        return {};
    Hash hash;
    for (const auto& [part, begin] :
         {std::pair{&hash.high, text.data()}, std::pair{&hash.low, text.data() + digits}}) {
        const auto [end, error] = std::from_chars(begin, begin + digits, *part, 16);
        if (error != std::errc{} || end != begin + digits)
            return {};
    }
    return hash;
}

Result<Hash> hash_file(const std::filesystem::path& path) {
    YL_TRY(const OpenFile file, open_regular(path));
    constexpr std::size_t piece = std::size_t{1} << 18U;
    std::vector<char> bytes(piece);
    Hasher hasher;
    while (true) {
        const ssize_t count = ::read(file.descriptor.get(), bytes.data(), bytes.size());
        if (count < 0 && errno == EINTR)
            continue;
        if (count < 0)
            return io_error("cannot read", path);
        if (count == 0)
            return hasher.hash();
        hasher.add(bytes.data(), static_cast<std::size_t>(count));
    }
}

Hash hash_text(std::string_view text) {
    Hasher hasher;
    hasher.add(text.data(), text.size());
    return hasher.hash();
}

}  // namespace yl::batch
