// Two rows of 8-bit RGBA to one row of working pixels of half the width.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "pixel/rows.hpp"

namespace yl {

/// Linear values of 8-bit codes as 32 parabolas, each over eight codes, so that vectors can look
/// them up in registers. Off by less than 0.002 of a code's step; `values` holds what they give.
///
/// The parabola of a code begins at the code `8 h + 3`, where the sRGB curve of the first one, a
/// line, ends; codes 0 to 2 lie on its continuation. With l counted from its middle,
///     value = middle + l (slope + l bend)
/// in which only the last addition rounds: slope and bend have few bits. So the value is the same
/// with and without fused multiplication.
struct CodeCurve {
    static constexpr std::size_t parabolas = 32;
    static constexpr std::uint32_t first_code = 3;
    static constexpr float middle_place = 6.5F;  ///< counted from 8 h

    std::array<float, parabolas> middle{};
    std::array<float, parabolas> slope{};
    std::array<float, parabolas> bend{};
    CodeTable values{};

    [[nodiscard]] static const CodeCurve& srgb();
    [[nodiscard]] static const CodeCurve& unorm();

 private:
    explicit CodeCurve(double (*decode)(double));
};

/// The curve of a format of 8-bit RGBA.
[[nodiscard]] const CodeCurve& code_curve(Format format, Transfer transfer);

/// Codes of 8-bit RGBA to linear floats, by the curve; alpha to its exact share. Says whether all
/// are opaque.
bool decode_codes(const std::byte* codes, const CodeCurve& curve, float* rgba, std::size_t count);
bool decode_codes_plain(const std::byte* codes, const CodeCurve& curve, float* rgba,
                        std::size_t count);

/// Averages two by two texels, `count` times; straight alpha weighs colour when `weigh` is true.
/// Says whether all are opaque, so that every weight is 1.
bool quarter_rows(const std::byte* above, const std::byte* below, const CodeCurve& curve,
                  bool weigh, float* rgba, std::size_t count);
bool quarter_rows_plain(const std::byte* above, const std::byte* below, const CodeCurve& curve,
                        bool weigh, float* rgba, std::size_t count);

}  // namespace yl
