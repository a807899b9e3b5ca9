#include "measure/content.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <vector>

#include "base/bytes.hpp"
#include "base/parallel.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 64;

void look_at_row(const std::vector<float>& rgba, ChannelUse& use) {
    for (std::size_t i = 0; i < rgba.size(); i += 4) {
        use.is_gray = use.is_gray && rgba[i] == rgba[i + 1] && rgba[i] == rgba[i + 2];
        use.is_opaque = use.is_opaque && rgba[i + 3] >= 1.0F;
        use.alpha_is_binary = use.alpha_is_binary && (rgba[i + 3] >= 1.0F || rgba[i + 3] <= 0.0F);
    }
}

/// A row of RGBA in 8 bits, four bytes at a time.
void look_at_words(const std::byte* row, std::size_t count, ChannelUse& use) {
    std::uint32_t colors = 0, translucent = 0, partial = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const auto word = load<std::uint32_t>(row + 4 * i);
        const std::uint32_t alpha = word >> 24;
        colors |= (word ^ word >> 8) & 0xFFFF;
        translucent |= alpha ^ 0xFF;
        partial |= (alpha + 1) & 0xFE;  // 0 of 0 and 255 alone
    }
    use.is_gray = use.is_gray && colors == 0;
    use.is_opaque = use.is_opaque && translucent == 0;
    use.alpha_is_binary = use.alpha_is_binary && partial == 0;
}

bool could_be_normal(const float* rgba) {
    constexpr float slack = 0.15F;  // of the length: filters shorten normals
    float squared = 0;
    for (std::size_t c = 0; c < 3; ++c)
        squared += (2 * rgba[c] - 1) * (2 * rgba[c] - 1);
    constexpr float not_inwards = 0.48F;  // 0.5 less rounding
    return rgba[2] >= not_inwards && squared > (1 - slack) * (1 - slack) &&
           squared < (1 + slack) * (1 + slack);
}

/// Whether every value of the image is a multiple of `step`.
template <class Code>
bool all_multiples(ConstImageView image, std::uint32_t step) {
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const auto row = image.row(y);
        for (std::size_t i = 0; i < row.size(); i += sizeof(Code))
            if (load<Code>(row.data() + i) % step != 0)
                return false;
    }
    return true;
}

/// The sum of the differences of two rows' colours and alphas.
double row_step(const std::vector<float>& a, const std::vector<float>& b) {
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        sum += std::abs(static_cast<double>(a[i]) - static_cast<double>(b[i]));
    return sum;
}

/// The steps within a row, from each pixel to the next, and from the last to the first.
struct RowSteps {
    double inside = 0;
    double seam = 0;

    void add(const std::vector<float>& rgba) {
        for (std::size_t i = 4; i < rgba.size(); ++i)
            inside += std::abs(static_cast<double>(rgba[i]) - static_cast<double>(rgba[i - 4]));
        for (std::size_t c = 0; c < 4; ++c)
            seam += std::abs(static_cast<double>(rgba[rgba.size() - 4 + c]) -
                             static_cast<double>(rgba[c]));
    }
};

/// The seam's step over the mean of `count` steps inside; flat images meet themselves.
float seam_ratio(double seam, double inside, std::uint32_t count) {
    if (seam == 0 || count == 0)
        return 0;
    constexpr double min_step = 1e-6;
    return static_cast<float>(seam / std::max(inside / count, min_step * seam));
}

}  // namespace

void PixelCounts::add(const std::vector<float>& rgba, const std::array<float, 4>& first) {
    for (std::size_t i = 0; i < rgba.size(); i += 4) {
        others += std::equal(first.begin(), first.end(), &rgba[i]) ? 0 : 1;
        transparent += rgba[i + 3] < 0.5F ? 1 : 0;
        directions += could_be_normal(&rgba[i]) ? 1 : 0;
        for (std::size_t c = 0; c < 4; ++c)
            sums[c] += static_cast<double>(rgba[i + c]);
    }
}

std::uint32_t bits_in_use(ConstImageView image) {
    const FormatInfo& f = info(image.format);
    const std::uint32_t bits = f.channels[0].bits;
    const bool plain =
        f.kind == NumericKind::unorm && f.type_size * f.channel_count == f.block_bytes;
    for (const std::uint32_t fewer : {1U, 2U, 4U, 8U}) {
        if (!plain || fewer >= bits)
            break;
        const std::uint32_t step = ((1U << bits) - 1U) / ((1U << fewer) - 1U);
        if (bits == 16 ? all_multiples<std::uint16_t>(image, step)
                       : all_multiples<std::uint8_t>(image, step))
            return fewer;
    }
    return bits;
}

SeamMeasure measure_seams(ConstImageView image) {
    const RowCodec codec = number_codec(image.format);
    if (codec.load == nullptr)
        return {};
    const auto load_row = [&](std::uint32_t y) {
        std::vector<float> rgba(std::size_t{image.width} * 4);
        codec.load(image.row(y).data(), rgba.data(), image.width);
        return rgba;
    };
    const auto first = load_row(0);
    auto row = first;
    RowSteps across;
    double inside = 0;
    across.add(row);
    for (std::uint32_t y = 1; y < image.height; ++y) {
        auto next = load_row(y);
        inside += row_step(row, next);
        across.add(next);
        row = std::move(next);
    }
    return {seam_ratio(across.seam, across.inside, image.width - 1),
            seam_ratio(row_step(row, first), inside, image.height - 1)};
}

void ContentCounter::add(ConstImageView rows) {
    const RowCodec codec = number_codec(rows.format);
    if (codec.load == nullptr || rows.width == 0 || rows.height == 0)
        return;
    if (pixels_ == 0) {
        use_ = {true, true, true};
        codec.load(rows.row(0).data(), first_.data(), 1);
        apply_swizzle(swizzle_, first_.data(), 1);
    }
    Mutex mutex;
    parallel_ranges(rows.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rgba(std::size_t{rows.width} * 4);
        PixelCounts counts;
        ChannelUse use{true, true, true};
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            codec.load(rows.row(y).data(), rgba.data(), rows.width);
            apply_swizzle(swizzle_, rgba.data(), rows.width);
            counts.add(rgba, first_);
            look_at_row(rgba, use);
        }
        const Locked lock(mutex);
        add(counts, use);
    });
    pixels_ += std::uint64_t{rows.width} * rows.height;
}

void ContentCounter::add(const PixelCounts& counts, const ChannelUse& use) {
    others_ += counts.others;
    transparent_ += counts.transparent;
    directions_ += counts.directions;
    for (std::size_t c = 0; c < 4; ++c)
        sums_[c] += counts.sums[c];
    use_ = {use_.is_gray && use.is_gray, use_.is_opaque && use.is_opaque,
            use_.alpha_is_binary && use.alpha_is_binary};
}

ContentMeasure ContentCounter::content() const {
    if (pixels_ == 0)
        return {};
    const auto pixels = static_cast<double>(pixels_);
    ContentMeasure measure{others_ == 0,
                           static_cast<float>(static_cast<double>(transparent_) / pixels),
                           static_cast<float>(static_cast<double>(directions_) / pixels),
                           {}};
    for (std::size_t c = 0; c < 4; ++c)
        measure.mean[c] = static_cast<float>(sums_[c] / pixels);
    return measure;
}

ContentMeasure measure_content(ConstImageView image, const Swizzle& swizzle) {
    ContentCounter counter(swizzle);
    counter.add(image);
    return counter.content();
}

bool ContentMeasure::looks_like_normals() const {
    constexpr float most = 0.9F;    // of real normal maps, 98 % of the texels and more are
    constexpr float level = 0.12F;  // those lean by no more than this, half of a component
    return directions >= most && std::abs(mean[0] - 0.5F) < level &&
           std::abs(mean[1] - 0.5F) < level && mean[2] > 0.75F;
}

ChannelUse analyse_channels(ConstImageView image, const Swizzle& swizzle) {
    const RowCodec codec = number_codec(image.format);
    if (codec.load == nullptr)
        return {};
    std::atomic<bool> gray = true;
    std::atomic<bool> opaque = true;
    std::atomic<bool> binary = true;
    parallel_ranges(image.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        ChannelUse use{gray, opaque, binary};
        const bool is_words = is_rgba8(info(image.format)) && swizzle == identity_swizzle;
        for (auto y = static_cast<std::uint32_t>(begin); is_words && y < end; ++y)
            look_at_words(image.row(y).data(), image.width, use);
        std::vector<float> rgba(std::size_t{image.width} * 4);
        for (auto y = static_cast<std::uint32_t>(begin); !is_words && y < end; ++y) {
            codec.load(image.row(y).data(), rgba.data(), image.width);
            apply_swizzle(swizzle, rgba.data(), image.width);
            look_at_row(rgba, use);
        }
        if (!use.is_gray)
            gray = false;
        if (!use.is_opaque)
            opaque = false;
        if (!use.alpha_is_binary)
            binary = false;
    });
    return {gray, opaque, binary};
}

}  // namespace yl
