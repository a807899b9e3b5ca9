// The options of block formats, which bake and cube share.
#pragma once

#include "arguments.hpp"
#include "session.hpp"

#include <yl/status_macros.hpp>

namespace ylat {

struct BlockChoices {
    int effort = 5;
    std::string weights = "uniform";
    float rate_distortion = 0;
    bool black_of_three = false;
    bool etc1_only = false;

    [[nodiscard]] yl::BlockOptions options() const;
};

/// What `--as` says beside the names of formats.
struct FamilyChoice {
    yl::BlockFamily family = yl::BlockFamily::none;
    float bits_per_texel = 0;
};

/// "bc", "etc", "astc" and "astc:3.5bpp" leave the block format to the role.
[[nodiscard]] yl::Result<FamilyChoice> parse_family(const std::string& text);

template <class Options>
[[nodiscard]] yl::Status choose_format(const std::string& text, yl::Role role, Options& options) {
    if (text.empty())
        return {};
    YL_TRY(const FamilyChoice choice, parse_family(text));
    options.compressed = choice.family;
    options.bits_per_texel = choice.bits_per_texel;
    if (choice.family != yl::BlockFamily::none)
        return {};
    YL_TRY(options.format, parse_format(text, role, "bc, etc, astc or "));
    return {};
}

/// What is encoded in a format, for the rules of these options.
[[nodiscard]] Facts facts_of_blocks(const yl::FormatInfo& f, const BlockChoices& choices);

[[nodiscard]] OptionTable block_options(BlockChoices& choices);

}  // namespace ylat
