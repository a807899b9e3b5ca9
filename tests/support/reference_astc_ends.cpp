#include "support/reference_astc_ends.hpp"

#include <algorithm>

namespace support::astc {
namespace {

void transfer(int& a, int& b) {
    b >>= 1;
    b |= a & 0x80;
    a >>= 1;
    a &= 0x3F;
    if ((a & 0x20) != 0)
        a -= 0x40;
}

std::array<int, 4> blue(int r, int g, int b, int a) {
    return {(r + b) >> 1, (g + b) >> 1, b, a};
}

void clamp_bytes(std::array<int, 4>& e) {
    for (int& c : e)
        c = std::min(std::max(c, 0), 255);
}

void rgb_scale_hdr(const Values& v, Ends& ends) {
    const int mode_value = (v[0] >> 6 & 3) | (v[1] >> 7 & 1) << 2 | (v[2] >> 7 & 1) << 3;
    int major = 0, mode = 5;
    if ((mode_value & 12) != 12)
        major = mode_value >> 2, mode = mode_value & 3;
    else if (mode_value != 15)
        major = mode_value & 3, mode = 4;
    int red = v[0] & 0x3F, green = v[1] & 0x1F, blue_ = v[2] & 0x1F, scale = v[3] & 0x1F;
    const int x0 = bit_of(v[1], 6), x1 = bit_of(v[1], 5), x2 = bit_of(v[2], 6),
              x3 = bit_of(v[2], 5), x4 = bit_of(v[3], 7), x5 = bit_of(v[3], 6),
              x6 = bit_of(v[3], 5);
    const int ohm = 1 << mode;
    if (ohm & 0x30)
        green |= x0 << 6;
    if (ohm & 0x3A)
        green |= x1 << 5;
    if (ohm & 0x30)
        blue_ |= x2 << 6;
    if (ohm & 0x3A)
        blue_ |= x3 << 5;
    if (ohm & 0x3D)
        scale |= x6 << 5;
    if (ohm & 0x2D)
        scale |= x5 << 6;
    if (ohm & 0x04)
        scale |= x4 << 7;
    if (ohm & 0x3B)
        red |= x4 << 6;
    if (ohm & 0x04)
        red |= x3 << 6;
    if (ohm & 0x10)
        red |= x5 << 7;
    if (ohm & 0x0F)
        red |= x2 << 7;
    if (ohm & 0x05)
        red |= x1 << 8;
    if (ohm & 0x0A)
        red |= x0 << 8;
    if (ohm & 0x05)
        red |= x0 << 9;
    if (ohm & 0x02)
        red |= x6 << 9;
    if (ohm & 0x01)
        red |= x3 << 10;
    if (ohm & 0x02)
        red |= x5 << 10;
    const int shift = std::array<int, 6>{1, 1, 2, 3, 4, 5}[static_cast<std::size_t>(mode)];
    red <<= shift, green <<= shift, blue_ <<= shift, scale <<= shift;
    if (mode != 5)
        green = red - green, blue_ = red - blue_;
    if (major == 1)
        std::swap(red, green);
    if (major == 2)
        std::swap(red, blue_);
    const auto clamp12 = [](int value) { return std::clamp(value, 0, 0xFFF); };
    ends.e1 = {clamp12(red), clamp12(green), clamp12(blue_), 0x780};
    ends.e0 = {clamp12(red - scale), clamp12(green - scale), clamp12(blue_ - scale), 0x780};
}

void rgb_hdr(const Values& v, Ends& ends) {
    const int major = (v[4] >> 7 & 1) | (v[5] >> 7 & 1) << 1;
    if (major == 3) {
        ends.e0 = {v[0] << 4, v[2] << 4, (v[4] & 0x7F) << 5, 0x780};
        ends.e1 = {v[1] << 4, v[3] << 4, (v[5] & 0x7F) << 5, 0x780};
        return;
    }
    const int mode = (v[1] >> 7 & 1) | (v[2] >> 7 & 1) << 1 | (v[3] >> 7 & 1) << 2;
    int va = v[0] | (v[1] & 0x40) << 2, vb0 = v[2] & 0x3F, vb1 = v[3] & 0x3F, vc = v[1] & 0x3F;
    int vd0 = v[4] & 0x7F, vd1 = v[5] & 0x7F;
    const int dbits = std::array<int, 8>{7, 6, 7, 6, 5, 6, 5, 6}[static_cast<std::size_t>(mode)];
    for (int* d : {&vd0, &vd1}) {
        *d &= (1 << dbits) - 1;
        if (*d >= 1 << (dbits - 1))
            *d -= 1 << dbits;
    }
    const int x0 = bit_of(v[2], 6), x1 = bit_of(v[3], 6), x2 = bit_of(v[4], 6),
              x3 = bit_of(v[5], 6), x4 = bit_of(v[4], 5), x5 = bit_of(v[5], 5);
    const int ohm = 1 << mode;
    if (ohm & 0xA4)
        va |= x0 << 9;
    if (ohm & 0x08)
        va |= x2 << 9;
    if (ohm & 0x50)
        va |= x4 << 9;
    if (ohm & 0x50)
        va |= x5 << 10;
    if (ohm & 0xA0)
        va |= x1 << 10;
    if (ohm & 0xC0)
        va |= x2 << 11;
    if (ohm & 0x04)
        vc |= x1 << 6;
    if (ohm & 0xE8)
        vc |= x3 << 6;
    if (ohm & 0x20)
        vc |= x2 << 7;
    if (ohm & 0x5B)
        vb0 |= x0 << 6;
    if (ohm & 0x5B)
        vb1 |= x1 << 6;
    if (ohm & 0x12)
        vb0 |= x2 << 7;
    if (ohm & 0x12)
        vb1 |= x3 << 7;
    const int shift = (mode >> 1) ^ 3;
    va <<= shift, vb0 <<= shift, vb1 <<= shift, vc <<= shift;
    vd0 *= 1 << shift, vd1 *= 1 << shift;
    const auto clamp12 = [](int value) { return std::clamp(value, 0, 0xFFF); };
    ends.e1 = {clamp12(va), clamp12(va - vb0), clamp12(va - vb1), 0x780};
    ends.e0 = {clamp12(va - vc), clamp12(va - vb0 - vc - vd0), clamp12(va - vb1 - vc - vd1), 0x780};
    if (major != 0) {
        std::swap(ends.e0[0], ends.e0[static_cast<std::size_t>(major)]);
        std::swap(ends.e1[0], ends.e1[static_cast<std::size_t>(major)]);
    }
}

void alpha_hdr(int v6, int v7, Ends& ends) {
    const int mode = (v6 >> 7 & 1) | (v7 >> 7 & 1) << 1;
    v6 &= 0x7F, v7 &= 0x7F;
    if (mode == 3) {
        ends.e0[3] = v6 << 5;
        ends.e1[3] = v7 << 5;
        return;
    }
    v6 |= (v7 << (mode + 1)) & 0x780;
    v7 &= 0x3F >> mode;
    v7 ^= 0x20 >> mode;
    v7 -= 0x20 >> mode;
    v6 *= 1 << (4 - mode);
    v7 *= 1 << (4 - mode);
    ends.e0[3] = v6;
    ends.e1[3] = std::clamp(v6 + v7, 0, 0xFFF);
}

void luminance_hdr(int mode, const Values& v, Ends& ends) {
    int y0 = 0, y1 = 0;
    if (mode == 2) {
        const bool rises = v[1] >= v[0];
        y0 = rises ? v[0] << 4 : (v[1] << 4) + 8;
        y1 = rises ? v[1] << 4 : (v[0] << 4) - 8;
    } else if ((v[0] & 0x80) != 0) {
        y0 = (v[1] & 0xE0) << 4 | (v[0] & 0x7F) << 2;
        y1 = std::min(y0 + ((v[1] & 0x1F) << 2), 0xFFF);
    } else {
        y0 = (v[1] & 0xF0) << 4 | (v[0] & 0x7F) << 1;
        y1 = std::min(y0 + ((v[1] & 0x0F) << 1), 0xFFF);
    }
    ends.e0 = {y0, y0, y0, 0x780}, ends.e1 = {y1, y1, y1, 0x780};
}

void hdr_ends(int mode, const Values& v, Ends& ends) {
    if (mode < 4)
        return luminance_hdr(mode, v, ends);
    if (mode == 7)
        return rgb_scale_hdr(v, ends);
    rgb_hdr(v, ends);
    if (mode == 14)
        ends.e0[3] = v[6], ends.e1[3] = v[7];
    if (mode == 15)
        alpha_hdr(v[6], v[7], ends);
}

void luminance_ends(int mode, Values& v, Ends& ends) {
    auto& [e0, e1, rgb, alpha] = ends;
    if (mode == 0)
        e0 = {v[0], v[0], v[0], 255}, e1 = {v[1], v[1], v[1], 255};
    if (mode == 1) {
        const int l0 = v[0] >> 2 | (v[1] & 0xC0), l1 = std::min(l0 + (v[1] & 0x3F), 255);
        e0 = {l0, l0, l0, 255}, e1 = {l1, l1, l1, 255};
    }
    if (mode == 4)
        e0 = {v[0], v[0], v[0], v[2]}, e1 = {v[1], v[1], v[1], v[3]};
    if (mode == 5) {
        transfer(v[1], v[0]);
        transfer(v[3], v[2]);
        e0 = {v[0], v[0], v[0], v[2]};
        e1 = {v[0] + v[1], v[0] + v[1], v[0] + v[1], v[2] + v[3]};
        clamp_bytes(e0), clamp_bytes(e1);
    }
}

void color_ends(int mode, Values& v, Ends& ends) {
    auto& [e0, e1, rgb, alpha] = ends;
    if (mode == 6 || mode == 10) {
        e0 = {v[0] * v[3] >> 8, v[1] * v[3] >> 8, v[2] * v[3] >> 8, mode == 6 ? 255 : v[4]};
        e1 = {v[0], v[1], v[2], mode == 6 ? 255 : v[5]};
    } else if (mode == 8 || mode == 12) {
        const int a0 = mode == 8 ? 255 : v[6], a1 = mode == 8 ? 255 : v[7];
        if (v[1] + v[3] + v[5] >= v[0] + v[2] + v[4])
            e0 = {v[0], v[2], v[4], a0}, e1 = {v[1], v[3], v[5], a1};
        else
            e0 = blue(v[1], v[3], v[5], a1), e1 = blue(v[0], v[2], v[4], a0);
    } else {
        transfer(v[1], v[0]);
        transfer(v[3], v[2]);
        transfer(v[5], v[4]);
        if (mode == 13)
            transfer(v[7], v[6]);
        const int a0 = mode == 9 ? 255 : v[6], a1 = mode == 9 ? 255 : v[6] + v[7];
        if (v[1] + v[3] + v[5] >= 0)
            e0 = {v[0], v[2], v[4], a0}, e1 = {v[0] + v[1], v[2] + v[3], v[4] + v[5], a1};
        else
            e0 = blue(v[0] + v[1], v[2] + v[3], v[4] + v[5], a1), e1 = blue(v[0], v[2], v[4], a0);
        clamp_bytes(e0), clamp_bytes(e1);
    }
}

}  // namespace

Ends ends_of(int mode, Values v) {
    Ends ends;
    ends.rgb_hdr = mode == 2 || mode == 3 || mode == 7 || mode == 11 || mode >= 14;
    ends.alpha_hdr = ends.rgb_hdr && mode != 14;
    if (ends.rgb_hdr)
        hdr_ends(mode, v, ends);
    else if (mode < 6)
        luminance_ends(mode, v, ends);
    else
        color_ends(mode, v, ends);
    return ends;
}

}  // namespace support::astc
