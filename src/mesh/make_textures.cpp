#include "mesh/make_textures.hpp"

#include <yl/codec.hpp>
#include <yl/container.hpp>
#include "base/attempt.hpp"
#include "base/parallel.hpp"

namespace yl::mesh {
namespace {

Result<Baked> make(const Model& model, const NeededTexture& needed, const BakeByRole& bake,
                   MadeTexture& made) {
    if (!needed.image)
        return fail(ErrorKind::unsupported, "the texture has no image that is understood");
    const ModelImage& image = model.images[*needed.image];
    if (image.error)
        return tl::unexpected(*image.error);
    const auto content = model.contents[*needed.image];
    if (looks_like_texture(content)) {
        YL_TRY(TextureFile file, read_texture(content, {.limits = model.limits}));
        made.picture_width = file.texture.shape().width;
        made.picture_height = file.texture.shape().height;
        if (file.texture.shape().faces != 1 || file.texture.shape().is_3d ||
            file.texture.shape().layers != 1)
            return fail(ErrorKind::unsupported, "a material's texture has to be flat");
        return Baked{std::move(file.texture), {}};
    }
    YL_TRY(const Picture picture,
           read_picture(content, {.role = needed.role, .limits = model.limits}));
    made.picture_width = picture.image.width();
    made.picture_height = picture.image.height();
    return yl::bake(picture, bake.of(needed));
}

}  // namespace

MadeTexture make_texture(const Model& model, const NeededTexture& needed, const BakeByRole& bake) {
    MadeTexture made;
    auto baked = make(model, needed, bake, made);
    if (!baked) {
        made.error = baked.error();
        return made;
    }
    made.findings = std::move(baked->findings);
    made.texture = std::move(baked->texture);
    return made;
}

std::vector<MadeTexture> make_textures(const Model& model, const TextureBindings& bindings,
                                       const BakeByRole& bake) {
    std::vector<MadeTexture> made(bindings.textures.size());
    parallel_each(made.size(), [&](std::size_t i) {
        made[i] = make_texture(model, bindings.textures[i], bake);
    });
    return made;
}

}  // namespace yl::mesh
