#include "models.hpp"

#include <yl/model_import.hpp>

namespace ylat {

yl::Result<yl::model::Model> read_any_model(const std::string& path,
                                            const yl::model::ModelReadOptions& options) {
    return yl::model::read_untrusted_model(path, options);
}

}  // namespace ylat
