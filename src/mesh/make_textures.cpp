#include "mesh/make_textures.hpp"

#include <yl/codec.hpp>
#include <yl/container.hpp>
#include <yl/resize.hpp>
#include "base/attempt.hpp"
#include "base/parallel.hpp"

namespace yl::mesh {
namespace {

/// The normal map in the size of the roughness map that it goes with; nothing where it cannot be
/// had, which is said of the normal map itself.
std::shared_ptr<const Picture> normals_for(const Model& model, std::size_t image,
                                           const Picture& roughness) {
    const auto content = model.contents[image];
    if (model.images[image].error || looks_like_texture(content))
        return nullptr;
    auto normals = read_picture(content, {.role = Role::normal, .limits = model.limits});
    if (!normals || info(normals->image.format()).channel_count < 3)
        return nullptr;
    const std::uint32_t width = roughness.image.width(), height = roughness.image.height();
    if (normals->image.width() != width || normals->image.height() != height) {
        auto resized = resize(std::as_const(normals->image).view(), width, height,
                              {.kernel = Kernel{}, .alpha = AlphaMode::data});
        if (!resized)
            return nullptr;
        normals->image = std::move(*resized);
    }
    return std::make_shared<const Picture>(std::move(*normals));
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
           read_picture(content, {.role = needed.role, .limits = model.limits}));
    made.picture_width = picture.image.width();
    made.picture_height = picture.image.height();
    BakeOptions options = bake.of(needed);
    if (needed.normals && !options.normals) {
        options.normals = normals_for(model, *needed.normals, picture);
        options.roughness_channel = Channel::green;  // glTF 2.0, section 3.9.2
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
                                       const BakeByRole& bake) {
    std::vector<MadeTexture> made(bindings.textures.size());
    parallel_each(made.size(), [&](std::size_t i) {
        made[i] = make_texture(model, bindings.textures[i], bake);
    });
    return made;
}

}  // namespace yl::mesh
