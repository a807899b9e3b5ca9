// The data of reports: textures of every kind, beside their sources, under limits; models and failures.
#include <yl/report.hpp>

#include "hash.hpp"

namespace probe {
namespace {

yl::Texture filled(yl::TextureShape shape) {
    shape.levels = yl::full_level_count(shape.width, shape.height, shape.depth);
    yl::Texture texture = yl::or_exit(yl::Texture::create(shape));
    texture.metadata.transfer = yl::info(shape.format).transfer;
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::size_t i = 0; i < texture.level(level).size(); ++i)
            texture.level(level)[i] = static_cast<std::byte>((i * 29 + i / 7 + level) % 121);
    return texture;
}

std::vector<yl::Texture> textures() {
    using yl::Format;
    std::vector<yl::Texture> result;
    for (const yl::TextureShape& shape :
         {yl::TextureShape{.format = Format::rgba8_srgb, .width = 40, .height = 24},
          yl::TextureShape{.format = Format::rgba16_float, .width = 16, .height = 16, .faces = 6},
          yl::TextureShape{.format = Format::rg8_unorm, .width = 12, .height = 8, .depth = 5},
          yl::TextureShape{.format = Format::rgba8_srgb,
          .width = 12,
          .height = 16,
          .layers = 3,
          .is_array = true},
          yl::TextureShape{.format = Format::bc5_unorm, .width = 64, .height = 16}})
        result.push_back(filled(shape));
    return result;
}

yl::ReportPart print_part(const std::string& name, const yl::ReportTexture& texture,
                          const yl::ReportOptions& options = {}) {
    auto part = yl::report_part(texture, options);
    if (!is_there(name, part))
        return {};
    print(name, part->json());
    return std::move(*part);
}

}  // namespace

void reports(const Places&) {
    std::vector<yl::ReportPart> parts;
    const auto all = textures();
    for (std::size_t i = 0; i < all.size(); ++i) {
        const yl::TextureShape& shape = all[i].shape();
        const std::string name = fmt::format("report of {} {} x {}", yl::info(shape.format).name,
                                             shape.width, shape.height);
        yl::ReportTexture shown = {.name = name, .file = name + ".ktx2", .texture = &all[i]};
        shown.file_bytes = 1000 * i;
        shown.is_picture = i == 1;
        shown.commands = {"a command"};
        shown.build = yl::ReportBuild{{"a.png", "b.png"}, "cache", 0.25, "up to date"};
        if (const auto linted = yl::lint(all[i]))
            shown.lint = *linted;
        if (i % 2 == 1)
            shown.sampler = yl::or_exit(yl::parse_sampler("wrap=mirror aniso=4"));
        parts.push_back(print_part(name, shown));
        if (yl::info(shape.format).is_block()) {
            yl::Texture source = yl::or_exit(yl::decode_texture(all[i]));
            source.level(0)[5] ^= std::byte{0x31};
            shown.source = &source;
            shown.source_name = "source.png";
            print_part(name + " beside its source", shown);
        }
    }
    print_part("report beside a source of another size",
               {.name = "one", .texture = &all[0], .source = &all[1]});
    print_part("report in one byte", {.name = "one", .texture = &all[0]}, {.max_bytes = 1});
    print_part("report of nothing", {});
    std::vector<yl::ReportModel> models(1);
    models[0] = {.name = "model", .file = "model.glb", .triangles = 12};
    models[0].materials = {
        {"plain", {{"base color", 0, "slate", "wrap=repeat"}, {"normal", {}, "none", ""}}}};
    models[0].picture = waves_in(yl::Format::rgba8_srgb, 20, 10);
    const std::vector<yl::ReportFailure> failures = {{"broken.png", "it is <broken>"}};
    for (const std::uint64_t limit : {10'000ULL, 40'000ULL, 100'000ULL, 1'000'000ULL}) {
        const auto json = yl::report_json({.title = "A & B",
                                           .max_bytes = limit,
                                           .textures = parts,
                                           .models = models,
                                           .failures = failures});
        const std::string name = fmt::format("report of all in {} bytes", limit);
        if (is_there(name, json))
            print(name, *json);
    }
}

}  // namespace probe
