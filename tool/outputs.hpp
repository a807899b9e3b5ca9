// What commands write: textures and pictures, into files or to standard output.
#pragma once

#include "session.hpp"

namespace ylat {

/// Gives the bytes of the file.
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, const yl::Texture& texture,
                                             const yl::TextureWriteOptions& options = {});
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, yl::ConstImageView image);
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, const yl::Picture& picture,
                                             const yl::WriteOptions& options);
/// Text, such as a page.
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, std::string_view text);

}  // namespace ylat
