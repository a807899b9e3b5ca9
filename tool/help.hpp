// What --help prints.
#pragma once

#include <CLI/CLI.hpp>

namespace ylat {

/// Lines as wide as the terminal; required options and defaults are said.
class HelpFormatter : public CLI::Formatter {
 public:
    HelpFormatter();

    std::string make_option(const CLI::Option* option, bool is_positional) const override;
};

}  // namespace ylat
