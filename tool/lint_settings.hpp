// What `ylat lint` is told by .ylat-lint.toml, a file beside the textures or in a folder above them.
#pragma once

#include <map>
#include <memory>

#include "session.hpp"

namespace ylat {

/// For files whose names match; what is left out stays as it is for all.
struct LintGroup {
    std::string names = {};  ///< with * and ?; empty: all
    std::optional<yl::Role> role = {};
    std::optional<yl::Sampler> sampler = {};
    std::vector<std::string> denied = {}, allowed = {};
};

/// The level of this name; nothing for any other word.
[[nodiscard]] std::optional<yl::FindingLevel> find_level(std::string_view word);

/// Which findings are left out, and which make the command fail. What is added later decides.
class LintVerdicts {
 public:
    /// Codes, and among the denied ones a level, which means all that is worse as well.
    void add(const std::vector<std::string>& denied, const std::vector<std::string>& allowed) {
        for (const std::string& word : denied) {
            if (const auto level = find_level(word))
                least_ = level;
            else
                is_denied_[word] = true;
        }
        for (const std::string& code : allowed)
            is_denied_[code] = false;
    }

    [[nodiscard]] bool allows(const yl::Finding& finding) const {
        const auto found = is_denied_.find(std::string(std::string_view(finding.code)));
        return found != is_denied_.end() && !found->second;
    }
    [[nodiscard]] bool denies(const yl::Finding& finding) const {
        const auto found = is_denied_.find(std::string(std::string_view(finding.code)));
        return found != is_denied_.end() ? found->second : least_ && finding.level <= *least_;
    }

 private:
    std::map<std::string, bool> is_denied_ = {};
    std::optional<yl::FindingLevel> least_ = {};
};

/// The file's own keys first, then its groups in their order.
///
///     deny = ["warning"]
///     allow = ["alpha-opaque"]
///
///     [[files]]
///     names = "*_nm.*"
///     role = "normal"
struct LintSettings {
    std::string path = {};
    std::vector<LintGroup> groups = {};
};

/// Fails for a file that is no TOML, and for keys and values that mean nothing here, with line and
/// column.
[[nodiscard]] yl::Result<LintSettings> read_lint_settings(const std::string& path);

/// Finds the settings of each file; every file of settings is read once.
class LintSettingsFinder {
 public:
    /// Those of the nearest folder that has any; null where none has.
    [[nodiscard]] yl::Result<std::shared_ptr<const LintSettings>> of(const std::string& file);

 private:
    yl::Result<std::shared_ptr<const LintSettings>> in_or_above(const std::string& folder);

    std::map<std::string, std::shared_ptr<const LintSettings>> by_folder_ = {};
};

}  // namespace ylat
