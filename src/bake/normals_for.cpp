#include "bake/normals_for.hpp"

#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include <yl/texture_file.hpp>

namespace yl {

Result<std::shared_ptr<const Picture>> normals_for(std::span<const std::byte> content,
                                                   const Picture& roughness,
                                                   const ReadOptions& reading) {
    if (looks_like_texture(content))
        return fail(ErrorKind::unsupported, "a normal map beside roughness is read from pictures");
    ReadOptions options = reading;
    options.role = Role::normal;
    YL_TRY(Picture normals, read_picture(content, options));
    if (info(normals.image.format()).channel_count < 3)
        return fail(ErrorKind::usage, "a normal map has three channels");
    const std::uint32_t width = roughness.image.width(), height = roughness.image.height();
    if (normals.image.width() != width || normals.image.height() != height) {
        YL_TRY(normals.image, resize(std::as_const(normals.image).view(), width, height,
                                     {.kernel = Kernel{}, .alpha = AlphaMode::data}));
    }
    return std::make_shared<const Picture>(std::move(normals));
}

}  // namespace yl
