// Conversions, edits, tones, other sizes, normals.
#include "hash.hpp"

namespace probe {
namespace {

/// All formats that have texels of their own.
std::vector<yl::FormatInfo> plain_formats() {
    std::vector<yl::FormatInfo> formats;
    for (const yl::FormatInfo& f : yl::all_formats())
        if (!f.is_block())
            formats.push_back(f);
    return formats;
}

void conversions() {
    for (const yl::FormatInfo& from : plain_formats()) {
        const yl::Image image = waves_in(from.format, 37, 5);
        print("waves in " + text(from.name), image);
        Hash all, dithered;
        for (const yl::FormatInfo& to : plain_formats()) {
            yl::ConvertOptions options = {.source_transfer = yl::Transfer::srgb,
                                          .target_transfer = yl::Transfer::srgb,
                                          .to_one_channel = yl::ToOneChannel::luminance};
            all.add(yl::or_exit(yl::convert(image.view(), to.format, options)));
            options.dither = true;
            dithered.add(yl::or_exit(yl::convert(image.view(), to.format, options)));
        }
        print("convert from " + text(from.name), all.value());
        print("convert with dither from " + text(from.name), dithered.value());
    }
}

/// The result of an edit that changes an image where it is.
template <class Edit>
void edited(const std::string& name, yl::Format format, const Edit& edit) {
    yl::Image image = waves_in(format, 41, 23);
    const yl::Status status = edit(image.view());
    if (status)
        print(name + " in " + text(yl::info(format).name), image);
    else
        print(name + " in " + text(yl::info(format).name), status.error().message);
}

void edits() {
    const yl::Image mask = waves_in(yl::Format::r8_unorm, 41, 23);
    for (const yl::Format format :
         {yl::Format::rgba8_srgb, yl::Format::rgba8_unorm, yl::Format::rgba16_unorm,
          yl::Format::rgba32_float, yl::Format::rgb8_srgb, yl::Format::r16_unorm}) {
        for (const yl::Transfer transfer : {yl::Transfer::linear, yl::Transfer::srgb}) {
            const std::string as = transfer == yl::Transfer::srgb ? ", sRGB" : ", linear";
            edited("premultiply" + as, format,
                   [&](yl::ImageView view) { return yl::premultiply(view, transfer); });
            edited("unpremultiply" + as, format,
                   [&](yl::ImageView view) { return yl::unpremultiply(view, transfer); });
            edited("composite" + as, format, [&](yl::ImageView view) {
                return yl::composite_over(view, {0.2F, 0.5F, 0.1F}, transfer);
            });
        }
        edited("bleed", format, [](yl::ImageView view) { return yl::bleed_colors(view); });
        edited("mask", format, [&](yl::ImageView view) { return yl::mask_by(view, mask.view()); });
        edited("invert", format,
               [](yl::ImageView view) { return yl::invert_channel(view, yl::Channel::green); });
        edited("levels", format, [](yl::ImageView view) {
            return yl::apply_tone(view, yl::or_exit(yl::levels(0.1F, 0.9F, 1.4F)));
        });
        edited("curve", format, [](yl::ImageView view) {
            const std::array<float, 2> points[] = {{0, 0.1F}, {0.4F, 0.3F}, {1, 0.9F}};
            return yl::apply_tone(view, yl::or_exit(yl::tone_curve(points)));
        });
        const yl::Image image = waves_in(format, 41, 23);
        const std::string name = text(yl::info(format).name);
        for (const yl::Orientation orientation : yl::all_orientations)
            print("turn " + text(yl::name(orientation)) + " of " + name,
                  yl::or_exit(yl::with_orientation(image.view(), orientation)));
        for (const auto& [across, along] :
             {std::pair{true, true}, std::pair{true, false}, std::pair{false, true}}) {
            const auto tile = yl::with_blended_seams(image.view(), yl::Transfer::srgb,
                                                     {.across = across, .along = along});
            const std::string sides = across && along ? "both" : across ? "across" : "along";
            if (is_there("tile " + sides + " of " + name, tile))
                print("tile " + sides + " of " + name, *tile);
        }
        const auto letters = yl::reordered(image.view(), "b1rg");
        if (is_there("reorder " + name, letters))
            print("reorder " + name, *letters);
        const yl::Image part =
            waves_in(format, 41, 23);  // a crop is a view: hashed with its stride
        print("crop of " + name, yl::or_exit(yl::cropped(part.view(), {5, 3, 17, 11})));
    }
    const yl::Image color = waves_in(yl::Format::rgba8_srgb, 41, 23);
    const yl::ChannelSource sources[] = {{.image = mask.view(), .inverted = true},
                                         {.value = 0.25F},
                                         {.image = color.view(), .channel = yl::Channel::blue},
                                         {.image = color.view(), .channel = yl::Channel::alpha}};
    print("pack channels", yl::or_exit(yl::pack_channels(sources)));
}

void sizes() {
    for (const yl::Format format :
         {yl::Format::rgba8_srgb, yl::Format::r16_unorm, yl::Format::rgba32_float})
        for (const char* kernel :
             {"box", "triangle", "mitchell", "catmull-rom", "lanczos:3", "kaiser:3,4"})
            for (const auto& edges : {std::array{yl::Edge::clamp, yl::Edge::repeat},
                                      std::array{yl::Edge::mirror, yl::Edge::clamp}}) {
                const yl::Image image = waves_in(format, 48, 36);
                Hash all;
                for (const auto& [width, height] :
                     {std::pair{24U, 18U}, std::pair{17U, 90U}, std::pair{96U, 5U}})
                    all.add(yl::or_exit(yl::resize(image.view(), width, height,
                                                   {.kernel = yl::or_exit(yl::parse_kernel(kernel)),
                                                    .edges = {edges[0], edges[1]},
                                                    .limit_ringing = edges[0] == yl::Edge::clamp,
                                                    .dither = edges[0] == yl::Edge::mirror})));
                print("resize " + text(yl::info(format).name) + " by " + kernel + ", " +
                          yl::edges_text({edges[0], edges[1]}),
                      all.value());
            }
}

void normals() {
    const yl::Image heights = waves_in(yl::Format::r16_unorm, 40, 24);
    for (const bool green_up : {true, false})
        for (const auto& edges : {std::array{yl::Edge::repeat, yl::Edge::clamp},
                                  std::array{yl::Edge::clamp, yl::Edge::mirror}})
            print(fmt::format("normals of heights, green {}, {}", green_up ? "up" : "down",
                              yl::edges_text({edges[0], edges[1]})),
                  yl::or_exit(yl::normals_from_height(
                      heights.view(),
                      {.height = 3, .edges = {edges[0], edges[1]}, .green_up = green_up})));
    const yl::Image directions =
        yl::or_exit(yl::normals_from_height(heights.view(), {.height = 5}));
    for (const yl::FormatInfo& to : plain_formats()) {
        if (to.channel_count < 2 || to.transfer == yl::Transfer::srgb)
            continue;
        yl::Image image = yl::or_exit(yl::Image::create(to.format, 40, 24));
        const auto measured = yl::convert_normals(directions.view(), image.view());
        if (is_there("normals in " + text(to.name), measured))
            print("normals in " + text(to.name), image, measured->mean_length, measured->inward);
    }
}

void measures() {
    for (const yl::FormatInfo& f : plain_formats()) {
        const yl::Image image = waves_in(f.format, 40, 24);
        const yl::ChannelUse use = yl::analyse_channels(image.view());
        const yl::ContentMeasure content = yl::measure_content(image.view());
        const yl::SeamMeasure seams = yl::measure_seams(image.view());
        print("measures of " + text(f.name), use.is_gray, use.is_opaque, use.alpha_is_binary,
              content.is_uniform, content.transparent, content.directions, content.mean,
              seams.across, seams.down, yl::bits_in_use(image.view()));
    }
    for (const yl::Role role : {yl::Role::color, yl::Role::normal, yl::Role::data, yl::Role::hdr})
        for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::rgba16_unorm,
                                        yl::Format::rgba32_float, yl::Format::rg8_unorm}) {
            yl::Image other = waves_in(format, 40, 24);
            const yl::Image image = waves_in(format, 40, 24);
            if (!yl::invert_channel(other.view(), yl::Channel::green))
                continue;
            const auto found = yl::measure_difference(image.view(), other.view(), {.role = role});
            const std::string name =
                fmt::format("difference of {} as {}", yl::info(format).name, yl::info(role).name);
            if (is_there(name, found))
                print(name, found->channels, found->channel_psnr, found->psnr, found->linear_psnr,
                      found->ssim, found->max, found->worst_x, found->worst_y, found->mean_angle,
                      found->max_angle, found->log_error, found->relative_error,
                      found->hidden_texels);
        }
}

}  // namespace

void pixels(const Places&) {
    conversions();
    edits();
    sizes();
    normals();
    measures();
}

}  // namespace probe
