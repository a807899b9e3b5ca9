// What --help prints.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

namespace ylat {

/// What stands behind an option's name: "FILE", "always|never|auto"; nothing for flags.
[[nodiscard]] std::string value_text(const CLI::Option& option);

/// What an option does, and whether it has to be there, or what it is when left out.
[[nodiscard]] std::string full_description(const CLI::Option& option);

/// Lines as wide as the terminal; required options and defaults are said.
class HelpFormatter : public CLI::Formatter {
 public:
    HelpFormatter();

    std::string make_option(const CLI::Option* option, bool is_positional) const override;
    std::string make_subcommand(const CLI::App* command) const override;
    std::string make_help(const CLI::App* app, std::string name,
                          CLI::AppFormatMode mode) const override;
};

}  // namespace ylat
