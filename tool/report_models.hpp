// Models made ready for the page of `ylat report`.
#pragma once

#include "report_parts.hpp"

namespace ylat {

/// A model, its materials' textures as parts, and what could not be shown.
struct ReportedModel {
    yl::ReportModel model = {};
    std::vector<yl::ReportPart> parts = {};  ///< bindings count from the first of these
    std::vector<yl::ReportFailure> failures = {};
};

[[nodiscard]] yl::Result<ReportedModel> report_model(const std::string& path,
                                                     const ReportChoices& choices);

}  // namespace ylat
