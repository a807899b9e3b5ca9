#include "codec/profile.hpp"

#include <fmt/format.h>

#include <cmath>
#include <optional>

#include <yl/format.hpp>
#include "base/text.hpp"

namespace yl {
namespace {

constexpr std::size_t header_bytes = 128;
constexpr std::size_t tag_entry_bytes = 12;
constexpr std::uint32_t most_tags = 200;

constexpr std::uint32_t signature(const char (&name)[5]) {
    std::uint32_t value = 0;
    for (int i = 0; i < 4; ++i)
        value = value << 8 | static_cast<std::uint8_t>(name[i]);
    return value;
}

/// Big-endian numbers of a profile; beyond its end they are 0.
class ProfileReader {
 public:
    explicit ProfileReader(ByteSpan bytes) : bytes_(bytes) {}

    template <std::unsigned_integral T>
    [[nodiscard]] T at(std::size_t offset) const {
        const bool is_there = offset <= bytes_.size() && sizeof(T) <= bytes_.size() - offset;
        return is_there ? load<T, std::endian::big>(bytes_.data() + offset) : T{0};
    }
    /// s15Fixed16Number, section 4.6.
    [[nodiscard]] double fixed(std::size_t offset) const {
        return static_cast<double>(static_cast<std::int32_t>(at<std::uint32_t>(offset))) / 65536;
    }
    /// The bytes of a tag; none if there is no such tag.
    [[nodiscard]] ByteSpan tag(std::uint32_t wanted) const {
        const std::uint32_t count = std::min(at<std::uint32_t>(header_bytes), most_tags);
        for (std::uint32_t i = 0; i < count; ++i) {
            const std::size_t entry = header_bytes + 4 + i * tag_entry_bytes;
            const std::size_t offset = at<std::uint32_t>(entry + 4);
            const std::size_t size = at<std::uint32_t>(entry + 8);
            if (at<std::uint32_t>(entry) == wanted && offset <= bytes_.size() &&
                size <= bytes_.size() - offset)
                return bytes_.subspan(offset, size);
        }
        return {};
    }

 private:
    ByteSpan bytes_;
};

/// A curve at a place 0 .. 1: curveType (section 10.6) or parametricCurveType (10.18).
std::optional<double> curve_at(ByteSpan tag, double x) {
    const ProfileReader curve(tag);
    const auto type = curve.at<std::uint32_t>(0);
    if (type == signature("curv")) {
        const std::uint32_t count = curve.at<std::uint32_t>(8);
        if (count == 0)
            return x;
        if (count == 1)
            return std::pow(x, curve.at<std::uint16_t>(12) / 256.0);
        if (12 + std::uint64_t{2} * count > tag.size())
            return {};
        const double place = x * (count - 1);
        const auto below = std::min(static_cast<std::uint32_t>(place), count - 2);
        const auto value = [&](std::uint32_t i) {
            return curve.at<std::uint16_t>(12 + std::size_t{2} * i) / 65535.0;
        };
        return value(below) + (value(below + 1) - value(below)) * (place - below);
    }
    if (type != signature("para"))
        return {};
    const auto kind = curve.at<std::uint16_t>(8);
    const auto number = [&](std::size_t i) { return curve.fixed(12 + 4 * i); };
    const double g = number(0), a = number(1), b = number(2), c = number(3), d = number(4);
    switch (kind) {
        case 0:
            return std::pow(x, g);
        case 1:
            return x >= -b / a ? std::pow(a * x + b, g) : 0;
        case 2:
            return x >= -b / a ? std::pow(a * x + b, g) + c : c;
        case 3:
            return x >= d ? std::pow(a * x + b, g) : c * x;
        case 4:
            return x >= d ? std::pow(a * x + b, g) + number(5) : c * x + number(6);
        default:
            return {};
    }
}

bool is_srgb_curve(ByteSpan tag) {
    constexpr double slack = 0.0025;  // of light; a code of 8 bits is 0.0015 to 0.009 there
    for (const double x : {0.1, 0.3, 0.5, 0.8}) {
        const auto value = curve_at(tag, x);
        if (!value || !(std::abs(*value - srgb_decode(x)) < slack))
            return false;
    }
    return true;
}

bool is_color(ByteSpan tag, const std::array<double, 3>& xyz) {
    constexpr double slack = 0.003;
    const ProfileReader reader(tag);
    bool is_alike = reader.at<std::uint32_t>(0) == signature("XYZ ");
    for (std::size_t i = 0; i < 3; ++i)
        is_alike = is_alike && std::abs(reader.fixed(8 + 4 * i) - xyz[i]) < slack;
    return is_alike;
}

}  // namespace

bool is_srgb_profile(ByteSpan profile) {
    const ProfileReader reader(profile);
    const auto space = reader.at<std::uint32_t>(16);
    if (space == signature("GRAY"))
        return is_srgb_curve(reader.tag(signature("kTRC")));
    if (space != signature("RGB ") || !reader.tag(signature("A2B0")).empty())
        return false;
    // IEC 61966-2-1 adapted to D50 by Bradford's matrix.
    return is_color(reader.tag(signature("rXYZ")), {0.43607, 0.22249, 0.01392}) &&
           is_color(reader.tag(signature("gXYZ")), {0.38515, 0.71687, 0.09708}) &&
           is_color(reader.tag(signature("bXYZ")), {0.14307, 0.06061, 0.71410}) &&
           is_srgb_curve(reader.tag(signature("rTRC"))) &&
           is_srgb_curve(reader.tag(signature("gTRC"))) &&
           is_srgb_curve(reader.tag(signature("bTRC")));
}

std::string profile_description(ByteSpan profile) {
    const ByteSpan tag = ProfileReader(profile).tag(signature("desc"));
    const ProfileReader reader(tag);
    std::string text;
    if (reader.at<std::uint32_t>(0) == signature("desc")) {  // version 2: ASCII
        const std::size_t length = reader.at<std::uint32_t>(8);
        for (std::size_t i = 0; i + 1 < length && 12 + i < tag.size(); ++i)
            text += static_cast<char>(tag[12 + i]);
    } else if (reader.at<std::uint32_t>(0) == signature("mluc")) {  // version 4: UTF-16
        const std::size_t length = reader.at<std::uint32_t>(20);
        const std::size_t offset = reader.at<std::uint32_t>(24);
        for (std::size_t i = 0; i + 1 < length && offset + i + 1 < tag.size(); i += 2) {
            const auto unit = reader.at<std::uint16_t>(offset + i);
            text += unit < 0x80 ? static_cast<char>(unit) : '?';
        }
    }
    return printable(text.substr(0, text.find('\0')), 79);
}

void take_profile(PictureInfo& info, std::string name, std::vector<std::byte> profile) {
    info.color_profile_name = std::move(name);
    info.color_profile = std::move(profile);
    if (is_srgb_profile(info.color_profile)) {
        info.declared_transfer = Transfer::srgb;
        return;
    }
    info.declared_transfer.reset();
    info.unapplied = fmt::format("the colour profile '{}'", info.color_profile_name);
}

}  // namespace yl
