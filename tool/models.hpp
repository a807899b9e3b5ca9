// Models of any format that this build reads.
#pragma once

#include <yl/mesh.hpp>

namespace ylat {

[[nodiscard]] yl::Result<yl::mesh::Model> read_any_model(const std::string& path,
                                                         const yl::mesh::ModelReadOptions& options);

}  // namespace ylat
