// Cubes: layouts, conventions, orders, chains, and what light does with them.
#include "hash.hpp"

namespace probe {
namespace {

yl::Texture sky(std::uint32_t width) {
    yl::Picture picture;
    picture.image = waves_in(yl::Format::rgba32_float, width, width / 2);
    picture.transfer = yl::Transfer::linear;
    return yl::or_exit(yl::cube_of_picture(picture, {.layout = yl::CubeLayout::panorama}));
}

void layouts(const yl::Texture& cube) {
    for (const yl::CubeLayout layout : yl::all_cube_layouts()) {
        const std::string name = text(yl::name(layout));
        const auto picture = yl::picture_of_cube(
            cube, layout, 0, 0,
            yl::is_cut_layout(layout) ? std::nullopt : std::optional<std::uint32_t>(64));
        if (!is_there("picture of a cube, " + name, picture))
            continue;
        print("picture of a cube, " + name, *picture);
        yl::Picture source;
        source.image = yl::or_exit(
            yl::convert(picture->view(), yl::Format::rgba32_float, yl::ConvertOptions()));
        source.transfer = yl::Transfer::linear;
        const auto back = yl::cube_of_picture(source, {.layout = layout});
        if (is_there("cube of a picture, " + name, back))
            print("cube of a picture, " + name, *back);
        const auto guess = yl::guess_cube_layout(source);
        if (guess)
            print("guess of " + name, guess->layout, guess->face_size, guess->agrees,
                  guess->misfit);
        Hash places;
        for (const yl::CubeFace face : yl::all_cube_faces)
            for (const double s : {0.2, 0.7})
                places.add(yl::place_of_direction(layout, yl::direction_at({face, s, 0.4})));
        print("places of directions, " + name, places.value());
    }
}

void conventions(const yl::Texture& cube) {
    for (const yl::CubeConvention& convention : yl::all_cube_conventions()) {
        const auto changed = yl::with_convention(cube, yl::standard_cube_convention(), convention);
        if (is_there("convention " + convention.name, changed))
            print("convention " + convention.name, *changed, yl::cube_convention_text(convention));
    }
}

/// Faces that were mixed up, turned and mirrored.
void orders(const yl::Texture& cube) {
    constexpr std::array<std::size_t, 6> mixed = {3, 0, 5, 1, 4, 2};
    for (const bool turns : {false, true}) {
        std::array<yl::Image, 6> images;
        std::array<yl::ConstImageView, 6> views;
        for (std::size_t i = 0; i < 6; ++i) {
            const yl::Orientation orientation =
                turns ? yl::all_orientations[(i * 3 + 1) % 8] : yl::Orientation::none;
            images[i] = yl::or_exit(yl::with_orientation(
                cube.image(0, 0, static_cast<std::uint32_t>(mixed[i])), orientation));
            views[i] = std::as_const(images[i]).view();
        }
        const std::string name = turns ? "order of turned faces" : "order of faces";
        const auto order = yl::find_face_order(views, yl::Transfer::linear, {.top = 4, .front = 1});
        if (!is_there(name, order))
            continue;
        Hash hash;
        for (const yl::PlacedFace& face : order->faces)
            hash.add_all(face.image, face.orientation);
        hash.add(yl::differences_in_words(yl::all_cube_faces, order->faces));
        print(name, hash.value(), order->misfit, order->confidence, order->is_sure, order->knows_up,
              order->worst.a, order->worst.b, order->worst.misfit, order->joins);
        print(name + ", arranged", yl::or_exit(yl::arranged_cube(views, order->faces)));
    }
}

void chains(const yl::Texture& cube) {
    yl::TextureShape shape = cube.shape();
    shape.levels = yl::full_level_count(shape.width, shape.height);
    for (const char* kernel : {"box", "triangle", "kaiser:3,4"})
        for (const bool joined : {false, true}) {
            yl::Texture chain = yl::or_exit(yl::Texture::create(shape));
            std::ranges::copy(cube.level(0), chain.level(0).begin());
            const std::string name =
                fmt::format("cube mips by {}{}", kernel, joined ? ", joined" : "");
            yl::or_exit(yl::build_cube_mips(
                chain, {.kernel = yl::or_exit(yl::parse_kernel(kernel)), .joined_edges = joined}));
            print(name, chain);
            const auto seams = yl::or_exit(yl::measure_cube_seams(chain, 1));
            print(name + ", seams", seams.max_across, seams.max_within, seams.mean_across,
                  seams.mean_within);
        }
}

void baked(const yl::Texture& cube) {
    std::vector<yl::Picture> faces;
    std::vector<const yl::Picture*> list;
    std::vector<std::string> names;
    for (const yl::CubeFace face : yl::all_cube_faces)
        faces.push_back(
            yl::or_exit(yl::picture_of_surface(cube, {.face = static_cast<std::uint32_t>(face)})));
    for (std::size_t i = 0; i < 6; ++i) {
        list.push_back(&faces[(i + 2) % 6]);
        names.push_back("sky_" + text(yl::name(yl::all_cube_faces[(i + 2) % 6])) + ".hdr");
    }
    const auto bake = [&](const std::string& name, const yl::CubeBakeOptions& options) {
        const auto result = yl::bake_cube(list, names, options);
        if (is_there(name, result))
            print(name, result->texture, result->findings, result->source, result->changes,
                  result->followed_edges);
    };
    bake("bake a cube", {});
    bake("bake a cube in blocks", {.compressed = yl::BlockFamily::bc});
    bake("bake a cube, specular",
         {.prefilter = yl::CubePrefilter::specular, .specular = {.face_size = 8, .samples = 32}});
    bake("bake a cube, diffuse",
         {.prefilter = yl::CubePrefilter::diffuse, .specular = {.face_size = 8}});
    std::swap(names[0], names[1]);
    bake("bake a cube of wrong names", {});
    bake("bake a cube of wrong names, in order", {.reorder = true});
}

}  // namespace

void cubes(const Places&) {
    const yl::Texture cube = sky(128);
    print("cube of a panorama", cube);
    print("specular", yl::or_exit(yl::prefilter_specular(cube, {.face_size = 16, .samples = 64})));
    print("diffuse", yl::or_exit(yl::prefilter_diffuse(cube, 8)));
    print("split sums", yl::or_exit(yl::split_sum_table(16)));
    print("harmonics", yl::harmonics_text(yl::or_exit(yl::project_to_harmonics(cube))));
    layouts(cube);
    conventions(cube);
    orders(cube);
    chains(cube);
    baked(cube);
}

}  // namespace probe
