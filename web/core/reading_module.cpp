// The module that reads: texture files, formats, samplers, plans.
#include <array>

#include "call.hpp"

namespace yl::web {

std::span<const std::span<const NamedCall>> all_calls() {
    static const std::array calls = {format_calls(), sampler_calls(), texture_calls(),
                                     stream_calls(), upload_calls()};
    return calls;
}

}  // namespace yl::web
