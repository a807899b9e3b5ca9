// ylat model --extract: a model's images as files.
#pragma once

#include <yl/model.hpp>

#include "session.hpp"

namespace ylat {

/// An image's name without what a name on some disk may not have; may be empty.
[[nodiscard]] std::string safe_name(const yl::model::ModelImage& image);

/// And those above it.
[[nodiscard]] yl::Status make_folder(const std::string& folder);

/// Writes every image as it is, and a list of them, images.json, into a folder.
[[nodiscard]] yl::Result<Exit> extract_images(const Session& session, const std::string& path,
                                              const yl::model::Model& model,
                                              const std::string& folder);

}  // namespace ylat
