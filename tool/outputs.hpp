// What commands write: textures and pictures, into files or to standard output.
#pragma once

#include "session.hpp"

namespace ylat {

/// The option -o. "-" is standard output, which is a KTX2 or a PNG file then; what is said for
/// people goes to standard error instead.
CLI::Option* add_output_option(CLI::App& command, Session& session, std::string& output,
                               const std::string& meaning);

/// Gives the bytes of the file.
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, const yl::Texture& texture,
                                             const yl::TextureWriteOptions& options = {});
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, yl::ConstImageView image);
[[nodiscard]] yl::Result<std::uint64_t> save(const std::string& output, const yl::Picture& picture,
                                             int effort);

}  // namespace ylat
