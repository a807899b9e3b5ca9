// Image files: PNG, JPEG, BMP, TGA, QOI, Netpbm, PFM, Radiance HDR and OpenEXR to pixels, and back.
//
//     yl::Picture picture = yl::or_exit(yl::read_picture("leaf.png"));
//     yl::Picture floats = yl::or_exit(yl::convert(picture, yl::Format::rgba32_float));
//     yl::or_exit(yl::write_picture("leaf.exr", floats));
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/edit.hpp>
#include <yl/image.hpp>
#include <yl/progress.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// What is known about a picture beside its pixels.
struct PictureInfo {
    std::string file_format = {};     ///< "PNG", "PPM" ...
    std::uint32_t file_channels = 0;  ///< as stored: 1, 2, 3 or 4; a palette counts as 3 or 4
    std::uint32_t file_bits = 0;      ///< of a channel, or of a palette index
    bool has_palette = false;
    bool is_interlaced = false;
    /// What the file says of its colours' encoding; nothing when it is silent.
    std::optional<Transfer> declared_transfer = {};
    Orientation applied_orientation = Orientation::none;  ///< what was done to lay row 0 at the top
    /// Across and down, if the file says.
    std::optional<std::array<double, 2>> pixels_per_metre = {};
    std::string color_profile_name = {};        ///< of an ICC profile; empty when there is none
    std::vector<std::byte> color_profile = {};  ///< that profile itself; it is kept, not applied
    /// What the file says of its colours and was not applied, in a phrase; empty: nothing. Such
    /// colours are taken as sRGB and are not quite that.
    std::string unapplied = {};
    std::string transfer_reason = {};  ///< why the pixels are taken as they are, in a phrase
    bool leaves_transfer_open =
        false;  ///< the file could have said more of its colours, and does not
    std::vector<std::string> remarks = {};  ///< what was odd but tolerated
};

/// An image file's pixels, as stored or as asked for.
struct Picture {
    Image image = {};
    Transfer transfer = Transfer::srgb;  ///< of the colour values, also where the format cannot say
    AlphaMode alpha = AlphaMode::straight;
    Swizzle swizzle = identity_swizzle;  ///< gray is stored in red alone and seen through `rrr1`
    PictureInfo info = {};
};

struct ReadOptions;

/// A reader that a program brings along.
struct PictureReader {
    std::string name;  ///< of the file format; becomes `PictureInfo::file_format`
    /// Whether a file begins like one of this format.
    std::function<bool(std::span<const std::byte>)> recognise;
    std::function<Result<Picture>(std::span<const std::byte>, const ReadOptions&)> read;
};

struct ReadOptions {
    Role role = Role::color;  ///< settles the colour space where the file is silent, or irrelevant
    /// How colours are encoded, against what the file and the role say. Not for floating point.
    std::optional<Transfer> transfer = {};
    Limits limits = {};
    bool apply_orientation = true;  ///< turn pictures upright whose EXIF data ask for it
    bool allow_partial = false;     ///< give what there is of a JPEG file that ends early
    bool widen_to_rgba = false;     ///< always hand over four channels: gray spread, alpha 1
    std::vector<PictureReader> further_readers = {};  ///< asked before those of this library
    Progress progress = {};
};

/// Reads a picture, recognising its format by its first bytes. The pixels keep the file's channels
/// and depth: one to four channels of 8 or 16 bits, or of half or single floats; palettes are
/// looked up, and depths under 8 bits widened to 8. A name that says otherwise is remarked.
/// Fails with `ErrorKind::malformed` or `unsupported` and the byte where the file breaks the
/// format's rules, with `limit` beyond the limits, and with a file error when it cannot be read.
[[nodiscard]] YL_API Result<Picture> read_picture(const std::filesystem::path& path,
                                                  const ReadOptions& options = {});
[[nodiscard]] YL_API Result<Picture> read_picture(std::span<const std::byte> bytes,
                                                  const ReadOptions& options = {});

/// A picture in another format: its colours are decoded and encoded by what it and the format say,
/// gray becomes RGB as it is seen, and one channel of a coloured picture holds its luminance.
/// Formats without a curve get linear values, which is what a device takes them for.
/// Fails as the other `convert` does.
[[nodiscard]] YL_API Result<Picture> convert(const Picture& picture, Format format,
                                             bool dither = false);

/// Reads a picture in a format of the caller's choice.
/// Fails as `read_picture` and `convert` do.
[[nodiscard]] YL_API Result<Picture> read_picture_as(const std::filesystem::path& path,
                                                     Format format,
                                                     const ReadOptions& options = {});
[[nodiscard]] YL_API Result<Picture> read_picture_as(std::span<const std::byte> bytes,
                                                     Format format,
                                                     const ReadOptions& options = {});

/// Takes one picture of many, or why it could not be read; `index` is its file's place in the list.
using PictureHandler = std::function<void(std::size_t index, Result<Picture> picture)>;

/// Reads many files at the same time, in the caller's thread arena. Each picture is handed over as
/// soon as it is ready, in any order but one at a time; a file that fails is handed over as its
/// error, and stops no other.
YL_API void read_pictures(std::span<const std::filesystem::path> paths,
                          const PictureHandler& handler, const ReadOptions& options = {});

/// How a picture is stored. All parts may be left out.
struct WriteOptions {
    /// What the file states of its colours' encoding, where its format can; nothing: no statement.
    std::optional<Transfer> transfer = Transfer::srgb;
    int effort = 5;  ///< 0 .. 10: how hard to look for a smaller file
    /// An ICC profile to embed instead of that statement, and its name; PNG only.
    std::span<const std::byte> color_profile = {};
    std::string color_profile_name = {};
};

/// Writes a picture in the format that the name's ending asks for: .png, .bmp, .tga, .qoi, .ppm,
/// .pgm, .pam, .pfm, .hdr or .exr. The image's format must be one that the file format holds; the
/// error says which those are.
[[nodiscard]] YL_API Status write_picture(const std::filesystem::path& path, ConstImageView image,
                                          const WriteOptions& options = {});

/// A whole picture: the file states what the picture is known to be. A colour profile that was not
/// applied goes with it where the format can hold it (PNG), and nothing is claimed otherwise.
/// Fails as the other does.
[[nodiscard]] YL_API Status write_picture(const std::filesystem::path& path, const Picture& picture,
                                          int effort = 5);

/// The same into memory; `file_format` is the ending without its dot.
[[nodiscard]] YL_API Result<std::vector<std::byte>> encode_picture(
    std::string_view file_format, ConstImageView image, const WriteOptions& options = {});

/// The same with what the picture knows of itself: its transfer function.
[[nodiscard]] YL_API Result<std::vector<std::byte>> encode_picture(std::string_view file_format,
                                                                   const Picture& picture,
                                                                   int effort = 5);

/// The picture in the nearest pixel format that a file format holds: channels that it lacks are
/// spread or dropped, depths widened or cut. `file_format` is the ending without its dot.
/// Fails with `ErrorKind::usage` when there is no such file format to write.
[[nodiscard]] YL_API Result<Picture> fitted_to(std::string_view file_format, const Picture& picture,
                                               bool dither = false);

/// Whether the bytes begin like a picture that can be read.
[[nodiscard]] YL_API bool looks_like_picture(std::span<const std::byte> bytes);

}  // namespace yl
