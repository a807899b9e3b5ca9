// Colour lookup tables as textures: .cube files, and strips of slices.
//
//     yl::LookupTable grade = yl::or_exit(yl::read_lookup_table("evening.cube"));
//     yl::or_exit(yl::write_texture("evening.ktx2", grade.texture));
//     // In the shader, with n texels on a side: texture(grade, color * (n - 1) / n + 0.5 / n)
#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/files.hpp>
#include <yl/picture.hpp>

namespace yl {

/// A colour lookup table. The texture has one level: 3D with red along u, green along v and blue
/// along w, or 1D. Texel 0 holds the colour of `input_min`, the last one that of `input_max`.
struct LookupTable {
    Texture texture = {};
    std::string title = {};
    std::array<float, 3> input_min = {0, 0, 0};
    std::array<float, 3> input_max = {1, 1, 1};
};

/// Reads the text of a .cube file (Adobe, "Cube LUT Specification", version 1.0; the input range of
/// its 3D tables may also be given as LUT_3D_INPUT_RANGE). The texture is `rgba16_float`, linear;
/// an input range other than 0 to 1 is also kept in its key-value pairs (`input_range_note`). Fails
/// with `ErrorKind::malformed`, naming the line, and with `limit` beyond `limits`.
[[nodiscard]] YL_API Result<LookupTable> parse_lookup_table(std::string_view text,
                                                            const Limits& limits = {});
/// The same from a file; null `files`: of the disk.
[[nodiscard]] YL_API Result<LookupTable> read_lookup_table(
    const std::filesystem::path& path, const Limits& limits = {},
    const std::shared_ptr<const Files>& files = {});

/// The key of the input range in a texture's key-value pairs: six numbers.
inline constexpr std::string_view input_range_note = "YLinputRange";

/// Cuts a picture of slices that lie side by side, or one above the other, into that many pictures
/// for `bake_volume`. Fails with `ErrorKind::usage` if the longer side is not a multiple of `slices`.
[[nodiscard]] YL_API Result<std::vector<Picture>> slices_of_strip(const Picture& strip,
                                                                  std::uint32_t slices);

}  // namespace yl
