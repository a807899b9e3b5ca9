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
