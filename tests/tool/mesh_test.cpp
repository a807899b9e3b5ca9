// ylat mesh.
#include <fstream>

#include "tool/run_ylat.hpp"

using nlohmann::json;
using support::contains;
using support::demo_file;
using support::Outcome;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

TEST_CASE("mesh lists images and slots, and says what is missing") {
    const TemporaryFolder folder;
    std::filesystem::copy(demo_file("slate.png"), folder.path("slate.png"));
    std::ofstream(folder.path("model.gltf")) << R"({"asset": {"version": "2.0"},
        "images": [{"uri": "slate.png"}, {"uri": "gone.png", "name": "moss"}],
        "samplers": [{"wrapS": 33071, "minFilter": 9985}],
        "textures": [{"source": 0, "sampler": 0}, {"source": 1}],
        "materials": [{"name": "stone", "alphaMode": "MASK",
            "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}},
            "normalTexture": {"index": 1, "texCoord": 1}}]})";
    const std::string model = folder.path("model.gltf");
    const Outcome outcome = run_ylat("mesh " + model);
    CHECK(outcome.exit == 1);
    CHECK(contains(outcome.out, "512 x 512"));
    CHECK(contains(outcome.out, "missing"));
    CHECK(contains(outcome.out, "mask 0.5"));
    CHECK(contains(outcome.out, "wrap=clamp-to-edge,repeat"));
    CHECK(contains(outcome.err, "image 1 (moss) cannot be had"));
    const json report = run_json("mesh " + model, 1);
    CHECK(report["images"][0]["file_format"] == "PNG");
    CHECK(report["materials"][0]["textures"][0]["role"] == "color");
    CHECK(report["materials"][0]["textures"][1]["coordinate_set"] == 1);
    CHECK(report["materials"][0]["textures"][1]["image"] == 1);
    CHECK(run_ylat("mesh " + demo_file("slate.png")).exit == 3);
    CHECK(run_ylat("mesh " + folder.path("none.glb")).exit == 4);
}
