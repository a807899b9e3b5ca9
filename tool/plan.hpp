// Uploads planned for a device that is not here.
#pragma once

#include "inputs.hpp"

namespace ylat {

/// Beside the facts of the command that plans.
enum PlanFact : Facts { asks_for_blocks = 1U << 20U, transcodes_blocks = 1U << 21U };

/// What a plan is made with.
struct PlanChoices {
    std::string profile = {};  ///< of a built-in device; empty for a real one
    std::optional<std::uint32_t> first_level = {};
    std::string staging = {};  ///< bytes, as they are written
    bool smallest_first = false;
    bool transcodes = false;
    int transcode_effort = yl::UploadOptions{}.transcode_effort;

    [[nodiscard]] yl::Result<yl::UploadOptions> options() const;
};

/// What came of it.
[[nodiscard]] Facts facts_of(const yl::UploadPlan& plan);

[[nodiscard]] OptionTable plan_options(PlanChoices& choices);

/// Says how the texture of a file would be uploaded; a texture file's texels are not read.
[[nodiscard]] yl::Result<Exit> show_plan(const Session& session, const Command& command,
                                         const std::string& path, const std::string& profile,
                                         const yl::UploadOptions& options,
                                         const InputOptions& inputs);

[[nodiscard]] Json region_json(const yl::UploadRegion& region);

/// "16 x 8", "16 x 8 x 4" for volumes, "16" for lines.
[[nodiscard]] std::string side_text(const yl::TextureShape& shape, std::uint32_t level);

}  // namespace ylat
