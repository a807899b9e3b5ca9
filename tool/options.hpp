// Options of commands. A row of a table says everything about an option; parsing, help, checks, man
// pages and completion come from it.
#pragma once

#include <cstdint>
#include <functional>
#include <initializer_list>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>
#include <yl/finding.hpp>
#include <yl/result.hpp>

namespace CLI {
class App;
}

namespace ylat {

struct Session;
enum class Exit : int;

/// What is so in a run, as bits; each command has its own, from bit 0 up.
using Facts = std::uint64_t;

/// Facts about blocks, for the rules that commands with block options share.
enum BlockFact : Facts {

    encodes_blocks = 1U << 29U,
    encodes_colors = 1U << 30U,          ///< blocks whose channels can be weighed
    encodes_etc2_rgb = Facts{1} << 32U,  ///< without alpha
    encodes_hard_bc1 = 1U << 31U,        ///< at an effort that looks for black
};

/// `fact` where `holds`, for building facts up.
[[nodiscard]] constexpr Facts when(bool holds, Facts fact) {
    return holds ? fact : 0U;
}

/// What an option needs to have an effect: no option is ignored without a word.
struct OptionRule {
    Facts needs;            ///< any of these facts
    std::string otherwise;  ///< a sentence without its end: why the option means nothing here
    bool is_refused;        ///< else it is remarked on
};

[[nodiscard]] inline OptionRule refused_without(Facts needs, std::string otherwise) {
    return {needs, std::move(otherwise), true};
}
[[nodiscard]] inline OptionRule idle_without(Facts needs, std::string otherwise) {
    return {needs, std::move(otherwise), false};
}

/// Finite numbers from `min` to `max`, both included or without `min`.
struct Bounds {
    double min, max;
    bool is_open = false;  ///< `min` itself is not taken
};

/// The words or numbers that an option takes; anything where there are none.
using AllowedValues = std::variant<std::monostate, Bounds, std::vector<std::string>>;

[[nodiscard]] AllowedValues in_range(double min, double max);
[[nodiscard]] AllowedValues not_negative();
[[nodiscard]] AllowedValues positive();
[[nodiscard]] AllowedValues one_of(std::initializer_list<const char*> words);

/// Where a value goes. `monostate`: a flag that counts by its place among the others.
using OptionTarget =
    std::variant<std::monostate, bool*, int*, std::uint32_t*, float*, double*, std::string*,
                 std::optional<std::uint32_t>*, std::optional<float>*, std::optional<double>*,
                 std::vector<std::string>*, std::vector<float>*>;

struct OptionDetails {
    AllowedValues allowed = {};
    bool required = false;
    bool reads_pipes = false;    ///< what comes through a pipe is read into memory first
    bool takes_several = false;  ///< values behind one name; else it is named again for each
    int numbers = 0;             ///< how many between commas; 0: any number
    std::vector<OptionRule> rules = {};
};

/// `name` begins with a hyphen but for what stands by itself; `value` is what help shows behind it.
struct OptionRow {
    const char* name;
    OptionTarget target;
    const char* value;
    std::string help;
    OptionDetails details = {};
};

/// Rows under one heading of the help; the rules are those of every row.
struct OptionTable {
    std::string heading = {};
    std::vector<OptionRow> rows;
    std::vector<OptionRule> rules = {};
};

void add_options(CLI::App& app, Session& session, const OptionTable& table);

/// An option as it stands on the command line, with its value if it takes one.
struct GivenOption {
    std::string name, value;
};

/// A command of the command line: its options, and which of them were given.
class Command {
 public:
    Command(CLI::App& app, Session& session, const char* name, const char* description);

    /// What the command does once its options are parsed; and, for lists of many runs, what is wrong
    /// with their values, as far as that is known without reading files.
    void runs(std::function<yl::Result<Exit>()> run, std::function<yl::Status()> check = {});
    void add(const OptionTable& table);
    /// Lines at the end of the help, each of which runs.
    void add_examples(const std::vector<std::string>& lines);
    /// The option -o. "-" is standard output, which is a KTX2 or a PNG file then; what is said for
    /// people goes to standard error instead.
    void add_output(std::string& output, const char* value, std::string help, bool required = true);

    [[nodiscard]] bool is_given(std::string_view option) const;
    /// Whether any option under a heading of the help was given.
    [[nodiscard]] bool is_given_under(std::string_view heading) const;
    /// Those of a table whose values are strings or nothing, in the order of the command line.
    [[nodiscard]] std::vector<GivenOption> given_in_order() const;
    /// Fails with a usage error for an option that was given and lacks what it needs.
    [[nodiscard]] yl::Status refuse_options(Facts facts) const;
    /// A finding for each option that was given and lacks what it needs.
    [[nodiscard]] yl::Findings idle_options(Facts facts) const;

 private:
    struct NamedRule {
        std::string option;
        OptionRule rule;
    };

    CLI::App* app_;
    Session* session_;
    std::vector<NamedRule> rules_ = {};
};

}  // namespace ylat
