// Damaged files: each gives an error or a picture, and nothing else.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/reference_png.hpp"

using namespace yl;
using support::ReferencePng;

namespace {

constexpr ReadLimits small_limits{.greatest_side = 4096, .greatest_bytes = 1 << 24};

const ReferencePng kinds[] = {
    {5, 4, 0, 1, false, true},   {5, 4, 2, 8, false, false}, {5, 4, 3, 4, false, true},
    {5, 4, 4, 16, false, false}, {5, 4, 6, 8, false, false}, {9, 9, 2, 16, true, true},
    {9, 9, 3, 2, true, false},
};

}  // namespace

TEST_CASE("a file cut off at any byte is an error") {
    for (const ReferencePng& kind : kinds) {
        const auto file = support::write_reference_png(kind);
        for (std::size_t size = 0; size < file.size(); ++size) {
            CAPTURE(size);
            const auto cut = read_picture(std::span(file).first(size), {.limits = small_limits});
            REQUIRE_FALSE(cut);
            CHECK_FALSE(cut.error().message.empty());
        }
    }
}

TEST_CASE(
    "a file with any one bit flipped is an error, or a picture with a remark, or the same "
    "picture") {
    int errors = 0;
    int pictures = 0;
    for (const ReferencePng& kind : kinds) {
        const auto file = support::write_reference_png(kind);
        for (std::size_t bit = 0; bit < file.size() * 8; ++bit) {
            auto damaged = file;
            damaged[bit / 8] ^= static_cast<std::byte>(1U << bit % 8);
            const auto picture = read_picture(damaged, {.limits = small_limits});
            if (!picture) {
                ++errors;
                continue;
            }
            ++pictures;  // only an ancillary chunk can be damaged without loss, and that is
                         // remarked
            CHECK_FALSE(picture->info.remarks.empty());
        }
    }
    CHECK(errors > 20 * pictures);
}
