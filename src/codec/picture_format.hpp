// What an image file format has to offer; one folder and one line in codec.cpp each.
#pragma once

#include <string_view>
#include <vector>

#include <yl/edit.hpp>
#include <yl/picture.hpp>
#include "base/bytes.hpp"
#include "codec/row_reader.hpp"

namespace yl {

/// What a file format can be written of.
struct HeldPixels {
    std::string_view channels = "";  ///< their numbers, as digits
    bool bytes = false;              ///< integers of 8 bits
    bool words = false;              ///< of 16 bits
    bool halves = false;             ///< floating point of 16 bits
    bool singles = false;            ///< of 32 bits
};

struct PictureFormat {
    std::string_view name;                  ///< as people know it
    std::vector<std::string_view> endings;  ///< of file names, without the dot
    bool (*recognise)(ByteSpan bytes);      ///< by the first bytes alone
    Result<Picture> (*read)(ByteSpan bytes, const ReadOptions& options);
    Result<PictureHeader> (*peek)(ByteSpan bytes);  ///< of a file that begins so
    Result<std::vector<std::byte>> (*write)(ConstImageView image, const WriteOptions& options);
    HeldPixels held;
    /// Of formats with animations or pages.
    Result<PictureFrames> (*read_frames)(ByteSpan bytes, const ReadOptions& options) = nullptr;
    /// As `peek`, of a whole file that is read although it is damaged further on.
    Result<PictureHeader> (*peek_damaged)(ByteSpan bytes) = nullptr;
    /// Of formats with mip levels.
    Result<std::vector<Picture>> (*read_levels)(ByteSpan bytes,
                                                const ReadOptions& options) = nullptr;
    bool has_parts = false;
    /// Of formats whose rows can be read one after the other.
    Result<RowStart> (*open_rows)(SharedFile file, const ReadOptions& options) = nullptr;
};

[[nodiscard]] PictureFormat png_format();
[[nodiscard]] PictureFormat jpeg_format();
[[nodiscard]] PictureFormat bmp_format();
[[nodiscard]] PictureFormat tga_format();
[[nodiscard]] PictureFormat qoi_format();
[[nodiscard]] PictureFormat ppm_format();
[[nodiscard]] PictureFormat pgm_format();
[[nodiscard]] PictureFormat pbm_format();
[[nodiscard]] PictureFormat pam_format();
[[nodiscard]] PictureFormat pfm_format();
[[nodiscard]] PictureFormat hdr_format();
[[nodiscard]] PictureFormat exr_format();
[[nodiscard]] PictureFormat tiff_format();
[[nodiscard]] PictureFormat gif_format();
[[nodiscard]] PictureFormat webp_format();
[[nodiscard]] PictureFormat psd_format();

/// The colour space that integer pixels are taken to have: what is asked for; else the role's, if
/// it has only one; else what the file declares; else sRGB. Sets `transfer` and the reason.
void settle_transfer(Picture& picture, const ReadOptions& options);

/// What a reader knows once it has read a file's header.
struct PictureStart {
    std::uint64_t width = 0;
    std::uint64_t height = 0;
    std::uint32_t channels = 0;  ///< 1 to 4, of the pixels as they are handed over
    std::uint32_t bits = 8;      ///< 8 or 16 for integers, 16 or 32 for floating point
    bool is_float = false;
    std::optional<Transfer> declared_transfer = {};
    std::size_t memory = 0;  ///< bytes to take, if more than the pixels fill
};

/// That as callers see it. Fails for a size of nothing.
[[nodiscard]] Result<PictureHeader> header_of(
    const PictureStart& start, std::optional<Orientation> orientation = std::nullopt);

/// An error for a size of nothing, and for one beyond the limit of a side.
[[nodiscard]] Result<void> check_size(std::uint64_t width, std::uint64_t height,
                                      const Limits& limits);

/// Everything about a picture but its pixels, whose format is given back.
[[nodiscard]] Format describe_start(const PictureStart& start, const ReadOptions& options,
                                    Picture& picture);

/// Refuses a picture whose rows are too long to have some of them in memory.
[[nodiscard]] Status check_row(std::uint64_t row_bytes, const Limits& limits);

/// A picture with memory for its pixels and its colour space settled. A size of nothing is an
/// error, and so is one beyond the limits. When four channels are wanted, there is room to widen
/// the pixels where they are.
[[nodiscard]] Result<Picture> start_picture(const PictureStart& start, const ReadOptions& options);

/// Turns the picture as its EXIF data ask for, unless the options forbid it, and remarks either.
[[nodiscard]] Status turn_upright(Picture& picture, std::optional<Orientation> orientation,
                                  const ReadOptions& options);

/// How one to four channels are seen: one and two are gray.
[[nodiscard]] Swizzle channel_swizzle(std::uint32_t channels);

}  // namespace yl
