// Versions of what decides the bytes of results: for caches, which must not give what an older version
// made.
#pragma once

#include <cstdint>
#include <span>
#include <string_view>
#include <yl/api.hpp>

namespace yl {

struct AlgorithmVersion {
    std::string_view name;  ///< "bc7", "levels", "png" ...
    std::uint32_t version;  ///< raised whenever the same input gives other bytes
};

/// Readers by the ending of their files, block encoders by their family, and what lies between.
[[nodiscard]] YL_API std::span<const AlgorithmVersion> algorithm_versions();

}  // namespace yl
