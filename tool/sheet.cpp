// ylat sheet: every level, layer and face of a texture in one labelled picture.
#include <fmt/format.h>

#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

enum SheetFact : Facts { shows_light = 1, enlarges = 2 };

/// Letters, with or without commas between them.
yl::Result<std::vector<yl::SwizzleSource>> parse_channels(const std::string& text) {
    constexpr std::string_view letters = "rgba";
    std::vector<yl::SwizzleSource> channels;
    for (const char letter : text) {
        if (letter == ',')
            continue;
        const std::size_t index = letters.find(letter);
        if (index == std::string_view::npos)
            return yl::fail_at(
                {yl::ErrorKind::usage,
                 fmt::format("'{}' is not a list of the channels r, g, b and a", text)},
                "--channels");
        channels.push_back(static_cast<yl::SwizzleSource>(index));
    }
    return channels;
}

struct Sheet {
    Session& session;
    Command command;
    std::string texture_path = {};
    InputChoices inputs = {};
    std::string output = {};
    std::string channels = {};
    yl::SheetOptions options = {};

    yl::Result<Exit> run() const {
        YL_TRY(const auto chosen, parse_inputs(inputs));
        YL_TRY(auto opened, open_texture(session, texture_path, chosen));
        const auto texture = upright(std::move(opened));
        if (!texture)
            return yl::fail_at(texture.error(), texture_path);
        const yl::TextureShape& shape = texture->shape();
        const bool is_light = yl::info(shape.format).is_float();
        YL_CHECK(
            command.refuse_options(when(is_light, shows_light) | when(options.enlarged, enlarges)));
        YL_TRY(const auto shown, parse_channels(channels));
        yl::SheetOptions chosen_options = options;
        chosen_options.channels = shown;
        const std::string file = std::filesystem::path(texture_path).filename().string();
        const auto picture = yl::level_sheet(
            *texture,
            fmt::format("{}: {}, {}", file, yl::info(shape.format).name, shape_text(shape)),
            chosen_options);
        if (!picture) {
            yl::Error error = picture.error();
            error.place = error.place == "max_side" ? "--max-size" : texture_path;
            return tl::unexpected(error);
        }
        YL_CHECK(save(output, picture->view()));
        session.say(fmt::format("{} -> {}", texture_path, output));
        session.say(
            row_text("sheet", fmt::format("{}, {}", size_text(picture->width(), picture->height()),
                                          shape_text(shape))));
        session.give([&] {
            return Json({{"input", texture_path},
                         {"output", output},
                         {"width", picture->width()},
                         {"height", picture->height()},
                         {"levels", shape.levels},
                         {"layers", shape.layers},
                         {"faces", shape.faces}});
        });
        return session.outcome();
    }
};

}  // namespace

void add_sheet(CLI::App& app, Session& session) {
    auto sheet = std::make_shared<Sheet>(
        Sheet{session, Command(app, session, "sheet",
                               "Lay out every level, layer and face in one labelled picture")});
    Command& command = sheet->command;
    command.runs([sheet] { return sheet->run(); });
    command.add({.rows = {{"TEXTURE",
                           &sheet->texture_path,
                           "",
                           "A texture file; a picture file is baked on the spot",
                           {.required = true, .reads_pipes = true}}}});
    command.add_output(sheet->output, "PNG", "The picture file to write (.png)");
    command.add(input_options(sheet->inputs));
    command.add(
        {.rows = {
             {"--enlarge", &sheet->options.enlarged, "",
              "Draw every level as large as the top one, its texels as squares"},
             {"--max-size",
              &sheet->options.max_side,
              "PIXELS",
              "Fit the sheet into this many pixels on its longer side (2048 when left out)",
              {.allowed = in_range(64, 65535)}},
             {"--channels", &sheet->channels, "LIST",
              "Show these channels one by one, as gray: r, g, b, a"},
             {"--stops",
              &sheet->options.stops,
              "STOPS",
              "Exposure for floating point; each stop doubles the light",
              {.allowed = in_range(-30, 30),
               .rules = {refused_without(
                   shows_light, "the texture is not in floating point: there is no exposure")}}},
             {"--columns",
              &sheet->options.columns,
              "N",
              "Enlarged levels in a row (4 when left out)",
              {.allowed = in_range(1, 16),
               .rules = {refused_without(enlarges,
                                         "levels stand side by side with --enlarge alone")}}}}});
}

}  // namespace ylat
