// What options need to have an effect. Each command has a table of rules; what is not so is
// refused, or remarked on: no option is ignored without a word.
#pragma once

#include <span>

#include "session.hpp"

namespace ylat {

/// What is so in a run, as bits; each command has its own.
using Facts = std::uint32_t;

struct OptionRule {
    const char* option;
    Facts needs;            ///< any of these facts
    const char* otherwise;  ///< a sentence without its end: why the option means nothing here
};

/// Fails with a usage error for an option that was given and lacks what it needs.
[[nodiscard]] yl::Status refuse_options(const CLI::App& command, std::span<const OptionRule> rules,
                                        Facts facts);

/// A finding for each option that was given and lacks what it needs.
[[nodiscard]] yl::Findings idle_options(const CLI::App& command, std::span<const OptionRule> rules,
                                        Facts facts);

/// `fact` where `holds`, for building facts up.
[[nodiscard]] constexpr Facts when(bool holds, Facts fact) {
    return holds ? fact : 0U;
}

}  // namespace ylat
