// Callers' mistakes, found before they do harm.
#pragma once

#include <yl/image.hpp>
#include <yl/texture.hpp>

#include "base/internal.hpp"

namespace yl {

/// Fails with `ErrorKind::usage` for a view that has no pixels or no known format, or whose rows
/// overlap. `name` is the argument's.
[[nodiscard]] Status check_view(ConstImageView view, const char* name);

/// Fails with `ErrorKind::usage` for a texture that is empty.
[[nodiscard]] YL_INTERNAL Status check_texture(const Texture& texture, const char* name);

}  // namespace yl
