// Lines of a name and a hash, by which runs of the probe are compared.
#pragma once

#include <fmt/format.h>

#include <concepts>
#include <cstdio>
#include <string>
#include <yl/yl.hpp>

namespace probe {

/// FNV-1a.
class Hash {
 public:
    void add(std::span<const std::byte> bytes) {
        for (const std::byte byte : bytes)
            value_ = (value_ ^ std::to_integer<std::uint64_t>(byte)) * 0x100000001B3U;
    }
    void add(yl::ConstImageView view) {
        for (std::uint32_t y = 0; y < view.row_count(); ++y)
            add(view.row(y));
    }
    void add(const yl::Image& image) { add(image.view()); }
    void add(const yl::Texture& texture) {
        for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
            add(texture.level(level));
        add(yl::swizzle_text(texture.metadata.swizzle));
        add_all(texture.metadata.transfer, texture.metadata.alpha, texture.metadata.origin);
        for (const auto& [key, value] : texture.metadata.key_values)
            add_all(key, value);
    }
    void add(std::string_view text) { add(std::as_bytes(std::span(text))); }
    void add(const std::string& text) { add(std::string_view(text)); }
    void add(const char* text) { add(std::string_view(text)); }
    /// The same on every processor: as text.
    void add(std::integral auto number) { add(fmt::format("{} ", number)); }
    /// What sums of floating point give, without the bits in which processors may differ.
    void add(std::floating_point auto number) { add(fmt::format("{:.5g} ", number)); }
    template <class Enum>
    requires std::is_enum_v<Enum>
    void add(Enum value) { add(static_cast<std::int64_t>(value)); }
    template <class T, std::size_t size>
    void add(const std::array<T, size>& list) {
        for (const T& item : list)
            add(item);
    }
    template <class T>
    void add(const std::vector<T>& list) {
        for (const T& item : list)
            add(item);
    }
    template <class T>
    void add(const std::optional<T>& value) {
        add(value.has_value());
        if (value)
            add(*value);
    }
    void add(const yl::Finding& finding) {
        add_all(std::string_view(finding.code), finding.problem, finding.remedy,
                yl::name(finding.level));
    }
    template <class... Parts>
    void add_all(const Parts&... parts) {
        (add(parts), ...);
    }
    [[nodiscard]] std::uint64_t value() const { return value_; }

 private:
    std::uint64_t value_ = 0xCBF29CE484222325U;
};

template <class... Parts>
void print(const std::string& name, const Parts&... parts) {
    Hash hash;
    hash.add_all(parts...);
    std::printf("%-56s %016llx\n", name.c_str(), static_cast<unsigned long long>(hash.value()));
}

/// Like `print`, of what a general-purpose library has compressed: its version may change the bytes.
template <class... Parts>
void print_packed(const std::string& name, const Parts&... parts) {
    print("packed: " + name, parts...);
}

[[nodiscard]] inline std::string text(std::string_view view) {
    return std::string(view);
}

/// Whether there is a result; the error is hashed in its place.
template <class T>
[[nodiscard]] bool is_there(const std::string& name, const yl::Result<T>& result) {
    if (!result)
        print(name, yl::name(result.error().kind), result.error().message, result.error().offset);
    return result.has_value();
}

/// Soft waves with noise on them, in linear light: every bit is settled by whole numbers.
[[nodiscard]] yl::Image waves(std::uint32_t width, std::uint32_t height);
[[nodiscard]] yl::Image waves_in(yl::Format format, std::uint32_t width, std::uint32_t height);
/// Waves in level 0, and room for all others.
[[nodiscard]] yl::Texture chain_of(yl::Format format, std::uint32_t width, std::uint32_t height);

/// Where the demo's data and the seeds of the fuzz targets are.
struct Places {
    std::filesystem::path demo, seeds;
};

/// The files of a folder by their names.
[[nodiscard]] std::vector<std::filesystem::path> files_in(const std::filesystem::path& folder);

[[nodiscard]] std::vector<std::byte> bytes_of(const std::filesystem::path& file);

/// Every byte of the beginning of a file, and some of the rest, set to what it is not, and the file
/// cut off: `read` hashes what comes of the bytes that it gets.
template <class Read>
void print_damaged(const std::string& name, const std::filesystem::path& file, const Read& read) {
    std::vector<std::byte> bytes = bytes_of(file);
    Hash hash;
    constexpr std::size_t beginning = 96, stride = 11, most = 1024;
    const std::size_t end = std::min(bytes.size(), most);
    for (std::size_t at = 0; at < end; at += at < beginning ? 1 : stride) {
        const std::byte before = bytes[at];
        const auto number = std::to_integer<unsigned>(before);
        for (const unsigned other : {number + 1, number + 255, 0U, 255U, number ^ 0x80U}) {
            bytes[at] = static_cast<std::byte>(other & 0xFFU);
            read(hash, std::span<const std::byte>(bytes));
        }
        bytes[at] = before;
    }
    for (std::size_t size = 0; size < end; size += 1 + size / 16)
        read(hash, std::span<const std::byte>(bytes).first(size));
    print("damaged " + name, hash.value());
}

// The parts of the probe.
void pixels(const Places& places);
void files(const Places& places);
void textures(const Places& places);
void cubes(const Places& places);
void devices(const Places& places);
void drawings(const Places& places);
void findings(const Places& places);
void scenes(const Places& places);
void sweeps(const Places& places);
void models(const Places& places);
void reports(const Places& places);

}  // namespace probe
