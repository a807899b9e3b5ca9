// What a model asks of its images, and will not get.
#pragma once

#include <set>

#include <yl/model.hpp>

#include "base/internal.hpp"

namespace yl::model {

/// Adds a finding for each use of an image, or of a sampler, that will not look as meant.
YL_INTERNAL void check_uses(Model& model);

/// The same for alpha, in models that say what it is for.
void check_alpha(Model& model);

/// Materials and the sets of coordinates that some of their meshes have not.
using MissingSets = std::set<std::pair<std::size_t, std::uint32_t>>;

/// Adds to the list those sets that the material reads and `has_set(set)` denies.
template <class HasSet>
void find_missing_sets(const Model& model, std::size_t material, const HasSet& has_set,
                       MissingSets& missing) {
    if (material < model.materials.size())
        for (const BoundTexture& texture : model.materials[material].textures)
            if (!has_set(texture.coordinate_set))
                missing.emplace(material, texture.coordinate_set);
}

YL_INTERNAL void report_missing_sets(Model& model, const MissingSets& missing);

}  // namespace yl::model
