#include "help.hpp"

#include <fmt/format.h>

#include <string_view>

#include "terminal.hpp"

namespace ylat {
namespace {

constexpr std::size_t name_columns = 30;

/// The default of an option that takes a value, unless its description says what happens without.
std::string default_of(const CLI::Option& option) {
    const std::string value = option.get_default_str();
    const std::string description = option.get_description();
    const bool is_flag = option.get_items_expected_max() == 0;
    const bool is_said = description.find("when left out") != std::string::npos;
    if (is_flag || is_said || value.empty() || value == "[]" || value == "\"\"")
        return "";
    const bool is_list = value.front() == '[';
    return is_list ? value.substr(1, value.size() - 2) : value;
}

/// A name, and beside it or below what it means, in lines that fit the terminal.
std::string entry(const std::string& name, const std::string& meaning) {
    const auto lines = wrapped(meaning, terminal_columns(1) - name_columns);
    const bool needs_line = name.size() + 4 > name_columns;
    std::string result =
        needs_line ? "  " + name + "\n" : fmt::format("  {:<{}}", name, name_columns - 2);
    for (std::size_t i = 0; i < lines.size(); ++i)
        result += fmt::format("{:{}}{}\n", "", i > 0 || needs_line ? name_columns : 0, lines[i]);
    return result;
}

}  // namespace

std::string value_text(const CLI::Option& option) {
    if (option.get_items_expected_max() == 0)
        return "";
    return option.get_option_text().empty() ? option.get_type_name() : option.get_option_text();
}

std::string full_description(const CLI::Option& option) {
    std::string text = option.get_description();
    if (option.get_required())
        text += " (required)";
    else if (const std::string value = default_of(option); !value.empty())
        text += fmt::format(" (default: {})", value);
    return text;
}

HelpFormatter::HelpFormatter() {
    column_width(name_columns);
    label("OPTIONS", "OPTION...");
    label("SUBCOMMAND", "COMMAND");
}

std::string HelpFormatter::make_option(const CLI::Option* option, bool is_positional) const {
    std::string name = option->get_name(is_positional, true);
    const std::string values = value_text(*option);
    if (!is_positional && !values.empty())
        name += " " + values;
    return entry(name, full_description(*option));
}

std::string HelpFormatter::make_subcommand(const CLI::App* command) const {
    return entry(command->get_name(), command->get_description());
}

std::string HelpFormatter::make_help(const CLI::App* app, std::string name,
                                     CLI::AppFormatMode mode) const {
    std::string text = CLI::Formatter::make_help(app, std::move(name), mode);
    for (std::size_t gap = text.find("\n\n\n"); gap != std::string::npos;
         gap = text.find("\n\n\n", gap))
        text.erase(gap, 1);
    return text;
}

}  // namespace ylat
