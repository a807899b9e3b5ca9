// Textures and pictures made ready for the page of `ylat report`.
#pragma once

#include <map>
#include <yl/report.hpp>

#include "session.hpp"

namespace ylat {

/// How files are shown.
struct ReportChoices {
    std::optional<yl::Role> role = {};
    std::optional<yl::Sampler> sampler = {};
    std::optional<yl::Format> format = {};  ///< pictures are shown in it, beside what they were
    /// Pictures by the path of their texture, or by its name without folder and ending.
    std::map<std::string, std::string> sources = {};
    /// By the path of what batches made: how, and in which role.
    std::map<std::string, yl::ReportBuild> builds = {};
    std::map<std::string, yl::Role> roles = {};

    [[nodiscard]] std::optional<yl::Role> role_of(const std::string& path) const;
    std::uint64_t bytes_each = 0;
};

/// What came of a file: one of these.
struct ReportedFile {
    std::string path = {};
    std::optional<yl::ReportPart> part = {};
    std::optional<yl::Error> error = {};
    std::string source = {};     ///< the path of what it was to be compared with
    yl::Findings findings = {};  ///< about the report itself: what is not in it
};

/// The name of a file without folder and ending.
[[nodiscard]] std::string stem_of(const std::string& path);

/// Looks at every file and makes its part, several at the same time.
[[nodiscard]] std::vector<ReportedFile> report_files(const std::vector<std::string>& paths,
                                                     const ReportChoices& choices);

}  // namespace ylat
