// What a PNG file says besides its pixels: palette, transparency, colours.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include <yl/picture.hpp>
#include "codec/color_conversion.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/expand.hpp"

namespace yl::png {

/// Which chunk counts more where several say how colours are encoded (PNG, third edition, section
/// 4.3).
constexpr int gamma_rank = 1, srgb_rank = 2, profile_rank = 3, code_points_rank = 4;

/// Everything in the file but the pixels.
struct Parsed {
    Header header;
    SampleMeaning meaning;
    std::vector<ByteSpan> image_data;
    std::size_t image_offset = 0;  ///< in the file, of the first chunk IDAT
    std::optional<Transfer> declared_transfer;
    int transfer_rank =
        0;  ///< of the chunk that declared it; cICP counts more than iCCP, sRGB and gAMA
    std::string profile_name;
    std::vector<std::byte> profile;
    std::optional<double> gamma;         ///< declared, neither linear nor that of sRGB
    bool has_other_primaries = false;    ///< than those of BT.709, by chunk cHRM
    std::optional<StatedColors> stated;  ///< by chunk cHRM, or by chunk cICP
    std::optional<Orientation> orientation;
    PictureInfo info;
};

[[nodiscard]] Status parse_palette(const Chunk& chunk, Parsed& parsed);
[[nodiscard]] Status parse_ancillary(const Chunk& chunk, Parsed& parsed);

/// Signature and chunk IHDR.
[[nodiscard]] Result<Parsed> begin(ByteReader& reader);

/// Any chunk but those of the image and of the end.
[[nodiscard]] Status parse_chunk(const Chunk& chunk, Parsed& parsed);

/// Refuses image data of so many bytes that cannot hold the pixels.
[[nodiscard]] Status check_expansion(const Parsed& parsed, std::uint64_t compressed);

/// Whether `reader` stands before the first chunk IDAT.
[[nodiscard]] bool image_comes_next(ByteSpan bytes, const ByteReader& reader);

/// All chunks up to IEND.
[[nodiscard]] Result<Parsed> parse(ByteSpan bytes);

/// All chunks up to the first IDAT, of a file that begins so.
[[nodiscard]] Result<Parsed> parse_start(ByteSpan bytes);

inline constexpr const char* no_end = "the file ends without its chunk IEND";

}  // namespace yl::png
