// Triangles of glTF models: accessors of every kind, nodes, and hostile numbers.
#include <yl/model_bake.hpp>

#include "model/models.hpp"

using namespace support::models;

namespace {

ModelScene scene_from(Builder& builder) {
    Findings findings;
    ModelScene scene = must(scene_of(builder.read(), findings));
    CHECK(findings.empty());
    return scene;
}

std::string trouble_of(Builder& builder) {
    Findings findings;
    return must_fail(scene_of(builder.read(), findings)).message;
}

const std::vector<float> three_corners = {0, 0, 0, 1, 0, 0, 0, 1, 0};

std::size_t add_mesh(Builder& builder, const json& attributes, const json& more = json::object()) {
    json primitive = {{"attributes", attributes}};
    primitive.update(more);
    return builder.add("meshes", {{"primitives", list_of(primitive)}});
}

}  // namespace

TEST_CASE("positions, normals, tangents, coordinates and colours arrive in their places") {
    Builder builder;
    const std::size_t positions = builder.add_accessor(three_corners, "VEC3", 3);
    const std::size_t normals = builder.add_accessor<float>({0, 0, 1, 0, 1, 0, 1, 0, 0}, "VEC3", 3);
    const std::size_t tangents =
        builder.add_accessor<float>({1, 0, 0, -1, 0, 0, 1, 1, 0, 1, 0, 1}, "VEC4", 3);
    const std::size_t first = builder.add_accessor<float>({0, 0, 1, 0, 0, 1}, "VEC2", 3);
    const std::size_t second = builder.add_accessor<std::uint8_t>(
        {0, 255, 0, 0, 51, 102, 0, 0, 255, 0, 0, 0}, "VEC2", 3, 5121);
    builder.model["accessors"][second]["normalized"] = true;
    builder.model["bufferViews"][second]["byteStride"] = 4;
    const std::size_t colors = builder.add_accessor<std::uint16_t>(
        {65535, 0, 0, 0, 65535, 0, 0, 0, 65535}, "VEC3", 3, 5123);
    builder.model["accessors"][colors]["normalized"] = true;
    add_mesh(builder, {{"POSITION", positions},
                       {"NORMAL", normals},
                       {"TANGENT", tangents},
                       {"TEXCOORD_0", first},
                       {"TEXCOORD_1", second},
                       {"COLOR_0", colors}});
    const ModelScene scene = scene_from(builder);
    REQUIRE(scene.parts.size() == 1);
    const Primitive& part = scene.parts[0];
    CHECK(part.indices == std::vector<std::uint32_t>{0, 1, 2});
    CHECK(part.vertices[1].position == std::array<float, 3>{1, 0, 0});
    CHECK(part.vertices[1].normal == std::array<float, 3>{0, 1, 0});
    CHECK(part.vertices[0].tangent == std::array<float, 4>{1, 0, 0, -1});
    CHECK(part.vertices[2].coordinates[0] == std::array<float, 2>{0, 1});
    CHECK(part.vertices[0].coordinates[1] == std::array<float, 2>{0, 1});
    CHECK(part.vertices[1].coordinates[1][0] == doctest::Approx(0.2));
    CHECK(part.vertices[1].coordinates[1][1] == doctest::Approx(0.4));
    CHECK(part.vertices[2].color == Rgba{0, 0, 1, 1});
    REQUIRE(scene.surfaces.size() == 1);  // for what has no material
    CHECK(part.surface == 0);
}

TEST_CASE("strips and fans become triangles that face one way; points are said") {
    const std::vector<float> square = {0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0};
    const auto indices_with = [&](int mode) {
        Builder builder;
        const std::size_t positions = builder.add_accessor(square, "VEC3", 4);
        add_mesh(builder, {{"POSITION", positions}, {"NORMAL", positions}}, {{"mode", mode}});
        return scene_from(builder).parts.at(0).indices;
    };
    CHECK(indices_with(5) == std::vector<std::uint32_t>{0, 1, 2, 2, 1, 3});
    CHECK(indices_with(6) == std::vector<std::uint32_t>{0, 1, 2, 0, 2, 3});
    CHECK(indices_with(4) == std::vector<std::uint32_t>{0, 1, 2});  // the fourth is left over
    Builder points;
    add_mesh(points, {{"POSITION", points.add_accessor(square, "VEC3", 4)}}, {{"mode", 0}});
    Findings findings;
    CHECK(must(scene_of(points.read(), findings)).parts.empty());
    REQUIRE(findings.size() == 1);
    CHECK(contains(findings[0].problem, "points or lines"));
}

TEST_CASE("what is left out: normals stand on their triangles, tangents run along u") {
    Builder builder;
    builder.add("materials", json::object());
    builder.add_square(0);
    const ModelScene scene = scene_from(builder);
    for (const Vertex& vertex : scene.parts.at(0).vertices) {
        CHECK(vertex.normal[2] == doctest::Approx(1));
        CHECK(vertex.tangent[0] == doctest::Approx(1));
        CHECK(vertex.tangent[3] == 1);  // green points up
    }
    // u runs the other way now
    const std::size_t mirrored = builder.add_accessor<float>({1, 0, 1, 1, 0, 1, 0, 0}, "VEC2", 4);
    builder.model["meshes"][0]["primitives"][0]["attributes"]["TEXCOORD_0"] = mirrored;
    const Vertex turned = scene_from(builder).parts.at(0).vertices.at(0);
    CHECK(turned.tangent[0] == doctest::Approx(-1));
    CHECK(turned.tangent[3] == -1);
}

TEST_CASE("nodes: matrices, parts of them, one mesh twice, and mirrors that keep the front") {
    Builder builder;
    const std::size_t positions = builder.add_accessor(three_corners, "VEC3", 3);
    const std::size_t mesh = add_mesh(builder, {{"POSITION", positions}});
    builder.model["nodes"] = json::array(
        {{{"children", {1, 2, 3}}, {"translation", {10, 0, 0}}},
         {{"mesh", mesh}, {"scale", {2, 2, 2}}, {"rotation", {0, 0, 0.70710678, 0.70710678}}},
         {{"mesh", mesh}, {"matrix", {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 5, 0, 1}}},
         {{"mesh", mesh}, {"scale", {-1, 1, 1}}}});
    builder.model["scenes"] = list_of({{"nodes", {0}}});
    const ModelScene scene = scene_from(builder);
    REQUIRE(scene.parts.size() == 3);
    // (1, 0, 0) doubled, turned a quarter about z, moved by 10.
    CHECK(scene.parts[0].vertices[1].position[0] == doctest::Approx(10));
    CHECK(scene.parts[0].vertices[1].position[1] == doctest::Approx(2));
    CHECK(scene.parts[1].vertices[1].position == std::array<float, 3>{11, 5, 0});
    CHECK(scene.parts[2].vertices[1].position == std::array<float, 3>{9, 0, 0});
    CHECK(scene.parts[2].indices == std::vector<std::uint32_t>{0, 2, 1});
    for (const Primitive& part : scene.parts)
        CHECK(part.vertices[0].normal[2] == doctest::Approx(1));
}

TEST_CASE("sparse accessors replace a few elements") {
    Builder builder;
    const std::size_t positions = builder.add_accessor(three_corners, "VEC3", 3);
    const std::size_t where = builder.add_view(bytes_of_numbers<std::uint8_t>({2}));
    const std::size_t what = builder.add_view(bytes_of_numbers<float>({7, 8, 9}));
    builder.model["accessors"][positions]["sparse"] = {
        {"count", 1},
        {"indices", {{"bufferView", where}, {"componentType", 5121}}},
        {"values", {{"bufferView", what}}}};
    add_mesh(builder, {{"POSITION", positions}});
    CHECK(scene_from(builder).parts[0].vertices[2].position == std::array<float, 3>{7, 8, 9});
    builder.model["accessors"][positions]["sparse"]["count"] = 9;
    CHECK(contains(trouble_of(builder), "sparse"));
}

TEST_CASE(
    "sparse places are whole numbers: beyond the list, or of another type, they are refused") {
    const auto trouble = [](const auto& places, int type) {
        Builder builder;
        const std::size_t positions = builder.add_accessor(three_corners, "VEC3", 3);
        const std::size_t where = builder.add_view(bytes_of_numbers(places));
        const std::size_t what = builder.add_view(bytes_of_numbers<float>({7, 8, 9}));
        builder.model["accessors"][positions]["sparse"] = {
            {"count", 1},
            {"indices", {{"bufferView", where}, {"componentType", type}}},
            {"values", {{"bufferView", what}}}};
        add_mesh(builder, {{"POSITION", positions}});
        return trouble_of(builder);
    };
    CHECK(contains(trouble(std::vector<std::uint32_t>{3}, 5125), "a sparse index is 3, of 3"));
    CHECK(contains(trouble(std::vector<std::uint32_t>{4294967295U}, 5125), "4294967295"));
    CHECK(contains(trouble(std::vector<float>{1}, 5126), "sound count or type"));
    CHECK(contains(trouble(std::vector<std::int8_t>{-1}, 5120), "sound count or type"));
}

TEST_CASE("views that are only there compressed are left out and said, others are read") {
    enum class Buffer { plain, packed, packed_and_plain };
    for (const Buffer kind : {Buffer::plain, Buffer::packed, Buffer::packed_and_plain}) {
        Builder builder;
        builder.add("materials", json::object());
        builder.add_square(0);
        json& view = builder.model["bufferViews"][0];
        view["extensions"]["OTHER_note"] = json::object();
        if (kind != Buffer::plain)
            view["extensions"]["EXT_meshopt_compression"] = {{"buffer", 0}};
        if (kind == Buffer::packed) {  // the buffer of plain bytes has none
            view["buffer"] = 1;
            builder.more_buffers.push_back(
                {{"byteLength", 1000},
                 {"extensions", {{"EXT_meshopt_compression", {{"fallback", true}}}}}});
        }
        const bool is_lost = kind == Buffer::packed;
        Findings findings;
        const ModelScene scene = must(scene_of(builder.read(), findings));
        CHECK(scene.parts.size() == (is_lost ? 0 : 1));
        REQUIRE(findings.size() == (is_lost ? 1 : 0));
        CHECK((!is_lost || contains(findings[0].problem, "EXT_meshopt_compression")));
    }
}

TEST_CASE("sparse values that are only there compressed leave out their mesh alone") {
    Builder builder;
    builder.add("materials", json::object());
    builder.add_square(0);
    builder.add_square(0, 1);
    const std::size_t where = builder.add_view(bytes_of_numbers<std::uint16_t>({0}));
    builder.model["bufferViews"][where]["extensions"]["EXT_meshopt_compression"] = {{"buffer", 0}};
    builder.model["bufferViews"][where]["buffer"] = 1;
    builder.more_buffers.push_back(
        {{"byteLength", 1000},
         {"extensions", {{"EXT_meshopt_compression", {{"fallback", true}}}}}});
    builder.model["accessors"][0]["sparse"] = {
        {"count", 1},
        {"indices", {{"bufferView", where}, {"componentType", 5123}}},
        {"values", {{"bufferView", 0}}}};
    Findings findings;
    const ModelScene scene = must(scene_of(builder.read(), findings));
    REQUIRE(scene.parts.size() == 1);
    CHECK(scene.parts[0].vertices[0].position[2] == 1);
    REQUIRE(findings.size() == 1);
    CHECK(contains(findings[0].problem, "parts of mesh 0 are left out"));
}

TEST_CASE("a matrix of too few numbers leaves its node where it is") {
    Builder builder;
    builder.add("materials", json::object());
    builder.add_square(0);
    builder.model["nodes"] = list_of({{"mesh", 0}, {"matrix", {1, 2, 3}}});
    builder.model["scenes"] = list_of({{"nodes", list_of(0)}});
    CHECK(scene_from(builder).parts.at(0).vertices[0].position == std::array<float, 3>{-1, 1, 0});
}

TEST_CASE("tangents without normals are ignored, and others follow the normal map's coordinates") {
    Builder builder;
    const std::size_t positions = builder.add_accessor(three_corners, "VEC3", 3);
    const std::size_t tangents =
        builder.add_accessor<float>({0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1}, "VEC4", 3);
    const std::size_t first = builder.add_accessor<float>({0, 0, 1, 0, 0, -1}, "VEC2", 3);
    const std::size_t second = builder.add_accessor<float>({0, 0, 0, 1, 1, 0}, "VEC2", 3);
    add_mesh(builder,
             {{"POSITION", positions},
              {"TANGENT", tangents},
              {"TEXCOORD_0", first},
              {"TEXCOORD_1", second}},
             {{"material", 0}});
    builder.add("images", {{"uri", data_uri(png(4))}});
    builder.add("textures", {{"source", 0}});
    builder.add("materials", {{"normalTexture", {{"index", 0}}}});
    const auto tangent = [&] { return scene_from(builder).parts.at(0).vertices[0].tangent; };
    CHECK(tangent() == std::array<float, 4>{1, 0, 0, 1});
    json& use = builder.model["materials"][0]["normalTexture"];
    use["texCoord"] = 1;  // u runs upwards, v to the right
    CHECK(tangent() == std::array<float, 4>{0, 1, 0, 1});
    use["extensions"]["KHR_texture_transform"]["texCoord"] = 0;
    CHECK(tangent() == std::array<float, 4>{1, 0, 0, 1});
}

TEST_CASE("materials without textures keep their factors, and some are unlit") {
    Builder builder;
    builder.add("materials",
                {{"name", "glass"},
                 {"alphaMode", "BLEND"},
                 {"doubleSided", true},
                 {"emissiveFactor", {0.5, 0.25, 0}},
                 {"pbrMetallicRoughness",
                  {{"baseColorFactor", {0.1, 0.2, 0.3, 0.4}},
                   {"metallicFactor", 0.25},
                   {"roughnessFactor", 0.75}}},
                 {"extensions", {{"KHR_materials_emissive_strength", {{"emissiveStrength", 2}}}}}});
    builder.add("materials", {{"extensions", {{"KHR_materials_unlit", json::object()}}}});
    builder.add_square(0);
    const ModelScene scene = scene_from(builder);
    const Material& surface = scene.surfaces.at(0);
    CHECK(surface.name == "glass");
    CHECK(surface.alpha == AlphaUse::blend);
    CHECK(surface.is_two_sided);
    CHECK(surface.base_color == Rgba{0.1F, 0.2F, 0.3F, 0.4F});
    CHECK(surface.metallic == 0.25F);
    CHECK(surface.roughness == 0.75F);
    CHECK(surface.emissive == std::array<float, 3>{1, 0.5F, 0});
    CHECK_FALSE(surface.is_unlit);
    CHECK(scene.surfaces.at(1).is_unlit);
}

TEST_CASE("hostile geometry is an error that says what and where") {
    const auto broken = [](const auto& change) {
        Builder builder;
        builder.add("materials", json::object());
        builder.add_square(0);
        change(builder.model);
        return trouble_of(builder);
    };
    CHECK(contains(broken([](json& m) { m["accessors"][0]["count"] = 5; }),
                   "accessor 0 takes 5 elements of 12 bytes"));
    CHECK(contains(broken([](json& m) { m["accessors"][0]["count"] = 18446744073709551615ULL; }),
                   "18446744073709551615"));
    CHECK(
        contains(broken([](json& m) { m["accessors"][0]["byteOffset"] = 18446744073709551615ULL; }),
                 "takes 4 elements"));
    CHECK(contains(broken([](json& m) { m["accessors"][0]["componentType"] = 5124; }),
                   "type that glTF has not"));
    CHECK(contains(broken([](json& m) { m["accessors"][0]["type"] = "VEC9"; }), "type"));
    CHECK(contains(broken([](json& m) { m["accessors"][1]["type"] = "SCALAR"; }),
                   "TEXCOORD_0 has 4 elements of 1 components"));
    CHECK(contains(broken([](json& m) { m["bufferViews"][0]["byteStride"] = 4; }),
                   "a stride of 4 bytes for elements of 12"));
    CHECK(contains(broken([](json& m) { m["accessors"][2]["componentType"] = 5126; }),
                   "no type that indices can have"));
    CHECK(contains(
        broken([](json& m) { m["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = 77; }),
        "'POSITION' is 77"));
    CHECK(contains(broken([](json& m) { m["meshes"][0]["primitives"][0]["material"] = 4; }),
                   "'material' is 4"));
    CHECK(contains(broken([](json& m) { m["meshes"][0]["primitives"][0]["attributes"].clear(); }),
                   "no positions"));
    CHECK(contains(broken([](json& m) {
                       m["nodes"] = list_of({{"children", {0}}});
                       m["scenes"] = list_of({{"nodes", {0}}});
                   }),
                   "in a circle"));
    CHECK(contains(broken([](json& m) {
                       m["scenes"] = list_of({{"nodes", {3}}});
                   }),
                   "a child is node 3"));
    CHECK(contains(broken([](json& m) {
                       m["accessors"][0].erase("bufferView");
                       m["accessors"][0]["count"] = 100000000;
                   }),
                   "no bytes"));
}

TEST_CASE("a vertex beyond the list, corners that are nowhere, and geometry that is compressed") {
    Builder beyond;
    const std::size_t positions = beyond.add_accessor(three_corners, "VEC3", 3);
    const std::size_t indices = beyond.add_accessor<std::uint32_t>({0, 1, 3}, "SCALAR", 3, 5125);
    add_mesh(beyond, {{"POSITION", positions}}, {{"indices", indices}});
    CHECK(contains(trouble_of(beyond), "a triangle has vertex 3, of 3"));

    Builder nowhere;
    std::vector<float> corners = three_corners;
    corners.insert(corners.end(),
                   {0, 0, 0, 1, 0, 0, 0, std::numeric_limits<float>::quiet_NaN(), 0});
    const std::size_t odd = nowhere.add_accessor(corners, "VEC3", 6);
    add_mesh(nowhere, {{"POSITION", odd}});
    Findings findings;
    CHECK(must(scene_of(nowhere.read(), findings)).parts.at(0).indices.size() == 3);
    REQUIRE(findings.size() == 1);
    CHECK(contains(findings[0].problem, "1 triangles have corners that are nowhere"));

    Builder packed;
    packed.add("materials", json::object());
    packed.add_square(0);
    packed.model["meshes"][0]["primitives"][0]["extensions"]["KHR_draco_mesh_compression"] =
        json::object();
    findings.clear();
    CHECK(must(scene_of(packed.read(), findings)).parts.size() ==
          1);  // plain vertices stand beside
    CHECK(findings.empty());
    packed.model["accessors"][0].erase("bufferView");
    packed.model["meshes"][0]["primitives"].push_back(packed.model["meshes"][0]["primitives"][0]);
    CHECK(must(scene_of(packed.read(), findings)).parts.empty());
    REQUIRE(findings.size() == 1);  // for both
    CHECK(contains(findings[0].problem, "parts of mesh 0 are left out"));
}

TEST_CASE("JSON that nests without end is refused before it is parsed") {
    const std::string deep = "{\"a\":" + std::string(100000, '[');
    CHECK(contains(must_fail(read_model(std::as_bytes(std::span(deep)), "/nowhere")).message,
                   "levels"));
    const std::string quoted =
        R"({"asset": {"version": "2.0", "copyright": ")" + std::string(1000, '[') + "\\\"[\"}}";
    must(read_model(std::as_bytes(std::span(quoted)), "/nowhere"));
}
