// The headers of the PNM family: words and decimal numbers with white space and comments between.
#pragma once

#include <string>

#include "base/bytes.hpp"

namespace yl::pnm {

class HeaderReader {
 public:
    explicit HeaderReader(ByteReader& reader) : reader_(reader) {}

    /// The next word, and the one character after it is taken as well.
    [[nodiscard]] Result<std::string> word();
    /// Passes over what is left of the line that the last word stands in.
    [[nodiscard]] Status rest_of_line();
    /// A whole number; `name` is for errors.
    [[nodiscard]] Result<std::uint32_t> number(const char* name);
    /// The next digit 0 or 1, with or without space before it, as P1 files have them.
    [[nodiscard]] Result<bool> bit();

 private:
    [[nodiscard]] Result<char> next();
    [[nodiscard]] Result<char> skip_space();

    ByteReader& reader_;
    bool line_has_ended_ = false;  ///< by the last character taken
};

}  // namespace yl::pnm
