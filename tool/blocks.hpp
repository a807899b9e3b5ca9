// The options of block formats, which bake and cube share.
#pragma once

#include "arguments.hpp"
#include "session.hpp"

namespace ylat {

struct BlockChoices {
    int effort = 5;
    std::string weights = "uniform";
    float rate_distortion = 0;
    bool black_of_three = false;

    [[nodiscard]] yl::BlockOptions options() const;
};

/// "bc" and "etc" leave the block format to the role; other names are formats.
template <class Options>
[[nodiscard]] yl::Status choose_format(const std::string& text, yl::Role role, Options& options) {
    if (text.empty())
        return {};
    options.compressed = text == "bc"    ? yl::BlockFamily::bc
                         : text == "etc" ? yl::BlockFamily::etc2
                                         : yl::BlockFamily::none;
    if (options.compressed != yl::BlockFamily::none)
        return {};
    const auto format = parse_format(text, role);
    if (!format)
        return tl::unexpected(format.error());
    options.format = *format;
    return {};
}

[[nodiscard]] OptionTable block_options(BlockChoices& choices);

}  // namespace ylat
