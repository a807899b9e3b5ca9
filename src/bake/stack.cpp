#include "bake/stack.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

#include <yl/measure.hpp>
#include <yl/status_macros.hpp>
#include "bake/formats.hpp"
#include "pixel/check.hpp"

namespace yl {

Status Stack::settle() {
    if (pictures_.empty())
        return fail(ErrorKind::usage, "there are no pictures");
    if (!options_.given.empty())
        return fail_at({ErrorKind::usage, "levels are given to single pictures only"}, "given");
    for (std::size_t i = 0; i < pictures_.size(); ++i) {
        if (pictures_[i] == nullptr)
            return fail_at({ErrorKind::usage, "there is no picture"}, name_(i));
        YL_CHECK(check_view(pictures_[i]->image.view(), name_(i).c_str()));
    }
    role_ = options_.role.value_or(default_role(*pictures_[0]));
    if (info(role_).alpha_is_coverage && !options_.alpha) {
        YL_TRY(same_alpha_, with_same_alpha(pictures_));
        pictures_ = same_alpha_.pictures;
    }
    format_ = options_.format.value_or(richest_format());
    return {};
}

BakeOptions Stack::each() const {
    BakeOptions each = options_;
    each.role = role_;
    each.format = format_;
    return each;
}

Result<Baked> Stack::baked(std::size_t index, const Picture& picture,
                           const BakeOptions& options) const {
    auto result = bake(picture, options);
    if (!result)
        return fail_at(result.error(), name_(index));
    for (Finding& finding : result->findings)
        finding.problem = fmt::format("{}: {}", name_(index), finding.problem);
    if (std::ranges::find(same_alpha_.copied, index) != same_alpha_.copied.end())
        result->findings.push_back(premultiplied_copy(name_(index)));
    return result;
}

/// Of what suits each picture, the format with the most channels and bits.
Format Stack::richest_format() const {
    Format richest = Format::undefined;
    const auto rank = [](Format format) {
        const FormatInfo& f = info(format);
        return std::tuple(f.channel_count, f.channels[0].bits, f.format);
    };
    for (const Picture* picture : pictures_) {
        const Format suits =
            options_.compressed == BlockFamily::none
                ? default_format(*picture, role_)
                : with_bits_per_texel(default_block_format(*picture, role_, options_.compressed),
                                      options_.bits_per_texel);
        if (richest == Format::undefined || rank(suits) > rank(richest))
            richest = suits;
    }
    return richest;
}

/// One way to read alpha for all; where it is 1 everywhere, both ways are the same.
Status Stack::join_alpha(Baked& all, const Baked& one, std::size_t index) const {
    if (one.is_opaque)
        return {};
    AlphaMode& alpha = all.texture.metadata.alpha;
    if (all.is_opaque)
        alpha = one.texture.metadata.alpha;
    if (alpha == one.texture.metadata.alpha)
        return {};
    const bool is_straight = one.texture.metadata.alpha == AlphaMode::straight;
    return fail_at(
        {ErrorKind::usage,
         fmt::format("its colours are {} multiplied by alpha, and those of a picture before it {}; "
                     "premultiply all pictures, or none",
                     is_straight ? "not" : "already", is_straight ? "are" : "are not")},
        name_(index));
}

Status Stack::join(Baked& all, Baked& one, std::size_t index) const {
    if (index > 0 && one.texture.metadata.swizzle != all.texture.metadata.swizzle)
        return fail_at(
            {ErrorKind::usage,
             fmt::format("its channels are seen as {}, and those of the first picture as "
                         "{}; choose a format with three or four channels",
                         swizzle_text(one.texture.metadata.swizzle),
                         swizzle_text(all.texture.metadata.swizzle))},
            name_(index));
    if (index == 0) {
        all.texture.metadata = one.texture.metadata;
        all.role = one.role;
        all.mean_normal_length = one.mean_normal_length;
    } else {
        YL_CHECK(join_alpha(all, one, index));
    }
    all.is_opaque = (index == 0 || all.is_opaque) && one.is_opaque;
    std::ranges::move(one.findings, std::back_inserter(all.findings));
    return {};
}

}  // namespace yl
