// ylat peek --fast: what a file's header says.
#pragma once

#include "session.hpp"

namespace ylat {

/// What is said about one file: in full, in a line of a table, and for programs.
struct Entry {
    std::vector<std::pair<std::string, std::string>> rows = {};
    std::vector<std::string> cells = {};
    Json json = {};
};

/// Without decoding anything: the pixels' own columns of the table stay empty.
[[nodiscard]] yl::Result<Entry> describe_header(const std::string& path, bool forgives);

/// A picture that cannot be read: what its header says if it is only too large, else the error.
[[nodiscard]] yl::Result<Entry> describe_unread(const std::string& path, const yl::Error& why);

}  // namespace ylat
