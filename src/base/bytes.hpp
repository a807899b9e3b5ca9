// Reading and writing numbers in bytes, of either byte order, never beyond the end.
#pragma once

#include <array>
#include <bit>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <span>
#include <string_view>
#include <vector>

#include <yl/result.hpp>

#include "base/internal.hpp"

namespace yl {

using ByteSpan = std::span<const std::byte>;

template <std::unsigned_integral T>
[[nodiscard]] constexpr T swap_bytes(T value) {
    if constexpr (sizeof(T) == 1)
        return value;
    if constexpr (sizeof(T) == 2)
        return static_cast<T>(__builtin_bswap16(value));
    if constexpr (sizeof(T) == 4)
        return __builtin_bswap32(value);
    if constexpr (sizeof(T) == 8)
        return __builtin_bswap64(value);
}

/// Reads a T at `bytes`, which may be unaligned; the caller has checked that it is there.
template <std::unsigned_integral T, std::endian order = std::endian::little>
[[nodiscard]] inline T load(const std::byte* bytes) {
    T value;
    std::memcpy(&value, bytes, sizeof value);
    return order == std::endian::native ? value : swap_bytes(value);
}

template <std::unsigned_integral T, std::endian order = std::endian::little>
inline void store(std::byte* bytes, T value) {
    if (order != std::endian::native)
        value = swap_bytes(value);
    std::memcpy(bytes, &value, sizeof value);
}

/// Stores numbers one after the other.
template <std::unsigned_integral T, std::size_t count>
inline void store_all(std::byte* bytes, const std::array<T, count>& values) {
    if constexpr (std::endian::native == std::endian::little)
        std::memcpy(bytes, values.data(), sizeof values);
    else
        for (std::size_t i = 0; i < count; ++i)
            store(bytes + i * sizeof(T), values[i]);
}

/// Turns numbers of texels into those of this processor in place, and back: texels are
/// little-endian in memory, wherever the program runs.
template <std::unsigned_integral T>
inline void swap_unless_little(std::span<std::byte> bytes) {
    if constexpr (std::endian::native != std::endian::little)
        for (std::size_t i = 0; i + sizeof(T) <= bytes.size(); i += sizeof(T))
            store<T, std::endian::native>(bytes.data() + i, load<T>(bytes.data() + i));
}

[[nodiscard]] inline ByteSpan as_bytes(std::string_view text) {
    return std::as_bytes(std::span(text.data(), text.size()));
}

[[nodiscard]] inline std::string_view as_text(ByteSpan bytes) {
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

/// A cursor over bytes. Reading past the end gives an error that names the offset.
class YL_INTERNAL ByteReader {
 public:
    explicit ByteReader(ByteSpan bytes) : bytes_(bytes) {}

    [[nodiscard]] std::size_t offset() const { return offset_; }
    [[nodiscard]] std::size_t left() const { return bytes_.size() - offset_; }

    [[nodiscard]] Status seek(std::uint64_t offset);
    [[nodiscard]] Status skip(std::uint64_t count);
    [[nodiscard]] Result<ByteSpan> take(std::uint64_t count);

    template <std::unsigned_integral T, std::endian order = std::endian::little>
    [[nodiscard]] Result<T> read() {
        if (left() < sizeof(T))
            return too_short(sizeof(T));
        const T value = load<T, order>(bytes_.data() + offset_);
        offset_ += sizeof(T);
        return value;
    }
    template <std::unsigned_integral T>
    [[nodiscard]] Result<T> read_big() {
        return read<T, std::endian::big>();
    }

 private:
    [[nodiscard]] tl::unexpected<Error> too_short(std::uint64_t wanted) const;

    ByteSpan bytes_;
    std::size_t offset_ = 0;
};

/// Bytes that grow at the end; the counterpart of ByteReader.
class YL_INTERNAL ByteWriter {
 public:
    [[nodiscard]] std::size_t offset() const { return bytes_.size(); }
    [[nodiscard]] ByteSpan bytes() const { return bytes_; }
    [[nodiscard]] std::vector<std::byte> release() { return std::move(bytes_); }

    void append(ByteSpan more);
    void append(std::string_view text) { append(as_bytes(text)); }
    void pad_to(std::size_t alignment) {
        bytes_.resize((bytes_.size() + alignment - 1) / alignment * alignment);
    }

    template <std::unsigned_integral T, std::endian order = std::endian::little>
    void write(T value) {
        std::array<std::byte, sizeof(T)> raw{};
        store<T, order>(raw.data(), value);
        for (const std::byte byte : raw)
            bytes_.push_back(byte);
    }
    template <std::unsigned_integral T>
    void write_big(T value) {
        write<T, std::endian::big>(value);
    }

 private:
    std::vector<std::byte> bytes_;
};

}  // namespace yl
