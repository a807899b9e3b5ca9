#include <yl/coverage.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/attempt.hpp"
#include "pixel/dither.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

std::size_t tested_channel(Format format) {
    return info(format).has(Channel::alpha) ? 3 : 0;
}

/// How many texels have each value of the tested channel, in steps that the format stores.
class ValueCounts {
 public:
    explicit ValueCounts(ConstImageView image) {
        const FormatInfo& f = info(image.format);
        const std::size_t place = tested_channel(image.format);
        const std::uint32_t bits = f.channels[f.channel_count == 4 ? 3 : 0].bits;
        greatest_ = f.is_float() || bits >= 16 ? 65535 : (1U << bits) - 1;
        counts_.resize(greatest_ + 1);
        std::vector<float> rgba(std::size_t{image.width} * 4);
        const RowCodec codec = number_codec(image.format);
        for (std::uint32_t y = 0; y < image.height; ++y) {
            codec.load(image.row(y).data(), rgba.data(), image.width);
            for (std::size_t i = place; i < rgba.size(); i += 4)
                ++counts_[code_of(static_cast<double>(rgba[i]))];
        }
        total_ = std::uint64_t{image.width} * image.height;
        at_least_.resize(counts_.size() + 2);
        for (std::size_t code = counts_.size(); code-- > 0;)
            at_least_[code] = at_least_[code + 1] + counts_[code];
    }

    /// The least code that passes a test.
    [[nodiscard]] std::size_t passing_code(double threshold) const {
        return static_cast<std::size_t>(std::ceil(threshold * greatest_ - 1e-6));
    }

    [[nodiscard]] std::uint64_t at_least(std::size_t code) const { return at_least_[code]; }

    [[nodiscard]] std::size_t code_of(double value) const {
        return static_cast<std::size_t>(std::clamp(value, 0.0, 1.0) * greatest_ + 0.5);
    }
    [[nodiscard]] double value_of(double code) const { return code / greatest_; }
    [[nodiscard]] std::uint64_t of(std::size_t code) const { return counts_[code]; }
    [[nodiscard]] std::uint64_t total() const { return total_; }

 private:
    std::uint32_t greatest_ = 255;
    std::vector<std::uint64_t> counts_;
    std::vector<std::uint64_t> at_least_;
    std::uint64_t total_ = 0;
};

/// How a level is changed: all values are scaled so that those of one code fall just short of the
/// threshold and all greater ones pass; and of that one code so many are lifted over it.
struct Cut {
    double scale = 1;
    std::size_t code = 0;
    std::uint64_t lifted = 0;
    /// How far those of that code are moved from the threshold, up or down. Where they are many, as
    /// in small levels of regular patterns, all filtered values would lie on one side of it else.
    double distance = 0;
};

/// Regular patterns have many texels of one and the same value, which no scale can tell apart.
Cut find_cut(const ValueCounts& counts, double threshold, double wanted_share) {
    const auto wanted =
        static_cast<std::uint64_t>(wanted_share * static_cast<double>(counts.total()) + 0.5);
    const std::size_t passing = counts.passing_code(threshold);
    if (counts.at_least(passing) == wanted)
        return {};
    // The greatest code down to which there are enough.
    std::size_t code = passing;
    while (code > 1 && counts.at_least(code) < wanted)
        --code;
    while (counts.at_least(code + 1) >= wanted && counts.at_least(code + 1) > 0)
        ++code;
    const double just_short = (static_cast<double>(passing) - 0.5) * (1 - 1e-6);
    Cut cut{.scale = just_short / static_cast<double>(code), .code = code};
    const std::uint64_t above = counts.at_least(code + 1);
    cut.lifted = std::min(wanted > above ? wanted - above : 0, counts.of(code));
    constexpr std::uint64_t few = 50;  // one in so many
    if (counts.of(code) * few > counts.total())
        cut.distance = std::min(threshold, 1 - threshold) / 4;
    return cut;
}

enum class Choice : std::uint8_t { none, lifted, lowered };

/// Which texels of the cut's code are lifted, spread over the image; the others are lowered.
std::vector<Choice> choose(ConstImageView image, const ValueCounts& counts, const Cut& cut) {
    const std::size_t place = tested_channel(image.format);
    const RowCodec codec = number_codec(image.format);
    std::vector<std::pair<double, std::size_t>> candidates;
    std::vector<float> rgba(std::size_t{image.width} * 4);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        codec.load(image.row(y).data(), rgba.data(), image.width);
        for (std::uint32_t x = 0; x < image.width; ++x)
            if (counts.code_of(static_cast<double>(rgba[std::size_t{x} * 4 + place])) == cut.code)
                candidates.emplace_back(dither_pattern(x, y), std::size_t{y} * image.width + x);
    }
    std::sort(candidates.begin(), candidates.end());
    std::vector<Choice> choices(std::size_t{image.width} * image.height);
    for (std::size_t i = 0; i < candidates.size(); ++i)
        choices[candidates[i].second] = i < cut.lifted ? Choice::lifted : Choice::lowered;
    return choices;
}

void apply(ImageView image, const ValueCounts& counts, const Cut& cut, double threshold,
           bool premultiplied) {
    const std::size_t place = tested_channel(image.format);
    const auto choices = choose(image, counts, cut);
    const bool scales_colors = premultiplied && place == 3;
    const RowCodec codec =
        scales_colors ? row_codec(image.format, Transfer::linear) : number_codec(image.format);
    const auto passing = static_cast<double>(counts.passing_code(threshold));
    const auto lifted = static_cast<float>(counts.value_of(passing) + cut.distance);
    const auto lowered = static_cast<float>(
        std::max(counts.value_of(std::max(passing - 1, 0.0)) - cut.distance, 0.0));
    edit_rows(image, codec, [&](std::vector<float>& rgba, std::uint32_t y) {
        for (std::size_t x = 0; x < image.width; ++x) {
            float* pixel = &rgba[4 * x];
            const float before = pixel[place];
            const Choice choice = choices[y * std::size_t{image.width} + x];
            pixel[place] = choice == Choice::lifted    ? lifted
                           : choice == Choice::lowered ? lowered
                                                       : before * static_cast<float>(cut.scale);
            pixel[place] = std::min(pixel[place], 1.0F);
            for (std::size_t c = 0; scales_colors && c < 3 && before > 0; ++c)
                pixel[c] *= pixel[place] / before;
        }
    });
}

}  // namespace

double coverage(ConstImageView image, float threshold) {
    if (number_codec(image.format).load == nullptr)
        return 0;
    const ValueCounts counts(image);
    const std::size_t passing = counts.passing_code(static_cast<double>(threshold));
    return static_cast<double>(counts.at_least(passing)) / static_cast<double>(counts.total());
}

Status keep_coverage(Texture& texture, float threshold) {
    const TextureShape& shape = texture.shape();
    if (!(threshold > 0 && threshold < 1))
        return fail(ErrorKind::usage,
                    fmt::format("an alpha test against {} has no coverage to keep; the threshold "
                                "lies between 0 and 1",
                                threshold));
    if (number_codec(shape.format).load == nullptr || shape.depth > 1)
        return fail(ErrorKind::unsupported,
                    fmt::format("the coverage of {} cannot be kept", info(shape.format).name));
    const bool premultiplied = texture.traits.alpha == AlphaMode::premultiplied;
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face) {
            const double wanted = coverage(texture.image(0, layer, face), threshold);
            for (std::uint32_t level = 1; level < shape.levels; ++level) {
                const ImageView image = texture.image(level, layer, face);
                const ValueCounts counts(image);
                const Cut cut = find_cut(counts, static_cast<double>(threshold), wanted);
                if (cut.code != 0)
                    apply(image, counts, cut, static_cast<double>(threshold), premultiplied);
            }
        }
    return {};
}

}  // namespace yl
