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
#include "rework_steps.hpp"

namespace ylat {
namespace {

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

struct Rework : ReworkSteps {
    Command command;
    std::string input = {}, output = {};
    std::vector<std::string> pack = {};
    std::vector<std::string> step_values = {};  ///< of one of them; their order tells the rest
    bool split = false;
    yl::WriteOptions written = {};
    bool whole_chroma = false;

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
        YL_CHECK(take_steps(picture, command));
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

OptionTable step_options(Rework& rework) {
    OptionTable table{"Steps, in the order given", {}, {}};
    for (const ReworkSteps::Row& step : ReworkSteps::all) {
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
        {session},
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
    for (const OptionTable& table : {picture_options(rework->inputs, has_profile),
                                     file_options(*rework), step_options(*rework)})
        command.add(table);
}

}  // namespace ylat
