#include "codec/color_conversion.hpp"

#include <fmt/format.h>
#include <lcms2.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include <yl/edit.hpp>
#include <yl/status_macros.hpp>
#include "base/parallel.hpp"
#include "codec/profile.hpp"

namespace yl {
namespace {

struct Closer {
    void operator()(void* handle) const { cmsCloseProfile(handle); }
};
struct CurveFreer {
    void operator()(cmsToneCurve* curve) const { cmsFreeToneCurve(curve); }
};
using Profile = std::unique_ptr<void, Closer>;
using Curve = std::unique_ptr<cmsToneCurve, CurveFreer>;

/// A context of its own for each call, so that nothing is shared between threads.
class Context {
 public:
    Context() : context_(cmsCreateContext(nullptr, nullptr)) {}
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;
    ~Context() { cmsDeleteContext(context_); }

    operator cmsContext() const { return context_; }

 private:
    cmsContext context_;
};

class Transform {
 public:
    Transform(cmsContext context, const Profile& from, cmsUInt32Number from_type, const Profile& to,
              cmsUInt32Number to_type)
        : transform_(cmsCreateTransformTHR(context, from.get(), from_type, to.get(), to_type,
                                           INTENT_RELATIVE_COLORIMETRIC,
                                           cmsFLAGS_BLACKPOINTCOMPENSATION | cmsFLAGS_COPY_ALPHA |
                                               cmsFLAGS_NOCACHE | cmsFLAGS_NOOPTIMIZE)) {}
    Transform(const Transform&) = delete;
    Transform& operator=(const Transform&) = delete;
    ~Transform() {
        if (transform_ != nullptr)
            cmsDeleteTransform(transform_);
    }

    [[nodiscard]] bool is_made() const { return transform_ != nullptr; }

    /// Both images may be one.
    void run(ConstImageView source, ImageView target) const {
        constexpr std::size_t rows_at_least = 16;
        parallel_ranges(source.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
            std::vector<std::byte> own(source.row_bytes());
            for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
                std::ranges::copy(source.row(y), own.begin());
                const auto row = target.row(y);
                swap(own, source.format);
                cmsDoTransform(transform_, own.data(), row.data(), source.width);
                swap(row, target.format);
            }
        });
    }

 private:
    static void swap(std::span<std::byte> row, Format format) {
        const std::uint32_t bits = info(format).channels[0].bits;
        if (bits == 16)
            swap_unless_little<std::uint16_t>(row);
        if (bits == 32)
            swap_unless_little<std::uint32_t>(row);
    }

    cmsHTRANSFORM transform_;
};

/// Pixels as Little CMS counts them.
cmsUInt32Number pixel_type(const PlainChannels& plain) {
    const bool is_gray = plain.channels < 3;
    const std::uint32_t extra = plain.channels % 2 == 0 ? 1 : 0;
    return FLOAT_SH(plain.is_float ? 1U : 0U) |
           COLORSPACE_SH(static_cast<unsigned>(is_gray ? PT_GRAY : PT_RGB)) | EXTRA_SH(extra) |
           CHANNELS_SH(plain.channels - extra) | BYTES_SH(plain.bits / 8);
}

constexpr cmsCIExyY d65 = {0.3127, 0.3290, 1};
constexpr cmsCIExyYTRIPLE bt709 = {{0.64, 0.33, 1}, {0.30, 0.60, 1}, {0.15, 0.06, 1}};

Curve srgb_curve(cmsContext context) {
    const double numbers[] = {2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045};
    return Curve(cmsBuildParametricToneCurve(context, 4, numbers));
}

/// Of red, green or blue.
Curve curve_of(cmsContext context, const StatedColors& colors, std::size_t channel) {
    const double bt709_numbers[] = {1 / 0.45, 1 / 1.099, 0.099 / 1.099, 1 / 4.5, 0.081};
    switch (colors.curve) {
        case StatedColors::Curve::srgb:
            return srgb_curve(context);
        case StatedColors::Curve::bt709:
            return Curve(cmsBuildParametricToneCurve(context, 4, bt709_numbers));
        case StatedColors::Curve::gamma:
            return Curve(cmsBuildGamma(context, colors.gamma));
        case StatedColors::Curve::table: {
            const auto& table = colors.tables[std::min(channel, colors.tables.size() - 1)];
            return Curve(cmsBuildTabulatedToneCurve16(
                context, static_cast<cmsUInt32Number>(table.size()), table.data()));
        }
    }
    return nullptr;
}

Profile rgb_profile(cmsContext context, const cmsCIExyY& white, const cmsCIExyYTRIPLE& primaries,
                    const std::array<cmsToneCurve*, 3>& curves) {
    return Profile(cmsCreateRGBProfileTHR(context, &white, &primaries, curves.data()));
}

/// An RGB profile whose channels share a curve.
Profile rgb_profile(cmsContext context, const cmsCIExyY& white, const cmsCIExyYTRIPLE& primaries,
                    cmsToneCurve* curve) {
    return rgb_profile(context, white, primaries, std::array{curve, curve, curve});
}

Profile gray_profile(cmsContext context, const cmsToneCurve* curve) {
    return Profile(cmsCreateGrayProfileTHR(context, cmsD50_xyY(), curve));
}

/// The profile for pixels of another kind: gray with the curve of an RGB profile's red, and RGB with
/// the curve of a gray one. Nothing where there is no such curve.
Profile of_other_kind(cmsContext context, const Profile& profile, bool to_gray) {
    const auto* curve = static_cast<const cmsToneCurve*>(
        cmsReadTag(profile.get(), to_gray ? cmsSigRedTRCTag : cmsSigGrayTRCTag));
    if (curve == nullptr)
        return nullptr;
    if (to_gray)
        return gray_profile(context, curve);
    const Curve copy(cmsDupToneCurve(curve));
    return copy ? rgb_profile(context, d65, bt709, copy.get()) : nullptr;
}

Status convert_from(Picture& picture, const Context& context, const Profile& from) {
    const auto plain = plain_channels(picture.image.format());
    const Curve curve = srgb_curve(context);
    if (!plain || !curve)
        return fail(ErrorKind::unsupported, "its pixels are packed");
    const bool is_gray = plain->channels < 3;
    const Curve light(cmsBuildGamma(context, 1));
    cmsToneCurve* target_curve = plain->is_float ? light.get() : curve.get();
    const Profile to = is_gray ? gray_profile(context, target_curve)
                               : rgb_profile(context, d65, bt709, target_curve);
    const cmsUInt32Number type = pixel_type(*plain);
    const Transform transform(context, from, type, to, type);
    if (!from || !to || !transform.is_made())
        return fail(ErrorKind::unsupported, "the profile is not understood");
    const bool is_premultiplied = picture.alpha == AlphaMode::premultiplied && plain->channels == 4;
    if (is_premultiplied)
        YL_CHECK(unpremultiply(picture.image.view(), picture.transfer));
    transform.run(std::as_const(picture.image).view(), picture.image.view());
    return is_premultiplied ? premultiply(picture.image.view(), picture.transfer) : Status{};
}

/// Whether profiles are applied to pictures of the options' role.
bool applies_profiles(const ReadOptions& options) {
    return options.profile == ProfileUse::apply && !options.transfer &&
           info(options.role).transfer == Transfer::srgb;
}

Profile open_profile(cmsContext context, ByteSpan bytes) {
    return Profile(cmsOpenProfileFromMemTHR(context, bytes.data(),
                                            static_cast<cmsUInt32Number>(bytes.size())));
}

}  // namespace

Status convert_by_profile(Picture& picture, ByteSpan bytes) {
    const Context context;
    Profile profile = open_profile(context, bytes);
    if (!profile)
        return fail(ErrorKind::unsupported, "the profile is damaged");
    // Of a damaged profile it may be no value of its type.
    const auto space = static_cast<cmsUInt32Number>(cmsGetColorSpace(profile.get()));
    if (space != cmsSigRgbData && space != cmsSigGrayData)
        return fail(ErrorKind::unsupported, "the profile is of no RGB colours and of no gray");
    const bool is_gray = info(picture.image.format()).channel_count < 3;
    if (is_gray != (space == cmsSigGrayData))
        profile = of_other_kind(context, profile, is_gray);
    if (!profile)
        return fail(ErrorKind::unsupported, "the profile is of another number of channels");
    return convert_from(picture, context, profile);
}

Status convert_by_colors(Picture& picture, const StatedColors& colors) {
    const Context context;
    const Curve curves[] = {curve_of(context, colors, 0), curve_of(context, colors, 1),
                            curve_of(context, colors, 2)};
    for (const Curve& curve : curves)
        if (!curve)
            return fail(ErrorKind::unsupported, "its curve is not understood");
    const auto& c = colors.chromaticities;
    const cmsCIExyY white = {c[0], c[1], 1};
    const cmsCIExyYTRIPLE primaries = {{c[2], c[3], 1}, {c[4], c[5], 1}, {c[6], c[7], 1}};
    const bool is_gray = info(picture.image.format()).channel_count < 3;
    const Profile from =
        is_gray ? gray_profile(context, curves[0].get())
                : rgb_profile(context, white, primaries,
                              std::array{curves[0].get(), curves[1].get(), curves[2].get()});
    if (!from)
        return fail(ErrorKind::unsupported, "its primaries make no space of colours");
    return convert_from(picture, context, from);
}

bool has_srgb_primaries(const std::array<double, 8>& chromaticities) {
    constexpr double slack = 0.005;  // files round to two or three places
    const StatedColors srgb;
    for (std::size_t i = 0; i < chromaticities.size(); ++i)
        if (!(std::abs(chromaticities[i] - srgb.chromaticities[i]) <= slack))
            return false;
    return true;
}

Status settle_stated(Picture& picture, const StatedColors& colors, const std::string& said,
                     const ReadOptions& options) {
    if (converts_colors(picture, options)) {
        const Status status = convert_by_colors(picture, colors);
        if (status) {
            if (!info(picture.image.format()).is_float())
                picture.transfer = Transfer::srgb;
            note_conversion(picture.info, said);
            return {};
        }
        if (status.error().kind != ErrorKind::unsupported)
            return status;
    }
    picture.info.remarks.push_back(
        fmt::format("{}: not applied; colours were taken as {}", said,
                    picture.transfer == Transfer::srgb ? "sRGB" : "linear, of BT.709"));
    return {};
}

namespace {

/// From inks of so many bytes each; not made where the profile is not understood.
Transform ink_transform(const Context& context, const Profile& from, std::uint32_t bytes) {
    const Curve curve = srgb_curve(context);
    const Profile to = curve ? rgb_profile(context, d65, bt709, curve.get()) : nullptr;
    return {context, from,
            COLORSPACE_SH(static_cast<unsigned>(PT_CMYK)) | CHANNELS_SH(4U) | BYTES_SH(bytes), to,
            COLORSPACE_SH(static_cast<unsigned>(PT_RGB)) | CHANNELS_SH(3U) | BYTES_SH(bytes)};
}

}  // namespace

bool applies_ink_profile(ByteSpan bytes, const ReadOptions& options) {
    if (bytes.empty() || !applies_profiles(options))
        return false;
    const Context context;
    const Profile profile = open_profile(context, bytes);
    return profile && cmsGetColorSpace(profile.get()) == cmsSigCmykData &&
           ink_transform(context, profile, 1).is_made();
}

Status convert_inks(ConstImageView inks, ByteSpan bytes, ImageView light) {
    const Context context;
    const Profile from = open_profile(context, bytes);
    if (!from)
        return fail(ErrorKind::unsupported, "the profile is damaged");
    const Transform transform =
        ink_transform(context, from, info(inks.format).channels[0].bits / 8U);
    if (!transform.is_made())
        return fail(ErrorKind::unsupported, "the profile is not understood");
    transform.run(inks, light);
    return {};
}

bool converts_colors(const Picture& picture, const ReadOptions& options) {
    return applies_profiles(options) && picture.image.width() > 0;
}

void note_conversion(PictureInfo& info, const std::string& from) {
    info.applied_profile = from;
    info.unapplied.clear();
    info.leaves_transfer_open = false;
    info.transfer_reason = fmt::format("colours were converted to sRGB from {}", from);
    info.remarks.push_back(info.transfer_reason);
}

void describe_inks(PictureInfo& info, ByteSpan profile, bool by_profile) {
    if (by_profile)
        note_conversion(info, fmt::format("the colour profile '{}'", profile_description(profile)));
    else
        info.remarks.emplace_back("CMYK inks were converted to RGB without a colour profile");
}

Status settle_profile(Picture& picture, const ReadOptions& options) {
    PictureInfo& info = picture.info;
    if (info.color_profile.empty() || is_srgb_profile(info.color_profile))
        return {};
    const std::string named = fmt::format("the colour profile '{}'", info.color_profile_name);
    if (converts_colors(picture, options)) {
        const Status status = convert_by_profile(picture, info.color_profile);
        if (status) {
            note_conversion(info, named);
            info.color_profile.clear();
            info.color_profile_name.clear();
            return {};
        }
        if (status.error().kind != ErrorKind::unsupported)
            return status;
        info.remarks.push_back(
            fmt::format("{} was kept, not applied ({}); colours were taken as sRGB", named,
                        status.error().message));
        return {};
    }
    const bool is_ignored = options.profile == ProfileUse::ignore;
    info.remarks.push_back(fmt::format("{} was {}, not applied; colours were taken as sRGB", named,
                                       is_ignored ? "ignored" : "kept"));
    if (is_ignored) {
        info.color_profile.clear();
        info.color_profile_name.clear();
    }
    return {};
}

}  // namespace yl
