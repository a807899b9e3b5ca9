// Writing JPEG: 8 bits, gray or colours, baseline or progressive.
#pragma once

#include "codec/picture_format.hpp"

namespace yl::jpeg {

[[nodiscard]] Result<std::vector<std::byte>> write(ConstImageView image,
                                                   const WriteOptions& options);

}  // namespace yl::jpeg
