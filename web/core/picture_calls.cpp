// Pictures: read, shown as pixels, written.
#include <algorithm>
#include <yl/bake.hpp>
#include <yl/block.hpp>
#include <yl/convert.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

Json describe(const Picture& picture) {
    return {{"width", picture.image.width()},
            {"height", picture.image.height()},
            {"format", info(picture.image.format()).name},
            {"transfer", picture.transfer == Transfer::srgb ? "srgb" : "linear"},
            {"swizzle", swizzle_text(picture.swizzle)},
            {"file_format", picture.info.file_format},
            {"remarks", picture.info.remarks}};
}

Result<Json> kept_picture(Objects& objects, Picture picture) {
    Json json = describe(picture);
    json["picture"] = objects.keep(std::move(picture));
    return json;
}

Result<Json> read(Objects& objects, const Json& request) {
    YL_TRY(const auto bytes, memory(request, "bytes"));
    ReadOptions options;
    YL_TRY(const auto role, role_of(request));
    options.role = role.value_or(Role::color);
    YL_TRY(options.transfer, transfer_of(request));
    YL_TRY(options.allow_partial, flag_or(request, "allow_partial", false));
    YL_TRY(Picture picture, read_picture(std::span<const std::byte>(bytes), options));
    return kept_picture(objects, std::move(picture));
}

/// Pixels of a page's own, RGBA with 8 bits, straight alpha, top row first.
Result<Json> from_pixels(Objects& objects, const Json& request) {
    YL_TRY(const auto bytes, memory(request, "bytes"));
    YL_TRY(const std::uint32_t width, number(request, "width"));
    YL_TRY(const std::uint32_t height, number(request, "height"));
    YL_TRY(Image image, Image::create(Format::rgba8_srgb, width, height));
    const std::size_t needed = image.row_stride() * height;
    if (bytes.size() != needed)
        return wrong("bytes", fmt::format("{} bytes", needed));
    std::ranges::copy(bytes, image.view().data);
    Picture picture;
    picture.image = std::move(image);
    return kept_picture(objects, std::move(picture));
}

/// A texture's surface as RGBA of 8 bits, for a canvas.
Result<Json> pixels(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::uint32_t level, number_or(request, "level", 0));
    YL_TRY(const std::uint32_t layer, number_or(request, "layer", 0));
    YL_TRY(const std::uint32_t face, number_or(request, "face", 0));
    const TextureShape& shape = texture->shape();
    if (level >= shape.levels || layer >= shape.layers || face >= shape.faces)
        return wrong("level", "there, with its layer and face");
    const bool is_block = info(shape.format).is_block();
    Texture decoded;
    if (is_block) {
        YL_TRY(decoded, decode_texture(*texture));
    }
    YL_TRY(const Picture picture,
           picture_of_surface(is_block ? decoded : *texture, {level, layer, face, 0}));
    YL_TRY(Picture shown, convert(picture, Format::rgba8_srgb));
    return kept(objects, std::move(shown.image));
}

constexpr NamedCall calls[] = {{"read_picture", read, "bytes role transfer allow_partial"},
                               {"picture_of_pixels", from_pixels, "bytes width height"},
                               {"pixels", pixels, "texture level layer face"}};

}  // namespace

std::span<const NamedCall> picture_calls() {
    return calls;
}

}  // namespace yl::web
