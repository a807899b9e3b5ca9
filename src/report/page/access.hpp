// What the report's own files see of a part.
#pragma once

#include <yl/report.hpp>

#include "report/page/texels.hpp"

namespace yl {

struct ReportAccess {
    [[nodiscard]] static ReportPart part(const report::Json& facts, const report::Json& drawings,
                                         report::PackedTexels texels);
    [[nodiscard]] static const std::vector<std::string>& levels(const ReportPart& part) {
        return part.levels_;
    }
    /// As if so many of its levels had not been packed.
    [[nodiscard]] static std::string json(const ReportPart& part, std::size_t levels_left_out);
    [[nodiscard]] static std::string texels(const ReportPart& part, std::size_t levels_left_out);
};

}  // namespace yl
