// Colours packed into one number, each channel under a mask.
#pragma once

#include <array>
#include <bit>
#include <cstdint>

namespace yl {

/// One channel of packed pixels, widened to 8 bits.
class MaskedChannel {
 public:
    MaskedChannel() = default;
    explicit MaskedChannel(std::uint32_t mask)
        : mask_(mask), shift_(mask == 0 ? 0 : std::countr_zero(mask)), max_(mask >> shift_) {}

    [[nodiscard]] std::uint32_t mask() const { return mask_; }
    [[nodiscard]] bool is_present() const { return mask_ != 0; }
    /// Whether the mask's bits stand together.
    [[nodiscard]] bool is_sound() const { return (max_ & (max_ + std::uint64_t{1})) == 0; }

    /// 0 .. 255, rounded to the nearest; 0 for an absent channel.
    [[nodiscard]] std::uint8_t of(std::uint32_t pixel) const {
        if (max_ == 0)
            return 0;
        const std::uint64_t value = (pixel & mask_) >> shift_;
        return static_cast<std::uint8_t>((value * 255 + max_ / 2) / max_);
    }

 private:
    std::uint32_t mask_ = 0;
    int shift_ = 0;
    std::uint32_t max_ = 0;
};

/// Red, green, blue and alpha.
using ColorMasks = std::array<MaskedChannel, 4>;

/// The masks of 15 and 16 bits: 1 bit of alpha and 5 of each colour.
inline ColorMasks masks_1555() {
    return {MaskedChannel(0x7C00), MaskedChannel(0x03E0), MaskedChannel(0x001F),
            MaskedChannel(0x8000)};
}

}  // namespace yl
