// ylat sheet: every level, layer and face of a texture in one labelled picture.
#include <fmt/format.h>

#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "option_rules.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

enum SheetFact : Facts { shows_light = 1, enlarges = 2 };

constexpr OptionRule refused_by_sheet[] = {
    {"--stops", shows_light, "the texture is not in floating point: there is no exposure"},
    {"--columns", enlarges, "levels stand side by side with --enlarge alone"},
};

/// Letters, with or without commas between them.
yl::Result<std::vector<yl::SwizzleSource>> parse_channels(const std::string& text) {
    constexpr std::string_view letters = "rgba";
    std::vector<yl::SwizzleSource> channels;
    for (const char letter : text) {
        if (letter == ',')
            continue;
        const std::size_t index = letters.find(letter);
        if (index == std::string_view::npos)
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("'{}' is no list of the channels r, g, b and a", text)},
                               "--channels");
        channels.push_back(static_cast<yl::SwizzleSource>(index));
    }
    return channels;
}

struct Sheet {
    Session& session;
    CLI::App* command = nullptr;
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
        YL_CHECK(refuse_options(*command, refused_by_sheet,
                                when(is_light, shows_light) | when(options.enlarged, enlarges)));
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
    auto sheet = std::make_shared<Sheet>(Sheet{.session = session});
    CLI::App* command = add_command(app, session, "sheet",
                                    "Lay out every level, layer and face in one labelled picture",
                                    [sheet] { return sheet->run(); });
    sheet->command = command;
    takes_pipes(command->add_option("TEXTURE", sheet->texture_path,
                                    "A texture file; a picture file is baked on the spot"),
                session)
        ->required();
    add_output_option(*command, session, sheet->output, "The picture file to write (.png)")
        ->required()
        ->option_text("PNG");
    add_input_options(*command, sheet->inputs);
    command->add_flag("--enlarge", sheet->options.enlarged,
                      "Each level as large as the top one, its texels as squares");
    command
        ->add_option("--max-size", sheet->options.max_side,
                     "Pixels of the sheet's longer side, into which all of it is fitted (2048 when "
                     "left out)")
        ->option_text("PIXELS")
        ->check(in_range(64, 65535));
    command
        ->add_option("--channels", sheet->channels,
                     "Show these channels one by one, as gray: r, g, b, a")
        ->option_text("LIST");
    command
        ->add_option("--stops", sheet->options.stops,
                     "Of exposure, for floating point; each doubles the light")
        ->option_text("STOPS")
        ->check(in_range(-30, 30));
    command
        ->add_option("--columns", sheet->options.columns,
                     "Enlarged levels side by side (4 when left out)")
        ->option_text("N")
        ->check(in_range(1, 16));
}

}  // namespace ylat
