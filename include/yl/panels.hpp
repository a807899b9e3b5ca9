// Several pictures side by side in one, each with its label.
#pragma once

#include <array>
#include <string>
#include <vector>
#include <yl/image.hpp>

namespace yl {

struct LabelledPicture {
    Image picture = {};      ///< rgba8-srgb
    std::string title = {};  ///< UTF-8; broken into lines where it is wider than the picture
    std::string note = {};   ///< smaller, below the title; may be empty
};

/// Lays the pictures out in rows of `columns`, under a heading. Fails with `ErrorKind::usage`
/// when there is none or one is not `rgba8-srgb`.
[[nodiscard]] Result<Image> arrange_panels(const std::vector<LabelledPicture>& pictures,
                                           std::uint32_t columns, const std::string& heading);

/// A colour and what it stands for.
struct ColorKey {
    std::array<float, 4> color = {};  ///< linear
    std::string label = {};           ///< UTF-8
};

/// The picture with a strip of keys below it, in as many lines as they need.
[[nodiscard]] Result<Image> with_keys(ConstImageView picture, const std::vector<ColorKey>& keys);

}  // namespace yl
