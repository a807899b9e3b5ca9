// Image files (PNG, JPEG, WebP, TIFF, OpenEXR and more) to pixels, and back.
//
//     yl::Picture picture = yl::or_exit(yl::read_picture("leaf.png"));
//     yl::Picture halves = yl::or_exit(yl::convert(picture, yl::Format::rgba16_float));
//     yl::or_exit(yl::write_picture("leaf.exr", halves));
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/edit.hpp>
#include <yl/files.hpp>
#include <yl/image.hpp>
#include <yl/progress.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// What is known about a picture besides its pixels.
struct PictureInfo {
    std::string file_format = {};     ///< "PNG", "PPM" ...
    std::uint32_t file_channels = 0;  ///< 1 to 4, as stored; palettes count as 3 or 4, inks as 3
    std::uint32_t file_bits = 0;      ///< of a channel, or of a palette index
    bool has_palette = false;
    bool is_interlaced = false;
    /// The encoding of colours that the file declares, if any.
    std::optional<Transfer> declared_transfer = {};
    Orientation applied_orientation = Orientation::none;  ///< applied so that row 0 is at the top
    /// Horizontal and vertical, if the file says.
    std::optional<std::array<double, 2>> pixels_per_metre = {};
    std::string color_profile_name = {};        ///< of the ICC profile; empty if there is none
    std::vector<std::byte> color_profile = {};  ///< the ICC profile, if it is not applied
    std::string applied_profile = {};  ///< what the colours were converted from; empty: nothing
    /// What the file says of its colours but was not applied, as a phrase; empty if nothing. Such
    /// colours are treated as sRGB, which is not quite right.
    std::string unapplied = {};
    std::string transfer_reason = {};       ///< why this encoding was chosen, as a phrase
    bool leaves_transfer_open = false;      ///< the file could declare an encoding but does not
    std::vector<std::string> remarks = {};  ///< what was odd but tolerated
};

/// The pixels of an image file, and what is known about them.
struct Picture {
    Image image = {};
    Transfer transfer = Transfer::srgb;  ///< of colours, even if the format cannot say it
    AlphaMode alpha = AlphaMode::straight;
    Swizzle swizzle = identity_swizzle;  ///< gray is stored in red and seen as `rrr1`
    PictureInfo info = {};
};

struct ReadOptions;

/// A reader provided by the program.
struct PictureReader {
    std::string name;  ///< of the file format; becomes `PictureInfo::file_format`
    /// Whether a file begins like one in this format.
    std::function<bool(std::span<const std::byte>)> recognise;
    std::function<Result<Picture>(std::span<const std::byte>, const ReadOptions&)> read;
};

/// What to do with colours that a file says are not sRGB's: by an ICC profile, by primaries and a
/// curve (cHRM and gAMA of PNG), or by code points (cICP).
enum class ProfileUse : std::uint8_t {
    apply,   ///< convert colours to sRGB, for roles whose channels are colours
    keep,    ///< leave them as stored, treat them as sRGB, and keep the profile with the picture
    ignore,  ///< the same without keeping the profile
};

struct ReadOptions {
    Role role = Role::color;  ///< decides the colour space if the file does not
    /// How colours are encoded, overriding file and role. Not for floating point.
    std::optional<Transfer> transfer = {};
    Limits limits = {};
    ProfileUse profile = ProfileUse::apply;
    bool apply_orientation = true;  ///< apply the EXIF orientation
    bool allow_partial = false;     ///< return what exists of a JPEG file that ends early
    bool widen_to_rgba = false;     ///< always return four channels: gray spread, alpha 1
    /// Of an OpenEXR file with several parts: the name of the one to read; the first by default.
    /// Fails with `ErrorKind::usage` if there is none of this name.
    std::string part = {};
    std::vector<PictureReader> further_readers = {};  ///< tried before those of this library
    std::shared_ptr<const Files> files = {};          ///< where paths lead; null: the disk
    Progress progress = {};
};

/// Reads a picture, recognising its format by its first bytes. The pixels keep the file's channels
/// and depth: one to four channels of 8 or 16 bits, or of half or single floats; palettes are
/// looked up, and depths under 8 bits widened to 8. A wrong file name ending is remarked.
/// Fails with `ErrorKind::malformed` or `unsupported` and the byte offset if the file violates its
/// format, with `limit` beyond the limits, and with a file error if it cannot be read.
[[nodiscard]] YL_API Result<Picture> read_picture(const std::filesystem::path& path,
                                                  const ReadOptions& options = {});
[[nodiscard]] YL_API Result<Picture> read_picture(std::span<const std::byte> bytes,
                                                  const ReadOptions& options = {});

/// What the header of a picture file says.
struct PictureHeader {
    std::string_view file_format = {};  ///< "PNG", "PPM" ...
    /// Of the picture as it is read, with the EXIF orientation applied.
    std::uint32_t width = 0, height = 0;
    /// 1 to 4, as read. Readers drop an alpha channel that turns out to be unused (TGA).
    std::uint32_t channels = 0;
    std::uint32_t bits = 0;  ///< of a channel, as read: 8 or 16; 16 or 32 for floating point
    bool is_float = false;
    std::uint32_t frames = 1;  ///< of an animation, of which the still picture is read
};

/// Reads only the header of a picture, in well under a millisecond whatever its size. In a PNG it
/// looks at the chunks before the image data; a GIF or an animated WebP is looked through to its end
/// to count frames, and a TIFF as far as its directories, which often stand at the end. Fails as
/// `read_picture` does.
[[nodiscard]] YL_API Result<PictureHeader> peek_picture(
    const std::filesystem::path& path, const std::shared_ptr<const Files>& files = {});
/// The same from memory. `bytes` may be the beginning of a file; fails with `ErrorKind::malformed`
/// if the header goes on beyond it.
[[nodiscard]] YL_API Result<PictureHeader> peek_picture(std::span<const std::byte> bytes);

/// The frames of an animation, or the pages of a file.
struct PictureFrames {
    std::vector<Picture> pictures = {};
    std::vector<double> seconds = {};  ///< how long each is shown; empty for pages
    std::uint32_t plays = 0;           ///< how often an animation is shown; 0: for ever
};

/// Reads all frames of an animation, each as the whole picture that is seen, or all pages of a TIFF;
/// a still picture is one frame. All frames together must stay within `options.limits`. Fails as
/// `read_picture` does.
[[nodiscard]] YL_API Result<PictureFrames> read_frames(const std::filesystem::path& path,
                                                       const ReadOptions& options = {});
[[nodiscard]] YL_API Result<PictureFrames> read_frames(std::span<const std::byte> bytes,
                                                       const ReadOptions& options = {});

/// Reads all mip levels that a file stores, the picture itself first. OpenEXR files with tiles can
/// have several, each half as wide and high as the one before, rounded down or up; any other file
/// has one. All levels together must stay within `options.limits`. Fails as `read_picture` does.
[[nodiscard]] YL_API Result<std::vector<Picture>> read_levels(const std::filesystem::path& path,
                                                              const ReadOptions& options = {});
[[nodiscard]] YL_API Result<std::vector<Picture>> read_levels(std::span<const std::byte> bytes,
                                                              const ReadOptions& options = {});

/// Converts a picture to another format. Colours are decoded and encoded as picture and format say,
/// gray becomes RGB, and a colour picture becomes its luminance in one channel. Formats without a
/// transfer function get linear values, as a device expects. Fails as the other `convert` does.
[[nodiscard]] YL_API Result<Picture> convert(const Picture& picture, Format format,
                                             bool dither = false);

/// Reads a picture and converts it to a format.
/// Fails as `read_picture` and `convert` do.
[[nodiscard]] YL_API Result<Picture> read_picture_as(const std::filesystem::path& path,
                                                     Format format,
                                                     const ReadOptions& options = {});
[[nodiscard]] YL_API Result<Picture> read_picture_as(std::span<const std::byte> bytes,
                                                     Format format,
                                                     const ReadOptions& options = {});

/// Receives a picture or the error that prevented reading it; `index` is its position in the list.
using PictureHandler = std::function<void(std::size_t index, Result<Picture> picture)>;

/// Reads many files in parallel, in the caller's thread arena. Each picture is handed over as soon
/// as it is ready, in any order but one at a time; a file that fails does not stop the others.
YL_API void read_pictures(std::span<const std::filesystem::path> paths,
                          const PictureHandler& handler, const ReadOptions& options = {});

/// How to store a picture. All members are optional.
struct WriteOptions {
    /// The encoding of colours that the file declares, if its format can; nothing: no declaration.
    std::optional<Transfer> transfer = Transfer::srgb;
    int effort = 5;  ///< 0 .. 10: how hard to try for a smaller file
    /// An ICC profile to embed instead, and its name; PNG, WebP and JPEG only.
    std::span<const std::byte> color_profile = {};
    std::string color_profile_name = {};
    int quality = 90;          ///< 1 .. 100, of JPEG: 100 loses nothing but roundings
    bool halve_chroma = true;  ///< of JPEG: chroma at half the size; never at quality 96 and above
    bool is_progressive = false;  ///< of JPEG: the whole picture first coarsely, then ever finer
};

/// Writes a picture in the format of the file name ending: .png, .jpg, .bmp, .tga, .qoi, .ppm,
/// .pgm, .pam, .pfm, .hdr, .exr, .tif or .webp (without loss). Fails with `ErrorKind::usage` if the
/// file format cannot hold the image's format, saying what it can.
[[nodiscard]] YL_API Status write_picture(const std::filesystem::path& path, ConstImageView image,
                                          const WriteOptions& options = {});

/// The same for a picture: the file declares the picture's encoding in the place of what the options
/// say. An ICC profile that was not applied is embedded if the format can hold it (PNG, WebP, JPEG);
/// otherwise nothing is declared. Fails as the other does.
[[nodiscard]] YL_API Status write_picture(const std::filesystem::path& path, const Picture& picture,
                                          WriteOptions options = {});

/// The same into memory; `file_format` is the ending without the dot.
[[nodiscard]] YL_API Result<std::vector<std::byte>> encode_picture(
    std::string_view file_format, ConstImageView image, const WriteOptions& options = {});

/// The same for a picture, whose encoding is declared.
[[nodiscard]] YL_API Result<std::vector<std::byte>> encode_picture(std::string_view file_format,
                                                                   const Picture& picture,
                                                                   WriteOptions options = {});

/// Converts a picture to the nearest pixel format that a file format can hold: channels are spread
/// or dropped, depths widened or reduced. `file_format` is the ending without the dot. Fails with
/// `ErrorKind::usage` if there is no such file format to write.
[[nodiscard]] YL_API Result<Picture> fitted_to(std::string_view file_format, const Picture& picture,
                                               bool dither = false);

/// Whether the bytes begin like a picture in a known format.
[[nodiscard]] YL_API bool looks_like_picture(std::span<const std::byte> bytes);

}  // namespace yl
