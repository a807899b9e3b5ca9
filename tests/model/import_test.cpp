// Models of other formats, written in the test: their textures of every kind, and where they are.
#include <unistd.h>

#include <algorithm>
#include <csignal>
#include <yl/model_bake.hpp>
#include <yl/model_import.hpp>

#include "model/import/file_search.hpp"
#include "model/models.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace support::models;
using support::TemporaryFolder;
using support::write_bytes;
using support::write_text;

namespace {

constexpr const char* square_obj = R"(
mtllib square.mtl
v -1 1 0
v -1 -1 0
v 1 -1 0
v 1 1 0
vt 0 1
vt 0 0
vt 1 0
vt 1 1
usemtl stone
f 1/1 2/2 3/3 4/4
)";

const BoundTexture* texture_in(const ModelMaterial& material, Slot slot) {
    const auto found = std::ranges::find(material.textures, slot, &BoundTexture::slot);
    return found != material.textures.end() ? &*found : nullptr;
}

const ModelMaterial& material_named(const Model& model, std::string_view name) {
    for (const ModelMaterial& material : model.materials)
        if (material.surface.name == name)
            return material;
    FAIL("no such material");
    return model.materials.front();
}

bool says(const Model& model, const std::string& part) {
    return std::ranges::any_of(
        model.findings, [&](const Finding& finding) { return contains(finding.problem, part); });
}

/// Upright: its left upper quarter is red.
std::vector<std::byte> quarters() {
    Image image = must(Image::create(Format::rgba8_srgb, 8, 8));
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::uint32_t x = 0; x < 8; ++x) {
            auto* texel = &image.view().row(y)[std::size_t{4} * x];
            texel[0] = texel[3] = std::byte{255};
            texel[1] = texel[2] = x < 4 && y < 4 ? std::byte{0} : std::byte{255};
        }
    return must(encode_picture("png", image.view()));
}

void append_floats(std::vector<std::byte>& bytes, std::initializer_list<float> numbers) {
    for (const float number : numbers)
        append(bytes, std::bit_cast<std::uint32_t>(number));
}

}  // namespace

TEST_CASE("OBJ with MTL: kinds, wraps, transforms; and drawn upright") {
    const TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("maps"));
    write_text(folder.path("square.obj"), square_obj);
    write_text(folder.path("square.mtl"), R"(newmtl stone
Kd 1 1 1
map_Kd -clamp on maps\color.png
map_Bump maps/bump.png
map_d mask.png
map_Ke glow.png
norm gone.png
)");
    write_bytes(folder.path("maps/color.png"), quarters());
    write_bytes(folder.path("maps/bump.png"), png(8));
    write_bytes(folder.path("mask.png"), png(16));
    write_bytes(folder.path("glow.png"), png(4));
    const Model model = must(read_any_model(folder.path("square.obj")));
    CHECK(model.images.size() == 5);
    const ModelMaterial& stone = material_named(model, "stone");
    const BoundTexture* color = texture_in(stone, Slot::base_color);
    REQUIRE(color != nullptr);
    CHECK(color->sampler.wrap[0] == Wrap::clamp_to_edge);
    CHECK(model.images[*color->image].uri == "maps\\color.png");
    CHECK(model.images[*color->image].width == 8);
    REQUIRE(texture_in(stone, Slot::height) != nullptr);
    CHECK(role_of(Slot::height) == Role::height);
    REQUIRE(texture_in(stone, Slot::opacity) != nullptr);
    CHECK(model.images[*texture_in(stone, Slot::opacity)->image].width == 16);
    REQUIRE(texture_in(stone, Slot::emissive) != nullptr);
    const BoundTexture* normal = texture_in(stone, Slot::normal);
    REQUIRE(normal != nullptr);
    CHECK(model.images[*normal->image].error.value().kind == ErrorKind::missing);

    Findings findings;
    const ModelScene scene = must(scene_of(model, findings));
    REQUIRE(scene.parts.size() == 1);
    CHECK(scene.parts[0].indices.size() == 6);
    const auto& vertices = scene.parts[0].vertices;
    const auto top_left = std::ranges::find_if(vertices, [](const Vertex& vertex) {
        return vertex.position == std::array<float, 3>{-1, 1, 0};
    });
    REQUIRE(top_left != vertices.end());
    CHECK(top_left->coordinates[0] == std::array<float, 2>{0, 0});  // row 0 is the top
    CHECK(top_left->normal[2] == doctest::Approx(1));
}

TEST_CASE("several textures of one kind keep their order, and how they lie over each other") {
    const TemporaryFolder folder;
    write_text(folder.path("layers.x"), R"(xof 0303txt 0032
Mesh m {
 3; 0;0;0;, 1;0;0;, 0;1;0;;
 1; 3;0,1,2;;
 MeshMaterialList { 1; 1; 0;;
  Material stone { 1;1;1;1;; 1; 0;0;0;; 0;0;0;;
   TextureFilename { "first.png"; }
   TextureFilename { "second.png"; }
   TextureFilename { "first.png"; }
  }
 }
 MeshTextureCoords { 3; 0;0;, 1;0;, 0;1;; }
}
)");
    write_bytes(folder.path("first.png"), png(8));
    write_bytes(folder.path("second.png"), png(4));
    const Model model = must(read_any_model(folder.path("layers.x")));
    const auto& textures = material_named(model, "stone").textures;
    REQUIRE(textures.size() == 3);
    CHECK_FALSE(textures[0].layer);
    for (const std::size_t later : {1U, 2U}) {
        CHECK(textures[later].slot == Slot::base_color);
        REQUIRE(textures[later].layer);
        CHECK(textures[later].layer->operation == "replace");
    }
    CHECK(model.images.size() == 2);
    CHECK(textures[0].image == textures[2].image);
    CHECK(model.images[*textures[1].image].width == 4);
}

TEST_CASE("Collada: mirrors, transforms, paths of another machine and of another case") {
    const TemporaryFolder folder;
    write_text(folder.path("layers.dae"), R"(<?xml version="1.0"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
<asset><up_axis>Y_UP</up_axis></asset>
<library_images>
 <image id="a"><init_from>file:///C:/art/maps/a%20b.png</init_from></image>
 <image id="n"><init_from>./N.PNG</init_from></image>
</library_images>
<library_effects><effect id="fx"><profile_COMMON>
 <newparam sid="as"><surface type="2D"><init_from>a</init_from></surface></newparam>
 <newparam sid="at"><sampler2D><source>as</source><wrap_s>CLAMP</wrap_s></sampler2D></newparam>
 <newparam sid="ns"><surface type="2D"><init_from>n</init_from></surface></newparam>
 <newparam sid="nt"><sampler2D><source>ns</source></sampler2D></newparam>
 <technique sid="t"><phong>
  <emission><texture texture="at" texcoord="UV0"/></emission>
  <diffuse><texture texture="at" texcoord="UV0">
   <extra><technique profile="MAYA"><wrapU>1</wrapU><wrapV>1</wrapV><mirrorU>1</mirrorU><mirrorV>0</mirrorV>
   <repeatU>2</repeatU><repeatV>3</repeatV><offsetU>0.5</offsetU><offsetV>0</offsetV><weighting>0.25</weighting></technique></extra>
  </texture></diffuse>
  <specular><texture texture="nt" texcoord="UV0"/></specular>
 </phong></technique>
</profile_COMMON></effect></library_effects>
<library_materials><material id="m" name="wall"><instance_effect url="#fx"/></material></library_materials>
<library_geometries><geometry id="g"><mesh>
 <source id="p"><float_array id="pa" count="9">0 0 0 1 0 0 0 1 0</float_array>
  <technique_common><accessor source="#pa" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
 <source id="u"><float_array id="ua" count="6">0 0 1 0 0 1</float_array>
  <technique_common><accessor source="#ua" count="3" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>
 <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
 <triangles material="ms" count="1"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#u" offset="1" set="0"/><p>0 0 1 1 2 2</p></triangles>
</mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s"><node id="nd"><instance_geometry url="#g"><bind_material><technique_common><instance_material symbol="ms" target="#m"/></technique_common></bind_material></instance_geometry></node></visual_scene></library_visual_scenes>
<scene><instance_visual_scene url="#s"/></scene>
</COLLADA>)");
    std::filesystem::create_directory(folder.path("maps"));
    write_bytes(folder.path("maps/a b.png"), png(8));
    write_bytes(folder.path("n.png"), png(4, 77));
    const Model model = must(read_any_model(folder.path("layers.dae")));
    const ModelMaterial& wall = material_named(model, "wall");
    const BoundTexture* diffuse = texture_in(wall, Slot::base_color);
    REQUIRE(diffuse != nullptr);
    CHECK(diffuse->sampler.wrap[0] == Wrap::mirror);
    CHECK(diffuse->sampler.wrap[1] == Wrap::repeat);
    REQUIRE(diffuse->layer);
    CHECK(diffuse->layer->strength == 0.25F);
    REQUIRE(diffuse->transform);
    CHECK(diffuse->transform->scale == std::array{2.0F, 3.0F});
    // About the middle: (0.5, 0.5), moved by half a picture and scaled.
    const auto m = matrix_of(diffuse->transform);
    CHECK(m[0] * 0.5F + m[1] * 0.5F + m[2] == doctest::Approx(1.5));
    CHECK(m[3] * 0.5F + m[4] * 0.5F + m[5] == doctest::Approx(0.5));
    CHECK(m[4] == 3);
    REQUIRE(texture_in(wall, Slot::emissive) != nullptr);
    CHECK(texture_in(wall, Slot::emissive)->image == diffuse->image);  // one image, two uses
    // A path of somebody else's machine, by its last parts; and another case.
    CHECK(model.images[*diffuse->image].file == std::filesystem::path(folder.path("maps/a b.png")));
    CHECK(says(model, "path of another place"));
    const BoundTexture* specular = texture_in(wall, Slot::specular_color);
    REQUIRE(specular != nullptr);
    CHECK(model.images[*specular->image].width == 4);
    CHECK(says(model, "but for upper and lower case"));
}

TEST_CASE("pixels within a model, by their number, are images like others") {
    const TemporaryFolder folder;
    std::vector<std::byte> mdl;
    append(mdl, 0x4F504449);  // "IDPO", version 6
    append(mdl, 6);
    append_floats(mdl, {1, 1, 1, 0, 0, 0, 10, 0, 0, 0});
    for (const std::uint32_t number : {1U, 16U, 8U, 3U, 1U, 1U, 0U, 0U})
        append(mdl, number);  // a skin of 16 x 8, 3 vertices, 1 triangle, 1 frame
    append_floats(mdl, {1});
    append(mdl, 0);  // the skin is one picture of palette indices
    for (int i = 0; i < 16 * 8; ++i)
        mdl.push_back(i < 64 ? std::byte{4} : std::byte{250});
    for (const std::uint32_t number : {0U, 0U, 0U, 0U, 15U, 0U, 0U, 0U, 7U})
        append(mdl, number);
    for (const std::uint32_t number : {1U, 0U, 1U, 2U, 0U})
        append(mdl, number);  // the triangle; the frame's kind
    mdl.resize(mdl.size() + 8 + 16);
    for (const int number : {0, 0, 0, 0, 10, 0, 0, 0, 0, 10, 0, 0})
        mdl.push_back(static_cast<std::byte>(number));
    write_bytes(folder.path("leaf.mdl"), mdl);
    const Model model = must(read_any_model(folder.path("leaf.mdl")));
    REQUIRE(model.images.size() == 1);
    CHECK(model.images[0].source == ImageSource::raw_pixels);
    CHECK(model.images[0].width == 16);
    CHECK(model.images[0].height == 8);
    REQUIRE(model.materials.size() >= 1);
    REQUIRE(model.materials[0].textures.size() == 1);
    CHECK(model.materials[0].textures[0].image == 0U);
    const Picture picture = must(read_picture(model.contents[0]));
    const auto top = picture.image.view().row(0), bottom = picture.image.view().row(7);
    CHECK(std::equal(top.begin(), top.begin() + 3, top.begin() + 4));
    CHECK_FALSE(std::equal(top.begin(), top.begin() + 3, bottom.begin()));
}

TEST_CASE("glTF 1 goes another way, with its images within") {
    const TemporaryFolder folder;
    const auto bytes = bytes_of_numbers<float>({0, 0, 0, 1, 0, 0, 0, 1, 0});
    json model = {{"asset", {{"version", "1.0"}}},
                  {"scene", "s"},
                  {"scenes", {{"s", {{"nodes", {"n"}}}}}},
                  {"nodes", {{"n", {{"meshes", {"m"}}}}}},
                  {"meshes", {{"m", {{"primitives", json::array()}}}}},
                  {"accessors",
                   {{"a",
                     {{"bufferView", "v"},
                      {"byteOffset", 0},
                      {"componentType", 5126},
                      {"count", 3},
                      {"type", "VEC3"}}}}},
                  {"bufferViews",
                   {{"v", {{"buffer", "b"}, {"byteOffset", 0}, {"byteLength", bytes.size()}}}}},
                  {"buffers",
                   {{"b",
                     {{"byteLength", bytes.size()},
                      {"type", "arraybuffer"},
                      {"uri", "data:application/octet-stream;base64," + base64(bytes)}}}}},
                  {"images", {{"i", {{"uri", data_uri(png(8))}}}}},
                  {"textures", {{"t", {{"source", "i"}, {"sampler", "p"}}}}},
                  {"samplers", {{"p", {{"wrapS", 33071}}}}},
                  {"materials", {{"x", {{"values", {{"diffuse", "t"}}}}}}}};
    model["meshes"]["m"]["primitives"].push_back(
        {{"attributes", {{"POSITION", "a"}}}, {"material", "x"}, {"mode", 4}});
    write_text(folder.path("old.gltf"), model.dump());
    CHECK(must_fail(read_model(folder.path("old.gltf"))).kind == ErrorKind::unsupported);
    const Model old = must(read_any_model(folder.path("old.gltf")));
    REQUIRE(old.images.size() == 1);
    CHECK(old.images[0].source == ImageSource::embedded);
    CHECK(old.images[0].file_format == "PNG");
    CHECK(must_fail(bake_model(old, folder.path("x.glb"))).kind == ErrorKind::unsupported);
    Findings findings;
    CHECK(must(scene_of(old, findings)).parts.size() == 1);
}

TEST_CASE("files are found by name, by case, by last parts; and not outside unless allowed") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("models/Maps"));
    std::filesystem::create_directories(folder.path("shared"));
    write_text(folder.path("models/Maps/Stone.png"), "x");
    write_text(folder.path("models/a b.png"), "x");
    write_text(folder.path("shared/leaf.png"), "x");
    const std::string here = folder.path("models");
    const auto found = [&](const char* path, bool outside = false) {
        const FoundFile file = must(find_file(path, here, outside));
        return std::pair(file.file.lexically_relative(here).generic_string(), file.by);
    };
    CHECK(found("Maps/Stone.png") == std::pair(std::string("Maps/Stone.png"), FoundBy::name));
    CHECK(found(".\\Maps\\Stone.png").second == FoundBy::name);
    CHECK(found("\"Maps/Stone.png\" ").second == FoundBy::name);
    CHECK(found("a%20b.png").first == "a b.png");
    CHECK(found("maps/STONE.PNG") == std::pair(std::string("Maps/Stone.png"), FoundBy::other_case));
    CHECK(found("D:\\art\\Maps\\Stone.png") ==
          std::pair(std::string("Maps/Stone.png"), FoundBy::last_parts));
    CHECK(found("/home/someone/maps/stone.png").second == FoundBy::last_parts);
    CHECK(found("file:///C:/x/a%20b.png").first == "a b.png");
    CHECK(found("//Maps/Stone.png").second == FoundBy::name);
    CHECK(found("textures/a b.png").second == FoundBy::last_parts);
    CHECK(must_fail(find_file("../shared/leaf.png", here, false)).kind == ErrorKind::usage);
    CHECK(found("../shared/leaf.png", true) ==
          std::pair(std::string("../shared/leaf.png"), FoundBy::name));
    CHECK(found("E:/project/shared/leaf.png", true).second == FoundBy::last_parts);
    CHECK(must_fail(find_file("E:/project/shared/leaf.png", here, false)).kind ==
          ErrorKind::missing);
    CHECK(must_fail(find_file("nothing.png", here, true)).kind == ErrorKind::missing);
    CHECK(must_fail(find_file("http://example.org/a.png", here, true)).kind == ErrorKind::usage);
    CHECK(must_fail(find_file("", here, true)).kind == ErrorKind::malformed);
    CHECK(must_fail(find_file("Maps", here, false)).kind == ErrorKind::missing);  // a folder
    // A model's name without a folder means the one where the program stands.
    const std::filesystem::path before = std::filesystem::current_path();
    std::filesystem::current_path(here);
    const auto beside = find_file("maps/stone.png", "", false);
    std::filesystem::current_path(before);
    CHECK(must(beside).file == "Maps/Stone.png");
}

TEST_CASE(
    "files of materials that a model names and that are not there are said, guesses are not") {
    const TemporaryFolder folder;
    const auto with_library = [&](const std::string& name) {
        std::string text = square_obj;
        text.replace(text.find("square.mtl"), 10, name);
        write_text(folder.path("square.obj"), text);
        return must(read_any_model(folder.path("square.obj")));
    };
    const Model lost = with_library("gone.mtl");
    REQUIRE(lost.findings.size() == 1);  // square.mtl, which the reader tries then, is its own idea
    CHECK(contains(lost.findings[0].problem, "gone.mtl, which cannot be read"));
    CHECK(says(with_library("square.mtl"), "square.mtl, which cannot be read"));
    write_text(folder.path("there.mtl"), "newmtl stone\nKd 1 1 1\n");
    CHECK(with_library("there.mtl").findings.empty());
}

TEST_CASE("coordinates that a mesh of another format has not") {
    const TemporaryFolder folder;
    write_text(folder.path("square.obj"), R"(mtllib square.mtl
v -1 1 0
v -1 -1 0
v 1 -1 0
usemtl stone
f 1 2 3
)");
    write_text(folder.path("square.mtl"), "newmtl stone\nKd 1 1 1\nmap_Kd a.png\n");
    write_bytes(folder.path("a.png"), png(4));
    CHECK(says(must(read_any_model(folder.path("square.obj"))),
               "'stone' is read by coordinate set 0, which not all of its meshes have"));
}

TEST_CASE("a black colour under a texture is said; files outside are not opened for a model") {
    const TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("models"));
    write_text(folder.path("models/square.obj"), square_obj);
    write_text(folder.path("models/square.mtl"), "newmtl stone\nKd 0 0 0\nmap_Kd a.png\n");
    write_bytes(folder.path("models/a.png"), png(4));
    const Model model = must(read_any_model(folder.path("models/square.obj")));
    CHECK(says(model, "which makes its texture black"));
    CHECK(material_named(model, "stone").surface.base_color == Rgba{1, 1, 1, 1});
    std::filesystem::rename(folder.path("models/square.mtl"), folder.path("square.mtl"));
    std::string outside = square_obj;
    outside.replace(outside.find("square.mtl"), 10, "../square.mtl");
    write_text(folder.path("models/square.obj"), outside);
    CHECK(must(read_any_model(folder.path("models/square.obj"))).images.empty());
    ModelReadOptions trusting;
    trusting.allow_outside = true;
    CHECK(must(read_any_model(folder.path("models/square.obj"), trusting)).images.size() == 1);
}

TEST_CASE("what is not a model is an error, and so are faces without end") {
    const TemporaryFolder folder;
    CHECK(must_fail(read_any_model(folder.path("none.obj"))).kind == ErrorKind::missing);
    write_text(folder.path("odd.xyz"), "hello");
    CHECK(must_fail(read_any_model(folder.path("odd.xyz"))).kind == ErrorKind::malformed);
    write_text(folder.path("empty.obj"), "");
    CHECK(must_fail(read_any_model(folder.path("empty.obj"))).kind == ErrorKind::malformed);
    write_text(folder.path("bad.ply"), "ply\nformat ascii 1.0\nelement vertex 3\n");
    CHECK_FALSE(read_any_model(folder.path("bad.ply")));
    write_text(folder.path("big.obj"), square_obj);
    ModelReadOptions small;
    small.limits.max_bytes = 100;
    CHECK(must_fail(read_any_model(folder.path("big.obj"), small)).kind == ErrorKind::limit);
    // A face of corners that are not there is left out, and said.
    write_text(folder.path("odd.off"), "OFF\n4 2 0\n0 0 0\n1 0 0\n1 1 0\n0 1 0\n3 0 1 2\n0\n");
    const auto odd = read_any_model(folder.path("odd.off"));
    if (odd) {
        Findings findings;
        const auto scene = scene_of(*odd, findings);
        CHECK((!scene || scene->parts.size() <= 1));
    }
}

namespace {

/// The process that has the handler, which is not the one that crashes.
pid_t handlers_process = 0;

/// A program's own handler for crashes, which ends its children in order, on a stack of its own.
class OrderlyEnd {
 public:
    OrderlyEnd() : stack_(std::size_t{1} << 16U) {
        handlers_process = getpid();
        stack_t own{};
        own.ss_sp = stack_.data();
        own.ss_size = stack_.size();
        sigaltstack(&own, &stack_before_);
        struct sigaction action {};
        action.sa_handler = [](int) { _exit(getpid() == handlers_process ? 7 : 0); };
        action.sa_flags = SA_ONSTACK;
        sigaction(SIGSEGV, &action, &before_);
    }
    OrderlyEnd(const OrderlyEnd&) = delete;
    OrderlyEnd& operator=(const OrderlyEnd&) = delete;
    ~OrderlyEnd() {
        sigaction(SIGSEGV, &before_, nullptr);
        sigaltstack(&stack_before_, nullptr);
    }

 private:
    std::vector<std::byte> stack_;
    stack_t stack_before_{};
    struct sigaction before_ {};
};

}  // namespace

TEST_CASE("a child that crashes is seen, whatever handlers the program has") {
    const TemporaryFolder folder;
    std::string nested = "xof 0303txt 0032\n";
    constexpr int depth = 100'000;  // beyond any stack
    for (int i = 0; i < depth; ++i)
        nested += "Frame a {\n";
    for (int i = 0; i < depth; ++i)
        nested += "}\n";
    write_text(folder.path("nested.x"), nested);
    const OrderlyEnd handler;
    const Error error = must_fail(read_untrusted_model(folder.path("nested.x")));
    CHECK(error.kind == ErrorKind::malformed);
    CHECK(contains(error.message, "its reader ended with signal"));
}

TEST_CASE("models that nobody vouches for are tried in a child process, with limits") {
    const TemporaryFolder folder;
    write_text(folder.path("fine.obj"), "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
    CHECK(read_untrusted_model(folder.path("fine.obj")));
    const Error late = must_fail(
        read_untrusted_model(folder.path("fine.obj"), {}, {.time = std::chrono::seconds(0)}));
    CHECK(late.kind == ErrorKind::limit);
    CHECK(contains(late.message, "longer than 0 seconds"));
    CHECK(must_fail(read_untrusted_model(folder.path("none.obj"))).kind == ErrorKind::missing);
    CHECK(must_fail(read_untrusted_model(folder.path(""))).kind == ErrorKind::io);
}

TEST_CASE(
    "what a child has no memory for is not read again without limits, and its words are kept") {
    const TemporaryFolder folder;
    std::string text;
    for (int i = 0; i < 400'000; ++i)
        text += "v " + std::to_string(i) + " 0 " + std::to_string(i % 7) + "\n";
    for (int i = 3; i < 400'000; i += 3)
        text += "f " + std::to_string(i - 2) + " " + std::to_string(i - 1) + " " +
                std::to_string(i) + "\n";
    write_text(folder.path("large.obj"), text);
    for (const std::uint64_t megabytes : {1U, 4U}) {  // beside what this process has freed
        const Error error = must_fail(
            read_untrusted_model(folder.path("large.obj"), {}, {.bytes = megabytes << 20U}));
        CHECK(error.kind == ErrorKind::limit);
        CHECK(contains(error.message, "memory"));
    }
    CHECK(read_untrusted_model(folder.path("large.obj")));
    // An error of the child's is that of the program itself.
    write_text(folder.path("broken.ply"), "ply\nformat ascii 1.0\nelement vertex 3\n");
    const Error guarded = must_fail(read_untrusted_model(folder.path("broken.ply")));
    const Error own = must_fail(read_any_model(folder.path("broken.ply")));
    CHECK(guarded.kind == own.kind);
    CHECK(guarded.message == own.message);
    CHECK(guarded.place == own.place);
}
