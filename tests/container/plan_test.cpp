// Files that are planned before their texels are there.
#include "container/texture_format.hpp"

#include <algorithm>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

TEST_CASE("the plan of a file is the file that is written") {
    const TextureShape all[] = {
        {.format = Format::rgba8_srgb, .width = 20, .height = 12, .levels = 3},
        {.format = Format::r16_unorm, .width = 5, .height = 9, .levels = 4},
        {.format = Format::bc1_srgb, .width = 36, .height = 10, .levels = 6},
    };
    for (const char* ending : {"ktx2", "dds"})
        for (const TextureShape& shape : all) {
            CAPTURE(ending);
            CAPTURE(shape.width);
            const Texture texture = support::random_texture(shape, 7);
            const FilePlan plan = must(plan_texture_file(ending, shape, texture.metadata, {}));
            const auto file = must(texture_file_bytes(ending, texture));
            CHECK(plan.bytes == file.size());
            REQUIRE(plan.head.size() <= file.size());
            CHECK(std::equal(plan.head.begin(), plan.head.end(), file.begin()));
            REQUIRE(plan.level_offsets.size() == shape.levels);
            for (std::uint32_t level = 0; level < shape.levels; ++level) {
                const auto texels = texture.level(level);
                REQUIRE(plan.level_offsets[level] + texels.size() <= file.size());
                CHECK(std::ranges::equal(
                    texels, std::span(file).subspan(plan.level_offsets[level], texels.size())));
            }
        }
    const Texture texture = support::random_texture(all[0], 7);
    for (const Supercompression scheme : {Supercompression::zstd, Supercompression::zlib})
        CHECK(must_fail(
                  plan_texture_file("ktx2", all[0], texture.metadata, {.supercompression = scheme}))
                  .place == "supercompression");
}

TEST_CASE("DDS counts a surface's bytes in 32 bits: the largest is planned, and one more refused") {
    // 65,537 times 65,535 is 2^32 - 1.
    const TextureShape largest = {.format = Format::r8_unorm, .width = 65'537, .height = 65'535};
    const FilePlan plan = must(plan_texture_file("dds", largest, {}, {}));
    CHECK(plan.bytes == plan.head.size() + 0xFFFF'FFFFULL);
    TextureShape larger = largest;
    larger.width = larger.height = 65'536;
    const Error error = must_fail(plan_texture_file("dds", larger, {}, {}));
    CHECK(error.kind == ErrorKind::unsupported);
    CHECK(support::contains(error.message, "4294967296"));
}
