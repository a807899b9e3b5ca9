// Models of any format that this build reads.
#pragma once

#include <yl/model.hpp>

namespace ylat {

[[nodiscard]] yl::Result<yl::model::Model> read_any_model(
    const std::string& path, const yl::model::ModelReadOptions& options);

}  // namespace ylat
