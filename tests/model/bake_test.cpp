// Models with baked images: everything else the same, bindings equal, and pictures too.
#include <algorithm>
#include <set>
#include <yl/measure.hpp>
#include <yl/model_bake.hpp>
#include <yl/scene.hpp>

#include "model/models.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace support::models;

namespace {

struct Chunks {
    json model;
    std::vector<std::byte> binary;
};

/// Taken apart without the library.
Chunks chunks_of(const std::string& path) {
    const auto bytes = support::read_bytes(path);
    const auto number = [&](std::size_t at) {
        std::uint32_t value = 0;
        std::memcpy(&value, &bytes.at(at), sizeof value);
        return value;
    };
    REQUIRE(number(0) == 0x46546C67);
    REQUIRE(number(8) == bytes.size());
    const std::uint32_t json_bytes = number(12);
    REQUIRE(number(20 + json_bytes + 4) == 0x004E4942);
    const auto* text = reinterpret_cast<const char*>(&bytes[20]);
    const auto begin = bytes.begin() + 20 + json_bytes + 8;
    REQUIRE(number(20 + json_bytes) == static_cast<std::size_t>(bytes.end() - begin));
    return {json::parse(text, text + json_bytes), {begin, bytes.end()}};
}

/// A gentle picture, as photographs are; alpha cuts a disc out.
std::vector<std::byte> soft_png(std::uint32_t side, const char* file_format = "png") {
    Image image = must(Image::create(Format::rgba8_srgb, side, side));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            auto* texel = &image.view().row(y)[4 * x];
            const float u = static_cast<float>(x) / static_cast<float>(side);
            const float v = static_cast<float>(y) / static_cast<float>(side);
            texel[0] = static_cast<std::byte>(90 + 80 * u);
            texel[1] = static_cast<std::byte>(60 + 120 * v);
            texel[2] = static_cast<std::byte>(140 - 60 * u * v);
            const float out = std::hypot(u - 0.5F, v - 0.5F);
            texel[3] = static_cast<std::byte>(out < 0.45F ? 255 : 0);
        }
    return must(encode_picture(file_format, image.view()));
}

/// Two squares: a cut-out one before one with every slot that is drawn.
Builder full_model() {
    Builder builder;
    const std::size_t in_buffer =
        builder.add("images", {{"name", "soft"},
                               {"bufferView", builder.add_view(soft_png(64))},
                               {"mimeType", "image/png"}});
    const std::size_t in_uri = builder.add("images", {{"uri", data_uri(soft_png(32))}});
    builder.model["samplers"] = json::array({{{"wrapS", 33071}, {"minFilter", 9985}}});
    builder.add("textures", {{"source", in_buffer}, {"sampler", 0}, {"extras", {{"kept", true}}}});
    builder.add("textures", {{"source", in_uri}});
    builder.add(
        "materials",
        {{"name", "wall"},
         {"pbrMetallicRoughness",
          {{"baseColorTexture", {{"index", 1}}}, {"metallicRoughnessTexture", {{"index", 0}}}}},
         {"occlusionTexture", {{"index", 0}, {"strength", 0.5}}}});
    builder.add("materials", {{"name", "leaf"},
                              {"alphaMode", "MASK"},
                              {"alphaCutoff", 0.3},
                              {"pbrMetallicRoughness",
                               {{"baseColorTexture", {{"index", 0}}}, {"metallicFactor", 0}}}});
    builder.add_square(0);
    builder.add_square(1, 0.5F);
    builder.model["extras"] = {{"number", 0.1}, {"list", {1, 2.5, "three"}}};
    return builder;
}

bool is_same_binding(const TextureBinding& a, const TextureBinding& b) {
    return a.slot == b.slot && a.texture == b.texture && a.sampler == b.sampler &&
           a.coordinate_set == b.coordinate_set && a.factor == b.factor &&
           matrix_of(a.transform) == matrix_of(b.transform);
}

}  // namespace

TEST_CASE("a baked model has the same bindings with KTX 2.0 images, and looks the same") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    support::write_bytes(folder.path("model.glb"), builder.glb());
    const Model before = must(read_model(folder.path("model.glb")));
    const ModelBakeReport report = must(bake_model(before, folder.path("baked.glb")));
    CHECK(report.findings.empty());
    CHECK(report.file_bytes_before == std::filesystem::file_size(folder.path("model.glb")));
    CHECK(report.file_bytes_after == std::filesystem::file_size(folder.path("baked.glb")));
    REQUIRE(report.textures.size() == 3);
    CHECK(report.textures[0].format == Format::bc7_srgb);
    CHECK(report.textures[0].shape.width == 32);
    CHECK(report.textures[0].plain_device_bytes == (1024 + 256 + 64 + 16 + 4 + 1) * 4);
    CHECK(report.textures[0].device_bytes == (64 + 16 + 4 + 1 + 1 + 1) * 16);
    CHECK(report.textures[2].needed.cutoff == 0.3F);

    const Model after = must(read_model(folder.path("baked.glb")));
    CHECK(after.images.size() == 5);
    const TextureBindings old_ones = bindings_of(before), new_ones = bindings_of(after);
    REQUIRE(new_ones.textures.size() == old_ones.textures.size());
    for (std::size_t i = 0; i < new_ones.textures.size(); ++i) {
        CHECK(new_ones.textures[i].role == old_ones.textures[i].role);
        CHECK(new_ones.textures[i].cutoff == old_ones.textures[i].cutoff);
        CHECK(after.images[*new_ones.textures[i].image].file_format == "KTX 2.0");
    }
    REQUIRE(new_ones.materials.size() == old_ones.materials.size());
    for (std::size_t m = 0; m < old_ones.materials.size(); ++m)
        CHECK(std::ranges::equal(new_ones.materials[m], old_ones.materials[m], is_same_binding));
    CHECK(after.materials[0].textures[0].ordinary_image == before.materials[0].textures[0].image);

    Findings findings;
    const ModelView view{.width = 200, .height = 160};
    const Image old_picture = must(draw_model(must(scene_of(before, findings)), view));
    const Image new_picture = must(draw_model(must(scene_of(after, findings)), view));
    const double mean = support::mean_difference(old_picture.view(), new_picture.view());
    CHECK(mean < 2);
    CHECK(mean > 0);  // blocks are not the pictures themselves
    const Model ordinary = must(read_model(folder.path("baked.glb"), {.prefer_baked = false}));
    const Image plain = must(draw_model(must(scene_of(ordinary, findings)), view));
    CHECK(support::equal_pixels(plain.view(), old_picture.view()));
}

TEST_CASE("everything but images keeps its values, and the buffer its bytes") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    support::write_bytes(folder.path("model.glb"), builder.glb());
    must(bake_model(must(read_model(folder.path("model.glb"))), folder.path("baked.glb")));
    const Chunks baked = chunks_of(folder.path("baked.glb"));
    json changed = baked.model;
    CHECK(changed["extensionsUsed"] == json::array({std::string(baked_extension)}));
    CHECK_FALSE(changed.contains("extensionsRequired"));
    CHECK(std::equal(builder.binary.begin(), builder.binary.end(), baked.binary.begin()));
    // Take away what was added, and the rest is what was there.
    changed.erase("extensionsUsed");
    for (json& texture : changed["textures"])
        texture.erase("extensions");
    CHECK(changed["images"][1]["mimeType"] == "image/png");
    const json view = changed["bufferViews"][changed["images"][1]["bufferView"].get<std::size_t>()];
    const auto expected = soft_png(32);
    REQUIRE(view["byteLength"] == expected.size());
    CHECK(std::equal(expected.begin(), expected.end(),
                     baked.binary.begin() + view["byteOffset"].get<std::ptrdiff_t>()));
    json original = builder.model;
    for (const char* list : {"images", "bufferViews"}) {
        const std::size_t count = original[list].size();
        for (std::size_t i = 0; i < count; ++i)
            if (list != std::string("images") || i != 1)
                CHECK(changed[list][i] == original[list][i]);
        changed.erase(list);
        original.erase(list);
    }
    changed.erase("buffers");
    original.erase("buffers");
    CHECK(changed == original);
    // One texture in two roles names both; a mask's has its cutoff.
    const json sources =
        baked.model["textures"][0]["extensions"][std::string(baked_extension)]["sources"];
    REQUIRE(sources.size() == 2);
    CHECK(sources[0]["role"] == "data");
    CHECK(sources[1]["role"] == "color");
    CHECK(sources[1]["cutoff"].get<float>() == 0.3F);
}

TEST_CASE("masks keep their coverage at the material's cutoff on every level") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    support::write_bytes(folder.path("model.glb"), builder.glb());
    ModelBakeOptions options;
    options.bake = BakeByRole();  // exact formats, so that levels can be counted
    must(bake_model(must(read_model(folder.path("model.glb"))), folder.path("baked.glb"), options));
    const Model after = must(read_model(folder.path("baked.glb")));
    const auto content = after.contents.at(*after.materials[1].textures[0].image);
    const Texture mask = must(read_texture(content)).texture;
    for (std::uint32_t level = 0; level < 4; ++level) {
        const auto texels = mask.level(level);
        std::size_t passing = 0;
        for (std::size_t i = 3; i < texels.size(); i += 4)
            passing += std::to_integer<int>(texels[i]) >= 0.3 * 255 ? 1 : 0;
        const double share =
            static_cast<double>(passing) / (static_cast<double>(texels.size()) / 4);
        CAPTURE(level);
        CHECK(share == doctest::Approx(0.636).epsilon(0.06));  // pi times 0.45 squared
    }
}

TEST_CASE("a .gltf with files beside it becomes one file that needs none of them") {
    const support::TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("out"));
    Builder builder = full_model();
    json model = builder.model;
    support::write_bytes(folder.path("first.bin"), builder.binary);
    support::write_bytes(folder.path("second.bin"), std::vector<std::byte>(7, std::byte{42}));
    support::write_bytes(folder.path("soft.tga"), soft_png(16, "tga"));
    model["buffers"] = json::array({{{"byteLength", builder.binary.size()}, {"uri", "first.bin"}},
                                    {{"byteLength", 7}, {"uri", "second.bin"}}});
    model["bufferViews"].push_back({{"buffer", 1}, {"byteLength", 7}});
    model["images"].push_back({{"uri", "soft.tga"}});
    model["images"].push_back({{"uri", "gone.png"}});
    model["textures"].push_back({{"source", 2}});
    model["textures"].push_back({{"source", 3}});
    model["materials"].push_back(base_color(2));
    model["materials"].push_back(base_color(3));
    support::write_text(folder.path("model.gltf"), model.dump());
    const Model before = must(read_model(folder.path("model.gltf")));
    const std::string output = folder.path("out/baked.glb");
    const ModelBakeReport report = must(bake_model(before, output));
    REQUIRE(report.findings.size() == 1);
    CHECK(contains(report.findings[0].problem, "image 3 is left as it was"));
    CHECK(report.textures.back().error);
    CHECK(report.file_bytes_before == std::filesystem::file_size(folder.path("model.gltf")) +
                                          builder.binary.size() + 7 +
                                          std::filesystem::file_size(folder.path("soft.tga")));
    const Chunks baked = chunks_of(output);
    CHECK_FALSE(baked.model["buffers"][0].contains("uri"));
    CHECK(baked.model["buffers"][1]["uri"] == "data:application/octet-stream;base64,KioqKioqKg==");
    CHECK(baked.model["images"][2]["mimeType"] == "image/png");  // as glTF knows no TGA
    CHECK(baked.model["images"][3]["uri"] == "gone.png");
    for (const char* name : {"first.bin", "second.bin", "soft.tga", "model.gltf"})
        std::filesystem::remove(folder.path(name));
    const Model after = must(read_model(output, {.prefer_baked = false}));
    // The missing one, and two opaque materials whose disc is filled.
    REQUIRE(after.findings.size() == 3);
    CHECK(contains(after.findings[1].problem, "'wall' is opaque"));
    CHECK(after.images[2].file_format == "PNG");
    CHECK(after.images[2].width == 16);
    Findings findings;
    CHECK(must(scene_of(after, findings)).parts.size() == 2);
    // Beside the model, the second buffer stays a file.
    support::write_bytes(folder.path("second.bin"), std::vector<std::byte>(7, std::byte{42}));
    support::write_bytes(folder.path("first.bin"), builder.binary);
    support::write_bytes(folder.path("soft.tga"), soft_png(16, "tga"));
    support::write_text(folder.path("model.gltf"), model.dump());
    must(bake_model(must(read_model(folder.path("model.gltf"))), folder.path("beside.glb")));
    CHECK(chunks_of(folder.path("beside.glb")).model["buffers"][1]["uri"] == "second.bin");
}

TEST_CASE("a picture that breaks off is kept as it was, and said") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    auto cut = soft_png(32);
    cut.resize(cut.size() / 2);
    builder.model["images"][1]["uri"] = data_uri(cut);
    support::write_bytes(folder.path("model.glb"), builder.glb());
    for (const bool look : {true, false}) {
        CAPTURE(look);
        const Model model = must(read_model(folder.path("model.glb"), {.look_into_images = look}));
        CHECK(model.images[1].error.has_value() == look);
        const ModelBakeReport report = must(bake_model(model, folder.path("baked.glb")));
        REQUIRE(report.findings.size() == 1);
        CHECK(contains(report.findings[0].problem, look ? "left as it was" : "has not been baked"));
        CHECK(report.textures[0].error);
        CHECK_FALSE(report.textures[1].error);
        const Model after = must(read_model(folder.path("baked.glb")));
        CHECK(after.images[1].error);
        CHECK(std::ranges::equal(after.contents[1], cut));
    }
}

TEST_CASE("formats, effort and size by role; or pictures alone") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    support::write_bytes(folder.path("model.glb"), builder.glb());
    const Model model = must(read_model(folder.path("model.glb")));
    ModelBakeOptions options;
    options.bake[Role::color].format = Format::bc1_srgb;
    options.bake[Role::data].max_side = 16;
    options.write.supercompression = Supercompression::none;
    const ModelBakeReport report = must(bake_model(model, folder.path("baked.glb"), options));
    CHECK(report.textures[0].format == Format::bc1_srgb);
    CHECK(report.textures[1].needed.role == Role::data);
    CHECK(report.textures[1].shape.width == 16);
    const Model after = must(read_model(folder.path("baked.glb")));
    const Texture color =
        must(read_texture(after.contents[*after.materials[0].textures[0].image])).texture;
    CHECK(color.shape().format == Format::bc1_srgb);

    options.keep_pictures = true;
    const ModelBakeReport packed = must(bake_model(model, folder.path("packed.glb"), options));
    CHECK(packed.textures.empty());
    const Chunks chunks = chunks_of(folder.path("packed.glb"));
    CHECK_FALSE(chunks.model.contains("extensionsUsed"));
    for (const json& image : chunks.model["images"])
        CHECK(image["mimeType"] == "image/png");
}

TEST_CASE("what cannot be baked is refused, and the old file stays") {
    const support::TemporaryFolder folder;
    Builder builder = full_model();
    support::write_bytes(folder.path("model.glb"), builder.glb());
    const Model model = must(read_model(folder.path("model.glb")));
    must(bake_model(model, folder.path("baked.glb")));
    const auto whole = support::read_bytes(folder.path("baked.glb"));
    const Model again = must(read_model(folder.path("baked.glb")));
    const Error error = must_fail(bake_model(again, folder.path("baked.glb")));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(contains(error.message, "baked already"));
    CHECK(support::read_bytes(folder.path("baked.glb")) == whole);
    CHECK(must_fail(bake_model(model, folder.path("nowhere/x.glb"))).kind == ErrorKind::missing);
    CHECK(must_fail(bake_model(Model{}, folder.path("x.glb"))).kind == ErrorKind::unsupported);
    CHECK(folder.entries().size() == 2);
}
