// The file behind a model: it holds the bytes of images, and reads the triangles.
#pragma once

#include <yl/model.hpp>

namespace yl::model {

class ModelSource {
 public:
    ModelSource() = default;
    ModelSource(const ModelSource&) = delete;
    ModelSource& operator=(const ModelSource&) = delete;
    virtual ~ModelSource() = default;

    /// Each part's surface is a material's number; the number of materials stands for none. What
    /// cannot be read, or is left out, is added to the findings.
    [[nodiscard]] virtual Result<std::vector<Primitive>> parts(Findings& findings) const = 0;
};

}  // namespace yl::model
