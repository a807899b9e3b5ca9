// Findings: what will look wrong or fail later, and how to fix it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>

namespace yl {

/// How bad it is.
enum class FindingLevel : std::uint8_t {
    error,    ///< it cannot be used: black, garbage, refused by the device, not there
    warning,  ///< it will look wrong
    hint,     ///< something was assumed that is usually right, or could be had for less
};

/// "error", "warning" or "hint".
[[nodiscard]] YL_API std::string_view name(FindingLevel level);

/// A short name for programs, such as "normal-as-color": lower-case letters, digits and dashes.
/// Anything else does not compile.
class FindingCode {
 public:
    constexpr FindingCode() = default;
    template <std::size_t length>
    consteval FindingCode(const char (&text)[length]) : text_(text, length - 1) {
        for (const char letter : text_)
            if (!(letter >= 'a' && letter <= 'z') && !(letter >= '0' && letter <= '9') &&
                letter != '-')
                a_code_has_lower_case_letters_digits_and_dashes();
    }
    /// The name itself.
    constexpr operator std::string_view() const { return text_; }
    friend constexpr bool operator==(FindingCode a, std::string_view b) { return a.text_ == b; }

 private:
    static void a_code_has_lower_case_letters_digits_and_dashes();

    std::string_view text_ = {};
};

/// One thing that was noticed.
struct Finding {
    /// The kind of finding; stable across versions.
    FindingCode code = {};
    std::string problem = {};  ///< one sentence, with the measured values
    std::string remedy = {};   ///< one sentence
    FindingLevel level = FindingLevel::warning;
};

/// In the order they were found.
using Findings = std::vector<Finding>;

}  // namespace yl
