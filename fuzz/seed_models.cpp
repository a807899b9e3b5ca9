#include "seed_models.hpp"

#include <array>
#include <bit>
#include <cstdint>
#include <filesystem>
#include <fstream>

namespace seeds {
namespace {

constexpr const char* triangle_json = R"({"asset":{"version":"2.0"},
"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,"translation":[0,1,0]}],
"meshes":[{"primitives":[{"attributes":{"POSITION":0,"TEXCOORD_0":1},"indices":2,"material":0}]}],
"materials":[{"name":"stone","alphaMode":"MASK","pbrMetallicRoughness":{"baseColorTexture":
{"index":0,"extensions":{"KHR_texture_transform":{"scale":[2,2]}}}},
"normalTexture":{"index":0,"scale":0.5},"occlusionTexture":{"index":0}}],
"textures":[{"source":0,"sampler":0}],"samplers":[{"magFilter":9729,"minFilter":9987,"wrapS":33071}],
"images":[{"uri":"data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGNgAAAAAgABSK+kcQAAAABJRU5ErkJggg=="}],
"buffers":[{"byteLength":66@}],"bufferViews":[{"buffer":0,"byteLength":36},
{"buffer":0,"byteOffset":36,"byteLength":24},{"buffer":0,"byteOffset":60,"byteLength":6}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"},
{"bufferView":1,"componentType":5126,"count":3,"type":"VEC2"},
{"bufferView":2,"componentType":5123,"count":3,"type":"SCALAR"}]})";

void append_word(std::string& bytes, std::uint32_t word) {
    for (int i = 0; i < 4; ++i)
        bytes += static_cast<char>(word >> 8 * i);
}

/// One triangle: positions, texture coordinates, indices.
std::string triangle_bytes() {
    std::string bytes;
    for (const float number : {-1.F, 0.F, 0.F, 1.F, 0.F, 0.F, 0.F, 1.F, 0.F,  //
                               0.F, 1.F, 1.F, 1.F, 0.5F, 0.F})
        append_word(bytes, std::bit_cast<std::uint32_t>(number));
    return bytes + std::string("\0\0\1\0\2\0", 6);
}

std::string with_buffer(const std::string& uri) {
    std::string text = triangle_json;
    text.replace(text.find('@'), 1, uri);
    return text;
}

std::string binary_model() {
    std::string json = with_buffer(""), binary = triangle_bytes();
    json.resize((json.size() + 3) / 4 * 4, ' ');
    binary.resize((binary.size() + 3) / 4 * 4);
    std::string file = "glTF";
    append_word(file, 2);
    append_word(file, static_cast<std::uint32_t>(28 + json.size() + binary.size()));
    append_word(file, static_cast<std::uint32_t>(json.size()));
    file += "JSON" + json;
    append_word(file, static_cast<std::uint32_t>(binary.size()));
    return file + std::string("BIN\0", 4) + binary;
}

struct Import {
    int number;  // of the format's ending in fuzz_import.cpp
    const char* name;
    const char* text;
};

constexpr Import imports[] = {
    {0, "obj", "v -1 1 0\nv -1 -1 0\nv 1 -1 0\nvt 0 1\nvt 0 0\nvt 1 0\nf 1/1 2/2 3/3\n"},
    {1, "ply",
     "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
     "property float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
     "0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"},
    {2, "stl",
     "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\n"
     "endloop\nendfacet\nendsolid a\n"},
    {3, "fbx",
     "; FBX 7.3.0 project file\nFBXHeaderExtension:  {\n\tFBXVersion: 7300\n}\nObjects:  {\n"
     "\tGeometry: 1, \"Geometry::\", \"Mesh\" {\n\t\tVertices: *9 {\n\t\t\ta: "
     "0,0,0,1,0,0,0,1,0\n\t\t}\n"
     "\t\tPolygonVertexIndex: *3 {\n\t\t\ta: 0,1,-3\n\t\t}\n\t}\n}\n"},
    {4, "dae",
     "<?xml version=\"1.0\"?><COLLADA version=\"1.4.1\"><library_images><image id=\"i\"><init_from>"
     "a.png</init_from></image></library_images><scene/></COLLADA>"},
    {6, "ase",
     "*3DSMAX_ASCIIEXPORT 200\n*MATERIAL_LIST {\n*MATERIAL_COUNT 1\n*MATERIAL 0 {\n*MATERIAL_NAME "
     "\"m\"\n*MAP_DIFFUSE {\n*BITMAP \"a.png\"\n}\n}\n}\n"},
    {7, "x",
     "xof 0303txt 0032\nMesh m {\n3;\n0;0;0;,\n1;0;0;,\n0;1;0;;\n1;\n3;0,1,2;;\nMeshMaterialList "
     "{\n1;\n1;\n0;;\nMaterial {\n1;1;1;1;;\n1;\n0;0;0;;\n0;0;0;;\nTextureFilename {\n"
     "\"a.png\";\n}\n}\n}\n}\n"},
    {10, "off", "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"}};

}  // namespace

void Folder::write(const std::string& target, const std::string& name,
                   std::span<const std::byte> bytes) const {
    const std::filesystem::path folder = std::filesystem::path(path_) / target;
    std::filesystem::create_directories(folder);
    std::ofstream(folder / name, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()),
               static_cast<std::streamsize>(bytes.size()));
}

void write_models(const Folder& folder) {
    folder.write_text("model", "text", with_buffer(",\"uri\":\"data:;base64,AACAvwAAAAAAAAAA\""));
    folder.write_text("model", "binary", binary_model());
}

void write_imports(const Folder& folder) {
    for (const Import& import : imports)
        folder.write_text("import", import.name,
                          static_cast<char>(import.number) + std::string(import.text));
}

}  // namespace seeds
