// How far two pictures are apart.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Differences of 8-bit pictures, in code values.
struct PictureDifference {
    std::uint64_t pixels = 0;
    std::uint64_t pixels_beyond = 0;  ///< with a channel that is off by more than the tolerance
    int greatest = 0;
    std::uint32_t worst_x = 0;  ///< where the greatest difference is
    std::uint32_t worst_y = 0;
    double mean = 0;  ///< over all channels

    /// Share of the pixels within the tolerance, 0 .. 1.
    [[nodiscard]] double share_within() const {
        return pixels == 0 ? 1.0
                           : 1.0 - static_cast<double>(pixels_beyond) / static_cast<double>(pixels);
    }
};

/// Compares two images of the same size and the same 8-bit format, byte by byte. Fails with
/// `ErrorKind::usage` when they are not.
[[nodiscard]] Result<PictureDifference> compare_pictures(ConstImageView a, ConstImageView b,
                                                         int tolerance);

/// How far an image is from another one. PSNR is 10 log10 (1 / mean square) with 1 as the whole
/// range, in dB; infinite where nothing differs. Light has no whole range: of floating point all
/// PSNR are `no_psnr`, and the stops and the relative error count.
struct ImageDifference {
    static constexpr double no_psnr = std::numeric_limits<double>::quiet_NaN();

    /// That are compared: those that either one has, but no alpha that is 1 everywhere in both.
    std::uint32_t channels = 0;
    std::array<double, 4> channel_psnr = {};  ///< of code values, by channel
    double psnr = 0;                          ///< of code values, all channels together
    double linear_psnr = 0;                   ///< of linear light, all channels together
    double ssim = 1;                          ///< of luminance (Wang et al. 2004), 1: the same
    double greatest = 0;                      ///< codes of 8 bits; or stops, of light
    std::uint32_t worst_x = 0, worst_y = 0;   ///< where that is
    std::optional<double> mean_angle = {};    ///< degrees, of normals
    std::optional<double> greatest_angle = {};
    std::optional<double> log_error = {};  ///< root of the mean square in stops, of light
    /// Of light: the sum of all differences over the sum of the first image's light.
    std::optional<double> relative_error = {};
    /// Texels whose colours differ though nobody sees it: alpha weighs colour and is 0 in both.
    std::uint64_t hidden_texels = 0;
};

struct DifferenceOptions {
    /// `normal`: angles are measured; z follows from x and y where an image has no third channel.
    /// `hdr`: stops are measured, and nothing else has a meaning.
    Role role = Role::color;
    Transfer transfer = Transfer::srgb;  ///< of formats that do not say it
    /// `straight`: in the roles `color` and `hdr` the colour of a pixel counts by its alpha, the
    /// greater one of both: nobody sees what is transparent in either.
    AlphaMode alpha = AlphaMode::straight;
};

/// Compares two images of the same size, of any formats; those of blocks are decoded. Fails with
/// `ErrorKind::usage` when the sizes differ.
[[nodiscard]] Result<ImageDifference> measure_difference(ConstImageView a, ConstImageView b,
                                                         const DifferenceOptions& options = {});

/// Whether the measure counts in stops instead of codes: both images hold light.
[[nodiscard]] bool counts_in_stops(ConstImageView a, ConstImageView b);

/// The difference of each pixel as a colour, from dark (none) by green and yellow to white
/// (`full` or more codes, or stops), with a legend below. Gives `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_difference(ConstImageView a, ConstImageView b, double full,
                                            const DifferenceOptions& options = {});

}  // namespace yl
