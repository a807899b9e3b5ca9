// Textures: read, written, decoded, looked into.
#include <algorithm>
#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/placeholder.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

Result<TextureReadOptions> read_options(const Json& request) {
    TextureReadOptions options;
    YL_TRY(options.role, role_of(request));
    YL_TRY(options.transfer, transfer_of(request));
    return options;
}

Result<Json> read(Objects& objects, const Json& request) {
    YL_TRY(const auto bytes, memory(request, "bytes"));
    YL_TRY(const auto options, read_options(request));
    YL_TRY(TextureFile file, read_texture(std::span<const std::byte>(bytes), options));
    Json json = kept(objects, std::move(file.texture));
    json["file"] = to_json(file.info);
    return json;
}

/// A texture of texels that the page has: all levels one after the other, each by layer, face and
/// slice, without gaps.
Result<Json> make(Objects& objects, const Json& request) {
    TextureShape shape;
    YL_TRY(const auto format, format_of(request, "format"));
    if (!format)
        return wrong("format", "the name of a format");
    shape.format = *format;
    YL_TRY(shape.width, number(request, "width"));
    YL_TRY(shape.height, number_or(request, "height", 1));
    YL_TRY(shape.depth, number_or(request, "depth", 1));
    YL_TRY(shape.levels, number_or(request, "levels", 1));
    YL_TRY(shape.layers, number_or(request, "layers", 1));
    YL_TRY(shape.faces, number_or(request, "faces", 1));
    YL_TRY(shape.is_array, flag_or(request, "is_array", shape.layers > 1));
    YL_TRY(const auto bytes, memory(request, "bytes"));
    YL_CHECK(check_shape(shape));
    if (bytes.size() != shape.total_bytes())
        return wrong("bytes", fmt::format("{} bytes for these levels", shape.total_bytes()));
    YL_TRY(Texture texture, Texture::create(shape));
    std::size_t at = 0;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        std::ranges::copy(bytes.subspan(at, shape.level_bytes(level)),
                          texture.level(level).begin());
        at += shape.level_bytes(level);
    }
    texture.metadata.transfer = info(shape.format).transfer;
    return kept(objects, std::move(texture));
}

/// Whether bytes begin like a texture file.
Result<Json> recognise(Objects&, const Json& request) {
    YL_TRY(const auto bytes, memory(request, "bytes"));
    return Json{{"is_texture", looks_like_texture(bytes)}};
}

Result<Json> describe(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    return Json{{"shape", to_json(texture->shape())}, {"metadata", to_json(texture->metadata)}};
}

/// Where the texels of a surface lie; without a layer, those of the whole level.
Result<Json> texels(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::uint32_t level, number_or(request, "level", 0));
    if (level >= texture->shape().levels)
        return wrong("level", "one that the texture has");
    return Json{{"memory", place_of(texture->level(level))}};
}

Result<Json> decode(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(Texture decoded, decode_texture(*texture));
    return kept(objects, std::move(decoded));
}

/// The same without its top levels.
Result<Json> without_levels(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::uint32_t levels, number(request, "levels"));
    YL_TRY(Texture rest, without_top_levels(*texture, levels));
    return kept(objects, std::move(rest));
}

/// One texel that stands for a texture that is loading, or that has failed.
Result<Json> placeholder(Objects& objects, const Json& request) {
    YL_TRY(const auto role, role_of(request));
    YL_TRY(const bool has_failed, flag_or(request, "has_failed", false));
    YL_TRY(const std::string kind, text(request, "kind"));
    for (const TextureKind one :
         {TextureKind::flat, TextureKind::flat_array, TextureKind::cube, TextureKind::cube_array,
          TextureKind::volume, TextureKind::line}) {
        if (name(one) != kind)
            continue;
        YL_TRY(Texture texel,
               placeholder_texture(has_failed ? KeeperState::failed : KeeperState::waiting,
                                   role.value_or(Role::color), one));
        return kept(objects, std::move(texel));
    }
    return wrong("kind", "2D, 2D array, cube, cube array, 3D or 1D");
}

/// A surface as the sampler reads it: linear RGBA in floats, blocks decoded, without the swizzle.
Result<Json> floats(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::uint32_t level, number_or(request, "level", 0));
    YL_TRY(const std::uint32_t layer, number_or(request, "layer", 0));
    YL_TRY(const std::uint32_t face, number_or(request, "face", 0));
    YL_TRY(const std::uint32_t slice, number_or(request, "slice", 0));
    Texture decoded;
    const bool is_block = info(texture->shape().format).is_block();
    if (is_block) {
        YL_TRY(decoded, decode_texture(*texture));
    }
    const Texture& plain = is_block ? decoded : *texture;
    const TextureShape& shape = plain.shape();
    if (level >= shape.levels || layer >= shape.layers || face >= shape.faces ||
        slice >= shape.depth_at(level))
        return wrong("level", "there, with its layer, face and slice");
    ConvertOptions options;
    options.source_transfer = info(shape.format).transfer;
    ConstImageView surface = plain.image(level, layer, face);
    surface.data += slice * shape.surface_bytes(level);
    YL_TRY(Image image, convert(surface, Format::rgba32_float, options));
    return kept(objects, std::move(image));
}

constexpr NamedCall calls[] = {
    {"make_texture", make, "bytes format width height depth levels layers faces is_array"},
    {"floats", floats, "texture level layer face slice"},
    {"read_texture", read, "bytes role transfer"},
    {"recognise", recognise, "bytes"},
    {"describe", describe, "texture"},
    {"texels", texels, "texture level"},
    {"decode", decode, "texture"},
    {"without_top_levels", without_levels, "texture levels"},
    {"placeholder", placeholder, "role kind has_failed"}};

}  // namespace

std::span<const NamedCall> texture_calls() {
    return calls;
}

}  // namespace yl::web
