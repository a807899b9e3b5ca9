// What a program binds: every texture once, every use with its own sampler; on a keeper as well.
#include <algorithm>
#include <numbers>
#include <yl/model_bake.hpp>
#include <yl/texture_keeper.hpp>
#include <yl/upload.hpp>

#include "model/models.hpp"
#include "support/files.hpp"

using namespace support::models;

namespace {

json normal_map(std::size_t texture) {
    return {{"normalTexture", {{"index", texture}, {"scale", 0.5}}}};
}

}  // namespace

TEST_CASE("equal images, two samplers and two roles: each texture is made once") {
    const auto picture = png(8), other = png(16);
    json model = model_of(
        json::array({{{"uri", data_uri(picture)}, {"name", "slate"}},
                     {{"uri", data_uri(picture)}},  // the same bytes again
                     {{"uri", data_uri(other)}}}),
        json::array(
            {{{"source", 0}}, {{"source", 1}, {"sampler", 0}}, {{"source", 2}, {"sampler", 1}}}),
        json::array({base_color(0), base_color(1), normal_map(0), base_color(2), normal_map(2)}));
    model["samplers"] = json::array({{{"wrapS", 33071}}, json::object()});
    const TextureBindings bindings = bindings_of(must(read(model)));
    REQUIRE(bindings.materials.size() == 5);
    REQUIRE(bindings.textures.size() == 4);
    CHECK(bindings.textures[0].image == 0U);
    CHECK(bindings.textures[0].role == Role::color);
    CHECK(bindings.textures[0].label == "slate");
    CHECK(bindings.textures[1].image == 0U);
    CHECK(bindings.textures[1].role == Role::normal);
    CHECK(bindings.textures[2].image == 2U);
    CHECK(bindings.textures[2].label == "image 2");
    CHECK(bindings.textures[3].role == Role::normal);
    CHECK(bindings.materials[0][0].texture == 0);
    CHECK(bindings.materials[1][0].texture == 0);  // by another sampler
    CHECK(bindings.materials[1][0].sampler.wrap[0] == Wrap::clamp_to_edge);
    CHECK(bindings.materials[0][0].sampler.wrap[0] == Wrap::repeat);
    CHECK(bindings.materials[2][0].factor == 0.5F);
    CHECK(bindings.samplers == 2);
}

TEST_CASE(
    "alpha is coverage in the base colour of masks and of what blends, and a value elsewhere") {
    json blended = base_color(0), cut = base_color(0), solid = base_color(0);
    blended["alphaMode"] = "BLEND";
    cut["alphaMode"] = "MASK";
    solid["emissiveTexture"] = {{"index", 0}};
    solid["extensions"]["KHR_materials_sheen"]["sheenColorTexture"] = {{"index", 0}};
    const TextureBindings bindings = bindings_of(
        must(read(model_of(list_of({{"uri", data_uri(png(4))}}), list_of({{"source", 0}}),
                           json::array({blended, cut, solid})))));
    REQUIRE(bindings.textures.size() == 3);  // blended, cut out, and of which alpha is a value
    CHECK(bindings.textures[0].alpha == AlphaMode::straight);
    CHECK(bindings.textures[1].alpha == AlphaMode::straight);
    CHECK(bindings.textures[2].alpha == AlphaMode::data);
    for (const TextureBinding& binding : bindings.materials[2])
        CHECK(binding.texture == 2);
    CHECK(BakeByRole().of(bindings.textures[2]).alpha == AlphaMode::data);
}

TEST_CASE("roughness takes the normals of its surfaces by itself, where all agree") {
    const auto material = [](std::size_t rough, std::size_t normal) {
        json entry = {{"pbrMetallicRoughness", {{"metallicRoughnessTexture", {{"index", rough}}}}}};
        entry["normalTexture"] = {{"index", normal}};
        return entry;
    };
    const auto model_with = [&](const json& materials) {
        return must(read(model_of(json::array({{{"uri", data_uri(png(4))}},
                                               {{"uri", data_uri(png(8))}},
                                               {{"uri", data_uri(png(16))}}}),
                                  json::array({{{"source", 0}}, {{"source", 1}}, {{"source", 2}}}),
                                  materials)));
    };
    const auto bindings_with = [&](const json& materials) {
        return bindings_of(model_with(materials));
    };
    CHECK(bindings_with(list_of(material(0, 1))).textures[0].normals == 1U);
    CHECK_FALSE(bindings_with(json::array({material(0, 1), material(0, 2)})).textures[0].normals);
    json moved = material(0, 1);
    moved["normalTexture"]["extensions"]["KHR_texture_transform"]["scale"] = {2, 2};
    CHECK_FALSE(bindings_with(list_of(moved)).textures[0].normals);
    const Model model = model_with(list_of(material(0, 1)));
    const TextureRequest request = request_for(model, bindings_of(model).textures[0]);
    REQUIRE(request.normals_bytes);
    CHECK(request.normals_bytes.size() == model.contents[1].size());
    CHECK(request.bake.roughness_channel == Channel::green);
}

TEST_CASE("a mask's cutoff goes with its base colour alone") {
    json cut = base_color(0);
    cut["alphaMode"] = "MASK";
    cut["alphaCutoff"] = 0.25;
    cut["emissiveTexture"] = {{"index", 0}};
    const TextureBindings bindings = bindings_of(
        must(read(model_of(list_of({{"uri", data_uri(png(4))}}), list_of({{"source", 0}}),
                           json::array({cut, base_color(0)})))));
    REQUIRE(bindings.textures.size() == 2);  // with coverage, and without
    CHECK(bindings.textures[0].cutoff == 0.25F);
    CHECK_FALSE(bindings.textures[1].cutoff);
    CHECK(bindings.materials[0][1].texture == 1);
    CHECK(bindings.materials[1][0].texture == 1);
    BakeByRole bake;
    bake[Role::color].compressed = yl::BlockFamily::bc;
    const BakeOptions options = bake.of(bindings.textures[0]);
    CHECK(options.coverage == 0.25F);
    CHECK(options.role == Role::color);
    CHECK(options.compressed == BlockFamily::bc);
    CHECK(bake.of({.role = Role::normal}).compressed == BlockFamily::none);
}

TEST_CASE("the cutoff of a mask's texture makes up for the material's factor") {
    const auto cutoff = [](float cut, float factor) {
        json material = base_color(0);
        material["alphaMode"] = "MASK";
        material["alphaCutoff"] = cut;
        material["pbrMetallicRoughness"]["baseColorFactor"] = {1, 1, 1, factor};
        return bindings_of(must(read(model_of(list_of({{"uri", data_uri(png(4))}}),
                                              list_of({{"source", 0}}), list_of(material)))))
            .textures.at(0)
            .cutoff;
    };
    CHECK(cutoff(0.25F, 0.5F) == 0.5F);
    CHECK_FALSE(cutoff(0.5F, 0.25F));  // nothing is ever seen
    CHECK_FALSE(cutoff(0.5F, 0));
    CHECK_FALSE(cutoff(0, 1));  // everything is
}

TEST_CASE("a keeper loads all of a model, from everywhere, with placeholders for the rest") {
    const support::TemporaryFolder folder;
    support::write_bytes(folder.path("beside.png"), png(8, 200));
    const json model = model_of(
        json::array({{{"uri", "beside.png"}},
                     {{"uri", data_uri(png(16, 40))}},
                     {{"uri", "gone.png"}},
                     {{"uri", "../secret.png"}}}),
        json::array(
            {{{"source", 0}}, {{"source", 1}}, {{"source", 2}}, {{"source", 3}}, json::object()}),
        json::array({base_color(0), base_color(1), base_color(2), base_color(3), base_color(4)}));
    const Model read_model = must(read(model, folder.path("")));
    const TextureBindings bindings = bindings_of(read_model);
    REQUIRE(bindings.textures.size() == 5);
    RecordingDevice device(must(find_profile("vulkan-desktop")));
    TextureKeeper keeper(device);
    std::vector<TextureTicket> tickets;
    for (const NeededTexture& texture : bindings.textures)
        tickets.push_back(keeper.request(request_for(read_model, texture)));
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == 2);
    CHECK(totals.failed == 2);  // the last two requests are equal
    CHECK(keeper.texture(tickets[0])->shape().width == 8);
    CHECK(support::level_of(must(keeper.texture(tickets[0])->read_back()), 0)[0] == std::byte{200});
    CHECK(keeper.texture(tickets[1])->shape().width == 16);
    const auto warm = placeholder_color(KeeperState::failed, Role::color);
    for (std::size_t i = 2; i < 5; ++i) {
        CHECK(keeper.status(tickets[i]).state == KeeperState::failed);
        const Texture shown = must(keeper.texture(tickets[i])->read_back());
        for (std::size_t c = 0; c < 4; ++c)
            CHECK(std::to_integer<int>(shown.level(0)[c]) == warm[c]);
    }
    CHECK(request_for(read_model, bindings.textures[3]).bytes.size() ==
          0);  // nothing outside is read
}

TEST_CASE("more textures than the device samples: which of them fit into one array") {
    Builder builder;
    json material = {{"name", "busy"}};
    const char* extensions[] = {"KHR_materials_clearcoat", "KHR_materials_sheen",
                                "KHR_materials_iridescence"};
    const char* slots[][2] = {{"clearcoatTexture", "clearcoatRoughnessTexture"},
                              {"sheenColorTexture", "sheenRoughnessTexture"},
                              {"iridescenceTexture", "iridescenceThicknessTexture"}};
    std::uint8_t shade = 0;
    const auto texture = [&](std::uint32_t side) {
        const std::size_t image = builder.add("images", {{"uri", data_uri(png(side, ++shade))}});
        return json{{"index", builder.add("textures", {{"source", image}})}};
    };
    for (std::size_t i = 0; i < 3; ++i)
        for (const char* slot : slots[i])
            material["extensions"][extensions[i]][slot] = texture(8);
    material["occlusionTexture"] = texture(4);
    // The same texture with the same sampler in another slot of its role takes no further unit.
    material["extensions"]["KHR_materials_transmission"]["transmissionTexture"] =
        material["extensions"]["KHR_materials_clearcoat"]["clearcoatTexture"];
    builder.add("materials", material);
    const Model model = builder.read();
    const TextureBindings bindings = bindings_of(model);
    DeviceProfile profile = must(find_profile("vulkan-desktop"));
    CHECK(check_bindings(model, bindings, profile).empty());
    profile.max_textures = 6;
    const Findings findings = check_bindings(model, bindings, profile);
    REQUIRE(findings.size() == 1);
    CHECK(contains(findings[0].problem, "'busy' has 7 textures"));
    CHECK(contains(findings[0].remedy, "5 of them are 8 x 8 in the role data"));
    CHECK(contains(findings[0].remedy, "layers of one array"));
}

TEST_CASE("the matrix of a transform, by hand") {
    CHECK(matrix_of({}) == std::array<float, 6>{1, 0, 0, 0, 1, 0});
    CoordinateTransform quarter;
    quarter.rotation = std::numbers::pi_v<float> / 2;
    quarter.scale = {2, 3};
    quarter.offset = {0.5F, 0.25F};
    const auto m = matrix_of(quarter);
    // (1, 0) is scaled to (2, 0), turned against v to (0, -2), and moved.
    CHECK(m[0] + m[2] == doctest::Approx(0.5));
    CHECK(m[3] + m[5] == doctest::Approx(-1.75));
    // (0, 1) is scaled to (0, 3), turned to (3, 0), and moved.
    CHECK(m[1] + m[2] == doctest::Approx(3.5));
    CHECK(m[4] + m[5] == doctest::Approx(0.25));
}
