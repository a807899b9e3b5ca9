#include <yl/bake_array.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/stack.hpp"
#include "base/out_of_memory.hpp"

namespace yl {
namespace {

std::string numbered(std::size_t picture) {
    return fmt::format("picture {}", picture);
}

/// A stack whose pictures become equally large.
class EvenStack : public Stack {
 public:
    EvenStack(std::span<const Picture* const> pictures, const StackOptions& options)
        : Stack(pictures, options.bake, numbered), options_(options) {}

    Status settle() {
        YL_CHECK(Stack::settle());
        return settle_size();
    }

    Result<Baked> baked(std::size_t index, const BakeOptions& options) const {
        YL_TRY(const Picture fitted, fitted_to_size(picture(index)));
        return Stack::baked(index, fitted.image.width() > 0 ? fitted : picture(index), options);
    }

 private:
    Status settle_size() {
        const ConstImageView first = picture(0).image.view();
        width_ = first.width;
        height_ = first.height;
        for (std::size_t i = 1; i < size(); ++i) {
            const ConstImageView image = picture(i).image.view();
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
                                         .alpha = alpha_mode(role(), picture.alpha)}));
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

    const StackOptions& options_;
    std::uint32_t width_ = 0, height_ = 0;
};

}  // namespace

Result<Baked> bake_array(std::span<const Picture* const> pictures,
                         const StackOptions& options) try {
    EvenStack stack(pictures, options);
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
        YL_CHECK(stack.join(all, one, layer));
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
    EvenStack stack(slices, options);
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
        YL_CHECK(stack.join(all, one, slice));
        const auto bytes = std::as_const(one.texture).level(0);
        std::ranges::copy(bytes, all.texture.level(0).begin() +
                                     static_cast<std::ptrdiff_t>(slice * bytes.size()));
    }
    YL_CHECK(fill_levels(all.texture, chain_options(options.bake, stack.role()), options.bake));
    if (options.bake.first_level > 0) {
        YL_TRY(all.texture, without_first_levels(all.texture, options.bake.first_level));
    }
    YL_CHECK(encode_chain(all.texture, stack.format(), block_options(options.bake, stack.role()),
                          wanted_family(options.bake), all.findings));
    return all;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
