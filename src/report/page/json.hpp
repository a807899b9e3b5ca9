// JSON of the report's page.
#pragma once

#include <nlohmann/json.hpp>

#include <yl/finding.hpp>

namespace yl::report {

using Json = nlohmann::ordered_json;

/// Text whatever bytes it holds: what is no UTF-8 is replaced. Nothing in it ends an element of
/// HTML.
[[nodiscard]] inline std::string text_of(const Json& json) {
    const std::string plain = json.dump(-1, ' ', false, Json::error_handler_t::replace);
    std::string text;
    text.reserve(plain.size());
    for (const char letter : plain)
        text += letter == '<' ? std::string("\\u003c") : std::string(1, letter);
    return text;
}

[[nodiscard]] inline Json finding_json(const Finding& finding) {
    return {{"code", std::string_view(finding.code)},
            {"level", name(finding.level)},
            {"problem", finding.problem},
            {"remedy", finding.remedy}};
}

}  // namespace yl::report
