// Measuring pixels: channels in use, seams, differences between two images.
//
//     yl::Picture a = yl::or_exit(yl::read_picture("a.png"));
//     yl::Picture b = yl::or_exit(yl::read_picture("b.png"));
//     bool is_gray = yl::analyse_channels(a.image.view()).is_gray;
//     double decibels =
//         yl::or_exit(yl::measure_difference(a.image.view(), b.image.view())).psnr;
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

struct YL_API ChannelUse {
    bool is_gray = false;          ///< red, green and blue are equal everywhere
    bool is_opaque = false;        ///< alpha is 1 everywhere
    bool alpha_is_binary = false;  ///< alpha is 0 or 1 everywhere
    /// The number of channels that carry information: 1 gray, 2 gray and alpha, 3 RGB, 4 RGBA.
    [[nodiscard]] std::uint32_t useful_channels() const {
        return (is_gray ? 1U : 3U) + (is_opaque ? 0U : 1U);
    }
};

/// Examines every pixel through the swizzle. Block formats count as RGBA.
[[nodiscard]] YL_API ChannelUse analyse_channels(ConstImageView image,
                                                 const Swizzle& swizzle = identity_swizzle);

/// Statistics that hint at what the pixels are meant for.
struct YL_API ContentMeasure {
    bool is_uniform = true;  ///< all pixels are equal
    float transparent = 0;   ///< share of pixels with alpha below one half
    /// Share of pixels that could be normals: 2c - 1 has about unit length and does not point
    /// inwards.
    float directions = 0;
    std::array<float, 4> mean = {};  ///< of the stored numbers, through the swizzle

    /// Whether the image looks like a normal map: nearly all texels are unit vectors, and their
    /// mean points outwards. A photograph of a blue sky has such texels too, but their mean leans.
    [[nodiscard]] bool looks_like_normals() const;
};

/// Examines every pixel through the swizzle. Block formats are not decoded; nothing is measured.
[[nodiscard]] YL_API ContentMeasure measure_content(ConstImageView image,
                                                    const Swizzle& swizzle = identity_swizzle);

/// The smallest of 1, 2, 4, 8 and 16 bits that holds every value without loss: a 16-bit picture
/// that was widened from 8 bits uses 8. Floats and packed formats use all of their bits.
[[nodiscard]] YL_API std::uint32_t bits_in_use(ConstImageView image);

/// How visible the seam of a repeated image is, per axis: the mean step from the last column (row)
/// to the first, divided by the mean step between neighbours within the image.
struct SeamMeasure {
    float across = 0;  ///< from the right edge to the left
    float down = 0;    ///< from the bottom edge to the top

    /// Above this a seam shows.
    static constexpr float visible = 2.0F;
};

/// Measured on stored values, which are roughly perceptually uniform. An image of one row or column
/// has no seam in that axis.
[[nodiscard]] YL_API SeamMeasure measure_seams(ConstImageView image);

/// Differences of 8-bit pictures, in code values.
struct YL_API PictureDifference {
    std::uint64_t pixels = 0;
    std::uint64_t pixels_beyond = 0;  ///< pixels with a channel beyond the tolerance
    int max = 0;
    std::uint32_t worst_x = 0;  ///< where the largest difference is
    std::uint32_t worst_y = 0;
    double mean = 0;  ///< over all channels

    /// Share of the pixels within the tolerance, 0 .. 1.
    [[nodiscard]] double share_within() const {
        return pixels == 0 ? 1.0
                           : 1.0 - static_cast<double>(pixels_beyond) / static_cast<double>(pixels);
    }
};

/// Compares two images of the same size and the same 8-bit format, byte by byte. Fails with
/// `ErrorKind::usage` otherwise.
[[nodiscard]] YL_API Result<PictureDifference> compare_pictures(ConstImageView a, ConstImageView b,
                                                                int tolerance);

/// How far two images are apart. PSNR is 10 log10 (1 / mean square error) in dB, with the whole
/// range as 1; infinite if nothing differs. Light has no range: for floating point every PSNR is
/// `no_psnr`, and the errors in stops and the relative error count instead.
struct YL_API ImageDifference {
    static constexpr double no_psnr = std::numeric_limits<double>::quiet_NaN();

    /// The channels compared: all that either image has, without an alpha that is 1 in both.
    std::uint32_t channels = 0;
    std::array<double, 4> channel_psnr = {};  ///< of code values, by channel
    double psnr = 0;                          ///< of code values, all channels together
    double linear_psnr = 0;                   ///< of linear light, all channels together
    double ssim = 1;                          ///< of luminance (Wang et al. 2004), 1: the same
    double max = 0;                           ///< codes of 8 bits; or stops, of light
    std::uint32_t worst_x = 0, worst_y = 0;   ///< where that is
    std::optional<double> mean_angle = {};    ///< degrees, of normals
    std::optional<double> max_angle = {};
    std::optional<double> log_error = {};  ///< root of the mean square in stops, of light
    /// Of light: the sum of all differences over the sum of the first image's light.
    std::optional<double> relative_error = {};
    /// Texels whose colours differ invisibly: alpha weighs colour and is 0 in both.
    std::uint64_t hidden_texels = 0;
};

/// What the images mean; decides what is measured.
struct DifferenceOptions {
    /// `normal`: angles are measured; a missing z is rebuilt from x and y. `hdr`: only stops and
    /// relative errors mean something.
    Role role = Role::color;
    Transfer transfer = Transfer::srgb;  ///< of formats that do not say it
    /// With `straight`, colours in the roles `color` and `hdr` are weighed by the larger of the two
    /// alphas: what is transparent in both is invisible.
    AlphaMode alpha = AlphaMode::straight;
};

/// Compares two images of the same size in any formats; blocks are decoded. Fails with
/// `ErrorKind::usage` if the sizes differ.
[[nodiscard]] YL_API Result<ImageDifference> measure_difference(
    ConstImageView a, ConstImageView b, const DifferenceOptions& options = {});

/// Whether differences are in stops instead of codes, because both images hold light.
[[nodiscard]] YL_API bool counts_in_stops(ConstImageView a, ConstImageView b);

}  // namespace yl
