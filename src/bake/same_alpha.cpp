#include "bake/same_alpha.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/edit.hpp>
#include <yl/measure.hpp>
#include <yl/status_macros.hpp>
#include "pixel/channels.hpp"

namespace yl {
namespace {

bool is_opaque(const Picture& picture) {
    return analyse_channels(picture.image.view(), picture.swizzle).is_opaque;
}

Result<Picture> premultiplied(const Picture& picture) {
    Picture copy;
    copy.transfer = picture.transfer;
    copy.alpha = AlphaMode::premultiplied;
    copy.info = picture.info;
    YL_TRY(copy.image, picture.image.clone());
    if (info(copy.image.format()).channel_count < 4)
        YL_CHECK(widen_to_rgba(copy.image, copy.transfer));
    else
        copy.swizzle = picture.swizzle;
    YL_CHECK(premultiply(copy.image.view(), copy.transfer));
    return copy;
}

}  // namespace

Result<SameAlpha> with_same_alpha(std::span<const Picture* const> pictures) {
    SameAlpha same{.pictures = {pictures.begin(), pictures.end()}, .alpha = pictures[0]->alpha};
    const auto reads_otherwise = [&](const Picture* p) { return p->alpha != pictures[0]->alpha; };
    if (std::ranges::none_of(pictures, reads_otherwise))
        return same;
    std::vector<std::size_t> straight;
    same.alpha = AlphaMode::straight;
    for (std::size_t i = 0; i < pictures.size(); ++i) {
        if (is_opaque(*pictures[i]))
            continue;
        if (pictures[i]->alpha == AlphaMode::premultiplied)
            same.alpha = AlphaMode::premultiplied;
        else if (pictures[i]->alpha == AlphaMode::straight)
            straight.push_back(i);
    }
    if (same.alpha != AlphaMode::premultiplied)
        return same;
    for (const std::size_t i : straight) {
        YL_TRY(same.copies.emplace_back(), premultiplied(*pictures[i]));
        same.pictures[i] = &same.copies.back();
        same.copied.push_back(i);
    }
    return same;
}

Finding premultiplied_copy(std::string_view name) {
    return {"alpha-premultiplied",
            fmt::format("{}: its colours are multiplied by alpha, because those of another picture "
                        "are already",
                        name),
            "use only straight pictures, or only premultiplied ones", FindingLevel::hint};
}

}  // namespace yl
