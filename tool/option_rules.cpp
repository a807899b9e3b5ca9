#include "option_rules.hpp"

#include <fmt/format.h>

namespace ylat {
namespace {

template <class Use>
void for_each_idle(const CLI::App& command, std::span<const OptionRule> rules, Facts facts,
                   const Use& use) {
    for (const OptionRule& rule : rules)
        if ((rule.needs & facts) == 0 && is_given(command, rule.option))
            use(rule);
}

}  // namespace

yl::Status refuse_options(const CLI::App& command, std::span<const OptionRule> rules, Facts facts) {
    yl::Status status;
    for_each_idle(command, rules, facts, [&](const OptionRule& rule) {
        if (status)
            status = yl::fail_at({yl::ErrorKind::usage, rule.otherwise}, rule.option);
    });
    return status;
}

yl::Findings idle_options(const CLI::App& command, std::span<const OptionRule> rules, Facts facts) {
    yl::Findings findings;
    for_each_idle(command, rules, facts, [&](const OptionRule& rule) {
        findings.push_back({"option-without-effect",
                            fmt::format("{} changes nothing: {}", rule.option, rule.otherwise),
                            "leave it out"});
    });
    return findings;
}

}  // namespace ylat
