#include <yl/resize.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <span>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/number.hpp"
#include "base/out_of_memory.hpp"
#include "base/split.hpp"

namespace yl {
namespace {

constexpr std::string_view edge_names[] = {"clamp", "repeat", "mirror"};

tl::unexpected<Error> unknown_kernel(std::string_view text) {
    return fail(ErrorKind::usage,
                fmt::format("'{}' is not a filter; there are box, triangle, mitchell, catmull-rom, "
                            "cubic:B,C, lanczos:RADIUS and kaiser:RADIUS,SHAPE",
                            text));
}

/// Up to `most` numbers after the colon, within the range, in the place of those that are there.
Status read_numbers(std::string_view text, std::span<float*> places, float min, float max) {
    const auto parts = split(text, ',');
    if (parts.size() > places.size())
        return fail(ErrorKind::usage, fmt::format("'{}' has too many numbers for a filter", text));
    for (std::size_t i = 0; i < parts.size(); ++i) {
        const auto [end, error] =
            number_from_chars(parts[i].data(), parts[i].data() + parts[i].size(), *places[i]);
        if (error != std::errc{} || end != parts[i].data() + parts[i].size() ||
            !(*places[i] >= min && *places[i] <= max))
            return fail(ErrorKind::usage,
                        fmt::format("a filter's number is '{}'; it lies between {} and {}",
                                    parts[i], min, max));
    }
    return {};
}

}  // namespace

double Kernel::reach() const {
    switch (kind) {
        case Kind::box:
            return 0.5;
        case Kind::triangle:
            return 1;
        case Kind::cubic:
            return 2;
        case Kind::lanczos:
        case Kind::kaiser:
            return static_cast<double>(radius);
    }
    return 0.5;
}

Result<Kernel> parse_kernel(std::string_view text) try {
    const std::size_t colon = text.find(':');
    const std::string_view name = text.substr(0, colon);
    Kernel kernel;
    std::vector<float*> numbers;
    float min = -2, max = 2;
    if (name == "triangle") {
        kernel.kind = Kernel::Kind::triangle;
    } else if (name == "mitchell" || name == "catmull-rom") {
        kernel.kind = Kernel::Kind::cubic;
        if (name == "catmull-rom") {
            kernel.b = 0;
            kernel.c = 0.5F;
        }
    } else if (name == "cubic") {
        kernel.kind = Kernel::Kind::cubic;
        numbers = {&kernel.b, &kernel.c};
    } else if (name == "lanczos") {
        kernel.kind = Kernel::Kind::lanczos;
        numbers = {&kernel.radius};
        min = 1, max = 16;
    } else if (name == "kaiser") {
        kernel.kind = Kernel::Kind::kaiser;
        numbers = {&kernel.radius, &kernel.shape};
        min = 1, max = 16;
    } else if (name != "box") {
        return unknown_kernel(text);
    }
    if (colon == std::string_view::npos)
        return kernel;
    if (numbers.empty())
        return unknown_kernel(text);
    YL_CHECK(read_numbers(text.substr(colon + 1), numbers, min, max));
    return kernel;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::string kernel_text(const Kernel& kernel) {
    switch (kernel.kind) {
        case Kernel::Kind::box:
            return "box";
        case Kernel::Kind::triangle:
            return "triangle";
        case Kernel::Kind::cubic:
            if (kernel == Kernel{.kind = Kernel::Kind::cubic})
                return "mitchell";
            if (kernel.b == 0 && kernel.c == 0.5F)
                return "catmull-rom";
            return fmt::format("cubic:{},{}", kernel.b, kernel.c);
        case Kernel::Kind::lanczos:
            return fmt::format("lanczos:{}", kernel.radius);
        case Kernel::Kind::kaiser:
            return fmt::format("kaiser:{},{}", kernel.radius, kernel.shape);
    }
    return "box";
}

Result<Edges> parse_edges(std::string_view text) try {
    const auto parts = split(text, ',');
    Edges edges{};
    for (std::size_t i = 0; i < edges.size(); ++i) {
        const auto part = parts[std::min(i, parts.size() - 1)];
        const auto* found = std::find(std::begin(edge_names), std::end(edge_names), part);
        if (parts.size() > 2 || found == std::end(edge_names))
            return fail(ErrorKind::usage,
                        fmt::format("'{}' is not understood; an edge is clamp, repeat or mirror, "
                                    "one for both axes or two with a comma",
                                    text));
        edges[i] = static_cast<Edge>(found - std::begin(edge_names));
    }
    return edges;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::string edges_text(const Edges& edges) {
    const auto name = [](Edge edge) { return edge_names[static_cast<std::size_t>(edge)]; };
    return edges[0] == edges[1] ? std::string(name(edges[0]))
                                : fmt::format("{},{}", name(edges[0]), name(edges[1]));
}

}  // namespace yl
