#include "blocks.hpp"

#include <fmt/format.h>

namespace ylat {
yl::BlockOptions BlockChoices::options() const {
    yl::BlockOptions result;
    result.effort = effort;
    result.weights =
        weights == "perceptual" ? yl::ErrorWeights::perceptual : yl::ErrorWeights::uniform;
    result.rate_distortion = rate_distortion;
    result.black_of_three = black_of_three;
    return result;
}

void add_block_options(CLI::App& command, BlockChoices& choices) {
    const std::string group = "Block formats";
    command
        .add_option("--effort", choices.effort,
                    "How hard to look for the best blocks: 0 (fast) to 10 (everything)")
        ->check(in_range(0, 10))
        ->option_text("0..10")
        ->group(group);
    command
        .add_option("--weights", choices.weights,
                    "What counts as an error of a colour: uniform or perceptual")
        ->check(CLI::IsMember({"uniform", "perceptual"}))
        ->option_text("HOW")
        ->group(group);
    command
        .add_flag(
            "--bc1-black", choices.black_of_three,
            "bc1, effort 8 and up: use the black of three-colour blocks, which Direct3D, Metal "
            "and WebGPU show as holes")
        ->group(group);
    command
        .add_option("--rate-distortion", choices.rate_distortion,
                    "Blocks that pack better: how much squared error a saved bit is worth")
        ->check(not_negative())
        ->option_text("LAMBDA")
        ->group(group);
}

}  // namespace ylat
