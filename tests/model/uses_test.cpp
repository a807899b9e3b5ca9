// What will not look as meant, found before anything is drawn.
#include <cmath>
#include <yl/model_bake.hpp>
#include <yl/normals.hpp>

#include "model/models.hpp"
#include "support/pictures.hpp"

using namespace support::models;

namespace {

/// A picture whose texels `code(x, y)` gives.
template <class Code>
std::vector<std::byte> drawn(std::uint32_t width, std::uint32_t height, const Code& code) {
    Image image = must(Image::create(Format::rgba8_srgb, width, height));
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const std::array<int, 4> texel = code(static_cast<int>(x), static_cast<int>(y));
            for (std::size_t c = 0; c < 4; ++c)
                image.view().row(y)[4 * x + c] = static_cast<std::byte>(texel[c]);
        }
    return must(encode_picture("png", image.view()));
}

template <class Code>
std::vector<std::byte> drawn(std::uint32_t side, const Code& code) {
    return drawn(side, side, code);
}

std::vector<std::byte> colourful() {
    return drawn(64, [](int x, int y) { return std::array{4 * x, 4 * y, 40, 255}; });
}

std::vector<std::byte> gray() {
    return drawn(64, [](int x, int y) { return std::array{x + y, x + y, x + y, 255}; });
}

/// One texel of four has no alpha.
std::vector<std::byte> with_holes() {
    return drawn(64, [](int x, int y) {
        return std::array{90, 4 * x, 60, x % 2 == 0 && y % 2 == 0 ? 0 : 255};
    });
}

std::vector<std::byte> normal_map() {
    Image heights = must(Image::create(Format::r8_unorm, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x)
            heights.view().row(y)[x] = static_cast<std::byte>(128 + 60 * std::sin(0.2 * (x + y)));
    return must(encode_picture("png", support::view_of(must(normals_from_height(heights.view())))));
}

/// A model of one image and one material; `slot` is a path of the material's texture.
Builder model_with(const std::vector<std::byte>& image, const json& material) {
    Builder builder;
    builder.add("images", {{"uri", data_uri(image)}, {"name", "picture"}});
    builder.add("textures", {{"source", 0}, {"sampler", 0}});
    builder.model["samplers"] = list_of({{"magFilter", 9729}, {"minFilter", 9987}});
    builder.add("materials", material);
    builder.model["materials"][0]["name"] = "stone";
    builder.add_square(0);
    return builder;
}

json as_base(const json& more = json::object()) {
    json material = {{"pbrMetallicRoughness", {{"baseColorTexture", {{"index", 0}}}}}};
    material.update(more);
    return material;
}

/// The one finding of a model, or an empty text for none.
std::string finding_of(Builder builder) {
    const Findings findings = builder.read().findings;
    CHECK(findings.size() <= 1);
    return findings.empty() ? "" : findings[0].problem;
}

}  // namespace

TEST_CASE("alpha: holes that will be filled, and cutting by an alpha that is 1 everywhere") {
    CHECK(finding_of(model_with(colourful(), as_base())).empty());
    CHECK(contains(finding_of(model_with(with_holes(), as_base())),
                   "'stone' is opaque, and 25 % of its base color image is transparent"));
    for (const char* mode : {"MASK", "BLEND"}) {
        const json alpha = {{"alphaMode", mode}};
        CHECK(finding_of(model_with(with_holes(), as_base(alpha))).empty());
        const std::string trouble = finding_of(model_with(colourful(), as_base(alpha)));
        CHECK(contains(trouble, mode[0] == 'M' ? "cut out" : "blended"));
        CHECK(contains(trouble, "opaque everywhere"));
        json half = as_base(alpha);
        half["pbrMetallicRoughness"]["baseColorFactor"] = {1, 1, 1, 0.5};
        CHECK(finding_of(model_with(colourful(), half)).empty());
    }
    CHECK(finding_of(model_with(png(64), as_base())).empty());  // one colour stands for itself
}

TEST_CASE("normal maps: heights and photographs are none") {
    const json material = {{"normalTexture", {{"index", 0}}}};
    CHECK(finding_of(model_with(normal_map(), material)).empty());
    CHECK(contains(finding_of(model_with(gray(), material)), "is gray: it holds heights"));
    const std::string photograph = finding_of(model_with(colourful(), material));
    CHECK(contains(photograph, "the normal texture of 'stone' holds no normals"));
}

TEST_CASE("metalness and roughness that are the same numbers") {
    json material = {{"pbrMetallicRoughness", {{"metallicRoughnessTexture", {{"index", 0}}}}}};
    CHECK(contains(finding_of(model_with(gray(), material)), "is gray: metalness and roughness"));
    CHECK(finding_of(model_with(colourful(), material)).empty());
    material["pbrMetallicRoughness"]["metallicFactor"] = 0;
    CHECK(finding_of(model_with(gray(), material)).empty());
}

TEST_CASE("smooth textures without mip levels shimmer, and texels that are meant do not") {
    Builder builder = model_with(colourful(), as_base());
    builder.model["samplers"][0]["minFilter"] = 9729;
    CHECK(contains(finding_of(builder), "is sampled without mip levels"));
    builder.model["samplers"][0]["magFilter"] = 9728;
    CHECK(finding_of(builder).empty());
    // Small pictures hardly shimmer: by their larger side.
    struct Size {
        std::uint32_t width, height;
        bool shimmers;
    };
    for (const Size& size : {Size{33, 8, true}, {8, 33, true}, {32, 32, false}, {32, 8, false}}) {
        const auto picture = drawn(size.width, size.height, [](int x, int y) {
            return std::array{4 * x, 4 * y, 40, 255};
        });
        Builder of_size = model_with(picture, as_base());
        of_size.model["samplers"][0]["minFilter"] = 9729;
        CAPTURE(size.width);
        CAPTURE(size.height);
        CHECK(contains(finding_of(of_size), "without mip levels") == size.shimmers);
    }
}

TEST_CASE("filters and wraps that glTF does not know are said") {
    Builder builder = model_with(colourful(), as_base());
    json& sampler = builder.model["samplers"][0];
    sampler = {{"magFilter", 9987}, {"minFilter", 9728}, {"wrapS", 10497}, {"wrapT", 10496}};
    const Model model = builder.read();
    REQUIRE(model.findings.size() == 2);
    CHECK(contains(model.findings[0].problem, "sampler 0 has the magFilter 9987"));
    CHECK(contains(model.findings[1].problem, "sampler 0 has the wrapT 10496"));
    CHECK(model.materials[0].textures[0].sampler.mag == Filter::linear);
    CHECK(model.materials[0].textures[0].sampler.wrap[1] == Wrap::repeat);
}

TEST_CASE("sets of coordinates that a mesh has not") {
    Builder builder = model_with(colourful(), as_base());
    json& use = builder.model["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"];
    use["texCoord"] = 1;
    CHECK(contains(finding_of(builder), "'stone' is read by coordinate set 1"));
    use["extensions"]["KHR_texture_transform"]["texCoord"] = 0;
    CHECK(finding_of(builder).empty());
}

TEST_CASE("on a device: sizes and wraps that it does not do") {
    Builder builder = model_with(drawn(48,
                                       [](int x, int y) {
                                           return std::array{5 * x, 5 * y, 0, 255};
                                       }),
                                 as_base());
    const Model model = builder.read();
    DeviceProfile profile = must(find_profile("vulkan-desktop"));
    CHECK(check_bindings(model, bindings_of(model), profile).empty());
    profile.needs_power_of_two = true;
    profile.max_2d_side = 32;
    const Findings findings = check_bindings(model, bindings_of(model), profile);
    REQUIRE(findings.size() == 2);
    CHECK(findings[0].problem == "picture: 48 x 48 texels, and the device holds 32 on a side");
    CHECK(contains(findings[1].problem, "picture: 48 x 48 texels are not powers of two"));
}
