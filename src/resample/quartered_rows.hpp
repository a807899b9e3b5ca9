// The second level of the commonest chain: 8-bit RGBA whose sides halve, by the box.
#pragma once

#include <optional>

#include "resample/quarter_simd.hpp"
#include "resample/row_source.hpp"

namespace yl {

/// Each row is made of two stored ones in one go, without rows of floats in between.
class QuarteredRows final : public RowSource {
 public:
    /// Whether this is that commonest case.
    [[nodiscard]] static bool suits(const WorkingFormat& format, const Reducer& reducer);

    QuarteredRows(TexelRows texels, const WorkingFormat& format, RowTarget target);
    const float* row(std::int64_t y) override;

 private:
    TexelRows texels_;
    const WorkingFormat& format_;
    const CodeCurve& curve_;
    RowTarget target_;
    std::optional<std::int64_t> last_row_ = {};
    std::vector<float> row_;
    std::vector<float> scratch_;
};

}  // namespace yl
