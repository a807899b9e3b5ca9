// The module that bakes as well: pictures, chains, cubes, scenes, models.
#include <array>

#include "call.hpp"

namespace yl::web {

std::span<const std::span<const NamedCall>> all_calls() {
    static const std::array calls = {
        format_calls(), sampler_calls(), texture_calls(), stream_calls(), upload_calls(),
        file_calls(),   picture_calls(), bake_calls(),    scene_calls(),  model_calls()};
    return calls;
}

}  // namespace yl::web
