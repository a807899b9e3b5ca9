#include "codec/webp/yuv_rows.hpp"

#include <algorithm>

namespace yl::webp {
namespace {

int product(std::uint8_t sample, std::uint16_t factor) {
    return sample * factor >> 8;
}

std::byte code(int value) {
    return static_cast<std::byte>(std::clamp(value >> 6, 0, 255));
}

}  // namespace

void mix_plain(const std::uint8_t* near, const std::uint8_t* far, std::size_t count,
               std::uint16_t* to) {
    for (std::size_t i = 0; i < count; ++i)
        to[i] = static_cast<std::uint16_t>(3 * near[i] + far[i]);
}

void spread_plain(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to) {
    for (std::size_t i = 0; i < count; ++i) {
        const int middle = 3 * mixed[i + 1] + 8;
        to[2 * i] = static_cast<std::uint8_t>((middle + mixed[i]) >> 4);
        to[2 * i + 1] = static_cast<std::uint8_t>((middle + mixed[i + 2]) >> 4);
    }
}

void to_colors_plain(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
                     std::size_t count, std::byte* to, std::size_t channels) {
    using F = ColorFactors;
    for (std::size_t x = 0; x < count; ++x, to += channels) {
        const int light = product(y[x], F::luma);
        to[0] = code(light + product(v[x], F::red_of_v) - F::red_offset);
        to[1] = code(light - product(u[x], F::green_of_u) - product(v[x], F::green_of_v) +
                     F::green_offset);
        to[2] = code(light + product(u[x], F::blue_of_u) - F::blue_offset);
        if (channels == 4)
            to[3] = std::byte{255};
    }
}

ColorRows::ColorRows(const Planes& planes)
    : planes_(planes),
      mixed_((planes.width + 1) / 2 + 2),
      u_((planes.width + 1) / 2 * std::size_t{2}),
      v_(u_.size()) {}

void ColorRows::convert(std::uint32_t y, std::byte* to, std::size_t channels) {
    const std::uint32_t count = (planes_.width + 1) / 2, last = (planes_.height + 1) / 2 - 1;
    const std::uint32_t near = y / 2;
    const std::uint32_t far = y % 2 == 0 ? near - std::min(near, 1U) : std::min(near + 1, last);
    for (const auto& [plane, row] : {std::pair{&planes_.u, &u_}, std::pair{&planes_.v, &v_}}) {
        mix(plane->row(near), plane->row(far), count, mixed_.data() + 1);
        mixed_.front() = mixed_[1];
        mixed_.back() = mixed_[count];
        spread(mixed_.data(), count, row->data());
    }
    to_colors(planes_.y.row(y), u_.data(), v_.data(), planes_.width, to, channels);
}

}  // namespace yl::webp
