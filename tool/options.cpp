#include "options.hpp"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>
#include <map>

#include "session.hpp"

namespace ylat {
namespace {

constexpr double any = std::numeric_limits<double>::max();

std::string bounds_text(const Bounds& bounds) {
    if (bounds.max < any)
        return fmt::format("from {} to {}", bounds.min, bounds.max);
    return fmt::format("{} {}{}", bounds.is_open ? "above" : "from", bounds.min,
                       bounds.is_open ? "" : " on");
}

CLI::Validator within(const Bounds& bounds) {
    return {[bounds](const std::string& text) {
                double number = 0;
                const auto [end, error] =
                    std::from_chars(text.data(), text.data() + text.size(), number);
                const bool fits = error == std::errc{} && end == text.data() + text.size() &&
                                  number <= bounds.max &&
                                  (bounds.is_open ? number > bounds.min : number >= bounds.min);
                return fits ? std::string()
                            : fmt::format("'{}' is not understood; it takes a number {}", text,
                                          bounds_text(bounds));
            },
            ""};
}

/// Adds an option for each kind of target.
struct Adder {
    CLI::App& app;
    const OptionRow& row;

    CLI::Option* operator()(std::monostate) const { return app.add_flag(row.name, row.help); }
    CLI::Option* operator()(bool* target) const {
        return app.add_flag(row.name, *target, row.help);
    }
    template <class T>
    CLI::Option* operator()(T* target) const {
        return app.add_option(row.name, *target, row.help);
    }
    CLI::Option* operator()(std::vector<std::string>* target) const {
        CLI::Option* option = app.add_option(row.name, *target, row.help);
        if (!option->get_positional() && !row.details.takes_several)
            option->allow_extra_args(false);
        return option;
    }
    CLI::Option* operator()(std::vector<float>* target) const {
        CLI::Option* option = app.add_option(row.name, *target, row.help)->delimiter(',');
        return row.details.numbers > 0 ? option->expected(row.details.numbers) : option;
    }
};

/// Files that come through a pipe.
CLI::Validator piped(Session& session) {
    return {[&session](std::string& path) -> std::string {
                if (!Pipes::is_pipe(path))
                    return "";
                const auto copy = session.pipes.copy_of(path);
                if (!copy)
                    return copy.error().sentence();
                path = *copy;
                return "";
            },
            ""};
}

void restrict_values(CLI::Option& option, const AllowedValues& allowed) {
    if (const auto* bounds = std::get_if<Bounds>(&allowed))
        option.check(within(*bounds));
    else if (const auto* words = std::get_if<std::vector<std::string>>(&allowed))
        option.check(CLI::IsMember(*words));
}

}  // namespace

AllowedValues in_range(double min, double max) {
    return Bounds{min, max};
}

AllowedValues not_negative() {
    return Bounds{0, any};
}

AllowedValues positive() {
    return Bounds{0, any, true};
}

AllowedValues one_of(std::initializer_list<const char*> words) {
    return std::vector<std::string>(words.begin(), words.end());
}

void add_options(CLI::App& app, Session& session, const OptionTable& table) {
    for (const OptionRow& row : table.rows) {
        const OptionDetails& details = row.details;
        CLI::Option* option = std::visit(Adder{app, row}, row.target);
        option->option_text(row.value)->required(details.required);
        if (!table.heading.empty())
            option->group(table.heading);
        if (details.reads_pipes)
            option->transform(piped(session));
        restrict_values(*option, details.allowed);
    }
}

Command::Command(CLI::App& app, Session& session, const char* name, const char* description)
    : app_(app.add_subcommand(name, description)), session_(&session) {
    app_->fallthrough()->group("Commands");
}

void Command::runs(std::function<yl::Result<Exit>()> run, std::function<yl::Status()> check) {
    app_->callback([session = session_, run = std::move(run), check = std::move(check)] {
        session->command = run;
        session->check = check;
    });
}

void Command::add(const OptionTable& table) {
    add_options(*app_, *session_, table);
    for (const OptionRow& row : table.rows)
        for (const auto* rules : {&row.details.rules, &table.rules})
            for (const OptionRule& rule : *rules)
                rules_.push_back({row.name, rule});
}

void Command::add_examples(const std::vector<std::string>& lines) {
    std::string text = "Examples:";
    for (const std::string& line : lines)
        text += "\n  " + line;
    app_->footer(text);
}

void Command::add_output(std::string& output, const char* value, std::string help, bool required) {
    app_->add_option("-o", output, help + "; - for standard output")
        ->option_text(value)
        ->required(required)
        ->each(
            [session = session_](const std::string& path) { session->sends_file |= path == "-"; });
}

// Not by App::count, which ends the program where memory runs out.
bool Command::is_given(std::string_view option) const {
    const std::string_view name = option.substr(option.find_first_not_of('-'));
    return std::ranges::any_of(app_->get_options(), [&](const CLI::Option* each) {
        return each->count() > 0 &&
               (std::ranges::find(each->get_lnames(), name) != each->get_lnames().end() ||
                std::ranges::find(each->get_snames(), name) != each->get_snames().end());
    });
}

bool Command::is_given_under(std::string_view heading) const {
    return std::ranges::any_of(app_->get_options(), [&](const CLI::Option* each) {
        return each->count() > 0 && each->get_group() == heading;
    });
}

std::vector<GivenOption> Command::given_in_order() const {
    std::vector<GivenOption> given;
    std::map<const CLI::Option*, std::size_t> used;
    for (const CLI::Option* option : app_->parse_order())
        given.push_back({option->get_name(), option->results().at(used[option]++)});
    return given;
}

yl::Status Command::refuse_options(Facts facts) const {
    for (const auto& [option, rule] : rules_)
        if (rule.is_refused && (rule.needs & facts) == 0 && is_given(option))
            return yl::fail_at({yl::ErrorKind::usage, rule.otherwise}, option);
    return {};
}

yl::Findings Command::idle_options(Facts facts) const {
    yl::Findings findings;
    for (const auto& [option, rule] : rules_)
        if (!rule.is_refused && (rule.needs & facts) == 0 && is_given(option))
            findings.push_back({"option-without-effect",
                                fmt::format("{} changes nothing: {}", option, rule.otherwise),
                                "leave it out"});
    return findings;
}

}  // namespace ylat
