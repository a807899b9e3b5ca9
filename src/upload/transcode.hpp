// How much is lost where blocks of one format become those of another.
#pragma once

#include <optional>
#include <yl/format.hpp>

namespace yl {

/// Decibels between the texels of both, as measured; more is better. Nothing where the second format
/// does not hold what the first does.
[[nodiscard]] std::optional<float> transcode_quality(Format from, Format to);

}  // namespace yl
