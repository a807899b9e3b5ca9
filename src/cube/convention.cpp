#include <yl/cube.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "cube/frames.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

using enum CubeFace;

constexpr std::array<FaceFrame, 6> frames = {{{right, back, bottom},
                                              {left, front, bottom},
                                              {top, right, front},
                                              {bottom, right, back},
                                              {front, right, bottom},
                                              {back, left, bottom}}};

/// From the standard space to a world: where its +X, +Y and +Z are found there.
AxisMap to_world(const CubeConvention& convention) {
    return convention.right_up_ahead;
}

/// The standard faces in a world's own axes, sorted by them.
CubeConvention world(std::string name, std::string about, const AxisMap& right_up_ahead) {
    CubeConvention result{std::move(name), std::move(about), {}, right_up_ahead};
    for (const FaceFrame& frame : frames) {
        const FaceFrame there = mapped(frame, right_up_ahead);
        result.faces[static_cast<std::size_t>(there.middle)] = there;
    }
    return result;
}

template <class Change>
CubeConvention changed(std::string name, std::string about, const Change& change) {
    CubeConvention result = world(std::move(name), std::move(about), {right, top, front});
    for (FaceFrame& frame : result.faces)
        change(frame);
    return result;
}

std::vector<CubeConvention> make_conventions() {
    std::vector<CubeConvention> all;
    all.push_back(world("standard",
                        "left-handed, +Y above, +Z ahead; seen from inside, row 0 at the top; as "
                        "OpenGL, Vulkan, Direct3D, Metal, WebGPU and KTX store it",
                        {right, top, front}));
    all.push_back(world("right-handed", "right-handed, +Y above, -Z ahead, seen from inside",
                        {right, top, back}));
    all.push_back(
        world("z-up", "right-handed, +Z above, +Y ahead, seen from inside", {right, front, top}));
    all.push_back(world("y-down", "right-handed, -Y above, +Z ahead, seen from inside",
                        {right, bottom, front}));
    all.push_back(changed("bottom-rows", "standard, but row 0 of each image is its lowest",
                          [](FaceFrame& frame) { frame.downwards = opposite(frame.downwards); }));
    all.push_back(changed("from-outside", "standard, but each image is seen from outside: mirrored",
                          [](FaceFrame& frame) { frame.to_right = opposite(frame.to_right); }));
    CubeConvention round = world("round",
                                 "standard frames, in the order front, right, back, left, "
                                 "top, bottom",
                                 {right, top, front});
    const auto ordered = round.faces;
    constexpr CubeFace order[] = {front, right, back, left, top, bottom};
    for (std::size_t i = 0; i < 6; ++i)
        round.faces[i] = ordered[static_cast<std::size_t>(order[i])];
    all.push_back(round);
    return all;
}

std::string axis_text(CubeFace axis) {
    std::string text(axis_name(axis));
    text[1] = static_cast<char>(text[1] - 'X' + 'x');
    return text;
}

/// Signed axes, "+x-z-y"; nothing when it is anything else, or two of them lie on one axis.
std::optional<std::array<CubeFace, 3>> parse_axes(std::string_view text) {
    std::array<CubeFace, 3> axes{};
    if (text.size() != 6)
        return {};
    for (std::size_t i = 0; i < 3; ++i) {
        const auto known =
            std::find_if(all_cube_faces.begin(), all_cube_faces.end(),
                         [&](CubeFace axis) { return axis_text(axis) == text.substr(2 * i, 2); });
        if (known == all_cube_faces.end())
            return {};
        axes[i] = *known;
    }
    if (are_on_one_axis(axes[0], axes[1]) || are_on_one_axis(axes[0], axes[2]) ||
        are_on_one_axis(axes[1], axes[2]))
        return {};
    return axes;
}

std::vector<std::string_view> words_of(std::string_view text) {
    std::vector<std::string_view> words;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(' '), text.size());
        if (end > 0)
            words.push_back(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return words;
}

Status turn_faces(const Texture& source, std::uint32_t level, std::uint32_t layer,
                  const std::array<FaceFrame, 6>& from, const std::array<FaceFrame, 6>& to,
                  Texture& target) {
    for (std::uint32_t i = 0; i < 6; ++i) {
        const auto same = std::find_if(from.begin(), from.end(), [&](const FaceFrame& frame) {
            return frame.middle == to[i].middle;
        });
        const auto number = static_cast<std::uint32_t>(same - from.begin());
        YL_TRY(const Image face, with_orientation(source.image(level, layer, number),
                                                  orientation_between(*same, to[i])));
        const ImageView view = target.image(level, layer, i);
        for (std::uint32_t y = 0; y < view.height; ++y)
            std::copy_n(face.view().row(y).data(), view.row_bytes(), view.row(y).data());
    }
    return {};
}

}  // namespace

const std::array<FaceFrame, 6>& standard_frames() {
    return frames;
}

std::vector<AxisMap> all_axis_maps() {
    std::vector<AxisMap> maps;
    for (const CubeFace x : all_cube_faces)
        for (const CubeFace y : all_cube_faces)
            for (const CubeFace z : all_cube_faces)
                if (!are_on_one_axis(x, y) && !are_on_one_axis(x, z) && !are_on_one_axis(y, z))
                    maps.push_back({x, y, z});
    return maps;
}

Orientation orientation_between(const FaceFrame& from, const FaceFrame& to) {
    if (to.to_right == from.to_right)
        return to.downwards == from.downwards ? Orientation::none : Orientation::flip;
    if (to.to_right == opposite(from.to_right))
        return to.downwards == from.downwards ? Orientation::mirror : Orientation::half;
    if (to.to_right == from.downwards)
        return to.downwards == from.to_right ? Orientation::transpose : Orientation::quarter_left;
    return to.downwards == from.to_right ? Orientation::quarter_right : Orientation::transverse;
}

std::span<const CubeConvention> all_cube_conventions() {
    static const std::vector<CubeConvention> all = make_conventions();
    return all;
}

const CubeConvention& standard_cube_convention() {
    return all_cube_conventions().front();
}

Result<CubeConvention> parse_cube_convention(std::string_view text) try {
    std::string names;
    for (const CubeConvention& known : all_cube_conventions()) {
        if (known.name == text)
            return known;
        names += known.name + ", ";
    }
    const auto wrong = [&](const std::string& why) {
        return fail(
            ErrorKind::usage,
            fmt::format("'{}' is not a way to store a cube: {}; it takes {}or six frames such "
                        "as \"{}\"",
                        text, why, names, cube_convention_text(standard_cube_convention())));
    };
    const auto words = words_of(text);
    if (words.size() != 6 && !(words.size() == 8 && words[6] == "ahead"))
        return wrong("there are not six frames");
    CubeConvention result{.name = "own", .about = "as described"};
    unsigned seen = 0;
    for (std::size_t i = 0; i < 6; ++i) {
        const auto axes = parse_axes(words[i]);
        if (!axes)
            return wrong(fmt::format("'{}' is not three signed axes", words[i]));
        result.faces[i] = {(*axes)[0], (*axes)[1], (*axes)[2]};
        seen |= 1U << static_cast<unsigned>((*axes)[0]);
    }
    if (seen != 0x3F)
        return wrong("two frames look the same way");
    if (words.size() == 8) {
        const auto axes = parse_axes(words[7]);
        if (!axes)
            return wrong(fmt::format("'{}' is not three signed axes", words[7]));
        result.right_up_ahead = *axes;
    }
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::string cube_convention_text(const CubeConvention& convention) {
    std::string text;
    for (const FaceFrame& frame : convention.faces)
        text +=
            axis_text(frame.middle) + axis_text(frame.to_right) + axis_text(frame.downwards) + " ";
    return text + "ahead " + axis_text(convention.right_up_ahead[0]) +
           axis_text(convention.right_up_ahead[1]) + axis_text(convention.right_up_ahead[2]);
}

Result<Texture> with_convention(const Texture& cube, const CubeConvention& from,
                                const CubeConvention& to) try {
    YL_CHECK(check_texture(cube, "cube"));
    const TextureShape& shape = cube.shape();
    if (shape.faces != 6)
        return fail(ErrorKind::usage, "this is not a cube map");
    YL_TRY(Texture result, Texture::create(shape));
    result.metadata = cube.metadata;
    // Both in the axes of the viewer: right, above and ahead become +X, +Y and +Z.
    const auto seen_frames = [](const CubeConvention& convention) {
        const AxisMap there = to_world(convention);
        AxisMap back{};
        for (std::size_t i = 0; i < 3; ++i) {
            const auto axis = static_cast<unsigned>(there[i]);
            const auto own = static_cast<CubeFace>(2 * i);
            back[axis / 2] = axis % 2 == 0 ? own : opposite(own);
        }
        std::array<FaceFrame, 6> seen{};
        for (std::size_t i = 0; i < 6; ++i)
            seen[i] = mapped(convention.faces[i], back);
        return seen;
    };
    const auto before = seen_frames(from), after = seen_frames(to);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer) {
            YL_CHECK(turn_faces(cube, level, layer, before, after, result));
        }
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
