// What rework does to a picture: a table of steps, each with its option.
#pragma once

#include <charconv>
#include <optional>
#include <string>
#include <string_view>
#include <vector>
#include <yl/yl.hpp>

#include "inputs.hpp"

namespace ylat {

enum ReworkFact : Facts {
    resizes = 1U << 0U,
    looks_beyond_edges = 1U << 1U,
    packs_file = 1U << 2U,
    has_alpha = 1U << 3U,
    rounds = 1U << 4U,
    weighs_alpha = 1U << 5U,
    says_transfer = 1U << 6U,
    holds_codes = 1U << 7U,
    role_matters = 1U << 8U,
    has_profile = 1U << 9U,
    has_color = 1U << 10U,
    holds_channels = 1U << 11U,  ///< several, to be split
    is_lossy = 1U << 12U,        ///< the file that is written
    loses_chroma = 1U << 13U,    ///< unless told to keep it
};

constexpr const char* no_alpha = "the picture has no alpha that is not 1";

[[nodiscard]] tl::unexpected<yl::Error> wrong(const std::string& option, const std::string& value,
                                              const std::string& expected);

/// Numbers between separators; nothing when there are others than wanted.
template <class Number>
std::vector<Number> parse_numbers(std::string_view text, std::string_view separators) {
    std::vector<Number> numbers;
    while (true) {
        Number number{};
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
        if (error != std::errc{})
            return {};
        numbers.push_back(number);
        text.remove_prefix(static_cast<std::size_t>(end - text.data()));
        if (text.empty())
            return numbers;
        if (separators.find(text.front()) == std::string_view::npos)
            return {};
        text.remove_prefix(1);
    }
}

[[nodiscard]] std::optional<yl::Channel> parse_channel(std::string_view letter);

/// What the stored channels of an image in memory mean.
void settle_swizzle(yl::Picture& picture);

/// The steps, and the options that tell how they work.
struct ReworkSteps {
    Session& session;
    InputChoices inputs = {};
    std::string filter = "mitchell", edges = "clamp";
    bool dither = false, limit_ringing = false;

    /// A step: its option, what it does with the option's value, and what it needs.
    struct Row {
        const char* name;
        yl::Status (ReworkSteps::*take)(yl::Picture&, const std::string&) const;
        const char* value;  ///< as help shows it; none where the option is a flag
        const char* help;
        Facts needs = ~Facts{0};
        const char* otherwise = "";
    };
    static const Row all[16];

    /// Those that were given, in the order in which they stand on the command line.
    [[nodiscard]] yl::Status take_steps(yl::Picture& picture, const Command& command) const;

 private:
    static yl::Status replace(yl::Picture& picture, yl::Result<yl::Image> image);
    yl::Status turn(yl::Picture& picture, const std::string& text) const;
    yl::Status crop(yl::Picture& picture, const std::string& text) const;
    yl::Status resize(yl::Picture& picture, const std::string& text) const;
    yl::Status reorder(yl::Picture& picture, const std::string& letters) const;
    yl::Status invert(yl::Picture& picture, const std::string& letter) const;
    yl::Status premultiply(yl::Picture& picture, const std::string&) const;
    yl::Status unpremultiply(yl::Picture& picture, const std::string&) const;
    yl::Status composite_over(yl::Picture& picture, const std::string& text) const;
    yl::Status bleed(yl::Picture& picture, const std::string&) const;
    yl::Status set_bits(yl::Picture& picture, const std::string& text) const;
    yl::Status gray(yl::Picture& picture, const std::string&) const;
    static yl::Status change_tone(yl::Picture& picture, const yl::Result<yl::Tone>& tone);
    yl::Status set_levels(yl::Picture& picture, const std::string& text) const;
    yl::Status set_curve(yl::Picture& picture, const std::string& text) const;
    yl::Status tile(yl::Picture& picture, const std::string& text) const;
    yl::Status mask(yl::Picture& picture, const std::string& path) const;
    yl::Status normals(yl::Picture& picture, const std::string& text) const;
};

}  // namespace ylat
