// Vectors, and how a surface throws a lamp's light back.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include <yl/format.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

using Vector3 = std::array<float, 3>;

[[nodiscard]] inline float dot(const Vector3& a, const Vector3& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

[[nodiscard]] inline Vector3 cross(const Vector3& a, const Vector3& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

[[nodiscard]] inline Vector3 normalised(Vector3 d) {
    const float length = std::sqrt(std::max(dot(d, d), 1e-20F));
    for (float& part : d)
        part /= length;
    return d;
}

/// The normal as a shader takes it from a map: two channels have their third rebuilt, and what the
/// filter left is normalised.
[[nodiscard]] inline Vector3 normal_from(const Rgba& stored, const FormatInfo& format,
                                         float scale = 1) {
    const bool is_signed = format.kind != NumericKind::unorm;
    Vector3 n{};
    for (std::size_t c = 0; c < 3; ++c)
        n[c] = is_signed ? stored[c] : 2 * stored[c] - 1;
    if (format.channel_count == 2)
        n[2] = std::sqrt(std::max(0.0F, 1 - n[0] * n[0] - n[1] * n[1]));
    return normalised({n[0] * scale, n[1] * scale, n[2]});
}

/// What shines: the share of light without the Fresnel term, and how that term rises from the share
/// that is thrown back head-on (Schlick).
struct Shine {
    float lobe = 0;
    float rise = 0;  ///< 0 .. 1

    [[nodiscard]] float at(float head_on) const { return lobe * (head_on + (1 - head_on) * rise); }
};

/// GGX with Smith's shadowing in its usual approximation.
[[nodiscard]] inline Shine shine(const Vector3& n, const Vector3& l, const Vector3& v,
                                 float roughness) {
    const Vector3 h = normalised({l[0] + v[0], l[1] + v[1], l[2] + v[2]});
    const float nl = std::max(dot(n, l), 0.0F);
    const float nv = std::max(dot(n, v), 1e-3F);
    const float nh = std::max(dot(n, h), 0.0F);
    const float alpha = std::max(roughness * roughness, 1e-3F);
    const float squared = alpha * alpha;
    const float spread = nh * nh * (squared - 1) + 1;
    const float lobe = squared / (std::numbers::pi_v<float> * spread * spread);
    const float shadow = 0.5F / (nl * std::sqrt(nv * nv * (1 - squared) + squared) +
                                 nv * std::sqrt(nl * nl * (1 - squared) + squared) + 1e-6F);
    const float facing = 1 - std::clamp(dot(h, v), 0.0F, 1.0F);
    return {lobe * shadow * nl, facing * facing * facing * facing * facing};
}

}  // namespace yl
