#include "codec/color_conversion.hpp"

#include <fmt/format.h>
#include <lcms2.h>

#include <atomic>
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
    Transform(cmsContext context, const Profile& from, const Profile& to, cmsUInt32Number type)
        : transform_(cmsCreateTransformTHR(context, from.get(), type, to.get(), type,
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

    void run(ImageView image) const {
        const FormatInfo& f = info(image.format);
        const bool is_wide = f.channels[0].bits == 16, is_single = f.channels[0].bits == 32;
        constexpr std::size_t rows_at_least = 16;
        parallel_ranges(image.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
            for (std::size_t y = begin; y < end; ++y) {
                const auto row = image.row(static_cast<std::uint32_t>(y));
                const auto swap = [&] {
                    if (is_wide)
                        swap_unless_little<std::uint16_t>(row);
                    if (is_single)
                        swap_unless_little<std::uint32_t>(row);
                };
                swap();
                cmsDoTransform(transform_, row.data(), row.data(), image.width);
                swap();
            }
        });
    }

 private:
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

Curve curve_of(cmsContext context, const StatedColors& colors) {
    const double bt709_numbers[] = {1 / 0.45, 1 / 1.099, 0.099 / 1.099, 1 / 4.5, 0.081};
    switch (colors.curve) {
        case StatedColors::Curve::srgb:
            return srgb_curve(context);
        case StatedColors::Curve::bt709:
            return Curve(cmsBuildParametricToneCurve(context, 4, bt709_numbers));
        case StatedColors::Curve::gamma:
            return Curve(cmsBuildGamma(context, colors.gamma));
    }
    return nullptr;
}

/// An RGB profile whose channels share a curve.
Profile rgb_profile(cmsContext context, const cmsCIExyY& white, const cmsCIExyYTRIPLE& primaries,
                    cmsToneCurve* curve) {
    cmsToneCurve* const curves[] = {curve, curve, curve};
    return Profile(cmsCreateRGBProfileTHR(context, &white, &primaries, curves));
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
    const Transform transform(context, from, to, pixel_type(*plain));
    if (!from || !to || !transform.is_made())
        return fail(ErrorKind::unsupported, "the profile is not understood");
    const bool is_premultiplied = picture.alpha == AlphaMode::premultiplied && plain->channels == 4;
    if (is_premultiplied)
        YL_CHECK(unpremultiply(picture.image.view(), picture.transfer));
    transform.run(picture.image.view());
    return is_premultiplied ? premultiply(picture.image.view(), picture.transfer) : Status{};
}

}  // namespace

Status convert_by_profile(Picture& picture, ByteSpan bytes) {
    const Context context;
    Profile profile(cmsOpenProfileFromMemTHR(context, bytes.data(),
                                             static_cast<cmsUInt32Number>(bytes.size())));
    if (!profile)
        return fail(ErrorKind::unsupported, "the profile is damaged");
    const auto space = cmsGetColorSpace(profile.get());
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
    const Curve curve = curve_of(context, colors);
    if (!curve)
        return fail(ErrorKind::unsupported, "its curve is not understood");
    const auto& c = colors.chromaticities;
    const cmsCIExyY white = {c[0], c[1], 1};
    const cmsCIExyYTRIPLE primaries = {{c[2], c[3], 1}, {c[4], c[5], 1}, {c[6], c[7], 1}};
    const bool is_gray = info(picture.image.format()).channel_count < 3;
    const Profile from = is_gray ? gray_profile(context, curve.get())
                                 : rgb_profile(context, white, primaries, curve.get());
    if (!from)
        return fail(ErrorKind::unsupported, "its primaries make no space of colours");
    return convert_from(picture, context, from);
}

bool converts_colors(const Picture& picture, const ReadOptions& options) {
    return options.profile == ProfileUse::apply && !options.transfer &&
           info(options.role).transfer == Transfer::srgb && picture.image.width() > 0;
}

void note_conversion(PictureInfo& info, const std::string& from) {
    info.applied_profile = from;
    info.unapplied.clear();
    info.leaves_transfer_open = false;
    info.transfer_reason = fmt::format("colours were converted to sRGB from {}", from);
    info.remarks.push_back(info.transfer_reason);
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
