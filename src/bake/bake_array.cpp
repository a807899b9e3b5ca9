#include <yl/bake_array.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

#include <yl/measure.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/same_alpha.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

std::string numbered(std::size_t picture) {
    return fmt::format("picture {}", picture);
}

/// The pictures of one size and with one format to become.
class Stack {
 public:
    Stack(std::span<const Picture* const> pictures, const StackOptions& options)
        : pictures_(pictures), options_(options) {}

    Status settle() {
        if (pictures_.empty())
            return fail(ErrorKind::usage, "there are no pictures");
        if (!options_.bake.given.empty())
            return fail_at({ErrorKind::usage, "levels are given to single pictures only"}, "given");
        for (std::size_t i = 0; i < pictures_.size(); ++i) {
            if (pictures_[i] == nullptr)
                return fail_at({ErrorKind::usage, "there is no picture"}, numbered(i));
            YL_CHECK(check_view(pictures_[i]->image.view(), "picture"));
        }
        YL_CHECK(settle_size());
        role_ = options_.bake.role.value_or(default_role(*pictures_[0]));
        if (info(role_).alpha_is_coverage && !options_.bake.alpha) {
            YL_TRY(same_alpha_, with_same_alpha(pictures_));
            pictures_ = same_alpha_.pictures;
        }
        format_ = options_.bake.format.value_or(richest_format());
        return {};
    }

    [[nodiscard]] std::size_t size() const { return pictures_.size(); }
    [[nodiscard]] Role role() const { return role_; }
    [[nodiscard]] Format format() const { return format_; }

    /// One picture, baked by itself.
    Result<Baked> baked(std::size_t index, const BakeOptions& options) const {
        YL_TRY(const Picture fitted, fitted_to_size(*pictures_[index]));
        const Picture& picture = fitted.image.width() > 0 ? fitted : *pictures_[index];
        auto result = bake(picture, options);
        if (!result)
            return fail_at(result.error(), numbered(index));
        for (Finding& finding : result->findings)
            finding.problem = fmt::format("{}: {}", numbered(index), finding.problem);
        if (std::ranges::find(same_alpha_.copied, index) != same_alpha_.copied.end())
            result->findings.push_back(premultiplied_copy(numbered(index)));
        return result;
    }

    /// The options of every picture.
    [[nodiscard]] BakeOptions each() const {
        BakeOptions each = options_.bake;
        each.role = role_;
        each.format = format_;
        return each;
    }

 private:
    Status settle_size() {
        const ConstImageView first = pictures_[0]->image.view();
        width_ = first.width;
        height_ = first.height;
        for (std::size_t i = 1; i < pictures_.size(); ++i) {
            const ConstImageView image = pictures_[i]->image.view();
            const bool is_equal = image.width == first.width && image.height == first.height;
            if (!is_equal && options_.sizes == UnequalSizes::refuse)
                return fail_at(
                    {ErrorKind::usage,
                     fmt::format("it is {} x {}, and the first picture is {} x {}; pictures of "
                                 "several sizes can be resized or padded",
                                 image.width, image.height, first.width, first.height)},
                    numbered(i));
            if (options_.sizes != UnequalSizes::pad)
                continue;
            width_ = std::max(width_, image.width);
            height_ = std::max(height_, image.height);
        }
        return {};
    }

    /// Of what suits each picture, the format with the most channels and bits.
    [[nodiscard]] Format richest_format() const {
        Format richest = Format::undefined;
        const auto rank = [](Format format) {
            const FormatInfo& f = info(format);
            return std::tuple(f.channel_count, f.channels[0].bits, f.format);
        };
        for (const Picture* picture : pictures_) {
            const Format suits = options_.bake.compressed ? default_block_format(*picture, role_)
                                                          : default_format(*picture, role_);
            if (richest == Format::undefined || rank(suits) > rank(richest))
                richest = suits;
        }
        return richest;
    }

    /// Empty where the picture has the size already.
    Result<Picture> fitted_to_size(const Picture& picture) const {
        const ConstImageView image = picture.image.view();
        Picture fitted;
        if (image.width == width_ && image.height == height_)
            return fitted;
        fitted.transfer = picture.transfer;
        fitted.alpha = picture.alpha;
        fitted.swizzle = picture.swizzle;
        fitted.info = picture.info;
        if (options_.sizes == UnequalSizes::pad) {
            YL_TRY(fitted.image, padded(image));
        } else {
            YL_TRY(fitted.image, resize(image, width_, height_,
                                        {.edges = options_.bake.mips.edges,
                                         .transfer = picture.transfer,
                                         .alpha = alpha_mode(role_, picture.alpha)}));
        }
        return fitted;
    }

    Result<Image> padded(ConstImageView image) const {
        YL_TRY(Image larger, Image::create(image.format, width_, height_));
        for (std::uint32_t y = 0; y < height_; ++y) {
            const auto row = larger.view().row(y);
            std::ranges::fill(row, std::byte{0});
            if (y < image.height)
                std::ranges::copy(image.row(y), row.begin());
        }
        return larger;
    }

    std::span<const Picture* const> pictures_;
    const StackOptions& options_;
    SameAlpha same_alpha_ = {};
    std::uint32_t width_ = 0, height_ = 0;
    Role role_ = Role::color;
    Format format_ = Format::undefined;
};

/// One way to read alpha for all; where it is 1 everywhere, both ways are the same.
Status join_alpha(Baked& all, const Baked& one, std::size_t index) {
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
        numbered(index));
}

/// What is known of all after one more of them; an error where their channels differ in meaning.
Status join(Baked& all, Baked& one, std::size_t index) {
    if (index > 0 && one.texture.metadata.swizzle != all.texture.metadata.swizzle)
        return fail_at(
            {ErrorKind::usage,
             fmt::format("its channels are seen as {}, and those of the first picture as "
                         "{}; choose a format with three or four channels",
                         swizzle_text(one.texture.metadata.swizzle),
                         swizzle_text(all.texture.metadata.swizzle))},
            numbered(index));
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

}  // namespace

Result<Baked> bake_array(std::span<const Picture* const> pictures,
                         const StackOptions& options) try {
    Stack stack(pictures, options);
    YL_CHECK(stack.settle());
    Baked all;
    for (std::size_t layer = 0; layer < stack.size(); ++layer) {
        YL_TRY(Baked one, stack.baked(layer, stack.each()));
        if (layer == 0) {
            TextureShape shape = one.texture.shape();
            shape.layers = static_cast<std::uint32_t>(stack.size());
            shape.is_array = true;
            YL_TRY(all.texture, Texture::create(shape));
        }
        YL_CHECK(join(all, one, layer));
        for (std::uint32_t level = 0; level < all.texture.shape().levels; ++level) {
            const auto bytes = std::as_const(one.texture).level(level);
            std::ranges::copy(bytes, all.texture.level(level).begin() +
                                         static_cast<std::ptrdiff_t>(layer * bytes.size()));
        }
    }
    return all;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Baked> bake_volume(std::span<const Picture* const> slices, const StackOptions& options) try {
    if (options.bake.coverage)
        return fail_at({ErrorKind::usage, "volumes have no alpha test to keep"}, "coverage");
    if (options.bake.normals)
        return fail_at({ErrorKind::usage, "volumes have no normal map"}, "normals");
    Stack stack(slices, options);
    YL_CHECK(stack.settle());
    BakeOptions each = stack.each();
    each.format = format_of_chain(stack.format());
    each.levels = 1;
    each.first_level = 0;
    Baked all;
    for (std::size_t slice = 0; slice < stack.size(); ++slice) {
        YL_TRY(Baked one, stack.baked(slice, each));
        if (slice == 0) {
            TextureShape shape = one.texture.shape();
            shape.depth = static_cast<std::uint32_t>(stack.size());
            shape.is_3d = true;
            YL_CHECK(check_level_count(options.bake, shape));
            shape.levels = options.bake.levels.value_or(
                full_level_count(shape.width, shape.height, shape.depth));
            YL_TRY(all.texture, Texture::create(shape));
        }
        YL_CHECK(join(all, one, slice));
        const auto bytes = std::as_const(one.texture).level(0);
        std::ranges::copy(bytes, all.texture.level(0).begin() +
                                     static_cast<std::ptrdiff_t>(slice * bytes.size()));
    }
    YL_CHECK(fill_levels(all.texture, chain_options(options.bake, stack.role()), options.bake));
    if (options.bake.first_level > 0) {
        YL_TRY(all.texture, without_first_levels(all.texture, options.bake.first_level));
    }
    YL_CHECK(encode_chain(all.texture, stack.format(), block_options(options.bake, stack.role()),
                          all.findings));
    return all;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
