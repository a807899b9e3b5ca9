// The numbers of samplers for each API, against the values of the official headers.
#include <yl/yl.hpp>

#include "support/check.hpp"

using namespace yl;

TEST_CASE("comparisons: every function of every API, and none") {
    struct Row {
        Compare compare;
        std::uint32_t gl_mode, gl, vulkan, d3d12;
    };
    // GL_NONE, GL_COMPARE_REF_TO_TEXTURE; GL_NEVER ...; VK_COMPARE_OP_NEVER ...;
    // D3D12_COMPARISON_FUNC_NEVER ...
    const Row rows[] = {{Compare::off, 0, 0x0203, 7, 0},
                        {Compare::never, 0x884E, 0x0200, 0, 1},
                        {Compare::less, 0x884E, 0x0201, 1, 2},
                        {Compare::equal, 0x884E, 0x0202, 2, 3},
                        {Compare::less_or_equal, 0x884E, 0x0203, 3, 4},
                        {Compare::greater, 0x884E, 0x0204, 4, 5},
                        {Compare::not_equal, 0x884E, 0x0205, 5, 6},
                        {Compare::greater_or_equal, 0x884E, 0x0206, 6, 7},
                        {Compare::always, 0x884E, 0x0207, 7, 8}};
    for (const Row& row : rows) {
        Sampler sampler;
        sampler.compare = row.compare;
        CAPTURE(static_cast<int>(row.compare));
        CHECK(gl_sampler(sampler).compare_mode == row.gl_mode);
        if (row.compare != Compare::off) {
            CHECK(gl_sampler(sampler).compare_func == row.gl);
            CHECK(d3d12_sampler(sampler).comparison_func == row.d3d12);
        }
        CHECK(vulkan_sampler(sampler).compare_op == row.vulkan);
        CHECK(vulkan_sampler(sampler).compare_enable == (row.compare != Compare::off));
    }
}

TEST_CASE("anisotropy begins beyond 1") {
    for (const float most : {1.0F, 1.5F, 16.0F}) {
        Sampler sampler;
        sampler.max_anisotropy = most;
        CHECK(vulkan_sampler(sampler).anisotropy_enable == (most > 1));
    }
    CHECK(parse_sampler("aniso=1").has_value());
    CHECK_FALSE(parse_sampler("aniso=0.9").has_value());
}

TEST_CASE(
    "borders of any colour have the preset next to them, by alpha and by all three channels") {
    for (const float r : {0.0F, 0.6F, 1.0F})
        for (const float g : {0.0F, 0.6F, 1.0F})
            for (const float b : {0.0F, 0.6F, 1.0F})
                for (const float a : {0.0F, 0.4F, 0.6F, 1.0F}) {
                    Sampler sampler;
                    sampler.border = {r, g, b, a};
                    CAPTURE(r);
                    CAPTURE(g);
                    CAPTURE(b);
                    CAPTURE(a);
                    // VK_BORDER_COLOR_FLOAT_TRANSPARENT_BLACK, _OPAQUE_BLACK and _OPAQUE_WHITE.
                    const std::uint32_t preset = a < 0.5F ? 0 : r + g + b < 1.5F ? 2 : 4;
                    CHECK(vulkan_sampler(sampler).border_color == preset);
                    CHECK(metal_sampler(sampler).border_color == (preset == 0   ? "TransparentBlack"
                                                                  : preset == 2 ? "OpaqueBlack"
                                                                                : "OpaqueWhite"));
                    const bool is_exact = (r == 0 && g == 0 && b == 0 && (a == 0 || a == 1)) ||
                                          (r == 1 && g == 1 && b == 1 && a == 1);
                    CHECK(vulkan_sampler(sampler).border_is_preset == is_exact);
                }
}
