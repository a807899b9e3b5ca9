// Damaged files: each gives an error or a picture, and nothing else.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/reference_png.hpp"

using namespace yl;
using support::ReferencePng;

namespace {

const ReferencePng kinds[] = {
    {5, 4, 0, 1, false, true},   {5, 4, 2, 8, false, false}, {5, 4, 3, 4, false, true},
    {5, 4, 4, 16, false, false}, {5, 4, 6, 8, false, false}, {9, 9, 2, 16, true, true},
    {9, 9, 3, 2, true, false},
};

}  // namespace

TEST_CASE("a file cut off at any byte is an error") {
    for (const ReferencePng& kind : kinds)
        support::check_every_cut(support::write_reference_png(kind));
}

TEST_CASE("a file with any one bit flipped is an error, or a picture with a remark") {
    std::size_t bits = 0;
    std::size_t pictures = 0;
    for (const ReferencePng& kind : kinds) {
        const auto file = support::write_reference_png(kind);
        bits += file.size() * 8;
        for (const Picture& picture : support::flip_every_bit(file)) {
            ++pictures;  // only an ancillary chunk can be damaged without loss, and that is
                         // remarked
            CHECK_FALSE(picture.info.remarks.empty());
        }
    }
    CHECK(bits > 20 * pictures);
}
