#include "base/progress.hpp"

#include <fmt/format.h>

namespace yl {

std::string_view name(Phase phase) {
    switch (phase) {
        case Phase::reading:
            return "reading";
        case Phase::resizing:
            return "resizing";
        case Phase::ordering:
            return "ordering faces";
        case Phase::assembling:
            return "assembling faces";
        case Phase::prefiltering:
            return "prefiltering";
        case Phase::levels:
            return "levels";
        case Phase::encoding:
            return "encoding";
        case Phase::packing:
            return "packing";
        case Phase::writing:
            return "writing";
        case Phase::textures:
            return "textures";
    }
    return "working";
}

Status ProgressCounter::status() const {
    if (cancelled_)
        return fail(ErrorKind::cancelled, fmt::format("{} was cancelled", name(phase_)));
    return {};
}

}  // namespace yl
