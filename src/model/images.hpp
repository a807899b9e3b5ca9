// A model's list of images: what they hold, and which are equal.
#pragma once

#include <yl/model.hpp>

#include "base/internal.hpp"

namespace yl::model {

/// Finds format and size of each image by its content, whatever its name or its type says, several
/// at the same time. Of texture files the header is read; pictures are decoded only if wanted.
YL_INTERNAL void look_into_images(Model& model, const ModelReadOptions& options);

/// Adds a finding for each image that cannot be read.
YL_INTERNAL void report_missing(Model& model);

/// Fills `same_as`.
YL_INTERNAL void find_equal_images(Model& model);

}  // namespace yl::model
