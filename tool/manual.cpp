#include "manual.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>
#include <yl/version.hpp>

#include "help.hpp"

namespace ylat {
namespace {

constexpr std::string_view exit_codes[] = {"0 done",
                                           "1 differences, or findings under --strict",
                                           "2 wrong usage",
                                           "3 bad input",
                                           "4 cannot read or write",
                                           "5 no such device"};

/// Text as roff shows it: hyphens of options stay hyphens, nothing is taken for a request.
std::string roff(std::string_view text) {
    std::string result;
    for (const char letter : text) {
        if (letter == '\\')
            result += "\\e";
        else if (letter == '-')
            result += "\\-";
        else if ((letter == '.' || letter == '\'') && (result.empty() || result.back() == '\n'))
            result += std::string("\\&") + letter;
        else
            result += letter;
    }
    return result;
}

std::vector<const CLI::Option*> options_of(const CLI::App& app, bool are_positional) {
    std::vector<const CLI::Option*> found;
    for (const CLI::Option* option : app.get_options())
        if (option->get_positional() == are_positional && !option->get_group().empty())
            found.push_back(option);
    return found;
}

std::string describe(const CLI::Option& option, bool is_positional) {
    const std::string values = value_text(option);
    std::string names = option.get_name(is_positional, true);
    for (std::size_t comma = names.find(','); comma != std::string::npos;
         comma = names.find(',', comma + 2))
        names.insert(comma + 1, " ");
    std::string text = ".TP\n.B " + roff(names);
    if (!is_positional && !values.empty())
        text += " \\fI" + roff(values) + "\\fR";
    return text + "\n" + roff(full_description(option)) + "\n";
}

std::string synopsis(const CLI::App& program, const CLI::App* command) {
    if (command == nullptr)
        return roff("ylat COMMAND [OPTION]...\n.br\nylat help [COMMAND]") + "\n";
    std::string text = ".B " + program.get_name() + " " + command->get_name() + "\n";
    for (const CLI::Option* option : options_of(*command, true))
        text += roff(option->get_required() ? option->get_name(true)
                                            : "[" + option->get_name(true) + "]") +
                (option->get_items_expected_max() > 1 ? "...\n" : "\n");
    return text + roff("[OPTION]...") + "\n";
}

std::string listed_commands(const CLI::App& program) {
    std::string text = ".SH COMMANDS\n";
    for (const CLI::App* command : program.get_subcommands({}))
        text += fmt::format(".TP\n.B {}\n{}\n", roff(command->get_name()),
                            roff(command->get_description()));
    return text;
}

std::string all_options(const CLI::App& app, const char* heading,
                        const CLI::Option* but = nullptr) {
    std::string text;
    for (const CLI::Option* option : options_of(app, false))
        if (option != but)
            text += describe(*option, false);
    return text.empty() ? "" : fmt::format(".SH {}\n", heading) + text;
}

/// The values of "always|never|auto"; none where they are no such list.
std::vector<std::string> listed_values(const CLI::Option& option) {
    const std::string text = value_text(option);
    const bool is_list =
        text.find('|') != std::string::npos && std::ranges::all_of(text, [](unsigned char letter) {
            return std::islower(letter) || std::isdigit(letter) || letter == '-' || letter == '|';
        });
    return is_list ? CLI::detail::split(text, '|') : std::vector<std::string>();
}

bool takes_value(const CLI::Option& option) {
    return option.get_items_expected_max() > 0;
}

std::vector<std::string> names_of(const CLI::Option& option) {
    std::vector<std::string> names;
    for (const std::string& name : option.get_snames())
        names.push_back("-" + name);
    for (const std::string& name : option.get_lnames())
        names.push_back("--" + name);
    return names;
}

/// The options of a command, and those of the program, which may follow as well.
std::vector<const CLI::Option*> completed_options(const CLI::App& program,
                                                  const CLI::App& command) {
    auto options = options_of(command, false);
    for (const CLI::Option* option : options_of(program, false))
        if (option->get_name() != "--version" && option != program.get_help_ptr())
            options.push_back(option);
    return options;
}

/// For a description within [...] of zsh, inside single quotes.
std::string zsh_text(std::string_view text) {
    std::string result;
    for (const char letter : text)
        if (letter == '\'')
            result += "'\\''";
        else if (letter == '[' || letter == ']' || letter == ':' || letter == '\\')
            result += std::string("\\") + letter;
        else
            result += letter;
    return result;
}

}  // namespace

std::string man_page(const CLI::App& program, const CLI::App* command) {
    const std::string name =
        command == nullptr ? program.get_name() : program.get_name() + "-" + command->get_name();
    const CLI::App& about = command == nullptr ? program : *command;
    std::string title = name;
    std::ranges::transform(title, title.begin(), [](unsigned char letter) {
        return static_cast<char>(std::toupper(letter));
    });
    std::string page =
        fmt::format(".TH {} 1 \"\" \"ylat {}\" \"Yellow Lattice\"\n.SH NAME\n{} \\- {}\n",
                    roff(title), yl::version, roff(name), roff(about.get_description()));
    page += ".SH SYNOPSIS\n" + synopsis(program, command);
    if (command == nullptr) {
        page += listed_commands(program);
    } else {
        std::string arguments;
        for (const CLI::Option* option : options_of(about, true))
            arguments += describe(*option, true);
        if (!arguments.empty())
            page += ".SH ARGUMENTS\n" + arguments;
    }
    page += all_options(about, "OPTIONS");
    if (command != nullptr)
        page += all_options(program, "OPTIONS OF EVERY COMMAND", program.get_help_ptr());
    if (const std::string examples = about.get_footer(); !examples.empty())
        page += ".SH EXAMPLES\n.nf\n" + roff(examples.substr(examples.find('\n') + 1)) + "\n.fi\n";
    page += ".SH EXIT STATUS\n";
    for (const std::string_view code : exit_codes)
        page += fmt::format(".TP\n.B {}\n{}\n", code.substr(0, 1), roff(code.substr(2)));
    if (command != nullptr)
        return page + ".SH SEE ALSO\n.BR ylat (1)\n";
    page += ".SH SEE ALSO\n";
    for (const CLI::App* other : program.get_subcommands({}))
        if (other->get_name() != "help")
            page += fmt::format(".BR ylat\\-{} (1)\n", roff(other->get_name()));
    return page;
}

std::string bash_completion(const CLI::App& program) {
    std::string commands, cases, values;
    for (const CLI::App* command : program.get_subcommands({})) {
        commands += (commands.empty() ? "" : " ") + command->get_name();
        std::string words;
        for (const CLI::Option* option : completed_options(program, *command))
            for (const std::string& name : names_of(*option)) {
                words += (words.empty() ? "" : " ") + name;
                if (const auto listed = listed_values(*option); !listed.empty())
                    values += fmt::format("    {}:{}) words='{}' ;;\n", command->get_name(), name,
                                          fmt::join(listed, " "));
            }
        cases += fmt::format("    {}) words='{}' ;;\n", command->get_name(), words);
    }
    return fmt::format(
        "# bash completion of ylat {}\n"
        "_ylat() {{\n"
        "  local word=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}} command= "
        "words= i\n"
        "  for ((i = 1; i < COMP_CWORD; ++i)); do\n"
        "    case ' {} ' in *\" ${{COMP_WORDS[i]}} \"*) command=${{COMP_WORDS[i]}}; break ;; esac\n"
        "  done\n"
        "  COMPREPLY=()\n"
        "  if [ -z \"$command\" ]; then\n"
        "    COMPREPLY=($(compgen -W '{}' -- \"$word\"))\n"
        "    return\n"
        "  fi\n"
        "  case $command:$before in\n{}"
        "  esac\n"
        "  if [ -n \"$words\" ]; then\n"
        "    COMPREPLY=($(compgen -W \"$words\" -- \"$word\"))\n"
        "    return\n"
        "  fi\n"
        "  case $command in\n{}"
        "  esac\n"
        "  case $word in\n"
        "    -*) COMPREPLY=($(compgen -W \"$words\" -- \"$word\")) ;;\n"
        "    *) COMPREPLY=($(compgen -f -- \"$word\")) ;;\n"
        "  esac\n"
        "}}\n"
        "complete -o filenames -F _ylat ylat\n",
        yl::version, commands, commands, values, cases);
}

std::string zsh_completion(const CLI::App& program) {
    std::string commands, cases;
    for (const CLI::App* command : program.get_subcommands({})) {
        commands +=
            fmt::format("    '{}:{}'\n", command->get_name(), zsh_text(command->get_description()));
        std::string lines;
        for (const CLI::Option* option : completed_options(program, *command)) {
            const auto listed = listed_values(*option);
            const std::string value = !takes_value(*option) ? ""
                                      : listed.empty()
                                          ? fmt::format(":{}:_files", zsh_text(value_text(*option)))
                                          : fmt::format(":value:({})", fmt::join(listed, " "));
            for (const std::string& name : names_of(*option))
                lines += fmt::format(" \\\n        '*{}[{}]{}'", name,
                                     zsh_text(option->get_description()), value);
        }
        cases += fmt::format("      {})\n        _arguments -s{} \\\n        '*:file:_files' ;;\n",
                             command->get_name(), lines);
    }
    return fmt::format(
        "#compdef ylat\n"
        "# zsh completion of ylat {}\n"
        "_ylat() {{\n"
        "  local -a commands=(\n{}  )\n"
        "  if ((CURRENT == 2)); then\n"
        "    _describe command commands\n"
        "  else\n"
        "    shift words; ((CURRENT--))\n"
        "    case $words[1] in\n{}"
        "    esac\n"
        "  fi\n"
        "}}\n"
        "_ylat \"$@\"\n",
        yl::version, commands, cases);
}

}  // namespace ylat
