#include "models.hpp"

#include <yl/model_formats.hpp>

namespace ylat {

yl::Result<yl::mesh::Model> read_any_model(const std::string& path,
                                           const yl::mesh::ModelReadOptions& options) {
    return yl::mesh::read_untrusted_model(path, options);
}

}  // namespace ylat
