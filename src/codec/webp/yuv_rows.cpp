#include "codec/webp/yuv_rows.hpp"

#include <algorithm>

namespace yl::webp {
namespace {

/// Behind the point: 16 bits.
constexpr int fixed(double value) {
    return static_cast<int>(value * 65536 + (value < 0 ? -0.5 : 0.5));
}
constexpr int luma_scale = fixed(255.0 / 219);
constexpr int red_of_v = fixed(1.402 * 255 / 224);
constexpr int green_of_u = fixed(-0.344136 * 255 / 224), green_of_v = fixed(-0.714136 * 255 / 224);
constexpr int blue_of_u = fixed(1.772 * 255 / 224);
constexpr int half = 1 << 15;

std::byte rounded(int value) {
    return static_cast<std::byte>(std::clamp(value >> 16, 0, 255));
}

/// `mixed` has one sample before the first, and one behind the last.
void spread(std::uint16_t* mixed, const std::uint8_t* near, const std::uint8_t* far,
            std::size_t count, std::uint8_t* to) {
    for (std::size_t i = 0; i < count; ++i)
        mixed[i + 1] = static_cast<std::uint16_t>(3 * near[i] + far[i]);
    mixed[0] = mixed[1];
    mixed[count + 1] = mixed[count];
    for (std::size_t i = 0; i < count; ++i) {
        const int middle = 3 * mixed[i + 1] + 8;
        to[2 * i] = static_cast<std::uint8_t>((middle + mixed[i]) >> 4);
        to[2 * i + 1] = static_cast<std::uint8_t>((middle + mixed[i + 2]) >> 4);
    }
}

}  // namespace

ColorRows::ColorRows(const Planes& planes)
    : planes_(planes),
      mixed_((planes.width + 1) / 2 + 2),
      u_((planes.width + 1) / 2 * std::size_t{2}),
      v_(u_.size()) {}

void ColorRows::convert(std::uint32_t y, std::byte* to, std::size_t step) {
    const std::uint32_t count = (planes_.width + 1) / 2, last = (planes_.height + 1) / 2 - 1;
    const std::uint32_t near = y / 2;
    const std::uint32_t far = y % 2 == 0 ? near - std::min(near, 1U) : std::min(near + 1, last);
    spread(mixed_.data(), planes_.u.row(near), planes_.u.row(far), count, u_.data());
    spread(mixed_.data(), planes_.v.row(near), planes_.v.row(far), count, v_.data());
    const std::uint8_t* luma = planes_.y.row(y);
    for (std::size_t x = 0; x < planes_.width; ++x, to += step) {
        const int light = (luma[x] - 16) * luma_scale + half;
        const int u = u_[x] - 128, v = v_[x] - 128;
        to[0] = rounded(light + red_of_v * v);
        to[1] = rounded(light + green_of_u * u + green_of_v * v);
        to[2] = rounded(light + blue_of_u * u);
    }
}

}  // namespace yl::webp
