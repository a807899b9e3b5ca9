#include "blocks.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

namespace ylat {

yl::Result<FamilyChoice> parse_family(const std::string& text) {
    constexpr std::string_view astc = "astc", unit = "bpp";
    if (text == "bc")
        return FamilyChoice{yl::BlockFamily::bc};
    if (text == "etc")
        return FamilyChoice{yl::BlockFamily::etc2};
    if (text == astc)
        return FamilyChoice{yl::BlockFamily::astc};
    if (!text.starts_with("astc:"))
        return FamilyChoice{};
    FamilyChoice choice{yl::BlockFamily::astc};
    const char* end = text.data() + text.size();
    const auto [rest, error] =
        std::from_chars(text.data() + astc.size() + 1, end, choice.bits_per_texel);
    if (error != std::errc{} || std::string_view(rest, end) != unit ||
        !std::isfinite(choice.bits_per_texel) || choice.bits_per_texel <= 0)
        return yl::fail_at({yl::ErrorKind::usage,
                            fmt::format("'{}' is not understood; bits a texel are said as in "
                                        "astc:3.5bpp",
                                        text)},
                           "--as");
    return choice;
}

yl::BlockOptions BlockChoices::options() const {
    yl::BlockOptions result;
    result.effort = effort;
    result.weights =
        weights == "perceptual" ? yl::ErrorWeights::perceptual : yl::ErrorWeights::uniform;
    result.rate_distortion = rate_distortion;
    result.black_of_three = black_of_three;
    result.etc1_only = etc1_only;
    return result;
}

Facts facts_of_blocks(const yl::FormatInfo& f, const BlockChoices& choices) {
    return when(f.is_block(), encodes_blocks) |
           when(f.is_block() && !f.is_float() && f.channel_count > 2, encodes_colors) |
           when(f.name.starts_with("bc1-") && choices.effort >= 8, encodes_hard_bc1) |
           when(f.name.starts_with("etc2-rgb8-"), encodes_etc2_rgb);
}

OptionTable block_options(BlockChoices& choices) {
    return {"Block formats",
            {{"--effort",
              &choices.effort,
              "0..10",
              "How hard the encoder tries: 0 (fast) to 10 (exhaustive)",
              {.allowed = in_range(0, 10),
               .rules = {idle_without(encodes_blocks, "no blocks are encoded")}}},
             {"--weights",
              &choices.weights,
              "HOW",
              "How colour errors are weighed: uniform or perceptual",
              {.allowed = one_of({"uniform", "perceptual"}),
               .rules = {idle_without(encodes_colors, "no blocks of colours are encoded")}}},
             {"--bc1-black",
              &choices.black_of_three,
              "",
              "bc1, from effort 8: use the black of three-colour blocks, which Direct3D, Metal and "
              "WebGPU show as transparent",
              {.rules = {idle_without(encodes_hard_bc1, "no bc1 is encoded at effort 8 or more")}}},
             {"--etc1-only",
              &choices.etc1_only,
              "",
              "etc2-rgb8: only blocks that devices with ETC1 alone decode the same",
              {.rules = {idle_without(encodes_etc2_rgb, "no etc2-rgb8 is encoded")}}},
             {"--rate-distortion",
              &choices.rate_distortion,
              "LAMBDA",
              "Prefer blocks that compress better: how much squared error one saved bit is worth",
              {.allowed = not_negative(),
               .rules = {idle_without(encodes_blocks, "no blocks are encoded")}}}}};
}

}  // namespace ylat
