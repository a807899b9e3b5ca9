// A texture's texels as a page holds them: pictures without loss, or halves for light.
#pragma once

#include <string>
#include <vector>

#include <yl/result.hpp>
#include <yl/texture.hpp>

#include "report/page/json.hpp"

namespace yl::report {

/// What is packed, as its shader sees it.
struct TexelSubject {
    const Texture& plain;             ///< blocks decoded
    const Texture& stored;            ///< as it is on a device
    const Texture* source = nullptr;  ///< as `plain` was before it was compressed
    bool has_alpha = false;
};

struct PackedTexels {
    /// For each level from `first_level` on, JSON: lists of base64, one text for each layer, face and
    /// slice.
    ///   color    WebP without alpha, or with `is_light` halves of RGBA, packed by zlib
    ///   alpha    WebP; absent if it is 1 everywhere
    ///   blocks   as they are stored, packed by zlib; absent where there are none
    ///   source, source_alpha   likewise
    std::vector<std::string> levels = {};
    std::uint32_t first_level = 0;
    bool is_light = false;   ///< numbers beyond 0 .. 1
    bool is_scaled = false;  ///< even the last level was too large: it is shown smaller
};

/// Takes the last level and as many of those before it as `max_bytes` leave room for.
[[nodiscard]] Result<PackedTexels> pack_texels(const TexelSubject& subject,
                                               std::uint64_t max_bytes);

/// A small picture for lists: as base64 of WebP.
[[nodiscard]] Result<std::string> thumbnail(const Texture& plain);

}  // namespace yl::report
