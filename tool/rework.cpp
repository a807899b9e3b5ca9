// ylat rework: a picture changed step by step, and written as another.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

tl::unexpected<yl::Error> wrong(const std::string& option, const std::string& value,
                                const std::string& expected) {
    return yl::fail_at(
        {yl::ErrorKind::usage, fmt::format("'{}' is not understood; it takes {}", value, expected)},
        option);
}

/// Numbers between separators; nothing when there are others than wanted.
template <class Number>
std::vector<Number> parse_numbers(std::string_view text, std::string_view separators) {
    std::vector<Number> numbers;
    while (true) {
        Number number{};
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
        if (error != std::errc{})
            return {};
        numbers.push_back(number);
        text.remove_prefix(static_cast<std::size_t>(end - text.data()));
        if (text.empty())
            return numbers;
        if (separators.find(text.front()) == std::string_view::npos)
            return {};
        text.remove_prefix(1);
    }
}

std::optional<yl::Channel> parse_channel(std::string_view letter) {
    const std::size_t place = std::string_view("rgba").find(letter);
    if (letter.size() != 1 || place == std::string_view::npos)
        return {};
    return static_cast<yl::Channel>(place);
}

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

/// What the stored channels of an image in memory mean.
void settle_swizzle(yl::Picture& picture) {
    const std::uint32_t channels = yl::info(picture.image.format()).channel_count;
    picture.swizzle = channels == 1   ? yl::gray_swizzle
                      : channels == 2 ? yl::gray_alpha_swizzle
                                      : yl::identity_swizzle;
}

enum ReworkFact : Facts {
    resizes = 1U << 0U,
    looks_beyond_edges = 1U << 1U,
    packs_file = 1U << 2U,
    has_alpha = 1U << 3U,
    rounds = 1U << 4U,
    weighs_alpha = 1U << 5U,
    says_transfer = 1U << 6U,
    holds_codes = 1U << 7U,
    role_matters = 1U << 8U,
    has_profile = 1U << 9U,
    has_color = 1U << 10U,
    holds_channels = 1U << 11U,  ///< several, to be split
    is_lossy = 1U << 12U,        ///< the file that is written
    loses_chroma = 1U << 13U,    ///< unless told to keep it
};

constexpr int all_chroma_from = 96;  // the quality, as WriteOptions has it

bool is_jpeg(const std::string& ending) {
    static constexpr std::string_view endings[] = {"jpg", "jpeg", "jpe", "jfif"};
    return std::ranges::find(endings, ending) != std::end(endings);
}

bool is_packed(const std::string& ending) {
    static constexpr std::string_view endings[] = {"png", "exr", "tif", "tiff", "webp"};
    return std::ranges::find(endings, ending) != std::end(endings);
}

/// Picture files that say how their colours are encoded.
bool says_transfer_in_file(const std::string& ending) {
    static constexpr std::string_view endings[] = {"png", "exr", "hdr", "pfm", "qoi", "webp"};
    return std::ranges::find(endings, ending) != std::end(endings);
}

bool has_alpha_channel(const yl::Picture& picture) {
    return yl::info(picture.image.format()).has(yl::Channel::alpha) ||
           picture.swizzle == yl::gray_alpha_swizzle;
}

struct Rework {
    Session& session;
    Command command;
    InputChoices inputs = {};
    std::string input = {}, output = {}, filter = "mitchell", edges = "clamp";
    std::vector<std::string> pack = {};
    std::vector<std::string> step_values = {};  ///< of one of them; their order tells the rest
    bool dither = false, limit_ringing = false, split = false;
    yl::WriteOptions written = {};
    bool whole_chroma = false;

    /// A step: its option, what it does with the option's value, and what it needs.
    struct StepRow {
        const char* name;
        yl::Status (Rework::*take)(yl::Picture&, const std::string&) const;
        const char* value;  ///< as help shows it; none where the option is a flag
        const char* help;
        Facts needs = ~Facts{0};
        const char* otherwise = "";
    };
    static const StepRow all_steps[16];

    yl::Result<Exit> run() {
        const auto given = [&](const char* name) { return command.is_given(name); };
        const std::string ending = output == "-" ? "png" : lower_case_ending(output);
        YL_CHECK(command.refuse_options(
            when(given("--resize"), resizes) |
            when(given("--resize") || given("--normals"), looks_beyond_edges) |
            when(is_packed(ending), packs_file) | when(is_jpeg(ending), is_lossy)));
        written.halve_chroma = !whole_chroma;
        YL_TRY(auto picture, open());
        const bool had_alpha =
            has_alpha_channel(picture) &&
            !yl::analyse_channels(std::as_const(picture.image).view(), picture.swizzle).is_opaque;
        const bool had_color = picture.swizzle == yl::identity_swizzle &&
                               yl::info(picture.image.format()).channel_count > 2;
        YL_CHECK(take_steps(picture));
        auto fitted = yl::fitted_to(ending, picture, dither);
        if (!fitted)
            return yl::fail_at(fitted.error(), output);
        const yl::ConstImageView image = std::as_const(fitted->image).view();
        const bool was_light = yl::info(picture.image.format()).is_float();
        if (was_light && !yl::info(image.format).is_float())
            session.note({{"light-cut-off",
                           fmt::format("{} holds no light above 1: it is cut off",
                                       yl::info(image.format).name),
                           "write .exr or .hdr to keep it"}},
                         output);
        note_idle_options(picture, *fitted, had_alpha, had_color);
        YL_TRY(const auto names, split ? save_channels(*fitted) : save_whole(*fitted));
        session.say(fmt::format("{}: {}, {}", fmt::join(names, ", "),
                                size_text(image.width, image.height), yl::info(image.format).name));
        session.give([&] {
            return Json({{"input", input},
                         {"output", names[0]},
                         {"outputs", names},
                         {"width", image.width},
                         {"height", image.height},
                         {"gpu_format", yl::info(image.format).name},
                         {"transfer", transfer_text(fitted->transfer)}});
        });
        return session.outcome();
    }

    using Names = yl::Result<std::vector<std::string>>;

    Names save_whole(const yl::Picture& picture) const {
        YL_TRY(const auto bytes, save(output, picture, written));
        static_cast<void>(bytes);
        return std::vector{output};
    }

    /// "OUT_r.png" and so on, each with one channel as it is stored.
    Names save_channels(const yl::Picture& picture) const {
        if (output == "-")
            return yl::fail_at({yl::ErrorKind::usage, "several files cannot go to standard output"},
                               "--split");
        const std::filesystem::path path = output;
        const bool is_gray = picture.swizzle != yl::identity_swizzle;
        const std::uint32_t count = yl::info(picture.image.format()).channel_count;
        const std::string_view stored = "rgba", seen = is_gray ? "ra" : "rgba";
        std::vector<std::string> names;
        for (std::uint32_t c = 0; c < count; ++c) {
            yl::Picture one;
            one.transfer = picture.transfer;
            YL_TRY(one.image, yl::reordered(picture.image.view(), stored.substr(c, 1)));
            settle_swizzle(one);
            const std::string name =
                fmt::format("{}_{}{}", path.stem().string(), seen[c], path.extension().string());
            names.push_back((path.parent_path() / name).string());
            YL_TRY(const auto bytes, save(names.back(), one, written));
            static_cast<void>(bytes);
        }
        return names;
    }

    void note_idle_options(const yl::Picture& made, const yl::Picture& fitted, bool had_alpha,
                           bool had_color) const {
        const auto given = [&](const char* name) { return command.is_given(name); };
        const yl::FormatInfo& from = yl::info(made.image.format());
        const yl::FormatInfo& to = yl::info(fitted.image.format());
        const bool computes = given("--resize") || given("--tile") || given("--composite-over") ||
                              given("--premultiply") || given("--unpremultiply");
        const bool is_reduced = !to.is_float() && from.channels[0].bits > to.channels[0].bits;
        if (is_reduced && given("--bits"))
            session.note({{"option-without-effect",
                           fmt::format("--bits changes nothing: the file holds {} bits a channel",
                                       to.channels[0].bits),
                           "write .png to keep more"}},
                         output);
        const std::string ending = output == "-" ? "png" : lower_case_ending(output);
        const yl::Transfer usual = made.info.declared_transfer.value_or(
            from.is_float() ? yl::Transfer::linear : yl::Transfer::srgb);
        const bool weighs = given("--resize") || given("--bleed");
        const bool reads_otherwise =
            (made.transfer != usual && (computes || says_transfer_in_file(ending))) ||
            (weighs && had_alpha) || given("--bits") || given("--normals") || !pack.empty();
        session.note(
            command.idle_options(
                when(had_alpha || given("--mask") || given("--channels"), has_alpha) |
                when(weighs, weighs_alpha) | when(reads_otherwise, role_matters) |
                when(computes || says_transfer_in_file(ending), says_transfer) |
                when(!to.is_float(), holds_codes) |
                when(!to.is_float() && (is_reduced || computes || given("--bits")), rounds) |
                when(had_color, has_color) |
                when(to.channel_count > 1 && written.quality < all_chroma_from, loses_chroma) |
                when(to.channel_count > 1, holds_channels) |
                when(!made.info.applied_profile.empty() || !made.info.unapplied.empty(),
                     has_profile)),
            output);
    }

    yl::Result<yl::Picture> open() const {
        if (input.empty() == pack.empty())
            return yl::fail(yl::ErrorKind::usage,
                            "either one picture or --pack is needed to begin with");
        YL_TRY(const auto chosen, parse_inputs(inputs));
        return pack.empty() ? open_picture(session, input, chosen)
                            : open_pack(chosen.role.value_or(yl::Role::color));
    }

    /// "r=FILE", "g=FILE:b", "b=FILE:-r" or "a=1" for each channel of the result.
    yl::Result<yl::Picture> open_pack(yl::Role meaning) const {
        std::map<std::string, yl::Picture> pictures;
        std::vector<yl::ChannelSource> sources(pack.size());
        std::vector<bool> is_set(pack.size());
        for (const std::string& entry : pack) {
            const auto place = entry.size() > 2 && entry[1] == '='
                                   ? parse_channel(entry.substr(0, 1))
                                   : std::nullopt;
            if (!place || static_cast<std::size_t>(*place) >= pack.size() ||
                is_set[static_cast<std::size_t>(*place)])
                return wrong("--pack", entry,
                             "the channels r, g, b, a in this order without gaps, each with '=' "
                             "and a file or a number");
            is_set[static_cast<std::size_t>(*place)] = true;
            YL_TRY(auto source, pack_source(entry.substr(2), meaning, pictures));
            sources[static_cast<std::size_t>(*place)] = source;
        }
        auto packed = yl::pack_channels(sources);
        if (!packed)
            return yl::fail_at(packed.error(), "--pack");
        yl::Picture picture;
        picture.image = std::move(*packed);
        picture.transfer = yl::Transfer::linear;
        settle_swizzle(picture);
        return picture;
    }

    yl::Result<yl::ChannelSource> pack_source(std::string text, yl::Role meaning,
                                              std::map<std::string, yl::Picture>& pictures) const {
        if (const auto number = parse_numbers<float>(text, ""); number.size() == 1) {
            if (number[0] < 0 || number[0] > 1)
                return wrong("--pack", text, "a number from 0 to 1");
            return yl::ChannelSource{.value = number[0]};
        }
        yl::ChannelSource source;
        const std::size_t colon = text.rfind(':');
        if (colon != std::string::npos) {
            std::string letter = text.substr(colon + 1);
            source.inverted = letter.starts_with('-');
            if (const auto channel = parse_channel(letter.substr(source.inverted ? 1 : 0))) {
                source.channel = *channel;
                text = text.substr(0, colon);
            } else {
                source.inverted = false;
            }
        }
        if (!pictures.contains(text)) {
            YL_TRY(auto picture, open_picture(session, text, {.role = meaning}));
            pictures.emplace(text, std::move(picture));
        }
        const yl::Picture& picture = pictures.at(text);
        source.image = picture.image.view();
        // The second stored channel of gray with alpha is alpha.
        if (picture.swizzle == yl::gray_alpha_swizzle && source.channel == yl::Channel::alpha)
            source.channel = yl::Channel::green;
        else if (picture.swizzle != yl::identity_swizzle && source.channel != yl::Channel::alpha)
            source.channel = yl::Channel::red;
        return source;
    }

    /// The steps in the order in which they stand on the command line.
    yl::Status take_steps(yl::Picture& picture) const {
        for (const auto& [name, value] : command.given_in_order())
            for (const StepRow& row : all_steps)
                if (name == row.name) {
                    auto status = (this->*row.take)(picture, value);
                    if (!status)
                        return yl::fail_at(status.error(), name);
                }
        return {};
    }

    static yl::Status replace(yl::Picture& picture, yl::Result<yl::Image> image) {
        if (!image)
            return tl::unexpected(image.error());
        picture.image = std::move(*image);
        return {};
    }

    yl::Status turn(yl::Picture& picture, const std::string& text) const {
        const auto turned = parse_orientation(text);
        if (!turned)
            return tl::unexpected(turned.error());
        return replace(picture, yl::with_orientation(std::as_const(picture.image).view(), *turned));
    }

    yl::Status crop(yl::Picture& picture, const std::string& text) const {
        const auto numbers = parse_numbers<std::uint32_t>(text, ",x");
        if (numbers.size() != 4)
            return wrong("--crop", text, "X,Y,WIDTHxHEIGHT in pixels from the top left");
        YL_TRY(const auto part, yl::cropped(std::as_const(picture.image).view(),
                                            {numbers[0], numbers[1], numbers[2], numbers[3]}));
        return replace(picture, yl::convert(part, part.format,
                                            {.source_transfer = picture.transfer,
                                             .target_transfer = picture.transfer}));
    }

    yl::Status resize(yl::Picture& picture, const std::string& text) const {
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
    yl::Status reorder(yl::Picture& picture, const std::string& letters) const {
        if (auto status = widen(picture); !status)
            return status;
        auto status = replace(picture, yl::reordered(std::as_const(picture.image).view(), letters));
        settle_swizzle(picture);
        return status;
    }

    yl::Status invert(yl::Picture& picture, const std::string& letter) const {
        const auto channel = parse_channel(letter);
        if (!channel)
            return wrong("--invert", letter, "r, g, b or a");
        return yl::invert_channel(picture.image.view(), *channel);
    }

    yl::Status premultiply(yl::Picture& picture, const std::string&) const {
        picture.alpha = yl::AlphaMode::premultiplied;
        auto status = widen(picture);
        return status ? yl::premultiply(picture.image.view(), picture.transfer) : status;
    }

    yl::Status unpremultiply(yl::Picture& picture, const std::string&) const {
        picture.alpha = yl::AlphaMode::straight;
        auto status = widen(picture);
        return status ? yl::unpremultiply(picture.image.view(), picture.transfer) : status;
    }

    yl::Status composite_over(yl::Picture& picture, const std::string& text) const {
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

    yl::Status bleed(yl::Picture& picture, const std::string&) const {
        if (picture.alpha != yl::AlphaMode::straight)
            return yl::fail(yl::ErrorKind::usage,
                            fmt::format("alpha is {}: nothing lies hidden under it",
                                        alpha_text(picture.alpha)));
        auto status = widen(picture);
        return status ? yl::bleed_colors(picture.image.view()) : status;
    }

    /// Floating point becomes integers as the role has them: light is encoded.
    yl::Status set_bits(yl::Picture& picture, const std::string& text) const {
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
        const yl::Format format =
            yl::plain_format({f.channel_count, text == "8" ? 8U : 16U}, transfer);
        auto status = replace(picture, yl::convert(std::as_const(picture.image).view(), format,
                                                   {.source_transfer = picture.transfer,
                                                    .target_transfer = transfer,
                                                    .dither = dither}));
        picture.transfer = transfer;
        return status;
    }

    /// Luminance of linear light; alpha stays beside it.
    yl::Status gray(yl::Picture& picture, const std::string&) const {
        const yl::ConstImageView image = std::as_const(picture.image).view();
        const yl::FormatInfo& f = yl::info(image.format);
        if (picture.swizzle != yl::identity_swizzle || f.channel_count < 3)
            return {};  // it is gray
        const auto plain = yl::plain_channels(image.format);
        if (!plain)
            return wrong("--gray", "", "a picture of plain channels");
        YL_TRY(auto one, yl::Image::create(
                             yl::plain_format({1, plain->bits, plain->is_float}, picture.transfer),
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

    static yl::Status change_tone(yl::Picture& picture, const yl::Result<yl::Tone>& tone) {
        if (!tone)
            return tl::unexpected(tone.error());
        if (picture.alpha == yl::AlphaMode::premultiplied)
            return yl::fail(yl::ErrorKind::usage,
                            "colours are premultiplied: put --unpremultiply before it");
        return yl::apply_tone(picture.image.view(), *tone);
    }

    yl::Status set_levels(yl::Picture& picture, const std::string& text) const {
        const auto numbers = parse_numbers<float>(text, ",");
        if (numbers.size() != 2 && numbers.size() != 3)
            return wrong("--levels", text, "BLACK,WHITE or BLACK,WHITE,GAMMA, such as 0.1,0.9,1.2");
        return change_tone(
            picture, yl::levels(numbers[0], numbers[1], numbers.size() == 3 ? numbers[2] : 1));
    }

    yl::Status set_curve(yl::Picture& picture, const std::string& text) const {
        std::vector<std::array<float, 2>> points;
        for (std::size_t begin = 0; begin <= text.size();) {
            const std::size_t end = std::min(text.find(':', begin), text.size());
            const auto point = parse_numbers<float>(text.substr(begin, end - begin), ",");
            if (point.size() != 2)
                return wrong("--curve", text,
                             "points VALUE,NEW:VALUE,NEW..., such as 0,0:0.5,0.6:1,1");
            points.push_back({point[0], point[1]});
            begin = end + 1;
        }
        return change_tone(picture, yl::tone_curve(points));
    }

    yl::Status tile(yl::Picture& picture, const std::string& text) const {
        const auto share = parse_numbers<float>(text, "");
        if (share.size() != 1)
            return wrong("--tile", text, "a share of each side, such as 0.25");
        return replace(picture, yl::with_blended_seams(std::as_const(picture.image).view(),
                                                       picture.transfer, {.share = share[0]}));
    }

    yl::Status mask(yl::Picture& picture, const std::string& path) const {
        YL_TRY(const auto mask, open_picture(session, path, {.role = yl::Role::mask}));
        auto status = widen(picture);
        return status ? yl::mask_by(picture.image.view(), mask.image.view()) : status;
    }

    yl::Status normals(yl::Picture& picture, const std::string& text) const {
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
};

OptionTable file_options(Rework& rework) {
    const OptionRule needs_resize = refused_without(resizes, "it goes with --resize");
    const OptionRule needs_jpeg = refused_without(is_lossy, "only JPEG files lose anything");
    return {
        .rows = {{"--filter",
                  &rework.filter,
                  "FILTER",
                  "For --resize: box, triangle, mitchell, kaiser:3 ...",
                  {.rules = {needs_resize}}},
                 {"--edge",
                  &rework.edges,
                  "EDGE",
                  "What filters see beyond the edges: clamp, repeat or mirror",
                  {.rules = {refused_without(looks_beyond_edges,
                                             "it goes with --resize or --normals")}}},
                 {"--limit-ringing",
                  &rework.limit_ringing,
                  "",
                  "For --resize: keep every pixel within the range of those that it covers",
                  {.rules = {needs_resize}}},
                 {"--dither",
                  &rework.dither,
                  "",
                  "Turn rounding errors into fine noise",
                  {.rules = {idle_without(rounds, "nothing is rounded that was not before")}}},
                 {"--split",
                  &rework.split,
                  "",
                  "Write a file for each channel: OUT_r.png, OUT_g.png ...",
                  {.rules = {idle_without(holds_channels, "the picture has one channel")}}},
                 {"--effort",
                  &rework.written.effort,
                  "0..10",
                  "How hard to try for a smaller file",
                  {.allowed = in_range(0, 10),
                   .rules = {refused_without(packs_file,
                                             "only PNG, WebP, TIFF and EXR files are packed")}}},
                 {"--quality",
                  &rework.written.quality,
                  "1..100",
                  "Of a JPEG file: 100 loses nothing but roundings",
                  {.allowed = in_range(1, 100), .rules = {needs_jpeg}}},
                 {"--whole-chroma",
                  &rework.whole_chroma,
                  "",
                  "For JPEG: keep chroma at the full size, as from quality 96 on",
                  {.rules = {needs_jpeg, idle_without(loses_chroma, "all chroma is kept anyway")}}},
                 {"--progressive",
                  &rework.written.is_progressive,
                  "",
                  "For JPEG: the whole picture first coarsely, then ever finer",
                  {.rules = {needs_jpeg}}}}};
}

constexpr const char* no_alpha = "the picture has no alpha that is not 1";

constexpr Rework::StepRow Rework::all_steps[] = {
    {"--turn", &Rework::turn, "TURN", orientation_words},
    {"--crop", &Rework::crop, "X,Y,WxH", "Crop to a part"},
    {"--resize", &Rework::resize, "WxH|N%", "Resize in linear light"},
    {"--channels", &Rework::reorder, "LETTERS",
     "Order and number of channels, of the letters rgba01"},
    {"--invert", &Rework::invert, "CHANNEL", "Invert one channel"},
    {"--gray", &Rework::gray, "", "Gray by the luminance of linear light", has_color,
     "the picture is gray already"},
    {"--levels", &Rework::set_levels, "BLACK,WHITE[,GAMMA]",
     "Stretch values, as stored, from 0 to 1; GAMMA above 1 makes middle ones lighter"},
    {"--curve", &Rework::set_curve, "V,N:V,N...",
     "Change values, as stored, by a smooth curve through these points"},
    {"--tile", &Rework::tile, "SHARE",
     "Make it repeat: blend this share of each side into the other end"},
    {"--composite-over", &Rework::composite_over, "R,G,B", "Composite over a colour", has_alpha,
     no_alpha},
    {"--mask", &Rework::mask, "FILE", "Multiply alpha by another picture"},
    {"--normals", &Rework::normals, "PIXELS",
     "Turn heights into normals; white is this many pixels high"},
    {"--bits", &Rework::set_bits, "BITS", "8 or 16 bits a channel", holds_codes,
     "the file holds floating point"},
    {"--premultiply", &Rework::premultiply, "", "Multiply colour by alpha", has_alpha, no_alpha},
    {"--unpremultiply", &Rework::unpremultiply, "", "Divide colour by alpha", has_alpha, no_alpha},
    {"--bleed", &Rework::bleed, "", "Fill transparent pixels with the colour of their neighbours",
     has_alpha, no_alpha},
};

OptionTable step_options(Rework& rework) {
    OptionTable table{"Steps, in the order given", {}, {}};
    for (const Rework::StepRow& step : Rework::all_steps) {
        OptionTarget target;
        if (*step.value != 0)
            target = &rework.step_values;
        table.rows.push_back({step.name,
                              target,
                              step.value,
                              step.help,
                              {.rules = {idle_without(step.needs, step.otherwise)}}});
    }
    return table;
}

}  // namespace

void add_rework(CLI::App& app, Session& session) {
    auto rework = std::make_shared<Rework>(Rework{
        session,
        Command(app, session, "rework", "Change a picture step by step and write it as another")});
    Command& command = rework->command;
    command.runs([rework] { return rework->run(); });
    command.add({.rows = {{"INPUT",
                           &rework->input,
                           "",
                           "A picture file, or - for standard input",
                           {.reads_pipes = true}}}});
    command.add_output(rework->output, "OUT",
                       "The picture file to write; its ending tells the format");
    command.add({.rows = {{"--pack",
                           &rework->pack,
                           "CHANNEL=FILE[:[-]CHANNEL] ...",
                           "Start from channels of several files: r=FILE g=FILE:b b=FILE:-a a=1",
                           {.takes_several = true}}}});
    command.add(input_options(
        rework->inputs,
        {.role = {idle_without(role_matters, "the picture and its file are the same in that role")},
         .alpha = {idle_without(has_alpha, no_alpha),
                   idle_without(weighs_alpha,
                                "no step goes by what alpha means, and the file cannot say it")},
         .transfer = {
             idle_without(says_transfer, "the file cannot say it, and no step goes by it")}}));
    for (const OptionTable& table : {profile_option(rework->inputs, has_profile),
                                     file_options(*rework), step_options(*rework)})
        command.add(table);
}

}  // namespace ylat
