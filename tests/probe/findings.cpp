// What lint finds and measures: of the demo's pictures in every role, of skies, and of what was spoilt.
#include <algorithm>

#include "hash.hpp"

namespace probe {
namespace {

void print_found(const std::string& name, const yl::Result<yl::LintReport>& report) {
    if (!is_there(name, report))
        return;
    Hash hash;
    hash.add(report->role);
    for (const yl::Evidence& one : report->found)
        hash.add_all(one.finding, one.place, one.measured, one.limit);
    print(name, hash.value());
}

/// A way to use a texture.
struct Use {
    std::string_view name;
    yl::LintOptions options;
};

std::vector<Use> uses() {
    using yl::Channel;
    return {
        {"repeated", {.sampler = yl::or_exit(yl::parse_sampler("wrap=repeat"))}},
        {"clamped, nearest",
         {.sampler = yl::or_exit(yl::parse_sampler("mag=nearest min=nearest mip=none"))}},
        {"on webgl2", {.profile = yl::or_exit(yl::find_profile("webgl2"))}},
        {"packed",
         {.role = yl::Role::data,
          .packed = {.occlusion = Channel::red,
                     .roughness = Channel::green,
                     .metalness = Channel::blue}}},
        {"as bc1", {.format = yl::Format::bc1_unorm}},
        {"as bc7", {.format = yl::Format::bc7_unorm}},
        {"opaque", {.alpha_use = yl::AlphaUse::opaque}},
        {"mask", {.alpha_use = yl::AlphaUse::mask}},
        {"blend", {.alpha_use = yl::AlphaUse::blend}},
    };
}

/// One level with another's first rows, upside down or of one value.
void spoilt(const std::string& name, const yl::Texture& sound, const yl::LintOptions& options) {
    for (const std::uint32_t level : {0U, 1U, 4U}) {
        if (level >= sound.shape().levels)
            continue;
        yl::Texture even = yl::or_exit(sound.clone()), turned = yl::or_exit(sound.clone());
        std::ranges::fill(even.level(level), std::byte{9});
        std::ranges::reverse(turned.level(level));
        print_found(fmt::format("{}, level {} even", name, level), yl::lint(even, options));
        print_found(fmt::format("{}, level {} turned", name, level), yl::lint(turned, options));
    }
}

void of_picture(const std::filesystem::path& file) {
    const yl::Picture picture = yl::or_exit(yl::read_picture(file));
    const std::string of = "findings about " + file.filename().string();
    for (const yl::RoleInfo& role : yl::all_roles()) {
        const std::string name = fmt::format("{} as {}", of, role.name);
        print_found(name, yl::lint(picture, {.role = role.role}));
        const auto baked = yl::bake(picture, {.role = role.role, .max_side = 128});
        if (!is_there(name + ", baked", baked))
            continue;
        print_found(name + ", baked", yl::lint(baked->texture, {.role = role.role}));
        spoilt(name, baked->texture, {.role = role.role});
    }
    const yl::Texture texture =
        yl::or_exit(yl::bake(picture, {.alpha = yl::AlphaMode::straight, .max_side = 200})).texture;
    for (const Use& use : uses())
        print_found(fmt::format("{}, {}", of, use.name), yl::lint(texture, use.options));
}

void of_surface(const std::filesystem::path& folder) {
    const auto picture = [&](const char* name) {
        return yl::or_exit(yl::read_picture(folder / name));
    };
    const yl::Texture normals =
        yl::or_exit(yl::bake(picture("slate_normal.png"), {.role = yl::Role::normal})).texture;
    const yl::Texture rough =
        yl::or_exit(yl::bake(picture("slate_roughness.png"), {.role = yl::Role::data})).texture;
    print_found("findings about roughness beside normals",
                yl::lint(rough, {.role = yl::Role::data,
                                 .packed = {.roughness = yl::Channel::red},
                                 .normals = &normals}));
    const auto traits = yl::or_exit(yl::lint_traits(picture("slate.png")));
    for (const yl::Origin origin : {yl::Origin::top, yl::Origin::bottom}) {
        const yl::Baked other = yl::or_exit(
            yl::bake(picture("slate_normal.png"), {.role = yl::Role::normal, .origin = origin}));
        const auto found =
            yl::compare_traits(yl::or_exit(yl::lint_traits(other.texture)), traits, "slate.png");
        print(fmt::format("normals beside colours, {}", static_cast<int>(origin)),
              found.has_value(), found ? found->finding.problem : "");
    }
}

yl::Texture with_exchanged(const yl::Texture& cube, std::size_t a, std::size_t b) {
    yl::Texture other = yl::or_exit(cube.clone());
    for (std::uint32_t level = 0; level < cube.shape().levels; ++level) {
        const std::span<std::byte> all = other.level(level);
        const std::size_t face = all.size() / 6;
        std::ranges::swap_ranges(all.subspan(a * face, face), all.subspan(b * face, face));
    }
    return other;
}

/// A panorama turned by so many quarters around the vertical axis; mirrored where they are none.
yl::Picture seen_from(const yl::Picture& panorama, int quarters) {
    yl::Picture seen;
    seen.transfer = panorama.transfer;
    seen.image = yl::or_exit(yl::with_orientation(
        panorama.image.view(), quarters == 0 ? yl::Orientation::mirror : yl::Orientation::none));
    for (std::uint32_t y = 0; y < seen.image.height(); ++y) {
        const std::span<std::byte> row = seen.image.view().row(y);
        std::rotate(row.begin(),
                    row.begin() + static_cast<std::ptrdiff_t>(row.size()) / 4 * quarters,
                    row.end());
    }
    return seen;
}

void of_skies(const std::filesystem::path& folder) {
    const yl::Picture picture = yl::or_exit(yl::read_picture(folder / "dawn.hdr"));
    const yl::Picture* const pictures[] = {&picture};
    const std::string names[] = {"dawn.hdr"};
    yl::CubeBakeOptions options;
    options.source.face_size = 64;
    const yl::Texture cube = yl::or_exit(yl::bake_cube(pictures, names, options)).texture;
    print_found("findings about a sky", yl::lint(cube));
    spoilt("findings about a sky", cube, {});
    for (std::size_t a = 0; a < 6; ++a)
        for (std::size_t b = a + 1; b < 6; ++b)
            print_found(
                fmt::format("findings about a sky whose faces {} and {} are exchanged", a, b),
                yl::lint(with_exchanged(cube, a, b)));
    const auto traits = yl::or_exit(yl::lint_traits(cube));
    for (const int quarters : {1, 2, 3, 0}) {
        const yl::Picture turned = seen_from(picture, quarters);
        const yl::Picture* const one[] = {&turned};
        const yl::Texture other = yl::or_exit(yl::bake_cube(one, names, options)).texture;
        const auto found = yl::compare_traits(yl::or_exit(yl::lint_traits(other)), traits, "dawn");
        print(fmt::format("a sky beside itself, {}", quarters), found.has_value(),
              found ? found->finding.problem : "");
    }
    options.prefilter = yl::CubePrefilter::specular;
    options.specular = {.face_size = 32, .samples = 64};
    const yl::Texture glossy = yl::or_exit(yl::bake_cube(pictures, names, options)).texture;
    print_found("findings about a prefiltered sky", yl::lint(glossy));
    spoilt("findings about a prefiltered sky", glossy, {});
}

}  // namespace

void findings(const Places& places) {
    for (const auto& file : files_in(places.demo))
        if (file.extension() == ".png")
            of_picture(file);
    of_surface(places.demo);
    of_skies(places.demo);
}

}  // namespace probe
