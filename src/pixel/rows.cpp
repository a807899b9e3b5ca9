#include "pixel/rows.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <memory>

#include <yl/format.hpp>
#include "base/bytes.hpp"

namespace yl {
namespace {

const std::array<float, 65536>& srgb16_to_linear() {
    static const auto table = [] {
        auto values = std::make_unique<std::array<float, 65536>>();
        for (std::size_t code = 0; code < values->size(); ++code)
            (*values)[code] = static_cast<float>(srgb_decode(static_cast<double>(code) / 65535.0));
        return values;
    }();
    return *table;
}

/// NaN becomes 0.
float clamp01(float value) {
    return value > 0.0F ? std::min(value, 1.0F) : 0.0F;
}

template <class Code>
Code to_unorm(float value, float max) {
    return static_cast<Code>(clamp01(value) * max + 0.5F);
}

template <class Code>
Code to_snorm(float value, float max) {
    const float clamped = value >= -1.0F ? std::min(value, 1.0F) : (value < -1.0F ? -1.0F : 0.0F);
    return static_cast<Code>(static_cast<int>(std::floor(clamped * max + 0.5F)));
}

// A component says how many bytes one channel takes, and how its values become light and back.
// Only the sRGB ones treat alpha apart.
struct U8 {
    using Alpha = U8;
    static constexpr std::size_t bytes = 1;
    static float load(const std::byte* p) {
        return static_cast<float>(std::to_integer<int>(*p)) / 255.0F;
    }
    static void store(float v, std::byte* p) { *p = std::byte{to_unorm<std::uint8_t>(v, 255.0F)}; }
};

struct U8Srgb {
    using Alpha = U8;
    static constexpr std::size_t bytes = 1;
    static float load(const std::byte* p) {
        return srgb8_to_linear()[std::to_integer<std::size_t>(*p)];
    }
    static void store(float v, std::byte* p) { *p = std::byte{linear_to_srgb8(v)}; }
};

struct S8 {
    using Alpha = S8;
    static constexpr std::size_t bytes = 1;
    static float load(const std::byte* p) {
        return std::max(static_cast<float>(static_cast<std::int8_t>(*p)) / 127.0F, -1.0F);
    }
    static void store(float v, std::byte* p) { *p = std::byte(to_snorm<std::uint8_t>(v, 127.0F)); }
};

struct U16 {
    using Alpha = U16;
    static constexpr std::size_t bytes = 2;
    static float load(const std::byte* p) {
        return static_cast<float>(yl::load<std::uint16_t>(p)) / 65535.0F;
    }
    static void store(float v, std::byte* p) { yl::store(p, to_unorm<std::uint16_t>(v, 65535.0F)); }
};

struct U16Srgb {
    using Alpha = U16;
    static constexpr std::size_t bytes = 2;
    static float load(const std::byte* p) { return srgb16_to_linear()[yl::load<std::uint16_t>(p)]; }
    static void store(float v, std::byte* p) {
        U16::store(static_cast<float>(srgb_encode(static_cast<double>(clamp01(v)))), p);
    }
};

struct S16 {
    using Alpha = S16;
    static constexpr std::size_t bytes = 2;
    static float load(const std::byte* p) {
        const auto code = static_cast<std::int16_t>(yl::load<std::uint16_t>(p));
        return std::max(static_cast<float>(code) / 32767.0F, -1.0F);
    }
    static void store(float v, std::byte* p) { yl::store(p, to_snorm<std::uint16_t>(v, 32767.0F)); }
};

struct F16 {
    using Alpha = F16;
    static constexpr std::size_t bytes = 2;
    static float load(const std::byte* p) { return half_to_float(yl::load<std::uint16_t>(p)); }
    static void store(float v, std::byte* p) { yl::store(p, float_to_half(v)); }
};

struct F32 {
    using Alpha = F32;
    static constexpr std::size_t bytes = 4;
    static float load(const std::byte* p) {
        return std::bit_cast<float>(yl::load<std::uint32_t>(p));
    }
    static void store(float v, std::byte* p) { yl::store(p, std::bit_cast<std::uint32_t>(v)); }
};

enum class Order { rgba, bgra };

/// Whole-byte channels, one after the other.
template <class C, std::size_t channels, Order order = Order::rgba>
struct Components {
    static constexpr std::size_t place(std::size_t channel) {
        return order == Order::bgra && channel < 3 ? 2 - channel : channel;
    }

    static void load(const std::byte* texels, float* rgba, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, texels += channels * C::bytes, rgba += 4) {
            for (std::size_t c = 0; c < 3; ++c)
                rgba[c] = c < channels ? C::load(texels + place(c) * C::bytes) : 0.0F;
            rgba[3] = channels == 4 ? C::Alpha::load(texels + 3 * C::bytes) : 1.0F;
        }
    }

    static void store(const float* rgba, std::byte* texels, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, texels += channels * C::bytes, rgba += 4) {
            for (std::size_t c = 0; c < std::min<std::size_t>(channels, 3); ++c)
                C::store(rgba[c], texels + place(c) * C::bytes);
            if (channels == 4)
                C::Alpha::store(rgba[3], texels + 3 * C::bytes);
        }
    }

    static constexpr RowCodec codec{load, store};
};

//  31 30 29       20 19       10 9         0
// +-----+-----------+-----------+-----------+
// |  A  |     B     |     G     |     R     |
// +-----+-----------+-----------+-----------+
template <Transfer transfer>
struct Rgb10A2 {
    static void load(const std::byte* texels, float* rgba, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4) {
            const auto bits = yl::load<std::uint32_t>(texels + 4 * i);
            for (int c = 0; c < 3; ++c) {
                const float value = static_cast<float>((bits >> (10 * c)) & 1023U) / 1023.0F;
                rgba[c] = transfer == Transfer::srgb
                              ? static_cast<float>(srgb_decode(static_cast<double>(value)))
                              : value;
            }
            rgba[3] = static_cast<float>(bits >> 30) / 3.0F;
        }
    }
    static void store(const float* rgba, std::byte* texels, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4) {
            std::uint32_t bits = to_unorm<std::uint32_t>(rgba[3], 3.0F) << 30;
            for (int c = 0; c < 3; ++c) {
                const float value =
                    transfer == Transfer::srgb
                        ? static_cast<float>(srgb_encode(static_cast<double>(clamp01(rgba[c]))))
                        : rgba[c];
                bits |= to_unorm<std::uint32_t>(value, 1023.0F) << (10 * c);
            }
            yl::store(texels + 4 * i, bits);
        }
    }
    static constexpr RowCodec codec{load, store};
};

//  31          22 21           11 10            0
// +--------------+---------------+---------------+
// |   B (5e 5m)  |   G (5e 6m)   |   R (5e 6m)   |
// +--------------+---------------+---------------+
struct Rg11B10 {
    static void load(const std::byte* texels, float* rgba, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4) {
            const auto bits = yl::load<std::uint32_t>(texels + 4 * i);
            rgba[0] = small_float_to_float(bits & 0x7FFU, 6);
            rgba[1] = small_float_to_float((bits >> 11) & 0x7FFU, 6);
            rgba[2] = small_float_to_float(bits >> 22, 5);
            rgba[3] = 1.0F;
        }
    }
    static void store(const float* rgba, std::byte* texels, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4)
            yl::store(texels + 4 * i, float_to_small_float(rgba[0], 6) |
                                          float_to_small_float(rgba[1], 6) << 11 |
                                          float_to_small_float(rgba[2], 5) << 22);
    }
    static constexpr RowCodec codec{load, store};
};

//  31     27 26       18 17        9 8         0
// +---------+-----------+-----------+-----------+
// |exponent |     B     |     G     |     R     |
// +---------+-----------+-----------+-----------+
struct Rgb9E5 {
    static void load(const std::byte* texels, float* rgba, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4) {
            const auto rgb = rgb9e5_to_float(yl::load<std::uint32_t>(texels + 4 * i));
            std::copy(rgb.begin(), rgb.end(), rgba);
            rgba[3] = 1.0F;
        }
    }
    static void store(const float* rgba, std::byte* texels, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i, rgba += 4)
            yl::store(texels + 4 * i, float_to_rgb9e5(rgba[0], rgba[1], rgba[2]));
    }
    static constexpr RowCodec codec{load, store};
};

template <class C>
RowCodec by_channels(std::size_t channels) {
    switch (channels) {
        case 1:
            return Components<C, 1>::codec;
        case 2:
            return Components<C, 2>::codec;
        case 3:
            return Components<C, 3>::codec;
        default:
            return Components<C, 4>::codec;
    }
}

template <class C, class CSrgb>
RowCodec by_transfer(const FormatInfo& f, bool srgb) {
    const bool bgra = f.channels[0].channel == Channel::blue;
    if (bgra)
        return srgb ? Components<CSrgb, 4, Order::bgra>::codec
                    : Components<C, 4, Order::bgra>::codec;
    return srgb ? by_channels<CSrgb>(f.channel_count) : by_channels<C>(f.channel_count);
}

const CodeTable& unorm8_values() {
    static const auto table = [] {
        CodeTable values{};
        for (std::size_t code = 0; code < values.size(); ++code)
            values[code] = static_cast<float>(code) / 255.0F;
        return values;
    }();
    return table;
}

void load_by_tables(const std::byte* texels, float* rgba, std::size_t count, const CodeTable& color,
                    const CodeTable& alpha) {
    for (std::size_t i = 0; i < count; ++i) {
        // All bytes first, all floats at once: bytes could alias anything.
        const auto codes = yl::load<std::uint32_t>(texels + 4 * i);
        const std::array<float, 4> pixel = {color[codes & 0xFF], color[codes >> 8 & 0xFF],
                                            color[codes >> 16 & 0xFF], alpha[codes >> 24]};
        std::memcpy(rgba + 4 * i, pixel.data(), sizeof pixel);
    }
}

}  // namespace

void load_rgba8_srgb(const std::byte* texels, float* rgba, std::size_t count) {
    load_by_tables(texels, rgba, count, srgb8_to_linear(), unorm8_values());
}

void load_rgba8_unorm(const std::byte* texels, float* rgba, std::size_t count) {
    load_by_tables(texels, rgba, count, unorm8_values(), unorm8_values());
}

bool is_rgba8(const FormatInfo& format) {
    return !format.is_block() && format.kind == NumericKind::unorm && format.channel_count == 4 &&
           format.channels[0].bits == 8 && format.channels[0].channel == Channel::red;
}

RowCodec row_codec(Format format, Transfer transfer) {
    const FormatInfo& f = info(format);
    if (!is_rgba8(f))
        return plain_row_codec(format, transfer);
    return f.transfer == Transfer::srgb || transfer == Transfer::srgb
               ? RowCodec{load_rgba8_srgb, store_rgba8_srgb}
               : RowCodec{load_rgba8_unorm, store_rgba8_unorm};
}

RowCodec plain_row_codec(Format format, Transfer transfer) {
    const FormatInfo& f = info(format);
    const bool srgb = f.transfer == Transfer::srgb || transfer == Transfer::srgb;
    const bool wide = f.channels[0].bits == 16;
    if (f.is_block())
        return {};
    switch (f.kind) {
        case NumericKind::unorm:
            if (format == Format::rgb10a2_unorm)
                return srgb ? Rgb10A2<Transfer::srgb>::codec : Rgb10A2<Transfer::linear>::codec;
            if (f.channel_count == 0)
                return {};
            return wide ? by_transfer<U16, U16Srgb>(f, srgb) : by_transfer<U8, U8Srgb>(f, srgb);
        case NumericKind::snorm:
            return wide ? by_channels<S16>(f.channel_count) : by_channels<S8>(f.channel_count);
        case NumericKind::signed_float:
            return wide ? by_channels<F16>(f.channel_count) : by_channels<F32>(f.channel_count);
        case NumericKind::unsigned_float:
            return Rg11B10::codec;
        case NumericKind::shared_exponent:
            return Rgb9E5::codec;
    }
    return {};
}

}  // namespace yl
