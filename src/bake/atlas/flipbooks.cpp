#include "bake/atlas/flipbooks.hpp"

#include <algorithm>
#include <charconv>
#include <map>

namespace yl::atlas {
namespace {

constexpr std::string_view digits = "0123456789";
constexpr std::string_view separators = "_-. ";

struct Frame {
    std::uint64_t number = 0;
    const AtlasPicture* picture = nullptr;
};

}  // namespace

std::vector<Flipbook> flipbooks_of(std::span<const AtlasPicture> pictures) {
    std::map<std::string, std::vector<Frame>> by_name;
    for (const AtlasPicture& picture : pictures) {
        const std::string_view name = picture.name;
        const std::size_t last = name.find_last_not_of(digits);
        if (last == std::string_view::npos || last + 1 == name.size())
            continue;
        const std::string_view number = name.substr(last + 1);
        const std::size_t end = name.find_last_not_of(separators, last);
        Frame frame{0, &picture};
        const auto read =
            std::from_chars(number.data(), number.data() + number.size(), frame.number);
        if (end != std::string_view::npos && read.ec == std::errc{})
            by_name[std::string(name.substr(0, end + 1))].push_back(frame);
    }
    std::vector<Flipbook> books;
    for (auto& [name, frames] : by_name) {
        if (frames.size() < 2)
            continue;
        std::ranges::stable_sort(frames, {}, &Frame::number);
        Flipbook book{name, {}, {}};
        for (const Frame& frame : frames)
            book.parts.push_back(frame.picture->name);
        if (std::ranges::all_of(frames, [](const Frame& f) { return f.picture->seconds > 0; }))
            for (const Frame& frame : frames)
                book.seconds.push_back(frame.picture->seconds);
        books.push_back(std::move(book));
    }
    return books;
}

}  // namespace yl::atlas
