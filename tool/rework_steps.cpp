#include "rework_steps.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"

namespace ylat {

tl::unexpected<yl::Error> wrong(const std::string& option, const std::string& value,
                                const std::string& expected) {
    return yl::fail_at(
        {yl::ErrorKind::usage, fmt::format("'{}' is not understood; it takes {}", value, expected)},
        option);
}

std::optional<yl::Channel> parse_channel(std::string_view letter) {
    const std::size_t place = std::string_view("rgba").find(letter);
    if (letter.size() != 1 || place == std::string_view::npos)
        return {};
    return static_cast<yl::Channel>(place);
}

void settle_swizzle(yl::Picture& picture) {
    const std::uint32_t channels = yl::info(picture.image.format()).channel_count;
    picture.swizzle = channels == 1   ? yl::gray_swizzle
                      : channels == 2 ? yl::gray_alpha_swizzle
                                      : yl::identity_swizzle;
}

namespace {

/// The picture as RGBA, keeping depth and what its numbers mean: for steps that need alpha.
yl::Status widen(yl::Picture& picture) {
    const yl::FormatInfo& f = yl::info(picture.image.format());
    if (f.channel_count == 4 && picture.swizzle == yl::identity_swizzle)
        return {};
    const yl::Format format =
        yl::plain_format({4, f.channels[0].bits, f.is_float()}, picture.transfer);
    auto image = yl::convert(picture.image.view(), format,
                             {.source_transfer = picture.transfer,
                              .target_transfer = picture.transfer,
                              .swizzle = picture.swizzle});
    if (!image)
        return tl::unexpected(image.error());
    picture.image = std::move(*image);
    picture.swizzle = yl::identity_swizzle;
    return {};
}

}  // namespace

yl::Status ReworkSteps::take_steps(yl::Picture& picture, const Command& command) const {
    for (const auto& [name, value] : command.given_in_order())
        for (const Row& row : all)
            if (name == row.name) {
                auto status = (this->*row.take)(picture, value);
                if (!status)
                    return yl::fail_at(status.error(), name);
            }
    return {};
}

yl::Status ReworkSteps::replace(yl::Picture& picture, yl::Result<yl::Image> image) {
    if (!image)
        return tl::unexpected(image.error());
    picture.image = std::move(*image);
    return {};
}

yl::Status ReworkSteps::turn(yl::Picture& picture, const std::string& text) const {
    const auto turned = parse_orientation(text);
    if (!turned)
        return tl::unexpected(turned.error());
    return replace(picture, yl::with_orientation(std::as_const(picture.image).view(), *turned));
}

yl::Status ReworkSteps::crop(yl::Picture& picture, const std::string& text) const {
    const auto numbers = parse_numbers<std::uint32_t>(text, ",x");
    if (numbers.size() != 4)
        return wrong("--crop", text, "X,Y,WIDTHxHEIGHT in pixels from the top left");
    YL_TRY(const auto part, yl::cropped(std::as_const(picture.image).view(),
                                        {numbers[0], numbers[1], numbers[2], numbers[3]}));
    return replace(picture, yl::convert(part, part.format,
                                        {.source_transfer = picture.transfer,
                                         .target_transfer = picture.transfer}));
}

yl::Status ReworkSteps::resize(yl::Picture& picture, const std::string& text) const {
    yl::ResizeOptions options{.transfer = picture.transfer,
                              .alpha = picture.alpha,
                              .limit_ringing = limit_ringing,
                              .dither = dither,
                              .progress = session.progress()};
    const auto kernel = yl::parse_kernel(filter);
    const auto edge = yl::parse_edges(edges);
    if (!kernel)
        return yl::fail_at(kernel.error(), "--filter");
    if (!edge)
        return yl::fail_at(edge.error(), "--edge");
    options.kernel = *kernel;
    options.edges = *edge;
    std::array<std::uint32_t, 2> size = {picture.image.width(), picture.image.height()};
    if (text.ends_with('%')) {
        const auto share = parse_numbers<double>(text.substr(0, text.size() - 1), "");
        if (share.size() != 1 || !(share[0] > 0 && share[0] <= 10000))
            return wrong("--resize", text, "WIDTHxHEIGHT, or a share such as 50%");
        for (std::uint32_t& side : size)
            side = static_cast<std::uint32_t>(std::max(side * share[0] / 100 + 0.5, 1.0));
    } else {
        const auto numbers = parse_numbers<std::uint32_t>(text, "x");
        if (numbers.size() != 2)
            return wrong("--resize", text, "WIDTHxHEIGHT, or a share such as 50%");
        size = {numbers[0], numbers[1]};
    }
    return replace(picture,
                   yl::resize(std::as_const(picture.image).view(), size[0], size[1], options));
}

/// Letters mean the channels as they are seen: gray has three, and is opaque.
yl::Status ReworkSteps::reorder(yl::Picture& picture, const std::string& letters) const {
    if (auto status = widen(picture); !status)
        return status;
    auto status = replace(picture, yl::reordered(std::as_const(picture.image).view(), letters));
    settle_swizzle(picture);
    return status;
}

yl::Status ReworkSteps::invert(yl::Picture& picture, const std::string& letter) const {
    const auto channel = parse_channel(letter);
    if (!channel)
        return wrong("--invert", letter, "r, g, b or a");
    return yl::invert_channel(picture.image.view(), *channel);
}

yl::Status ReworkSteps::premultiply(yl::Picture& picture, const std::string&) const {
    picture.alpha = yl::AlphaMode::premultiplied;
    auto status = widen(picture);
    return status ? yl::premultiply(picture.image.view(), picture.transfer) : status;
}

yl::Status ReworkSteps::unpremultiply(yl::Picture& picture, const std::string&) const {
    picture.alpha = yl::AlphaMode::straight;
    auto status = widen(picture);
    return status ? yl::unpremultiply(picture.image.view(), picture.transfer) : status;
}

yl::Status ReworkSteps::composite_over(yl::Picture& picture, const std::string& text) const {
    const auto numbers = parse_numbers<float>(text, ",");
    const auto in_range = [](float number) { return number >= 0 && number <= 1; };
    if (numbers.size() != 3 || !std::ranges::all_of(numbers, in_range))
        return wrong("--composite-over", text,
                     "RED,GREEN,BLUE from 0 to 1, as the picture is encoded");
    std::array<float, 3> color{};
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = picture.transfer == yl::Transfer::srgb
                       ? static_cast<float>(yl::srgb_decode(static_cast<double>(numbers[c])))
                       : numbers[c];
    auto status = widen(picture);
    return status ? yl::composite_over(picture.image.view(), color, picture.transfer) : status;
}

yl::Status ReworkSteps::bleed(yl::Picture& picture, const std::string&) const {
    if (picture.alpha != yl::AlphaMode::straight)
        return yl::fail(
            yl::ErrorKind::usage,
            fmt::format("alpha is {}: nothing lies hidden under it", alpha_text(picture.alpha)));
    auto status = widen(picture);
    return status ? yl::bleed_colors(picture.image.view()) : status;
}

/// Floating point becomes integers as the role has them: light is encoded.
yl::Status ReworkSteps::set_bits(yl::Picture& picture, const std::string& text) const {
    if (text != "8" && text != "16")
        return wrong("--bits", text, "8 or 16");
    const yl::FormatInfo& f = yl::info(picture.image.format());
    yl::Transfer transfer = picture.transfer;
    if (f.is_float())
        transfer = yl::info(parse_inputs(inputs)
                                .map([](const InputOptions& o) { return o.role; })
                                .value_or(std::nullopt)
                                .value_or(yl::Role::hdr))
                       .transfer;
    const yl::Format format = yl::plain_format({f.channel_count, text == "8" ? 8U : 16U}, transfer);
    auto status = replace(picture, yl::convert(std::as_const(picture.image).view(), format,
                                               {.source_transfer = picture.transfer,
                                                .target_transfer = transfer,
                                                .dither = dither}));
    picture.transfer = transfer;
    return status;
}

/// Luminance of linear light; alpha stays beside it.
yl::Status ReworkSteps::gray(yl::Picture& picture, const std::string&) const {
    const yl::ConstImageView image = std::as_const(picture.image).view();
    const yl::FormatInfo& f = yl::info(image.format);
    if (picture.swizzle != yl::identity_swizzle || f.channel_count < 3)
        return {};  // it is gray
    const auto plain = yl::plain_channels(image.format);
    if (!plain)
        return wrong("--gray", "", "a picture of plain channels");
    YL_TRY(auto one,
           yl::Image::create(yl::plain_format({1, plain->bits, plain->is_float}, picture.transfer),
                             image.width, image.height));
    YL_CHECK(yl::convert(image, one.view(),
                         {.source_transfer = picture.transfer,
                          .target_transfer = picture.transfer,
                          .to_one_channel = yl::ToOneChannel::luminance}));
    if (f.has(yl::Channel::alpha) && plain->is_float)
        return yl::fail_at({yl::ErrorKind::usage,
                            "floating point with alpha is not made gray; take --channels rgb "
                            "before, or --bits 16"},
                           "--gray");
    if (!f.has(yl::Channel::alpha)) {
        picture.image = std::move(one);
    } else {
        const std::array<yl::ChannelSource, 2> both = {
            {{.image = std::as_const(one).view()},
             {.image = image, .channel = yl::Channel::alpha}}};
        YL_CHECK(replace(picture, yl::pack_channels(both)));
    }
    settle_swizzle(picture);
    return {};
}

yl::Status ReworkSteps::change_tone(yl::Picture& picture, const yl::Result<yl::Tone>& tone) {
    if (!tone)
        return tl::unexpected(tone.error());
    if (picture.alpha == yl::AlphaMode::premultiplied)
        return yl::fail(yl::ErrorKind::usage,
                        "colours are premultiplied: put --unpremultiply before it");
    return yl::apply_tone(picture.image.view(), *tone);
}

yl::Status ReworkSteps::set_levels(yl::Picture& picture, const std::string& text) const {
    const auto numbers = parse_numbers<float>(text, ",");
    if (numbers.size() != 2 && numbers.size() != 3)
        return wrong("--levels", text, "BLACK,WHITE or BLACK,WHITE,GAMMA, such as 0.1,0.9,1.2");
    return change_tone(picture,
                       yl::levels(numbers[0], numbers[1], numbers.size() == 3 ? numbers[2] : 1));
}

yl::Status ReworkSteps::set_curve(yl::Picture& picture, const std::string& text) const {
    std::vector<std::array<float, 2>> points;
    for (std::size_t begin = 0; begin <= text.size();) {
        const std::size_t end = std::min(text.find(':', begin), text.size());
        const auto point = parse_numbers<float>(text.substr(begin, end - begin), ",");
        if (point.size() != 2)
            return wrong("--curve", text, "points VALUE,NEW:VALUE,NEW..., such as 0,0:0.5,0.6:1,1");
        points.push_back({point[0], point[1]});
        begin = end + 1;
    }
    return change_tone(picture, yl::tone_curve(points));
}

yl::Status ReworkSteps::tile(yl::Picture& picture, const std::string& text) const {
    const auto share = parse_numbers<float>(text, "");
    if (share.size() != 1)
        return wrong("--tile", text, "a share of each side, such as 0.25");
    return replace(picture, yl::with_blended_seams(std::as_const(picture.image).view(),
                                                   picture.transfer, {.share = share[0]}));
}

yl::Status ReworkSteps::mask(yl::Picture& picture, const std::string& path) const {
    YL_TRY(const auto mask, open_picture(session, path, {.role = yl::Role::mask}));
    auto status = widen(picture);
    return status ? yl::mask_by(picture.image.view(), mask.image.view()) : status;
}

yl::Status ReworkSteps::normals(yl::Picture& picture, const std::string& text) const {
    const auto height = parse_numbers<float>(text, "");
    const auto edge = yl::parse_edges(edges);
    if (height.size() != 1 || !std::isfinite(height[0]))
        return wrong("--normals", text, "how many pixels white stands above black");
    if (!edge)
        return yl::fail_at(edge.error(), "--edge");
    picture.transfer = yl::Transfer::linear;
    picture.swizzle = yl::identity_swizzle;
    YL_TRY(auto made, yl::normals_from_height(std::as_const(picture.image).view(),
                                              {.height = height[0], .edges = *edge}));
    return replace(picture, yl::reordered(made.view(), "rgb"));
}

constexpr ReworkSteps::Row ReworkSteps::all[] = {
    {"--turn", &ReworkSteps::turn, "TURN", orientation_words},
    {"--crop", &ReworkSteps::crop, "X,Y,WxH", "Crop to a part"},
    {"--resize", &ReworkSteps::resize, "WxH|N%", "Resize in linear light"},
    {"--channels", &ReworkSteps::reorder, "LETTERS",
     "Order and number of channels, of the letters rgba01"},
    {"--invert", &ReworkSteps::invert, "CHANNEL", "Invert one channel"},
    {"--gray", &ReworkSteps::gray, "", "Gray by the luminance of linear light", has_color,
     "the picture is gray already"},
    {"--levels", &ReworkSteps::set_levels, "BLACK,WHITE[,GAMMA]",
     "Stretch values, as stored, from 0 to 1; GAMMA above 1 makes middle ones lighter"},
    {"--curve", &ReworkSteps::set_curve, "V,N:V,N...",
     "Change values, as stored, by a smooth curve through these points"},
    {"--tile", &ReworkSteps::tile, "SHARE",
     "Make it repeat: blend this share of each side into the other end"},
    {"--composite-over", &ReworkSteps::composite_over, "R,G,B", "Composite over a colour",
     has_alpha, no_alpha},
    {"--mask", &ReworkSteps::mask, "FILE", "Multiply alpha by another picture"},
    {"--normals", &ReworkSteps::normals, "PIXELS",
     "Turn heights into normals; white is this many pixels high"},
    {"--bits", &ReworkSteps::set_bits, "BITS", "8 or 16 bits a channel", holds_codes,
     "the file holds floating point"},
    {"--premultiply", &ReworkSteps::premultiply, "", "Multiply colour by alpha", has_alpha,
     no_alpha},
    {"--unpremultiply", &ReworkSteps::unpremultiply, "", "Divide colour by alpha", has_alpha,
     no_alpha},
    {"--bleed", &ReworkSteps::bleed, "",
     "Fill transparent pixels with the colour of their neighbours", has_alpha, no_alpha},
};

}  // namespace ylat
