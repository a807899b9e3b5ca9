#include <cmath>
#include <cstring>
#include <numbers>
#include <yl/yl.hpp>

#include "resample/quarter_simd.hpp"
#include "resample/rows_simd.hpp"
#include "resample/weights.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

using Real = long double;

Real sinc(Real x) {
    return x == 0 ? 1 : std::sin(std::numbers::pi_v<Real> * x) / (std::numbers::pi_v<Real> * x);
}

/// The kernels, written down once more from their definitions, in long double.
Real ideal_kernel(const Kernel& kernel, Real x) {
    x = std::abs(x);
    const Real radius = static_cast<Real>(kernel.radius);
    const Real b = static_cast<Real>(kernel.b), c = static_cast<Real>(kernel.c);
    switch (kernel.kind) {
        case Kernel::Kind::box:
            return x < 0.5L ? 1 : 0;
        case Kernel::Kind::triangle:
            return std::max<Real>(1 - x, 0);
        case Kernel::Kind::cubic: {
            const Real inner =
                (12 - 9 * b - 6 * c) * x * x * x + (-18 + 12 * b + 6 * c) * x * x + (6 - 2 * b);
            const Real outer = (-b - 6 * c) * x * x * x + (6 * b + 30 * c) * x * x +
                               (-12 * b - 48 * c) * x + (8 * b + 24 * c);
            return (x < 1 ? inner : x < 2 ? outer : 0) / 6;
        }
        case Kernel::Kind::lanczos:
            return x < radius ? sinc(x) * sinc(x / radius) : 0;
        case Kernel::Kind::kaiser: {
            const auto bessel = [](Real z) { return std::cyl_bessel_il(0, z); };
            const Real shape = static_cast<Real>(kernel.shape);
            return x < radius ? sinc(x) * bessel(shape * std::sqrt(1 - x * x / (radius * radius))) /
                                    bessel(shape)
                              : 0;
        }
    }
    return 0;
}

std::int64_t at_edge(std::int64_t place, std::int64_t size, Edge edge) {
    while (place < 0 || place >= size) {
        if (edge == Edge::clamp)
            return place < 0 ? 0 : size - 1;
        if (edge == Edge::repeat)
            place += place < 0 ? size : -size;
        else
            place = place < 0 ? -1 - place : 2 * size - 1 - place;
    }
    return place;
}

/// What each source texel weighs in a target texel.
std::vector<Real> ideal_weights(const Kernel& kernel, Edge edge, std::uint32_t source,
                                std::uint32_t target, std::uint32_t i) {
    std::vector<Real> weights(source);
    const Real ratio = static_cast<Real>(source) / target;
    const Real scale = std::max<Real>(ratio, 1);
    Real sum = 0;
    for (std::int64_t place = -200; place < std::int64_t{source} + 200; ++place) {
        Real weight = 0;
        if (kernel.kind == Kernel::Kind::box)
            weight = std::max<Real>(
                0, std::min<Real>(ratio * (i + 1), place + 1) - std::max<Real>(ratio * i, place));
        else
            weight = ideal_kernel(kernel, (place + 0.5L - (i + 0.5L) * ratio) / scale);
        weights[static_cast<std::size_t>(at_edge(place, source, edge))] += weight;
        sum += weight;
    }
    for (Real& weight : weights)
        weight /= sum;
    return weights;
}

std::vector<Kernel> all_kernels() {
    std::vector<Kernel> kernels;
    for (const char* text : {"box", "triangle", "mitchell", "catmull-rom", "cubic:1,0", "lanczos:2",
                             "lanczos:3", "kaiser:3", "kaiser:2,8"})
        kernels.push_back(must(parse_kernel(text)));
    return kernels;
}

}  // namespace

TEST_CASE("every kernel's weights are those of its definition, at any size and edge") {
    for (const Kernel& kernel : all_kernels())
        for (const Edge edge : {Edge::clamp, Edge::repeat, Edge::mirror})
            for (const auto& size : {std::array{64U, 32U},
                                     {5U, 2U},
                                     {7U, 3U},
                                     {1U, 1U},
                                     {2U, 1U},
                                     {9U, 9U},
                                     {6U, 15U},
                                     {100U, 33U}}) {
                const std::uint32_t source = size[0], target = size[1];
                const AxisWeights axis = axis_weights(kernel, edge, source, target);
                REQUIRE(axis.size() == target);
                for (std::uint32_t i = 0; i < target; ++i) {
                    const auto ideal = ideal_weights(kernel, edge, source, target, i);
                    std::vector<Real> found(source);
                    for (std::uint32_t tap = 0; tap < axis.taps; ++tap) {
                        const std::int64_t place = std::int64_t{axis.first[i]} + tap;
                        if (edge != Edge::repeat) {
                            REQUIRE(place >= 0);
                            REQUIRE(place < source);
                        }
                        found[static_cast<std::size_t>(at_edge(place, source, edge))] +=
                            static_cast<Real>(axis.of(i)[tap]);
                    }
                    for (std::uint32_t j = 0; j < source; ++j)
                        if (!(std::abs(found[j] - ideal[j]) < 2e-7L))
                            FAIL_CHECK(kernel_text(kernel)
                                       << ", " << source << " to " << target << ": texel " << j
                                       << " weighs " << static_cast<double>(found[j]));
                }
            }
}

TEST_CASE("kernels and edges have a text form, and what has none is refused") {
    for (const char* text : {"box", "triangle", "mitchell", "catmull-rom", "cubic:1,0", "lanczos:2",
                             "kaiser:3,4", "kaiser:2.5,8"})
        CHECK(kernel_text(must(parse_kernel(text))) == text);
    CHECK(must(parse_kernel("kaiser")).radius == 3);
    for (const char* wrong :
         {"", "gauss", "box:2", "lanczos:0", "lanczos:x", "kaiser:3,4,5", "cubic:1,", "lanczos:17"})
        CHECK(must_fail(parse_kernel(wrong)).kind == ErrorKind::usage);
    CHECK(edges_text(must(parse_edges("repeat"))) == "repeat");
    CHECK(must(parse_edges("repeat,clamp")) == Edges{Edge::repeat, Edge::clamp});
    CHECK(edges_text(must(parse_edges("repeat,mirror"))) == "repeat,mirror");
    for (const char* wrong : {"", "wrap", "clamp,", "clamp,clamp,clamp"})
        CHECK_FALSE(parse_edges(wrong));
}

TEST_CASE("working rows in vectors are those of the plain twins") {
    support::Random random(11);
    const auto noise = [&](std::size_t count) {
        std::vector<float> values(count);
        for (float& value : values)
            value = static_cast<float>(random() % 2000) / 999.0F - 0.5F;
        return values;
    };
    for (const std::size_t count : {1U, 3U, 4U, 5U, 33U}) {
        auto a = noise(4 * count);
        auto b = a;
        weigh_by_alpha(a.data(), count);
        weigh_by_alpha_plain(b.data(), count);
        CHECK(a == b);
        undo_weighing(a.data(), a.data(), count);
        undo_weighing_plain(b.data(), b.data(), count);
        CHECK(a == b);
    }
    for (const Kernel& kernel : all_kernels())
        for (const std::uint32_t source : {2U, 8U, 9U, 64U}) {
            const AxisWeights axis =
                axis_weights(kernel, Edge::clamp, source, std::max(source / 2, 1U));
            const auto row = noise(4 * source);
            std::vector<float> a(4 * axis.size()), b(a.size());
            blend_across_plain(axis, row.data(), b.data());
            support::for_each_instruction_set([&](const char* name) {
                CAPTURE(name);
                blend_across(axis, row.data(), a.data());
                CHECK(a == b);
            });
            std::vector<std::vector<float>> rows;
            std::vector<const float*> pointers;
            for (std::uint32_t tap = 0; tap < axis.taps; ++tap)
                rows.push_back(noise(37));
            for (const auto& each : rows)
                pointers.push_back(each.data());
            a.resize(37), b.resize(37);
            blend_rows(pointers, axis.of(0), a.data(), 37);
            blend_rows_plain(pointers, axis.of(0), b.data(), 37);
            CHECK(a == b);
        }
}

TEST_CASE("parabolas give the values of 8-bit codes") {
    for (int code = 0; code < 256; ++code) {
        const auto place = static_cast<std::size_t>(code);
        const double light = srgb_decode(code / 255.0);
        const double step = srgb_decode((code + 1) / 255.0) - light;
        CHECK(std::abs(double{CodeCurve::srgb().values[place]} - light) < 0.002 * step);
        CHECK(std::abs(double{CodeCurve::unorm().values[place]} - code / 255.0) < 2e-7);
    }
    CHECK(CodeCurve::srgb().values[0] == 0.0F);
    CHECK(CodeCurve::unorm().values[0] == 0.0F);
}

TEST_CASE("rows that are quartered in vectors are those of the plain twin") {
    support::Random random(12);
    for (const std::size_t count : {1U, 4U, 7U, 64U})
        for (const bool opaque : {false, true}) {
            std::vector<std::byte> above(8 * count), below(8 * count);
            for (std::size_t i = 0; i < above.size(); ++i) {
                const bool is_alpha = i % 4 == 3 && (opaque || i / 64 % 2 == 0);
                above[i] = is_alpha ? std::byte{255} : static_cast<std::byte>(random());
                below[i] = is_alpha ? std::byte{255} : static_cast<std::byte>(random());
            }
            for (const CodeCurve* curve : {&CodeCurve::srgb(), &CodeCurve::unorm()})
                for (const bool weigh : {false, true}) {
                    std::vector<float> plain(4 * count), vectors(4 * count);
                    quarter_rows_plain(above.data(), below.data(), *curve, weigh, plain.data(),
                                       count);
                    support::for_each_instruction_set([&](const char* name) {
                        CAPTURE(name);
                        quarter_rows(above.data(), below.data(), *curve, weigh, vectors.data(),
                                     count);
                        CHECK(plain == vectors);
                    });
                }
        }
}

namespace {

/// One level of a float image, halved by a kernel in float64: across, down, and limited if asked
/// for.
std::vector<double> halved_ideally(ConstImageView image, const Kernel& kernel, const Edges& edges,
                                   bool limited) {
    const std::uint32_t width = image.width / 2, height = image.height / 2;
    const auto value = [&](std::int64_t x, std::int64_t y, std::size_t c) {
        float number = 0;
        std::memcpy(
            &number,
            image.row(static_cast<std::uint32_t>(at_edge(y, image.height, edges[1]))).data() +
                static_cast<std::size_t>(at_edge(x, image.width, edges[0])) * 16 + 4 * c,
            4);
        return static_cast<double>(number);
    };
    const auto reach = static_cast<std::int64_t>(2 * kernel.reach()) + 1;
    std::vector<double> weights;
    double sum = 0;
    for (std::int64_t i = -reach; i < reach; ++i)
        sum += weights.emplace_back(
            static_cast<double>(ideal_kernel(kernel, (static_cast<Real>(i) + 0.5L) / 2)));
    std::vector<double> result;
    for (std::int64_t y = 0; y < height; ++y)
        for (std::int64_t x = 0; x < width; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                double total = 0, min = 1e9, max = -1e9;
                for (std::int64_t j = -reach; j < reach; ++j)
                    for (std::int64_t i = -reach; i < reach; ++i)
                        total += weights[static_cast<std::size_t>(i + reach)] *
                                 weights[static_cast<std::size_t>(j + reach)] / (sum * sum) *
                                 value(2 * x + 1 + i, 2 * y + 1 + j, c);
                for (const int j : {0, 1})
                    for (const int i : {0, 1}) {
                        min = std::min(min, value(2 * x + i, 2 * y + j, c));
                        max = std::max(max, value(2 * x + i, 2 * y + j, c));
                    }
                result.push_back(limited ? std::clamp(total, min, max) : total);
            }
    return result;
}

}  // namespace

TEST_CASE("sides that halve are filtered as in float64, by every kernel, over every edge") {
    support::Random random(11);
    for (const char* text : {"triangle", "mitchell", "catmull-rom", "lanczos:2", "lanczos:3",
                             "kaiser:3", "kaiser:5,8"})
        for (const Edge across : {Edge::clamp, Edge::repeat, Edge::mirror})
            for (const Edge down : {Edge::clamp, Edge::repeat, Edge::mirror})
                for (const auto& size :
                     {std::pair{2U, 2U}, {6U, 4U}, {36U, 22U}, {1042U, 6U}, {4U, 70U}})
                    for (const bool limited : {false, true}) {
                        const Kernel kernel = must(parse_kernel(text));
                        const std::uint32_t width = size.first, height = size.second;
                        CAPTURE(text);
                        CAPTURE(static_cast<int>(across));
                        CAPTURE(static_cast<int>(down));
                        CAPTURE(width);
                        CAPTURE(height);
                        CAPTURE(limited);
                        Texture texture = must(Texture::create({.format = Format::rgba32_float,
                                                                .width = width,
                                                                .height = height,
                                                                .levels = 2}));
                        texture.metadata.alpha = AlphaMode::data;
                        support::fill_random(texture.image(0), random);
                        must(build_mips(
                            texture,
                            {.kernel = kernel, .edges = {across, down}, .limit_ringing = limited}));
                        const auto ideal = halved_ideally(std::as_const(texture).image(0), kernel,
                                                          {across, down}, limited);
                        double most = 0;
                        for (std::size_t i = 0; i < ideal.size(); ++i) {
                            float found = 0;
                            std::memcpy(&found, texture.level(1).data() + 4 * i, 4);
                            most = std::max(most, std::abs(static_cast<double>(found) - ideal[i]));
                        }
                        CHECK(most < 1e-5);
                    }
}

TEST_CASE("what halves rows in vectors is what the plain twins do") {
    support::Random random(3);
    std::uniform_real_distribution<float> value(-2, 2);
    std::vector<std::vector<float>> rows(12, std::vector<float>(77));
    for (auto& row : rows)
        for (float& number : row)
            number = value(random);
    std::vector<const float*> taps;
    for (const auto& row : rows)
        taps.push_back(row.data());
    const std::array<float, 6> weights = {0.01F, -0.03F, 0.05F, -0.1F, 0.2F, 0.37F};
    std::vector<std::byte> codes(77 * 4);
    for (std::byte& code : codes)
        code = static_cast<std::byte>(random() & 0xFF);
    support::for_each_instruction_set([&](const char* name) {
        CAPTURE(name);
        for (const std::size_t count : {1U, 5U, 16U, 77U})
            for (const std::size_t used : {4U, 6U, 8U, 12U}) {
                std::vector<float> a(count), b(count), c(count), d(count);
                blend_symmetric(std::span(taps).first(used), weights.data(), a.data(), count);
                blend_symmetric_plain(std::span(taps).first(used), weights.data(), b.data(), count);
                CHECK(a == b);
                extremes_of_pairs(taps[0], taps[1], a.data(), b.data(), count);
                extremes_of_pairs_plain(taps[0], taps[1], c.data(), d.data(), count);
                CHECK(a == c);
                CHECK(b == d);
                std::copy_n(taps[2], count, c.begin());
                d = c;
                limit_to_pairs(c.data(), {a.data(), taps[3]}, {b.data(), taps[4]}, count);
                limit_to_pairs_plain(d.data(), {a.data(), taps[3]}, {b.data(), taps[4]}, count);
                CHECK(c == d);
                std::vector<float> decoded(4 * count), twin(4 * count);
                for (const CodeCurve* curve : {&CodeCurve::srgb(), &CodeCurve::unorm()}) {
                    CHECK(decode_codes(codes.data(), *curve, decoded.data(), count) ==
                          decode_codes_plain(codes.data(), *curve, twin.data(), count));
                    CHECK(decoded == twin);
                }
            }
    });
}
