// Inputs inside archives.
#pragma once

#include <memory>
#include <string>
#include <yl/files.hpp>

namespace ylat {

/// Where an input's path leads: null for the disk; else into an archive, "maps.zip/slate.png".
[[nodiscard]] std::shared_ptr<const yl::Files> files_for(const std::string& path);

}  // namespace ylat
