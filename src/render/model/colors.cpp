// Names and colours of what a picture of a mesh can show.
#include <cmath>

#include <yl/scene.hpp>

namespace yl {
namespace {

constexpr std::string_view show_names[] = {"lit", "uv", "normal", "slot", "level"};

}  // namespace

std::string_view name(ModelShow show) {
    return show_names[static_cast<std::size_t>(show)];
}

std::optional<ModelShow> find_model_show(std::string_view name) {
    for (std::size_t i = 0; i < std::size(show_names); ++i)
        if (show_names[i] == name)
            return static_cast<ModelShow>(i);
    return std::nullopt;
}

Rgba slot_color(std::size_t surface) {
    // Hues a golden section apart, so that neighbours in number differ most.
    const float turn = std::fmod(0.12F + 0.618034F * static_cast<float>(surface % 16), 1.0F);
    Rgba color = {0, 0, 0, 1};
    for (std::size_t c = 0; c < 3; ++c) {
        const float hue = std::fmod(turn * 6 + 6 - 2 * static_cast<float>(c), 6.0F);
        const float away = std::min(hue, 6 - hue);
        color[c] = 0.08F + 0.72F * std::min(std::max(2 - away, 0.0F), 1.0F);
    }
    return color;
}

Rgba level_color(std::size_t level) {
    // From sharp to coarse: pale, then ever darker along leaves, water and earth.
    constexpr Rgba colors[] = {{0.90F, 0.88F, 0.80F, 1}, {0.83F, 0.62F, 0.10F, 1},
                               {0.42F, 0.60F, 0.08F, 1}, {0.06F, 0.42F, 0.16F, 1},
                               {0.03F, 0.33F, 0.42F, 1}, {0.05F, 0.12F, 0.48F, 1},
                               {0.28F, 0.05F, 0.36F, 1}, {0.45F, 0.03F, 0.07F, 1}};
    return colors[std::min(level, std::size(colors) - 1)];
}

}  // namespace yl
