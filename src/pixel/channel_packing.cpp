#include <yl/edit.hpp>

#include <algorithm>

#include <yl/convert.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

/// The deepest of the sources' formats.
Result<const FormatInfo*> common_format(std::span<const ChannelSource> sources) {
    const ConstImageView* first = nullptr;
    const FormatInfo* deepest = nullptr;
    for (const ChannelSource& source : sources) {
        if (source.image.width == 0)
            continue;
        const FormatInfo& f = info(source.image.format);
        if (number_codec(f.format).load == nullptr)
            return fail(ErrorKind::unsupported,
                        fmt::format("channels of {} cannot be taken apart", f.name));
        if (first != nullptr &&
            (first->width != source.image.width || first->height != source.image.height))
            return fail(
                ErrorKind::usage,
                fmt::format("the images to be packed differ in size: {} x {} and {} x {}; "
                            "resize one of them first",
                            first->width, first->height, source.image.width, source.image.height));
        first = first != nullptr ? first : &source.image;
        const auto depth = [](const FormatInfo& format) {
            return format.channels[0].bits + (format.is_float() ? 1 : 0);
        };
        if (deepest == nullptr || depth(f) > depth(*deepest))
            deepest = &f;
    }
    if (deepest == nullptr)
        return fail(ErrorKind::usage, "none of the channels to be packed comes from an image");
    return deepest;
}

}  // namespace

Result<Image> pack_channels(std::span<const ChannelSource> sources) try {
    if (sources.empty() || sources.size() > 4)
        return fail(ErrorKind::usage,
                    fmt::format("{} channels cannot be packed; 1 to 4 can", sources.size()));
    YL_TRY(const FormatInfo* like, common_format(sources));
    const auto image = std::find_if(sources.begin(), sources.end(), [](const ChannelSource& s) {
                           return s.image.width > 0;
                       })->image;
    const std::uint32_t bits = like->channels[0].bits > 8 ? like->channels[0].bits : 8;
    const PlainChannels plain{static_cast<std::uint32_t>(sources.size()),
                              std::min(bits, like->is_float() ? 32U : 16U), like->is_float()};
    YL_TRY(Image packed, Image::create(plain_format(plain), image.width, image.height,
                                       {.max_bytes = ~std::uint64_t{0}}));
    const ImageView target = packed.view();
    const RowCodec output = number_codec(target.format);
    parallel_ranges(target.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> from(std::size_t{target.width} * 4);
        std::vector<float> to(from.size());
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            for (std::size_t c = 0; c < sources.size(); ++c) {
                const ChannelSource& source = sources[c];
                if (source.image.width > 0)
                    number_codec(source.image.format)
                        .load(source.image.row(y).data(), from.data(), target.width);
                for (std::size_t x = 0; x < target.width; ++x) {
                    const float value = source.image.width > 0
                                            ? from[4 * x + static_cast<std::size_t>(source.channel)]
                                            : source.value;
                    to[4 * x + c] = source.inverted ? 1 - value : value;
                }
            }
            output.store(to.data(), target.row(y).data(), target.width);
        }
    });
    return packed;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> reordered(ConstImageView image, std::string_view letters) try {
    YL_CHECK(check_view(image, "image"));
    constexpr std::string_view known = "rgba01";
    if (letters.empty() || letters.size() > 4 ||
        letters.find_first_not_of(known) != std::string_view::npos)
        return fail(
            ErrorKind::usage,
            fmt::format("'{}' names no channels; it takes one to four letters of rgba01", letters));
    std::vector<ChannelSource> sources;
    for (const char letter : letters) {
        const std::size_t place = known.find(letter);
        if (place < 4)
            sources.push_back({.image = image, .channel = static_cast<Channel>(place)});
        else
            sources.push_back({.value = static_cast<float>(place - 4)});
    }
    YL_TRY(Image result, pack_channels(sources));
    // The numbers are the same, and so is what they mean to the GPU.
    const auto srgb = letters.size() == 2
                          ? std::nullopt
                          : with_transfer(result.format(), info(image.format).transfer);
    if (!srgb || *srgb == result.format())
        return result;
    const std::uint32_t width = result.width(), height = result.height();
    return Image::adopt(std::move(result).release(), *srgb, width, height);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status invert_channel(ImageView image, Channel channel) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    const RowCodec codec = number_codec(image.format);
    if (codec.load == nullptr || !f.has(channel))
        return fail(ErrorKind::usage,
                    fmt::format("{} has no such channel that can be inverted", f.name));
    const bool is_signed = f.kind == NumericKind::snorm;
    const auto place = static_cast<std::size_t>(channel);
    edit_rows(image, codec, [&](std::vector<float>& rgba, std::uint32_t) {
        for (std::size_t i = place; i < rgba.size(); i += 4)
            rgba[i] = is_signed ? -rgba[i] : 1 - rgba[i];
    });
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
