#include <yl/convert.hpp>

#include <algorithm>

namespace yl {
namespace {

constexpr std::string_view letters = "rgba01";  // in the order of SwizzleSource

}  // namespace

std::string swizzle_text(const Swizzle& swizzle) {
    std::string text;
    for (const SwizzleSource source : swizzle)
        text += letters[static_cast<std::size_t>(source)];
    return text;
}

std::optional<Swizzle> parse_swizzle(std::string_view text) {
    Swizzle swizzle{};
    if (text.size() != swizzle.size())
        return {};
    for (std::size_t i = 0; i < swizzle.size(); ++i) {
        const auto letter = letters.find(text[i]);
        if (letter == std::string_view::npos)
            return {};
        swizzle[i] = static_cast<SwizzleSource>(letter);
    }
    return swizzle;
}

void apply_swizzle(const Swizzle& swizzle, float* rgba, std::size_t count) {
    if (swizzle == identity_swizzle)
        return;
    for (float* pixel = rgba; pixel != rgba + 4 * count; pixel += 4) {
        const std::array<float, 6> sources = {pixel[0], pixel[1], pixel[2], pixel[3], 0.0F, 1.0F};
        for (std::size_t i = 0; i < swizzle.size(); ++i)
            pixel[i] = sources[static_cast<std::size_t>(swizzle[i])];
    }
}

}  // namespace yl
