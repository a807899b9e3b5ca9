// What an image file format has to offer; one folder and one line in codec.cpp each.
#pragma once

#include <string_view>
#include <vector>

#include <yl/codec.hpp>
#include "base/bytes.hpp"

namespace yl {

struct PictureFormat {
    std::string_view name;                  ///< as people know it
    std::vector<std::string_view> endings;  ///< of file names, without the dot
    bool (*recognise)(ByteSpan bytes);      ///< by the first bytes alone
    Result<Picture> (*read)(ByteSpan bytes, const ReadOptions& options);
    Result<std::vector<std::byte>> (*write)(ConstImageView image, const WriteOptions& options);
};

[[nodiscard]] PictureFormat png_format();
[[nodiscard]] PictureFormat ppm_format();
[[nodiscard]] PictureFormat pgm_format();

/// The colour space that the pixels are taken to have: the role's, if it has only one; else what
/// the file declares; else sRGB. Sets `transfer` and the reason.
void settle_transfer(Picture& picture, Role role);

/// The format of `channels` integer channels of 8 or 16 bits; 8-bit sRGB has formats of its own.
[[nodiscard]] Format integer_format(std::uint32_t channels, std::uint32_t bits, Transfer transfer);

/// How one to four channels are seen: one and two are gray.
[[nodiscard]] Swizzle channel_swizzle(std::uint32_t channels);

}  // namespace yl
