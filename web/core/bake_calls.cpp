// Pictures to textures and cubes.
#include <yl/bake.hpp>
#include <yl/bake_cube.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

Result<BlockFamily> family_of(const Json& request, std::optional<Format>& format) {
    if (!has(request, "as"))
        return BlockFamily::none;
    YL_TRY(const std::string name, text(request, "as"));
    if (name == "bc")
        return BlockFamily::bc;
    if (name == "etc")
        return BlockFamily::etc2;
    if (name == "astc")
        return BlockFamily::astc;
    YL_TRY(format, format_of(request, "as"));
    return BlockFamily::none;
}

/// Options of encoders say nothing where nothing is encoded.
Status check_encodes(const Json& request, BlockFamily family, const std::optional<Format>& format) {
    const bool encodes = family != BlockFamily::none || (format && info(*format).is_block());
    for (const char* member : {"effort", "rate_distortion", "bits_per_texel"})
        if (!encodes && has(request, member))
            return wrong(member, "given with a format of blocks alone (as)");
    return {};
}

Result<BlockOptions> block_options_of(const Json& request) {
    BlockOptions blocks;
    YL_TRY(const std::uint32_t effort, number_or(request, "effort", 5));
    blocks.effort = static_cast<int>(effort);
    YL_TRY(blocks.rate_distortion, decimal_or(request, "rate_distortion", 0));
    return blocks;
}

Result<std::optional<std::uint32_t>> optional_number(const Json& request, const char* member) {
    if (!has(request, member))
        return std::optional<std::uint32_t>();
    YL_TRY(const std::uint32_t given, number(request, member));
    return std::optional(given);
}

Result<BakeOptions> options_of(const Json& request) {
    BakeOptions options;
    YL_TRY(options.role, role_of(request));
    YL_TRY(options.transfer, transfer_of(request));
    YL_TRY(options.compressed, family_of(request, options.format));
    YL_CHECK(check_encodes(request, options.compressed, options.format));
    YL_TRY(options.bits_per_texel, decimal_or(request, "bits_per_texel", 0));
    YL_TRY(options.blocks, block_options_of(request));
    YL_TRY(options.levels, optional_number(request, "levels"));
    YL_TRY(options.max_side, optional_number(request, "max_side"));
    YL_TRY(options.sampler, sampler_of(request));
    YL_TRY(options.first_level, number_or(request, "first_level", 0));
    YL_TRY(options.mips.dither, flag_or(request, "dither", false));
    YL_TRY(options.mips.sharpen, decimal_or(request, "sharpen", 0));
    if (has(request, "filter")) {
        YL_TRY(const std::string kernel, text(request, "filter"));
        YL_TRY(options.mips.kernel, parse_kernel(kernel));
    }
    if (has(request, "edge")) {
        YL_TRY(const std::string edges, text(request, "edge"));
        YL_TRY(options.mips.edges, parse_edges(edges));
    }
    if (has(request, "origin")) {
        YL_TRY(const std::string origin, text(request, "origin"));
        if (origin != "top" && origin != "bottom")
            return wrong("origin", "top or bottom");
        options.origin = origin == "top" ? Origin::top : Origin::bottom;
    }
    if (has(request, "coverage")) {
        YL_TRY(options.coverage, decimal_or(request, "coverage", 0.5F));
    }
    return options;
}

Result<Json> bake_picture(Objects& objects, const Json& request) {
    YL_TRY(const Picture* picture, object<Picture>(objects, request, "picture"));
    YL_TRY(const BakeOptions options, options_of(request));
    YL_TRY(Baked baked, bake(*picture, options));
    Json json = kept(objects, std::move(baked.texture));
    json["role"] = info(baked.role).name;
    json["findings"] = to_json(baked.findings);
    return json;
}

Result<Json> rebake_texture(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    RebakeOptions options;
    YL_TRY(options.bake, options_of(request));
    YL_TRY(options.new_levels, flag_or(request, "new_levels", false));
    YL_TRY(Baked baked, rebake(*texture, options));
    Json json = kept(objects, std::move(baked.texture));
    json["findings"] = to_json(baked.findings);
    return json;
}

/// One picture with a layout, or six faces.
Result<Json> cube(Objects& objects, const Json& request) {
    if (!has(request, "pictures") || !request["pictures"].is_array())
        return wrong("pictures", "a list of pictures");
    std::vector<const Picture*> pictures;
    std::vector<std::string> names;
    for (const Json& entry : request["pictures"]) {
        YL_TRY(const Picture* picture, object<Picture>(objects, entry, "picture"));
        pictures.push_back(picture);
        names.push_back(entry.value("name", std::string()));
    }
    CubeBakeOptions options;
    YL_TRY(options.role, role_of(request));
    YL_TRY(options.compressed, family_of(request, options.format));
    YL_CHECK(check_encodes(request, options.compressed, options.format));
    YL_TRY(options.bits_per_texel, decimal_or(request, "bits_per_texel", 0));
    YL_TRY(options.blocks, block_options_of(request));
    YL_TRY(options.levels, optional_number(request, "levels"));
    YL_TRY(options.source.face_size, optional_number(request, "face_size"));
    YL_TRY(options.sampler, sampler_of(request));
    YL_TRY(options.specular.samples, number_or(request, "samples", options.specular.samples));
    if (has(request, "prefilter")) {
        YL_TRY(const std::string prefilter, text(request, "prefilter"));
        if (prefilter != "specular" && prefilter != "diffuse")
            return wrong("prefilter", "specular or diffuse");
        options.prefilter =
            prefilter == "specular" ? CubePrefilter::specular : CubePrefilter::diffuse;
    }
    YL_TRY(BakedCube baked, bake_cube(pictures, names, options));
    Json json = kept(objects, std::move(baked.texture));
    json["source"] = baked.source;
    json["findings"] = to_json(baked.findings);
    return json;
}

constexpr NamedCall calls[] = {
    {"bake", bake_picture,
     "picture role transfer as bits_per_texel effort rate_distortion levels max_side sampler "
     "first_level dither sharpen filter edge origin coverage"},
    {"rebake", rebake_texture,
     "texture new_levels role transfer as bits_per_texel effort rate_distortion levels max_side "
     "sampler first_level dither sharpen filter edge origin coverage"},
    {"cube", cube,
     "pictures role as bits_per_texel effort rate_distortion levels face_size sampler samples "
     "prefilter"}};

}  // namespace

std::span<const NamedCall> bake_calls() {
    return calls;
}

}  // namespace yl::web
