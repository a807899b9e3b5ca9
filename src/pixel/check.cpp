#include "pixel/check.hpp"

#include <fmt/format.h>

namespace yl {

Status check_view(ConstImageView view, const char* name) {
    const auto refuse = [&](std::string message) {
        return fail_at({ErrorKind::usage, std::move(message)}, name);
    };
    if (view.data == nullptr || view.width == 0 || view.height == 0)
        return refuse("the image is empty");
    if (find_format(view.format) == nullptr)
        return refuse(fmt::format("format number {} is not in the format table",
                                  static_cast<std::uint32_t>(view.format)));
    if (view.row_count() > 1 && view.row_stride < view.row_bytes())
        return refuse(fmt::format("rows of {} bytes cannot begin {} bytes apart", view.row_bytes(),
                                  view.row_stride));
    return {};
}

Status check_texture(const Texture& texture, const char* name) {
    if (texture.is_empty())
        return fail_at({ErrorKind::usage, "the texture is empty"}, name);
    return {};
}

}  // namespace yl
