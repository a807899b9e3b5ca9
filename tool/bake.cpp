// ylat bake: a picture file to a texture file.
#include <fmt/format.h>

#include <memory>

#include "arguments.hpp"
#include "describe.hpp"
#include "session.hpp"

namespace ylat {
namespace {

struct Bake {
    Session& session;
    std::string input = {};
    std::string output = {};
    std::string role = "color";
    std::string format = {};
    std::string levels = "full";
    std::string origin = "top";
    std::string supercompression = "none";
    std::string sampler = {};

    yl::Result<yl::BakeOptions> options() const {
        yl::BakeOptions result;
        const auto parsed_role = parse_role(role);
        const auto parsed_levels = parse_levels(levels);
        const auto parsed_origin = parse_origin(origin);
        if (!parsed_role)
            return tl::unexpected(parsed_role.error());
        if (!parsed_levels)
            return tl::unexpected(parsed_levels.error());
        if (!parsed_origin)
            return tl::unexpected(parsed_origin.error());
        result.role = *parsed_role;
        result.levels = *parsed_levels;
        result.origin = *parsed_origin;
        if (!format.empty()) {
            const auto parsed = parse_format(format);
            if (!parsed)
                return tl::unexpected(parsed.error());
            result.format = *parsed;
        }
        if (!sampler.empty()) {
            const auto parsed = yl::parse_sampler(sampler);
            if (!parsed)
                return tl::unexpected(parsed.error());
            result.sampler = *parsed;
        }
        return result;
    }

    yl::Result<Exit> run() const {
        const auto bake_options = options();
        if (!bake_options)
            return tl::unexpected(bake_options.error());
        auto write_options = parse_supercompression(supercompression);
        if (!write_options)
            return tl::unexpected(write_options.error());
        write_options->writer = fmt::format("ylat {} (Yellow Lattice)", yl::version);
        const auto baked = yl::bake_file(input, *bake_options);
        if (!baked)
            return tl::unexpected(baked.error());
        const auto written = yl::write_texture(output, baked->texture, *write_options);
        if (!written)
            return tl::unexpected(written.error());
        session.warn(baked->findings, input);
        report(*baked, write_options->supercompression);
        return baked->findings.empty() ? Exit::done : Exit::findings;
    }

    void report(const yl::Baked& baked, yl::Supercompression scheme) const {
        const yl::TextureShape& shape = baked.texture.shape();
        const yl::TextureTraits& traits = baked.texture.traits;
        std::error_code unknown;
        const std::uint64_t disk_bytes = std::filesystem::file_size(output, unknown);
        session.say(fmt::format("{} -> {}", input, output));
        session.say(row_text("texture",
                             fmt::format("{}, {}, {} levels", size_text(shape.width, shape.height),
                                         yl::info(shape.format).name, shape.levels)));
        session.say(row_text(
            "as", fmt::format("role {}, seen as {}, row 0 at the {}", role,
                              yl::swizzle_text(traits.swizzle), origin_text(traits.origin))));
        session.say(row_text("bytes", fmt::format("{} on the GPU, {} on disk, supercompression {}",
                                                  byte_text(shape.total_bytes()),
                                                  byte_text(disk_bytes), yl::name(scheme))));
        Json findings = Json::array();
        for (const yl::Finding& finding : baked.findings)
            findings.push_back({{"problem", finding.problem}, {"remedy", finding.remedy}});
        session.give({{"input", input},
                      {"output", output},
                      {"gpu_format", yl::info(shape.format).name},
                      {"width", shape.width},
                      {"height", shape.height},
                      {"levels", shape.levels},
                      {"role", role},
                      {"swizzle", yl::swizzle_text(traits.swizzle)},
                      {"origin", origin_text(traits.origin)},
                      {"supercompression", yl::name(scheme)},
                      {"gpu_bytes", shape.total_bytes()},
                      {"file_bytes", disk_bytes},
                      {"findings", findings}});
    }
};

}  // namespace

void add_bake(CLI::App& app, Session& session) {
    auto bake = std::make_shared<Bake>(Bake{session});
    CLI::App* command = add_command(app, session, "bake", "Make a texture file of a picture file",
                                    [bake] { return bake->run(); });
    command->add_option("INPUT", bake->input, "A picture file")->required();
    command->add_option("-o", bake->output, "The texture file to write (.ktx2)")
        ->required()
        ->option_text("OUT");
    command->add_option("--role", bake->role, "What the texture means: " + role_names())
        ->option_text("ROLE");
    command
        ->add_option("--as", bake->format,
                     "Pixel format, such as rgba8-srgb; by role when left out")
        ->option_text("FORMAT");
    command->add_option("--levels", bake->levels, "Mip levels: full, or how many")
        ->option_text("full|N");
    command->add_option("--origin", bake->origin, "Where row 0 lies: top or bottom")
        ->option_text("top|bottom");
    command
        ->add_option("--supercompress", bake->supercompression,
                     "Pack each level: none, zlib[:LEVEL], zstd[:LEVEL]")
        ->option_text("SCHEME");
    command->add_option("--sampler", bake->sampler, "The sampler to keep with the texture")
        ->option_text("SAMPLER");
}

}  // namespace ylat
