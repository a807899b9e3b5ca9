// Colours of profiles, primaries and code points, against matrices and curves worked out here.
#include <lcms2.h>

#include <Eigen/Dense>
#include <cmath>
#include <cstring>
#include <functional>
#include <yl/yl.hpp>

#include "codec/color_conversion.hpp"
#include "codec/png/chunks.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/profiles.hpp"
#include "support/psd_file.hpp"
#include "support/reference_exr.hpp"
#include "support/reference_jpeg.hpp"
#include "support/reference_tiff.hpp"

using namespace yl;
using support::contains;
using support::must;

namespace {

using Matrix = Eigen::Matrix3d;
using Vector = Eigen::Vector3d;
using Curve = std::function<double(double)>;

Vector xyz_of(double x, double y) {
    return {x / y, 1, (1 - x - y) / y};
}

/// Linear RGB to XYZ; `c` is white, red, green and blue as x and y.
Matrix to_xyz(const std::array<double, 8>& c) {
    Matrix primaries;
    primaries << xyz_of(c[2], c[3]), xyz_of(c[4], c[5]), xyz_of(c[6], c[7]);
    const Vector scale = primaries.inverse() * xyz_of(c[0], c[1]);
    return primaries * scale.asDiagonal();
}

/// Bradford's adaptation between two whites.
Matrix adaptation(const Vector& from, const Vector& to) {
    Matrix bradford;
    bradford << 0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296;
    const Vector ratio = (bradford * to).cwiseQuotient(bradford * from);
    return bradford.inverse() * ratio.asDiagonal() * bradford;
}

constexpr std::array<double, 8> srgb = {0.3127, 0.3290, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06};

std::array<double, 3> expected(const std::array<double, 8>& c, const Curve& curve,
                               const std::array<double, 3>& codes) {
    const Vector light(curve(codes[0]), curve(codes[1]), curve(codes[2]));
    const Vector xyz = adaptation(xyz_of(c[0], c[1]), xyz_of(srgb[0], srgb[1])) * to_xyz(c) * light;
    const Vector rgb = to_xyz(srgb).inverse() * xyz;
    std::array<double, 3> result = {};
    for (int i = 0; i < 3; ++i)
        result[static_cast<std::size_t>(i)] = srgb_encode(std::clamp(rgb[i], 0.0, 1.0));
    return result;
}

struct Space {
    const char* name;
    std::array<double, 8> chromaticities;
    double gamma;  ///< 0: the curve of sRGB
};

/// Wide, narrow, with other whites and curves.
const Space spaces[] = {
    {"gamma alone", srgb, 2.2},
    {"linear", srgb, 1},
    {"print", {0.3127, 0.3290, 0.64, 0.33, 0.21, 0.71, 0.15, 0.06}, 563 / 256.0},
    {"cinema", {0.3127, 0.3290, 0.68, 0.32, 0.265, 0.69, 0.15, 0.06}, 0},
    {"television", {0.3127, 0.3290, 0.708, 0.292, 0.17, 0.797, 0.131, 0.046}, 2.4},
    {"photographs", {0.3457, 0.3585, 0.7347, 0.2653, 0.1596, 0.8404, 0.0366, 0.0001}, 1.8},
    {"old television", {0.310, 0.316, 0.67, 0.33, 0.21, 0.71, 0.14, 0.08}, 2.2},
    {"narrow", {0.3127, 0.3290, 0.55, 0.34, 0.31, 0.52, 0.18, 0.12}, 1.4}};

Curve curve_of(double gamma) {
    if (gamma == 0)
        return [](double code) { return srgb_decode(code); };
    return [gamma](double code) { return std::pow(code, gamma); };
}

cmsToneCurve* tone_curve(double gamma) {
    const double numbers[] = {2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045};
    return gamma == 0 ? cmsBuildParametricToneCurve(nullptr, 4, numbers)
                      : cmsBuildGamma(nullptr, gamma);
}

std::vector<std::byte> profile_of(const Space& space, bool is_gray) {
    cmsToneCurve* curve = tone_curve(space.gamma);
    const auto& c = space.chromaticities;
    const cmsCIExyY white = {c[0], c[1], 1};
    const cmsCIExyYTRIPLE primaries = {{c[2], c[3], 1}, {c[4], c[5], 1}, {c[6], c[7], 1}};
    cmsToneCurve* const curves[] = {curve, curve, curve};
    const auto bytes =
        support::saved_profile(is_gray ? cmsCreateGrayProfile(cmsD50_xyY(), curve)
                                       : cmsCreateRGBProfile(&white, &primaries, curves));
    cmsFreeToneCurve(curve);
    return bytes;
}

Picture random_picture(Format format, unsigned seed) {
    Picture picture;
    picture.image = must(Image::create(format, 64, 48));
    support::Random random(seed);
    support::fill_random(picture.image.view(), random);
    return picture;
}

double code_at(const Picture& picture, std::uint32_t x, std::uint32_t y, std::size_t c) {
    const FormatInfo& f = info(picture.image.format());
    const std::byte* texel = &picture.image.view().row(y)[x * std::size_t{f.block_bytes}];
    if (f.channels[0].bits == 8)
        return std::to_integer<int>(texel[c]) / 255.0;
    std::uint16_t code = 0;
    std::memcpy(&code, texel + 2 * c, 2);
    return code / 65535.0;
}

/// In codes of 8 bits; alpha must not change at all.
double worst_code(const Picture& before, const Picture& after, const Space& space) {
    const std::size_t channels = info(before.image.format()).channel_count;
    const Curve curve = curve_of(space.gamma);
    double worst = 0;
    for (std::uint32_t y = 0; y < 48; ++y)
        for (std::uint32_t x = 0; x < 64; ++x) {
            std::array<double, 3> codes = {};
            for (std::size_t c = 0; c < 3; ++c)
                codes[c] = code_at(before, x, y, channels < 3 ? 0 : c);
            const auto wanted = channels < 3 ? std::array<double, 3>{srgb_encode(curve(codes[0]))}
                                             : expected(space.chromaticities, curve, codes);
            for (std::size_t c = 0; c < (channels < 3 ? 1U : 3U); ++c)
                worst = std::max(worst, 255 * std::abs(code_at(after, x, y, c) - wanted[c]));
            if (channels % 2 == 0)
                REQUIRE(code_at(before, x, y, channels - 1) == code_at(after, x, y, channels - 1));
        }
    return worst;
}

const Format formats[] = {Format::rgb8_srgb,    Format::rgba8_srgb, Format::rgb16_unorm,
                          Format::rgba16_unorm, Format::r8_srgb,    Format::rg8_unorm,
                          Format::r16_unorm,    Format::rg16_unorm};

}  // namespace

TEST_CASE("eight profiles in every plain format: within a code of what matrices and curves give") {
    for (const Space& space : spaces)
        for (const Format format : formats) {
            const bool is_gray = info(format).channel_count < 3;
            const auto profile = profile_of(space, is_gray);
            const Picture before = random_picture(format, 3);
            Picture after = random_picture(format, 3);
            must(convert_by_profile(after, profile));
            CAPTURE(std::string(space.name));
            CAPTURE(info(format).name);
            CHECK(worst_code(before, after, space) <=
                  (info(format).channels[0].bits == 8 ? 1.01 : 0.51));
        }
}

TEST_CASE("primaries and curves that are stated without a profile") {
    for (const Space& space : spaces) {
        const Picture before = random_picture(Format::rgba16_unorm, 5);
        Picture after = random_picture(Format::rgba16_unorm, 5);
        StatedColors colors = {space.chromaticities};
        colors.curve = space.gamma == 0 ? StatedColors::Curve::srgb : StatedColors::Curve::gamma;
        colors.gamma = space.gamma;
        must(convert_by_colors(after, colors));
        CAPTURE(std::string(space.name));
        CHECK(worst_code(before, after, space) <= 0.51);
    }
}

TEST_CASE("a gray picture with an RGB profile, and the other way round, go by the curve") {
    const Space space = spaces[0];
    const Picture gray = random_picture(Format::r16_unorm, 2);
    Picture converted = random_picture(Format::r16_unorm, 2);
    must(convert_by_profile(converted, profile_of(space, false)));
    CHECK(worst_code(gray, converted, space) <= 0.51);
    const Picture color = random_picture(Format::rgb16_unorm, 2);
    Picture color_converted = random_picture(Format::rgb16_unorm, 2);
    must(convert_by_profile(color_converted, profile_of(space, true)));
    CHECK(worst_code(color, color_converted, space) <= 0.51);
}

TEST_CASE("premultiplied colours are converted as those that they are of") {
    Picture straight = random_picture(Format::rgba16_unorm, 7);
    Picture before = random_picture(Format::rgba16_unorm, 7);
    must(premultiply(before.image.view(), Transfer::srgb));
    before.alpha = AlphaMode::premultiplied;
    const auto profile = profile_of(spaces[3], false);
    must(convert_by_profile(straight, profile));
    must(premultiply(straight.image.view(), Transfer::srgb));
    must(convert_by_profile(before, profile));
    double worst = 0;
    for (std::uint32_t y = 0; y < 48; ++y)
        for (std::uint32_t x = 0; x < 64; ++x)
            for (std::size_t c = 0; c < 4; ++c)
                if (code_at(straight, x, y, 3) > 0.05)
                    worst = std::max(
                        worst, std::abs(code_at(straight, x, y, c) - code_at(before, x, y, c)));
    CHECK(255 * worst <= 1);
}

TEST_CASE("a file's profile is applied, kept or ignored, and every way is said") {
    const auto profile = profile_of(spaces[3], false);
    const Picture stored = random_picture(Format::rgb8_srgb, 9);
    for (const char* ending : {"png", "tif"}) {
        const auto file = must(encode_picture(
            ending, stored.image.view(),
            {.transfer = {}, .color_profile = profile, .color_profile_name = "Cinema"}));
        CAPTURE(ending);
        const Picture applied = must(read_picture(file));
        CHECK(worst_code(stored, applied, spaces[3]) <= 1.01);
        CHECK(applied.transfer == Transfer::srgb);
        CHECK(applied.info.color_profile.empty());
        // A PNG names its profile; a TIFF leaves that to the profile's own description.
        const char* name = std::string(ending) == "png" ? "'Cinema'" : "'RGB built-in'";
        CHECK(contains(applied.info.applied_profile, name));
        CHECK(contains(applied.info.remarks.at(0), "converted to sRGB"));
        const Picture kept = must(read_picture(file, {.profile = ProfileUse::keep}));
        CHECK(support::equal_pixels(support::view_of(kept.image), support::view_of(stored.image)));
        CHECK(kept.info.color_profile == profile);
        CHECK(contains(kept.info.remarks.at(0), "was kept"));
        const Picture ignored = must(read_picture(file, {.profile = ProfileUse::ignore}));
        CHECK(
            support::equal_pixels(support::view_of(ignored.image), support::view_of(stored.image)));
        CHECK(ignored.info.color_profile.empty());
        CHECK(contains(ignored.info.remarks.at(0), "was ignored"));
        // Numbers that are not colours have no profile to apply.
        const Picture data = must(read_picture(file, {.role = Role::data}));
        const Picture as_stored =
            must(read_picture(file, {.role = Role::data, .profile = ProfileUse::keep}));
        CHECK(
            support::equal_pixels(support::view_of(data.image), support::view_of(as_stored.image)));
    }
}

TEST_CASE("a PNG's code points are converted as their primaries and curves say") {
    const Picture stored = random_picture(Format::rgb16_unorm, 4);
    const auto file = must(encode_picture("png", stored.image.view(), {.transfer = {}}));
    const std::size_t header_end = 8 + 25;
    const auto read_with = [&](std::uint8_t primaries, std::uint8_t transfer) {
        ByteWriter writer;
        writer.append(std::span(file).first(header_end));
        const std::array<std::byte, 4> points = {std::byte(primaries), std::byte(transfer),
                                                 std::byte{0}, std::byte{1}};
        png::write_chunk(writer, png::chunk_type("cICP"), points);
        writer.append(std::span(file).subspan(header_end));
        return must(read_picture(writer.release()));
    };
    const Space wide = {"BT.2020", {0.3127, 0.3290, 0.708, 0.292, 0.17, 0.797, 0.131, 0.046}, 2.2};
    CHECK(worst_code(stored, read_with(9, 4), wide) <= 0.51);
    const Space cinema = {"Display P3", {0.3127, 0.3290, 0.68, 0.32, 0.265, 0.69, 0.15, 0.06}, 0};
    CHECK(worst_code(stored, read_with(12, 13), cinema) <= 0.51);
    const Space linear = {"linear BT.2020", wide.chromaticities, 1};
    CHECK(worst_code(stored, read_with(9, 8), linear) <= 0.51);
    // Both as they are here: nothing is converted. High dynamic range: nothing can be.
    for (const auto& [primaries, transfer] : {std::pair{1, 13}, {9, 16}, {200, 13}}) {
        const Picture kept =
            read_with(static_cast<std::uint8_t>(primaries), static_cast<std::uint8_t>(transfer));
        CHECK(support::bytes_of(kept.image.view()) == support::bytes_of(stored.image.view()));
        CHECK(kept.info.applied_profile.empty());
    }
}

TEST_CASE("damaged profiles, and those of other colours, leave the picture as it is") {
    auto profile = profile_of(spaces[3], false);
    Picture picture = random_picture(Format::rgb8_srgb, 1);
    const Picture before = random_picture(Format::rgb8_srgb, 1);
    const Status cut = convert_by_profile(picture, std::span(profile).first(60));
    REQUIRE_FALSE(cut.has_value());
    CHECK(cut.error().kind == ErrorKind::unsupported);
    support::Random random(1);
    for (int i = 0; i < 3000; ++i) {
        auto damaged = profile;
        for (int hits = 0; hits < 4; ++hits)
            damaged[random() % damaged.size()] = std::byte(random());
        Picture other = random_picture(Format::rgb8_srgb, 1);
        const Status status = convert_by_profile(other, damaged);
        if (!status)
            CHECK(status.error().kind == ErrorKind::unsupported);
    }
    CHECK(support::equal_pixels(support::view_of(picture.image), support::view_of(before.image)));
    std::memcpy(profile.data() + 16, "CMYK", 4);
    CHECK_FALSE(convert_by_profile(picture, profile).has_value());
}

namespace {

/// A TIFF of the picture's codes, which states the space.
std::vector<std::byte> tiff_of(const Picture& picture, const Space& space, bool has_table) {
    const FormatInfo& f = info(picture.image.format());
    support::TiffKind kind{.width = 64,
                           .height = 48,
                           .channels = f.channel_count,
                           .bits = f.channels[0].bits,
                           .photometric = static_cast<std::uint16_t>(f.channel_count < 3 ? 1 : 2)};
    const auto& c = space.chromaticities;
    for (std::size_t i = 0; i < 8; ++i)
        (i < 2 ? kind.white : kind.primaries).push_back(static_cast<float>(c[i]));
    const std::size_t entries = std::size_t{1} << kind.bits;
    const Curve curve = curve_of(space.gamma);
    for (std::size_t channel = 0; has_table && channel < (f.channel_count < 3 ? 1U : 3U);
         ++channel) {
        auto& table = kind.transfer.emplace_back();
        for (std::size_t i = 0; i < entries; ++i)
            table.push_back(static_cast<std::uint16_t>(std::lround(
                65535 * curve(static_cast<double>(i) / static_cast<double>(entries - 1)))));
    }
    std::vector<std::uint64_t> samples;
    const double most = static_cast<double>(entries - 1);
    for (std::uint32_t y = 0; y < 48; ++y)
        for (std::uint32_t x = 0; x < 64; ++x)
            for (std::size_t i = 0; i < f.channel_count; ++i)
                samples.push_back(
                    static_cast<std::uint64_t>(std::lround(code_at(picture, x, y, i) * most)));
    return support::reference_tiff(kind, samples);
}

}  // namespace

TEST_CASE("a TIFF's white, primaries and transfer function are applied") {
    for (const Space& space : spaces)
        for (const Format format :
             {Format::rgb8_srgb, Format::rgb16_unorm, Format::r8_srgb, Format::r16_unorm})
            for (const bool has_table : {false, true}) {
                if (!has_table && info(format).channel_count < 3)
                    continue;
                CAPTURE(std::string(space.name));
                CAPTURE(info(format).name);
                CAPTURE(has_table);
                const Picture stored = random_picture(format, 13);
                const auto file = tiff_of(stored, space, has_table);
                const Picture read = must(read_picture(file));
                const Space stated = {space.name, space.chromaticities,
                                      has_table ? space.gamma : 0};
                CHECK(worst_code(stored, read, stated) <=
                      (info(format).channels[0].bits == 8 ? 1.01 : 0.51));
                const bool says_more = has_table || space.chromaticities != srgb;
                CHECK(read.info.applied_profile.empty() != says_more);
                const Picture kept = must(read_picture(file, {.profile = ProfileUse::keep}));
                CHECK(kept.info.unapplied.empty() != says_more);
                const Picture data = must(read_picture(file, {.role = Role::data}));
                CHECK(support::bytes_of(data.image.view()) == support::bytes_of(kept.image.view()));
                CHECK(data.info.unapplied.empty());
            }
}

TEST_CASE("an OpenEXR's chromaticities are applied to light") {
    for (const Space& space : spaces) {
        CAPTURE(std::string(space.name));
        const auto& c = space.chromaticities;
        support::ReferenceExr kind{.channels = "RGB", .type = 2};
        for (const std::size_t i : {2U, 3U, 4U, 5U, 6U, 7U, 0U, 1U})
            kind.chromaticities.push_back(static_cast<float>(c[i]));
        const auto file = support::write_reference_exr(kind);
        const Picture read = must(read_picture(file, {.role = Role::hdr}));
        const Matrix matrix = to_xyz(srgb).inverse() *
                              adaptation(xyz_of(c[0], c[1]), xyz_of(srgb[0], srgb[1])) * to_xyz(c);
        const bool is_other = c != srgb;
        CHECK(read.info.applied_profile.empty() != is_other);
        double worst = 0;
        for (std::uint32_t y = 0; y < 7; ++y)
            for (std::uint32_t x = 0; x < 10; ++x) {
                const auto value = [&](char channel) {
                    return double{
                        support::exr_value(channel, static_cast<int>(x), static_cast<int>(y))};
                };
                const Vector stored(value('R'), value('G'), value('B'));
                const Vector wanted = is_other ? Vector(matrix * stored) : stored;
                for (int i = 0; i < 3; ++i) {
                    float got = 0;
                    std::memcpy(&got, read.image.view().row(y).data() + x * 12 + 4 * i, 4);
                    worst = std::max(
                        worst, std::abs(double{got} - wanted[i]) / std::max(wanted.norm(), 1.0));
                }
            }
        CHECK(worst < 2e-3);
        const Picture data = must(read_picture(file, {.role = Role::data}));
        CHECK(data.info.unapplied.empty());
        CHECK(data.info.applied_profile.empty());
    }
}

TEST_CASE("inks are converted by their profile: TIFF, PSD, and what is read row by row") {
    const auto profile = support::ink_profile(18);  // every 15th code hits a node
    cmsHPROFILE from =
        cmsOpenProfileFromMem(profile.data(), static_cast<cmsUInt32Number>(profile.size()));
    cmsHPROFILE to = cmsCreate_sRGBProfile();
    cmsHTRANSFORM transform =
        cmsCreateTransform(from, TYPE_CMYK_DBL, to, TYPE_RGB_DBL, INTENT_RELATIVE_COLORIMETRIC,
                           cmsFLAGS_BLACKPOINTCOMPENSATION | cmsFLAGS_NOOPTIMIZE);
    REQUIRE(transform != nullptr);
    support::Random random(3);
    support::TiffKind kind{.width = 40,
                           .height = 90,
                           .channels = 4,
                           .photometric = 5,
                           .compression = 8,
                           .profile = profile};
    std::vector<std::uint64_t> samples(std::size_t{40} * 90 * 4);
    for (std::uint64_t& sample : samples)
        sample = random() % 18 * 15;
    const auto file = support::reference_tiff(kind, samples);
    const Picture read = must(read_picture(file));
    CHECK(contains(read.info.applied_profile, "profile"));
    double worst = 0;
    for (std::uint32_t i = 0; i < samples.size(); i += 4) {
        double ink[4] = {}, rgb[3] = {};
        for (std::size_t c = 0; c < 4; ++c)
            ink[c] = static_cast<double>(samples[i + c]) / 2.55;
        cmsDoTransform(transform, ink, rgb, 1);
        for (std::size_t c = 0; c < 3; ++c)
            worst = std::max(worst, std::abs(255 * code_at(read, i / 4 % 40, i / 160, c) -
                                             255 * std::clamp(rgb[c], 0.0, 1.0)));
    }
    CHECK(worst <= 1);
    cmsDeleteTransform(transform);
    cmsCloseProfile(from);
    cmsCloseProfile(to);

    const support::TemporaryFolder folder;
    support::write_bytes(folder.path("inks.tif"), file);
    PictureRows rows = must(PictureRows::open(folder.path("inks.tif")));
    CHECK(rows.flows());
    Image image = must(Image::create(rows.format(), 40, 90));
    must(rows.read(image.view()));
    CHECK(support::equal_pixels(support::view_of(image), support::view_of(read.image)));

    // PSD files hold the light that inks leave, channel by channel.
    std::vector<std::uint32_t> planes;
    for (std::size_t c = 0; c < 4; ++c)
        for (std::size_t i = c; i < samples.size(); i += 4)
            planes.push_back(static_cast<std::uint32_t>(255 - samples[i]));
    const Picture psd = must(read_picture(support::psd_file(
        {.width = 40, .height = 90, .channels = 4, .mode = 4, .profile = profile}, planes)));
    CHECK(support::equal_pixels(support::view_of(psd.image), support::view_of(read.image)));
    CHECK(psd.info.applied_profile == read.info.applied_profile);

    // As data and where profiles are kept, inks are mixed without one, and that is said.
    for (const ReadOptions& options :
         {ReadOptions{.role = Role::data}, ReadOptions{.profile = ProfileUse::keep}}) {
        const Picture plain = must(read_picture(file, options));
        CHECK(plain.info.applied_profile.empty());
        CHECK(contains(plain.info.remarks.at(0), "without a colour profile"));
    }
    kind.profile.resize(200);
    const Picture damaged = must(read_picture(support::reference_tiff(kind, samples)));
    CHECK(damaged.info.applied_profile.empty());
}

TEST_CASE("a JPEG's inks are converted by its profile: plain, YCCK, progressive, widened") {
    const auto profile = support::ink_profile(18);  // every 15th code hits a node
    for (const bool convert : {false, true})
        for (const bool progressive : {false, true}) {
            CAPTURE(convert);
            CAPTURE(progressive);
            support::ReferenceJpeg kind{.width = 75,
                                        .height = 50,
                                        .components = 4,
                                        .convert = convert,
                                        .progressive = progressive,
                                        .amplitude = 60,
                                        .profile = profile};
            const auto file = support::write_reference_jpeg(kind);
            const Picture read = must(read_picture(file));
            CHECK(contains(read.info.applied_profile, "profile"));
            CHECK(read.info.remarks == std::vector{read.info.transfer_reason});
            CHECK(read.info.file_channels == 3);  // inks are no alpha
            CHECK(read.info.color_profile.empty());
            // The same inks, as the reference decodes them, in a TIFF.
            std::vector<std::uint64_t> inks;
            for (const int sample : support::read_reference_jpeg(file))
                inks.push_back(static_cast<std::uint64_t>(255 - sample));
            const Picture expected = must(read_picture(support::reference_tiff(
                {.width = 75, .height = 50, .channels = 4, .photometric = 5, .profile = profile},
                inks)));
            double worst = 0, sum = 0;
            for (std::uint32_t y = 0; y < 50; ++y)
                for (std::uint32_t x = 0; x < 75; ++x)
                    for (std::size_t c = 0; c < 3; ++c) {
                        const double difference =
                            255 * std::abs(code_at(read, x, y, c) - code_at(expected, x, y, c));
                        worst = std::max(worst, difference);
                        sum += difference;
                    }
            CHECK(worst <= 2);
            CHECK(sum / (75 * 50 * 3) <= 0.1);

            const Picture wide = must(read_picture(file, {.widen_to_rgba = true}));
            CHECK(wide.image.format() == Format::rgba8_srgb);
            CHECK(code_at(wide, 70, 9, 1) == code_at(read, 70, 9, 1));
            CHECK(code_at(wide, 70, 9, 3) == 1);
            const Picture kept = must(read_picture(file, {.profile = ProfileUse::keep}));
            CHECK(contains(kept.info.remarks.at(0), "without a colour profile"));
            CHECK(kept.info.color_profile.empty());  // it is none of the pixels' colours
            kind.profile.resize(200);
            const Picture damaged = must(read_picture(support::write_reference_jpeg(kind)));
            CHECK(damaged.info.applied_profile.empty());
            CHECK(support::equal_pixels(damaged.image.view(), kept.image.view()));
        }
}
