// Textures of one thing, such as slate.png and slate_normal.png, compared with each other.
#include <algorithm>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "lint/traits.hpp"

namespace yl {
namespace {

constexpr std::uint32_t enough = 64;  // texels: what is compared is smaller

/// The first layer of the smallest level that is large enough, without blocks.
Result<Texture> small_version(const Texture& texture) {
    const TextureShape& shape = texture.shape();
    std::uint32_t level = 0;
    while (level + 1 < shape.levels && std::min(shape.width, shape.height) >> (level + 1) >= enough)
        ++level;
    YL_TRY(Texture small, without_top_levels(texture, level));
    if (shape.layers > 1) {
        YL_TRY(small, single_layer(small, 0));
    }
    return info(shape.format).is_block() ? decode_texture(small)
                                         : Result<Texture>(std::move(small));
}

}  // namespace

Result<LintTraits> lint_traits(const Texture& texture) try {
    const TextureShape& shape = texture.shape();
    if (shape.is_3d)
        return LintTraits{};
    YL_TRY(const Texture small, small_version(texture));
    LintTraits traits;
    if (shape.faces != 6) {
        traits.edges = lint_checks::edges_of(small.image(0));
        return traits;
    }
    YL_TRY(traits.sky, lint_checks::sky_of(small));
    return traits;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<LintTraits> lint_traits(const Picture& picture) try {
    return LintTraits{.edges = lint_checks::edges_of(picture.image.view())};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::optional<Evidence> compare_traits(const LintTraits& traits, const LintTraits& other,
                                       std::string_view other_name) {
    auto found = lint_checks::compare_edges(traits.edges, other.edges, other_name);
    return found ? std::move(found) : lint_checks::compare_skies(traits.sky, other.sky, other_name);
}

}  // namespace yl
