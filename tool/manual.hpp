// The man pages and what shells complete, made of the options as the program knows them.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

namespace ylat {

/// A page of section 1 in roff: of the whole program, or of one of its commands.
[[nodiscard]] std::string man_page(const CLI::App& program, const CLI::App* command);

/// A script for bash: commands, options, the values of options that have a list, and files.
[[nodiscard]] std::string bash_completion(const CLI::App& program);

/// The same for zsh, with what each option does.
[[nodiscard]] std::string zsh_completion(const CLI::App& program);

}  // namespace ylat
