#include "model/make_textures.hpp"

#include <yl/picture.hpp>
#include <yl/status_macros.hpp>
#include <yl/texture_file.hpp>
#include "bake/normals_for.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"

namespace yl::model {
namespace {

/// Nothing where it cannot be read, which is said of the normal map itself.
std::shared_ptr<const Picture> normals_of(const Model& model, std::size_t image,
                                          const Picture& roughness) {
    if (model.images[image].error)
        return nullptr;
    return normals_for(model.contents[image], roughness,
                       {.limits = model.limits, .further_readers = model.further_readers})
        .value_or(nullptr);
}

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
           read_picture(content, {.role = needed.role,
                                  .limits = model.limits,
                                  .further_readers = model.further_readers}));
    made.picture_width = picture.image.width();
    made.picture_height = picture.image.height();
    BakeOptions options = bake.of(needed);
    if (needed.normals && !options.normals) {
        options.normals = normals_of(model, *needed.normals, picture);
    }
    return yl::bake(picture, options);
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
                                       const BakeByRole& bake, const Progress& told) {
    std::vector<MadeTexture> made(bindings.textures.size());
    ProgressCounter progress(told, Phase::textures, made.size());
    parallel_each(made.size(), [&](std::size_t i) {
        if (progress.cancelled()) {
            made[i].error = progress.status().error();
            return;
        }
        made[i] = make_texture(model, bindings.textures[i], bake);
        progress.add(1);
    });
    return made;
}

}  // namespace yl::model
