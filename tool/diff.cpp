// ylat diff: how far two pictures or textures are apart, and where.
#include <fmt/format.h>

#include <cmath>
#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

/// One surface of both.
struct Pair {
    std::string name;
    yl::ConstImageView a, b;
};

std::string decibel_text(double psnr) {
    return std::isnan(psnr) ? "" : std::isinf(psnr) ? "same" : fmt::format("{:.2f}", psnr);
}

Json decibel_json(double psnr) {
    return std::isfinite(psnr) ? Json(psnr) : Json(nullptr);
}

enum DiffFact : Facts { draws = 1 };

struct Diff {
    Session& session;
    Command command;
    InputChoices inputs = {};
    std::string path_a = {}, path_b = {}, output = {};
    double tolerance = 0;
    std::optional<double> full = {};
    std::uint32_t level = 0;

    /// A texture with row 0 at the top; a picture is one of one level, in its own format.
    yl::Result<yl::Texture> load(const std::string& path, const InputOptions& options) const {
        YL_TRY(const auto kind, file_kind(path));
        if (kind == FileKind::texture) {
            auto texture = open_texture(session, path, options);
            if (!texture)
                return texture;
            return upright(std::move(*texture));
        }
        YL_TRY(const auto picture, open_picture(session, path, options));
        const yl::ConstImageView image = picture.image.view();
        auto texture = yl::Texture::create(
            {.format = image.format, .width = image.width, .height = image.height});
        if (!texture)
            return texture;
        for (std::uint32_t y = 0; y < image.height; ++y)
            std::ranges::copy(image.row(y), texture->image(0).row(y).begin());
        texture->metadata.transfer = picture.transfer;
        texture->metadata.swizzle = picture.swizzle;
        texture->metadata.alpha = picture.alpha;
        return texture;
    }

    /// Gray stored in fewer channels is compared as it is seen.
    static yl::Status make_alike(yl::Texture& a, const yl::Texture& b) {
        if (a.metadata.swizzle == b.metadata.swizzle || a.metadata.swizzle == yl::identity_swizzle)
            return {};
        const yl::FormatInfo& f = yl::info(a.shape().format);
        if (f.is_block() || f.is_float())
            return {};
        yl::TextureShape shape = a.shape();
        shape.format =
            f.channels[0].bits == 16 ? yl::Format::rgba16_unorm : yl::Format::rgba8_unorm;
        YL_TRY(auto seen, yl::Texture::create(shape));
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
                for (std::uint32_t face = 0; face < shape.faces; ++face) {
                    yl::ConstImageView from = a.image(level, layer, face);
                    from.format =
                        yl::with_transfer(from.format, yl::Transfer::linear).value_or(from.format);
                    auto status = yl::convert(
                        from, seen.image(level, layer, face),
                        {.source_transfer = yl::Transfer::linear, .swizzle = a.metadata.swizzle});
                    if (!status)
                        return status;
                }
        seen.metadata = a.metadata;
        seen.metadata.swizzle = yl::identity_swizzle;
        a = std::move(seen);
        return {};
    }

    static bool both_are_light(const yl::Texture& a, const yl::Texture& b) {
        return yl::info(a.shape().format).is_float() && yl::info(b.shape().format).is_float();
    }

    static std::vector<Pair> pairs(const yl::Texture& a, const yl::Texture& b) {
        std::vector<Pair> result;
        const yl::TextureShape& shape = a.shape();
        for (std::uint32_t level = 0; level < shape.levels && level < b.shape().levels; ++level)
            for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
                for (std::uint32_t face = 0; face < shape.faces; ++face) {
                    std::string name = fmt::format("level {}", level);
                    if (shape.layers > 1)
                        name += fmt::format(", layer {}", layer);
                    if (shape.faces > 1)
                        name += fmt::format(", {}", yl::name(yl::all_cube_faces[face]));
                    result.push_back(
                        {name, a.image(level, layer, face), b.image(level, layer, face)});
                }
        return result;
    }

    static yl::Status check_shapes(const yl::TextureShape& a, const yl::TextureShape& b) {
        if (yl::have_equal_sizes(a, b))
            return {};
        const auto text = [](const yl::TextureShape& s) {
            return fmt::format("{} texels{}", size_text(s.width, s.height), parts_text(s));
        };
        return yl::fail(yl::ErrorKind::usage,
                        fmt::format("{} cannot be compared with {}", text(a), text(b)));
    }

    yl::Result<Exit> run() const {
        YL_TRY(auto chosen, parse_inputs(inputs));
        chosen.uses_role = chosen.uses_alpha = true;
        YL_CHECK(command.refuse_options(when(!output.empty(), draws)));
        YL_TRY(auto a, load(path_a, chosen));
        YL_TRY(auto b, load(path_b, chosen));
        for (const yl::Status& status :
             {check_shapes(a.shape(), b.shape()), make_alike(a, b), make_alike(b, a)})
            if (!status)
                return tl::unexpected(status.error());
        const yl::DifferenceOptions options{
            .role = chosen.role.value_or(both_are_light(a, b) ? yl::Role::hdr : yl::Role::color),
            .transfer = a.metadata.transfer,
            .alpha = a.metadata.alpha};
        const auto all = pairs(a, b);
        std::vector<yl::ImageDifference> differences;
        for (const Pair& pair : all) {
            YL_TRY(auto difference, yl::measure_difference(pair.a, pair.b, options));
            differences.push_back(difference);
        }
        YL_CHECK(draw(a, b, options));
        return report(all, differences, a.shape().levels != b.shape().levels);
    }

    /// The map of one level's first surface, or of each face.
    yl::Status draw(const yl::Texture& a, const yl::Texture& b,
                    const yl::DifferenceOptions& options) const {
        if (output.empty())
            return {};
        if (level >= a.shape().levels || level >= b.shape().levels)
            return yl::fail_at({yl::ErrorKind::usage, "both have no such level"}, "--level");
        std::vector<yl::LabelledPicture> maps;
        for (std::uint32_t face = 0; face < a.shape().faces; ++face) {
            const auto from = a.image(level, 0, face);
            const auto to = b.image(level, 0, face);
            const double max = full.value_or(yl::counts_in_stops(from, to) ? 0.25 : 16.0);
            YL_TRY(auto map, yl::draw_difference(from, to, max, options));
            maps.push_back({std::move(map),
                            a.shape().faces > 1 ? std::string(yl::name(yl::all_cube_faces[face]))
                                                : fmt::format("level {}", level),
                            ""});
        }
        YL_TRY(const auto picture,
               yl::arrange_panels(
                   maps, 3, fmt::format("{} against {}", file_name(path_b), file_name(path_a))));
        YL_CHECK(save(output, picture.view()));
        return {};
    }

    static std::string file_name(const std::string& path) {
        return std::filesystem::path(path).filename().string();
    }

    Exit report(const std::vector<Pair>& all, const std::vector<yl::ImageDifference>& differences,
                bool levels_differ) const {
        std::vector<std::vector<std::string>> table = {{"", "PSNR", "red", "green", "blue", "alpha",
                                                        "linear", "SSIM", "log error", "relative",
                                                        "angle", "max", "at"}};
        std::vector<Json> surfaces;  // for programs alone
        bool is_beyond = levels_differ;
        std::uint64_t hidden = 0;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const yl::ImageDifference& d = differences[i];
            // Codes are told apart in floating point, which must not make 64 more than 64.
            constexpr double rounding = 1e-6;
            is_beyond = is_beyond || d.max > tolerance * (1 + rounding);
            hidden += d.hidden_texels;
            table.push_back(cells_of(all[i].name, d));
            if (session.json)
                surfaces.push_back(json_of(all[i].name, d));
        }
        session.say(fmt::format("{} -> {}", path_a, path_b));
        session.say(table_text(table));
        if (levels_differ)
            session.say("  one has more levels than the other");
        if (hidden > 0)
            session.say(
                fmt::format("  {} differ in colour where alpha is 0 in both: nobody sees that, "
                            "but the files are not the same",
                            hidden == 1 ? "1 texel" : fmt::format("{} texels", hidden)));
        // Without any tolerance the same means the same.
        is_beyond = is_beyond || (hidden > 0 && tolerance == 0);
        session.say(
            fmt::format("  {} a tolerance of {}", is_beyond ? "beyond" : "within", tolerance));
        session.give([&] {
            return Json({{"inputs", {path_a, path_b}},
                         {"tolerance", tolerance},
                         {"within", !is_beyond},
                         {"hidden_texels", hidden},
                         {"surfaces", surfaces}});
        });
        return is_beyond ? Exit::findings : Exit::done;
    }

    static std::vector<std::string> cells_of(const std::string& name,
                                             const yl::ImageDifference& d) {
        std::vector<std::string> cells = {name, decibel_text(d.psnr)};
        for (std::size_t c = 0; c < 4; ++c)
            cells.push_back(c < d.channels ? decibel_text(d.channel_psnr[c]) : "");
        cells.push_back(decibel_text(d.linear_psnr));
        cells.push_back(fmt::format("{:.4f}", d.ssim));
        cells.push_back(d.log_error ? fmt::format("{:.4f} stops", *d.log_error) : "");
        cells.push_back(d.relative_error ? fmt::format("{:.2f} %", 100 * *d.relative_error) : "");
        cells.push_back(
            d.mean_angle ? fmt::format("{:.3f}, most {:.2f}", *d.mean_angle, *d.max_angle) : "");
        cells.push_back(d.log_error ? fmt::format("{:.3f} stops", d.max)
                                    : fmt::format("{:.4g}", d.max));
        cells.push_back(d.max > 0 ? fmt::format("{}, {}", d.worst_x, d.worst_y) : "");
        return cells;
    }

    static Json json_of(const std::string& name, const yl::ImageDifference& d) {
        Json channels = Json::array();
        for (std::size_t c = 0; c < d.channels; ++c)
            channels.push_back(decibel_json(d.channel_psnr[c]));
        Json json = {{"surface", name},
                     {"psnr", decibel_json(d.psnr)},
                     {"channel_psnr", channels},
                     {"linear_psnr", decibel_json(d.linear_psnr)},
                     {"ssim", d.ssim},
                     {"max", d.max},
                     {"worst", {d.worst_x, d.worst_y}}};
        if (d.log_error)
            json["log_error_stops"] = *d.log_error;
        if (d.relative_error)
            json["relative_error"] = *d.relative_error;
        if (d.mean_angle) {
            json["mean_angle"] = *d.mean_angle;
            json["max_angle"] = *d.max_angle;
        }
        return json;
    }
};

}  // namespace

void add_diff(CLI::App& app, Session& session) {
    auto diff = std::make_shared<Diff>(
        Diff{session, Command(app, session, "diff",
                              "Say how far two pictures or textures are apart, and where")});
    Command& command = diff->command;
    command.runs([diff] { return diff->run(); });
    command.add({.rows = {{"A",
                           &diff->path_a,
                           "",
                           "A picture or texture file",
                           {.required = true, .reads_pipes = true}},
                          {"B",
                           &diff->path_b,
                           "",
                           "Another one of the same size",
                           {.required = true, .reads_pipes = true}}}});
    command.add_output(diff->output, "PNG", "Draw the differences as colours into this picture",
                       false);
    command.add(input_options(diff->inputs));
    const OptionRule needs_picture =
        refused_without(draws, "it goes with a picture of the differences: add -o");
    command.add(
        {.rows = {
             {"--tolerance",
              &diff->tolerance,
              "AMOUNT",
              "The largest difference to accept: in 8-bit codes, or in stops for light",
              {.allowed = not_negative()}},
             {"--full",
              &diff->full,
              "AMOUNT",
              "The difference that is drawn white",
              {.allowed = positive(), .rules = {needs_picture}}},
             {"--level", &diff->level, "N", "The level to draw", {.rules = {needs_picture}}}}});
}

}  // namespace ylat
