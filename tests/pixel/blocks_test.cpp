// Images of blocks have fewer rows than texels: no call that takes an image reads or writes beyond.
#include <sys/mman.h>
#include <unistd.h>

#include <functional>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

/// An image behind which no memory may be touched.
class GuardedImage {
 public:
    GuardedImage(Format format, std::uint32_t side) {
        const Image plain = must(Image::create(format, side, side));
        const ConstImageView view = plain.view();
        const std::size_t bytes = view.row_stride * view.row_count();
        const auto page = static_cast<std::size_t>(::sysconf(_SC_PAGESIZE));
        const std::size_t pages = (bytes + page - 1) / page * page;
        size_ = pages + page;
        memory_ = static_cast<std::byte*>(
            ::mmap(nullptr, size_, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0));
        REQUIRE(memory_ != MAP_FAILED);
        REQUIRE(::mprotect(memory_ + pages, page, PROT_NONE) == 0);
        view_ = {memory_ + pages - bytes, format, side, side, view.row_stride};
        support::Random random(side);
        for (std::size_t i = 0; i < bytes; ++i)
            view_.data[i] = static_cast<std::byte>(random());
    }
    ~GuardedImage() { ::munmap(memory_, size_); }
    GuardedImage(const GuardedImage&) = delete;
    GuardedImage& operator=(const GuardedImage&) = delete;

    [[nodiscard]] ImageView view() const { return view_; }

 private:
    std::byte* memory_ = nullptr;
    std::size_t size_ = 0;
    ImageView view_ = {};
};

struct Call {
    const char* name;
    bool takes_blocks;
    std::function<std::optional<Error>(ImageView)> run;
};

template <class T>
std::optional<Error> error_of(const Result<T>& result) {
    return result ? std::nullopt : std::optional(result.error());
}

std::array<ConstImageView, 6> six(ImageView view) {
    std::array<ConstImageView, 6> views;
    views.fill(view);
    return views;
}

FaceArrangement in_order(Orientation orientation) {
    FaceArrangement faces;
    for (std::size_t i = 0; i < 6; ++i)
        faces[i] = {i, orientation};
    return faces;
}

const Call calls[] = {
    {"convert", true,
     [](ImageView v) {
         const GuardedImage target(v.format, v.width);
         return error_of(convert(v, target.view(), {}));
     }},
    {"convert to texels", false,
     [](ImageView v) { return error_of(convert(v, Format::rgba8_unorm, {})); }},
    {"cropped", false,
     [](ImageView v) {
         return error_of(cropped(v, {0, 0, v.width, v.height}));
     }},
    {"turned", false, [](ImageView v) { return error_of(with_orientation(v, Orientation::half)); }},
    {"resize", false, [](ImageView v) { return error_of(resize(v, 10, 10)); }},
    {"bleed_colors", false, [](ImageView v) { return error_of(bleed_colors(v)); }},
    {"premultiply", false, [](ImageView v) { return error_of(premultiply(v, Transfer::srgb)); }},
    {"unpremultiply", false,
     [](ImageView v) { return error_of(unpremultiply(v, Transfer::srgb)); }},
    {"composite_over", false,
     [](ImageView v) {
         return error_of(composite_over(v, {0, 0, 0}, Transfer::srgb));
     }},
    {"mask_by", false, [](ImageView v) { return error_of(mask_by(v, v)); }},
    {"reordered", false, [](ImageView v) { return error_of(reordered(v, "bgra")); }},
    {"invert_channel", false,
     [](ImageView v) { return error_of(invert_channel(v, Channel::red)); }},
    {"encode_picture", false, [](ImageView v) { return error_of(encode_picture("png", v)); }},
    {"compare_pictures", false, [](ImageView v) { return error_of(compare_pictures(v, v, 0)); }},
    {"measure_difference", true,
     [](ImageView v) { return error_of(measure_difference(v, v, {})); }},
    {"draw_difference", true, [](ImageView v) { return error_of(draw_difference(v, v, 1, {})); }},
    {"find_face_order", false,
     [](ImageView v) { return error_of(find_face_order(six(v), Transfer::srgb)); }},
    {"check_face_order", false,
     [](ImageView v) {
         return error_of(check_face_order(six(v), Transfer::srgb, in_order(Orientation::none)));
     }},
    {"cube_of_faces", true, [](ImageView v) { return error_of(cube_of_faces(six(v))); }},
    {"arranged_cube", false,
     [](ImageView v) { return error_of(arranged_cube(six(v), in_order(Orientation::half))); }},
    {"normals_from_height", false,
     [](ImageView v) { return error_of(normals_from_height(v, {})); }},
    {"convert_normals", false, [](ImageView v) { return error_of(convert_normals(v, v, {})); }},
    {"with_keys", false, [](ImageView v) { return error_of(with_keys(v, {})); }},
    {"measures", true,
     [](ImageView v) -> std::optional<Error> {
         static_cast<void>(analyse_channels(v, identity_swizzle));
         static_cast<void>(measure_content(v, identity_swizzle));
         static_cast<void>(bits_in_use(v));
         static_cast<void>(measure_seams(v));
         static_cast<void>(coverage(v, 0.5F));
         static_cast<void>(light_of_fireflies(v, {}));
         static_cast<void>(measured_normal_encoding(v));
         static_cast<void>(counts_in_stops(v, v));
         return std::nullopt;
     }},
};

}  // namespace

TEST_CASE("every call that takes an image takes blocks, or refuses them, within their memory") {
    for (const Format format :
         {Format::bc1_unorm, Format::bc4_unorm, Format::bc6h_ufloat, Format::bc7_srgb})
        for (const std::uint32_t side : {60U, 7U, 4U, 2U})
            for (const Call& call : calls) {
                CAPTURE(info(format).name);
                CAPTURE(side);
                CAPTURE(call.name);
                const GuardedImage image(format, side);
                const auto error = call.run(image.view());
                CHECK(error.has_value() != call.takes_blocks);
                if (error)
                    CHECK_FALSE(error->message.empty());
            }
}

TEST_CASE("pictures and cubes of blocks are taken, or refused, as a whole") {
    const Format format = Format::bc7_srgb;
    Picture picture;
    picture.image = must(Image::create(format, 64, 64));
    const ImageView view = picture.image.view();
    std::fill_n(view.data, view.row_stride * view.row_count(), std::byte{7});
    CHECK_FALSE(guess_cube_layout(picture));
    CHECK(must_fail(bake(picture)).kind == ErrorKind::unsupported);
    CHECK(must_fail(fitted_to("png", picture)).kind == ErrorKind::unsupported);
    for (const CubeLayout layout : all_cube_layouts())
        CHECK_FALSE(cube_of_picture(picture, {.layout = layout}));
    const Texture cube = support::random_texture(
        {.format = format, .width = 60, .height = 60, .levels = 2, .faces = 6}, 3);
    for (const CubeLayout layout : all_cube_layouts())
        CHECK(must_fail(picture_of_cube(cube, layout, 1)).kind == ErrorKind::unsupported);
    CHECK(must(level_sheet(cube, "")).width() > 60);
    CHECK(must(picture_of_surface(cube, {1, 0, 3, 0})).image.width() == 30);
}
