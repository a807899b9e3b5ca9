// PSD in every mode, depth and packing, put together here, against the samples that went in.
#include <bit>
#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/psd_file.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::psd_file;
using support::PsdKind;

namespace {

int load_16(const std::byte* at) {
    return std::to_integer<int>(at[0]) | std::to_integer<int>(at[1]) << 8;
}

std::vector<std::uint32_t> random_samples(const PsdKind& kind, support::Random& random) {
    std::vector<std::uint32_t> samples;
    std::uint32_t value = 0;
    for (std::size_t i = 0; i < std::size_t{kind.width} * kind.height * kind.channels; ++i) {
        if (random() % 3 != 0)  // runs
            value = static_cast<std::uint32_t>(random());
        const float light = static_cast<float>(value % 4096) / 1000;
        samples.push_back(kind.bits == 1    ? value & 1U
                          : kind.bits == 8  ? value & 255U
                          : kind.bits == 16 ? value & 65535U
                                            : std::bit_cast<std::uint32_t>(light));
    }
    return samples;
}

/// What a texel's channel is to be, from 0 to 1 (beyond for floats).
double expected(const PsdKind& kind, const std::vector<std::uint32_t>& samples, std::size_t pixel,
                std::size_t channel) {
    const std::size_t plane = std::size_t{kind.width} * kind.height;
    const auto sample = [&](std::size_t c) {
        const std::uint32_t stored = samples[c * plane + pixel];
        return kind.bits == 1    ? 1.0 - stored
               : kind.bits == 8  ? stored / 255.0
               : kind.bits == 16 ? stored / 65535.0
                                 : static_cast<double>(std::bit_cast<float>(stored));
    };
    if (kind.mode == 2) {
        const std::uint32_t i = samples[pixel];
        const std::uint32_t color[] = {i, 255 - i, i / 2};
        return channel == 3 ? (static_cast<int>(i) == kind.clear_index ? 0 : 1)
                            : color[channel] / 255.0;
    }
    if (kind.mode == 4)
        return sample(channel) * sample(3);
    return sample(channel);
}

void check_file(const PsdKind& kind, support::Random& random) {
    const auto samples = random_samples(kind, random);
    const auto file = psd_file(kind, samples);
    const Picture picture = must(read_picture(file, {.role = Role::data}));
    CHECK(picture.info.file_format == "PSD");
    CHECK(picture.info.file_bits == kind.bits);
    const PictureHeader header = must(peek_picture(std::span(file).first(file.size() - 1)));
    CHECK(header.width == kind.width);
    CHECK(header.channels == info(picture.image.format()).channel_count);
    const ConstImageView view = picture.image.view();
    const std::size_t channels = info(view.format).channel_count;
    double worst = 0;
    for (std::uint32_t y = 0; y < kind.height; ++y)
        for (std::size_t x = 0; x < kind.width; ++x)
            for (std::size_t c = 0; c < channels; ++c) {
                const std::byte* row = view.row(y).data();
                const std::size_t i = x * channels + c;
                double value = 0;
                if (kind.bits == 32) {
                    float number = 0;
                    std::memcpy(&number, row + 4 * i, 4);
                    value = static_cast<double>(number);
                } else if (kind.bits == 16) {
                    value = load_16(row + 2 * i) / 65535.0;
                } else {
                    value = std::to_integer<int>(row[i]) / 255.0;
                }
                const double right = expected(kind, samples, std::size_t{y} * kind.width + x, c);
                worst = std::max(worst, std::abs(value - right));
            }
    CHECK(worst <= (kind.mode == 4 ? 0.51 / (kind.bits == 8 ? 255 : 65535) : 1e-9));
}

}  // namespace

TEST_CASE("PSD of every mode, depth and packing holds the samples that went in") {
    support::Random random(31);
    int files = 0;
    struct Mode {
        std::uint16_t number;
        std::uint32_t channels;
        std::initializer_list<std::uint32_t> depths;
    };
    for (const Mode& mode : {Mode{0, 1, {1}}, Mode{1, 1, {8, 16, 32}}, Mode{2, 1, {8}},
                             Mode{3, 3, {8, 16, 32}}, Mode{4, 4, {8, 16}}, Mode{8, 1, {8}}})
        for (const std::uint32_t bits : mode.depths)
            for (std::uint16_t packing = 0; packing < 4; ++packing)
                for (const bool is_large : {false, true})
                    for (int extra = 0; extra < 3; ++extra)
                        for (int round = 0; round < 3; ++round) {
                            if (packing == 3 && bits == 1)
                                continue;
                            PsdKind kind{.is_large = is_large,
                                         .channels = mode.channels,
                                         .bits = bits,
                                         .mode = mode.number,
                                         .packing = packing};
                            kind.width = 1 + static_cast<std::uint32_t>(random() % 40);
                            kind.height = 1 + static_cast<std::uint32_t>(random() % 20);
                            // Channels that are no alpha: files with layers say so.
                            kind.layers = extra == 0 ? 0 : 2;
                            kind.channels += mode.number == 0 || mode.number == 2
                                                 ? 0
                                                 : static_cast<std::uint32_t>(extra);
                            if (mode.number == 2 && extra > 0)
                                kind.clear_index = 7;
                            CAPTURE(mode.number);
                            CAPTURE(bits);
                            CAPTURE(packing);
                            check_file(kind, random);
                            ++files;
                        }
    CHECK(files > 700);
}

TEST_CASE("alpha of a PSD: an extra channel of a flat file, and what layers leave clear") {
    support::Random random(32);
    for (const std::uint32_t bits : {8U, 16U}) {
        PsdKind kind{.width = 16, .height = 8, .channels = 4, .bits = bits, .packing = 1};
        check_file(kind, random);  // flat: as it is stored
        // Straight colours mixed with white by alpha, as programs store them.
        kind.layers = -3;
        const std::uint32_t white = bits == 8 ? 255 : 65535;
        const std::size_t plane = 16 * 8;
        std::vector<std::uint32_t> straight = random_samples(kind, random), stored = straight;
        for (std::size_t i = 0; i < plane; ++i)
            for (std::size_t c = 0; c < 3; ++c) {
                const std::uint64_t alpha = straight[3 * plane + i];
                stored[c * plane + i] = static_cast<std::uint32_t>(
                    (straight[c * plane + i] * alpha + white / 2) / white + white - alpha);
            }
        const Picture picture = must(read_picture(psd_file(kind, stored), {.role = Role::data}));
        CHECK(info(picture.image.format()).channel_count == 4);
        bool says = false;
        for (const std::string& remark : picture.info.remarks)
            says = says || contains(remark, "mixed with white");
        CHECK(says);
        for (std::size_t i = 0; i < plane; ++i) {
            const std::byte* texel =
                picture.image.view().row(static_cast<std::uint32_t>(i / 16)).data() +
                i % 16 * 4 * bits / 8;
            const double alpha = straight[3 * plane + i];
            if (alpha == 0)
                continue;
            for (std::size_t c = 0; c < 3; ++c) {
                const double own =
                    bits == 8 ? std::to_integer<int>(texel[c]) : load_16(texel + 2 * c);
                CHECK(std::abs(own - straight[c * plane + i]) <= 1 + white / (2 * alpha));
            }
        }
    }
}

TEST_CASE("what a PSD says besides, and what is refused") {
    support::Random random(33);
    PsdKind kind{.width = 4, .height = 3, .packing = 0};
    kind.profile.assign(300, std::byte{5});
    kind.has_merged = false;
    const auto samples = random_samples(kind, random);
    const Picture picture =
        must(read_picture(psd_file(kind, samples), {.profile = ProfileUse::keep}));
    CHECK(picture.info.color_profile == kind.profile);
    REQUIRE(picture.info.remarks.size() > 0);
    CHECK(contains(picture.info.remarks[0], "without a merged picture"));

    kind.mode = 9;
    CHECK(contains(must_fail(read_picture(psd_file(kind, samples))).message, "Lab"));
    kind.mode = 77;
    CHECK(must_fail(read_picture(psd_file(kind, samples))).kind == ErrorKind::malformed);
    kind.mode = 3;
    for (std::uint16_t packing = 0; packing < 4; ++packing) {
        kind.packing = packing;
        const auto file = psd_file(kind, samples);
        for (std::size_t size = 4; size < file.size(); ++size) {
            const auto cut = read_picture(std::span(file).first(size));
            if (packing < 2 || size + 8 < file.size())
                CHECK_FALSE(cut.has_value());
            if (!cut)
                CHECK_FALSE(cut.error().message.empty());
        }
    }
    // A small file that claims a large picture.
    auto claims = psd_file({.width = 2, .height = 2, .packing = 1}, std::vector<std::uint32_t>(12));
    claims[20] = std::byte{0x60};
    CHECK_FALSE(read_picture(claims).has_value());
}
