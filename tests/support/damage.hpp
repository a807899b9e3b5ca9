// Small files cut off and damaged in every place: each gives an error or a picture, and nothing
// else.
#pragma once

#include <span>
#include <vector>
#include <yl/picture.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

namespace support {

inline constexpr yl::Limits damage_limits{.max_side = 4096, .max_bytes = 1 << 22};

/// The file itself is read; cut off at any byte it is an error that says something, or the same
/// picture with a word on the end mark that is missing.
inline void check_every_cut(const std::vector<std::byte>& file) {
    const yl::Picture whole = must(yl::read_picture(file));
    for (std::size_t size = 0; size < file.size(); ++size) {
        CAPTURE(size);
        const auto cut = yl::read_picture(std::span(file).first(size), {.limits = damage_limits});
        if (cut) {
            REQUIRE(contains(cut->info.remarks.at(0), "ends without"));
            REQUIRE(equal_pixels(cut->image.view(), whole.image.view()));
            continue;
        }
        REQUIRE_FALSE(cut.error().message.empty());
    }
}

/// With any one bit flipped there is a picture, or an error that says something. Gives the
/// pictures.
inline std::vector<yl::Picture> flip_every_bit(const std::vector<std::byte>& file,
                                               yl::ReadOptions options = {}) {
    options.limits = damage_limits;
    std::vector<yl::Picture> pictures;
    for (std::size_t bit = 0; bit < file.size() * 8; ++bit) {
        CAPTURE(bit);
        auto damaged = file;
        damaged[bit / 8] ^= static_cast<std::byte>(1U << bit % 8);
        auto picture = yl::read_picture(damaged, options);
        if (picture)
            pictures.push_back(std::move(*picture));
        else
            REQUIRE_FALSE(picture.error().message.empty());
    }
    return pictures;
}

}  // namespace support
