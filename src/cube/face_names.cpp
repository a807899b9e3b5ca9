// Words and letters for faces in file names.
#include <algorithm>
#include <cctype>

#include <yl/cube.hpp>

namespace yl {
namespace {

/// In the order of `CubeFace`. "b" stands for bottom or back, as the others leave it.
const std::vector<std::string_view> words[] = {
    {"right", "rt", "ri", "r", "px", "posx", "positivex", "xpos", "xp", "+x", "x+", "east"},
    {"left", "lf", "lt", "le", "l", "nx", "negx", "negativex", "xneg", "xn", "-x", "x-", "west"},
    {"top", "up", "tp", "t", "u", "py", "posy", "positivey", "ypos", "yp", "+y", "y+", "above"},
    {"bottom", "down", "dn", "bo", "bt", "d", "b", "ny", "negy", "negativey", "yneg", "yn", "-y",
     "y-", "below"},
    {"front", "ft", "fr", "f", "pz", "posz", "positivez", "zpos", "zp", "+z", "z+", "north"},
    {"back", "bk", "ba", "b", "nz", "negz", "negativez", "zneg", "zn", "-z", "z-", "south"}};

using Options = std::vector<CubeFace>;

std::string lower(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char letter) { return static_cast<char>(std::tolower(letter)); });
    return text;
}

Options faces_of_word(std::string_view word) {
    Options faces;
    for (const CubeFace face : all_cube_faces) {
        const auto& known = words[static_cast<std::size_t>(face)];
        if (std::find(known.begin(), known.end(), word) != known.end())
            faces.push_back(face);
    }
    return faces;
}

/// Parts between anything that is not a letter, digit or sign.
std::vector<std::string> parts_of(const std::string& name) {
    std::vector<std::string> parts(1);
    for (const char letter : name) {
        if (std::isalnum(static_cast<unsigned char>(letter)) != 0 || letter == '+')
            parts.back() += letter;
        else if (letter == '-' && parts.back().empty())
            parts.back() = "-";  // the sign of an axis, if one follows
        else if (letter == '-' && parts.back().size() == 1)
            parts.back() += '-', parts.emplace_back();
        else
            parts.emplace_back();
    }
    for (std::string& part : parts)
        if (part.size() > 2 && part[0] == '-')
            part.erase(0, 1);
    return parts;
}

/// The same beginning and end of all names taken off.
std::array<std::string, 6> differing_parts(const std::array<std::string, 6>& names) {
    const auto common = [&](auto letter_of) {
        std::size_t count = 0;
        for (;; ++count)
            for (const std::string& name : names)
                if (count >= name.size() || letter_of(name, count) != letter_of(names[0], count))
                    return count;
    };
    const std::size_t front = common([](const std::string& s, std::size_t i) { return s[i]; });
    std::array<std::string, 6> rest;
    for (std::size_t i = 0; i < 6; ++i)
        rest[i] = names[i].substr(front);
    const auto shortest = std::min_element(
        rest.begin(), rest.end(), [](const auto& a, const auto& b) { return a.size() < b.size(); });
    std::size_t end = 0;
    const auto ends_alike = [&] {
        return end + 1 < shortest->size() &&
               std::all_of(rest.begin(), rest.end(), [&](const std::string& s) {
                   return s[s.size() - 1 - end] == rest[0][rest[0].size() - 1 - end];
               });
    };
    while (ends_alike())
        ++end;
    for (std::string& part : rest)
        part.resize(part.size() - end);
    return rest;
}

/// Picks one face for each file, so that all six are there.
std::optional<std::array<CubeFace, 6>> settle(std::array<Options, 6> options) {
    std::array<CubeFace, 6> result{};
    unsigned taken = 0;
    for (int round = 0; round < 6; ++round) {
        // The file with the fewest faces left is settled next.
        std::size_t next = 6;
        for (std::size_t i = 0; i < 6; ++i)
            if (!options[i].empty() && (next == 6 || options[i].size() < options[next].size()))
                next = i;
        if (next == 6 || options[next].size() != 1)
            return std::nullopt;
        const CubeFace face = options[next].front();
        result[next] = face;
        taken |= 1U << static_cast<unsigned>(face);
        options[next].clear();
        for (Options& others : options)
            std::erase(others, face);
    }
    return taken == 0x3F ? std::optional(result) : std::nullopt;
}

/// Numbers 0 to 5, or 1 to 6, where the names differ.
std::optional<std::array<CubeFace, 6>> by_number(const std::array<std::string, 6>& parts) {
    std::array<int, 6> numbers{};
    for (std::size_t i = 0; i < 6; ++i) {
        if (parts[i].size() != 1 || parts[i][0] < '0' || parts[i][0] > '6')
            return std::nullopt;
        numbers[i] = parts[i][0] - '0';
    }
    const int first = *std::min_element(numbers.begin(), numbers.end());
    std::array<Options, 6> options;
    for (std::size_t i = 0; i < 6; ++i) {
        if (numbers[i] - first > 5)
            return std::nullopt;
        options[i] = {static_cast<CubeFace>(numbers[i] - first)};
    }
    return settle(options);
}

}  // namespace

std::optional<std::array<CubeFace, 6>> faces_by_name(std::span<const std::string, 6> names) {
    std::array<std::string, 6> lowered;
    for (std::size_t i = 0; i < 6; ++i)
        lowered[i] = lower(names[i].substr(0, names[i].rfind('.')));
    const auto different = differing_parts(lowered);
    if (const auto found = by_number(different))
        return found;
    std::array<Options, 6> options;
    for (std::size_t i = 0; i < 6; ++i)
        options[i] = faces_of_word(different[i]);
    if (const auto found = settle(options))
        return found;
    for (std::size_t i = 0; i < 6; ++i) {
        options[i].clear();
        for (const std::string& part : parts_of(lowered[i]))
            for (const CubeFace face : faces_of_word(part))
                if (std::find(options[i].begin(), options[i].end(), face) == options[i].end())
                    options[i].push_back(face);
    }
    return settle(options);
}

bool are_game_names(std::span<const std::string, 6> names) {
    constexpr std::array<std::string_view, 6> endings = {"rt", "lf", "up", "dn", "ft", "bk"};
    unsigned seen = 0;
    for (const std::string& name : names) {
        const std::string stem = lower(name.substr(0, name.rfind('.')));
        for (std::size_t i = 0; i < endings.size(); ++i)
            if (stem.ends_with(endings[i]))
                seen |= 1U << i;
    }
    return seen == 0x3F;
}

std::vector<FaceArrangement> game_arrangements(const std::array<CubeFace, 6>& claimed) {
    constexpr std::array quarters = {Orientation::none, Orientation::quarter_right,
                                     Orientation::half, Orientation::quarter_left};
    FaceArrangement named;
    for (std::size_t image = 0; image < 6; ++image)
        named[static_cast<std::size_t>(claimed[image])] = {image, Orientation::none};
    std::vector<FaceArrangement> all;
    for (const bool exchanged : {false, true})
        for (const Orientation top : quarters)
            for (const Orientation bottom : quarters) {
                FaceArrangement faces = named;
                if (exchanged)
                    std::swap(faces[static_cast<std::size_t>(CubeFace::right)],
                              faces[static_cast<std::size_t>(CubeFace::left)]);
                faces[static_cast<std::size_t>(CubeFace::top)].orientation = top;
                faces[static_cast<std::size_t>(CubeFace::bottom)].orientation = bottom;
                all.push_back(faces);
            }
    return all;
}

}  // namespace yl
