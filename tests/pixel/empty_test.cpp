// Callers' mistakes: objects that are empty or were moved from, places that are not there, views
// whose rows overlap, memory that is too short.
#include <type_traits>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

template <class T>
void check_usage(const Result<T>& result) {
    REQUIRE_FALSE(result);
    CHECK(result.error().kind == ErrorKind::usage);
}

/// Says which call it was.
#define CHECK_USAGE(...)                       \
    do {                                       \
        const std::string call = #__VA_ARGS__; \
        CAPTURE(call);                         \
        check_usage(__VA_ARGS__);              \
    } while (false)

template <class T>
concept GivesView = requires(T&& image) {
    std::forward<T>(image).view();
};
template <class T>
concept GivesSurface = requires(T&& texture) {
    std::forward<T>(texture).image(0);
};
template <class T>
concept GivesLevel = requires(T&& texture) {
    std::forward<T>(texture).level(0);
};
template <class T>
concept GivesFileSurface = requires(T&& stream) {
    std::forward<T>(stream).surface(0);
};
template <class T>
concept IsSampled = requires(T&& texture) {
    TextureSampler::create(std::forward<T>(texture), {}, {});
};
template <class T>
concept IsSampledAsCube = requires(T&& texture) {
    CubeSampler::create(std::forward<T>(texture), {}, {});
};

}  // namespace

TEST_CASE("what would outlive its pixels does not compile") {
    static_assert(GivesView<Image&> && GivesView<const Image&> && !GivesView<Image> &&
                  !GivesView<const Image>);
    static_assert(GivesSurface<Texture&> && !GivesSurface<Texture>);
    static_assert(GivesLevel<const Texture&> && !GivesLevel<Texture>);
    static_assert(GivesFileSurface<const TextureStream&> && !GivesFileSurface<TextureStream>);
    static_assert(IsSampled<const Texture&> && !IsSampled<Texture>);
    static_assert(IsSampledAsCube<const Texture&> && !IsSampledAsCube<Texture>);
}

TEST_CASE("what was moved from is empty") {
    Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 4}, 1);
    const Texture moved = std::move(texture);
    CHECK(texture.is_empty());
    CHECK(texture.shape() == TextureShape());
    CHECK(texture.level(0).empty());
    CHECK_FALSE(moved.is_empty());
    Image image = must(Image::create(Format::rgba8_unorm, 4, 4));
    const Image taken = std::move(image);
    CHECK(image.width() == 0);
    CHECK(image.view().data == nullptr);
    CHECK(taken.width() == 4);
    Buffer buffer = must(Buffer::allocate(64));
    const Buffer other = std::move(buffer);
    CHECK(buffer.size() == 0);
    CHECK(other.size() == 64);
}

TEST_CASE("surfaces and levels that are not there are empty") {
    Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 4}, 1);
    CHECK(texture.image(99).data == nullptr);
    CHECK(texture.image(0, 1).data == nullptr);
    CHECK(texture.image(0, 0, 1).data == nullptr);
    CHECK(texture.level(4).empty());
    CHECK(std::as_const(texture).image(4).width == 0);
    CHECK_USAGE(convert(std::as_const(texture).image(9), Format::rgba8_unorm, {}));
}

TEST_CASE("every call refuses empty textures") {
    Texture none;
    const Texture& empty = none;
    CHECK_USAGE(build_mips(none));
    CHECK_USAGE(build_cube_mips(none));
    CHECK_USAGE(preserve_coverage(none, 0.5F));
    CHECK_USAGE(encode_texture(empty, Format::bc7_unorm));
    CHECK_USAGE(decode_texture(empty));
    CHECK_USAGE(texture_in_format(empty, Format::rgba8_unorm, Role::color));
    CHECK_USAGE(texture_file_bytes("ktx2", empty));
    CHECK_USAGE(texture_file_bytes("dds", empty));
    CHECK_USAGE(write_texture("unwritten.ktx2", empty));
    CHECK_USAGE(without_top_levels(empty, 1));
    CHECK_USAGE(with_origin(empty, Origin::bottom));
    CHECK_USAGE(rebake(empty, {}));
    CHECK_USAGE(picture_of_surface(empty, {}));
    CHECK_USAGE(picture_of_cube(empty, CubeLayout::panorama));
    CHECK_USAGE(with_convention(empty, standard_cube_convention(), standard_cube_convention()));
    CHECK_USAGE(prefilter_specular(empty));
    CHECK_USAGE(prefilter_diffuse(empty, {}));
    CHECK_USAGE(project_to_harmonics(empty));
    CHECK_USAGE(measure_cube_seams(empty));
    CHECK_USAGE(level_sheet(empty, "nothing"));
    CHECK_USAGE(TextureSampler::create(empty, {}, {}));
    CHECK_USAGE(CubeSampler::create(empty, {}, {}));
    const DeviceProfile device = must(find_profile("vulkan-desktop"));
    CHECK_USAGE(plan_upload(empty, device));
    CHECK_USAGE(prepare_upload(empty, device));
    CHECK(count_blocks_with_black_of_three(empty) == 0);
    RecordingDevice recorder(device);
    CHECK_USAGE(upload_texture(recorder, empty));
}

TEST_CASE("every call refuses empty pictures and views") {
    Image none;
    const ConstImageView empty = std::as_const(none).view();
    const ImageView nothing = none.view();
    Image some = must(Image::create(Format::rgba8_unorm, 4, 4));
    const Picture picture;
    CHECK_USAGE(convert(empty, Format::rgba8_unorm, {}));
    CHECK_USAGE(convert(empty, some.view(), {}));
    CHECK_USAGE(
        convert(std::as_const(some).view(), nothing, {.source_transfer = Transfer::linear}));
    CHECK_USAGE(convert(picture, Format::rgba8_unorm));
    CHECK_USAGE(convert_normals(empty, some.view()));
    CHECK_USAGE(normals_from_height(empty));
    CHECK_USAGE(resize(empty, 4, 4));
    CHECK_USAGE(cropped(empty, {0, 0, 1, 1}));
    CHECK_USAGE(with_orientation(empty, Orientation::half));
    CHECK_USAGE(premultiply(nothing, Transfer::srgb));
    CHECK_USAGE(unpremultiply(nothing, Transfer::srgb));
    CHECK_USAGE(composite_over(nothing, {0, 0, 0}, Transfer::srgb));
    CHECK_USAGE(mask_by(nothing, std::as_const(some).view()));
    CHECK_USAGE(mask_by(some.view(), empty));
    CHECK_USAGE(bleed_colors(nothing));
    CHECK_USAGE(reordered(empty, "rgb"));
    CHECK_USAGE(invert_channel(nothing, Channel::red));
    CHECK_USAGE(encode_blocks(empty, Format::bc7_unorm));
    CHECK_USAGE(decode_blocks(empty));
    CHECK_USAGE(measure_difference(empty, std::as_const(some).view()));
    CHECK_USAGE(measure_difference(std::as_const(some).view(), empty));
    CHECK_USAGE(draw_difference(empty, empty, 1));
    CHECK_USAGE(encode_picture("png", empty));
    CHECK_USAGE(encode_picture("png", picture));
    CHECK_USAGE(write_picture("unwritten.png", picture));
    CHECK_USAGE(fitted_to("png", picture));
    CHECK_USAGE(bake(picture));
    CHECK_USAGE(cube_of_picture(picture));
    const Picture* one = &picture;
    CHECK_USAGE(bake_cube(std::span(&one, 1), {}));
    one = nullptr;
    CHECK_USAGE(bake_cube(std::span(&one, 1), {}));
    std::array<ConstImageView, 6> faces;
    CHECK_USAGE(find_face_order(faces, Transfer::srgb));
    CHECK_USAGE(cube_of_faces(faces));
    std::vector<LabelledPicture> panels(1);
    CHECK_USAGE(arrange_panels(panels, 1, "nothing"));
    CHECK_USAGE(arrange_panels({}, 1, "nothing"));
    // Measures of nothing are nothing.
    CHECK(coverage(empty, 0.5F) == 0);
    static_cast<void>(analyse_channels(empty));
    static_cast<void>(measure_content(empty));
    static_cast<void>(measure_seams(empty));
    static_cast<void>(bits_in_use(empty));
    static_cast<void>(guess_role(picture));
    static_cast<void>(guess_cube_layout(picture));
}

TEST_CASE("rows that overlap are refused, and so are formats that nobody knows") {
    Image image = must(Image::create(Format::rgba8_unorm, 4, 4));
    ImageView view = image.view();
    view.row_stride = 0;
    CHECK_USAGE(convert(std::as_const(image).view(), view, {.source_transfer = Transfer::linear}));
    CHECK_USAGE(resize(view, 2, 2));
    view.row_stride = 15;
    CHECK_USAGE(encode_picture("png", view));
    view.row_stride = 16;
    view.format = static_cast<Format>(12345);
    CHECK_USAGE(convert(view, Format::rgba8_unorm, {}));
}

TEST_CASE("staging memory that is too short is refused, and so is another texture") {
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 32, .height = 32, .levels = 6}, 1);
    const DeviceProfile device = must(find_profile("vulkan-desktop"));
    const UploadPlan plan = must(plan_upload(texture, device));
    std::vector<std::byte> memory(16);
    CHECK_USAGE(fill_staging(plan, plan.batches[0], texture, memory));
    memory.resize(plan.batches[0].bytes);
    must(fill_staging(plan, plan.batches[0], texture, memory));
    const Texture smaller = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 5}, 1);
    CHECK_USAGE(fill_staging(plan, plan.batches[0], smaller, memory));
    CHECK_USAGE(fill_staging(plan, {.first_region = 99, .region_count = 3}, texture, memory));
}
