// ylat lint: what is found in files and folders, what it fails for, and what it says of findings.
#include <filesystem>
#include <fstream>
#include <regex>
#include <set>

#include <yl/yl.hpp>

#include "tool/run_ylat.hpp"

using support::contains;
using support::demo_file;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

std::set<std::string> codes_of(const nlohmann::json& file) {
    std::set<std::string> codes;
    for (const auto& finding : file["findings"])
        codes.insert(finding["code"].get<std::string>());
    return codes;
}

/// A pattern whose levels were averaged as if its sRGB codes were numbers.
std::string made_in_gamma_space(const TemporaryFolder& folder) {
    const std::string out = folder.path("gamma.ktx2");
    constexpr std::uint32_t side = 64;
    yl::TextureShape shape{
        .format = yl::Format::rgb8_unorm, .width = side, .height = side, .levels = 7};
    yl::Texture numbers = *yl::Texture::create(shape);
    for (std::uint32_t i = 0; i < 3 * side * side; ++i)
        numbers.level(0)[i] = static_cast<std::byte>(
            (i / 3 % side * 7 + i / 3 / side * 13) % 5 < 2 ? 230 : 30 + i % 3);
    REQUIRE(yl::build_mips(numbers));
    shape.format = yl::Format::rgb8_srgb;
    yl::Texture colors = *yl::Texture::create(shape);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        std::ranges::copy(numbers.level(level), colors.level(level).begin());
    colors.metadata.transfer = yl::Transfer::srgb;
    REQUIRE(yl::write_texture(out, colors));
    return out;
}

}  // namespace

TEST_CASE("the demo's textures are sound") {
    const TemporaryFolder folder;
    for (const auto& [name, role] : {std::pair{"slate", "color"},
                                     {"slate_normal", "normal"},
                                     {"slate_roughness", "data"},
                                     {"moss", "mask"}}) {
        const std::string out = folder.path(std::string(name) + ".ktx2");
        REQUIRE(run_ylat("bake " + demo_file(std::string(name) + ".png") + " --role " + role +
                         " -o " + out)
                    .exit == 0);
        const auto result = run_json("lint " + out + " --role " + role);
        CHECK(result["warnings"] == 0);
        CHECK(result["files"][0]["role"] == role);
    }
}

TEST_CASE("a finding is told with what will be seen, its number and what to do") {
    const TemporaryFolder folder;
    const std::string file = made_in_gamma_space(folder);
    const auto outcome = run_ylat("lint " + file);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.out, "[mips-in-gamma-space]"));
    CHECK(contains(outcome.out, "Fine patterns grow darker from afar."));
    CHECK(contains(outcome.out, "make the levels again, in linear light"));
    CHECK(contains(outcome.out, "1 file: 0 errors, 1 warning, 0 hints"));
    const auto finding = run_json("lint " + file)["files"][0]["findings"][0];
    CHECK(finding["code"] == "mips-in-gamma-space");
    CHECK(finding["level"] == "warning");
    CHECK(finding["measured"] < finding["limit"]);
    CHECK(finding["seen"] == "Fine patterns grow darker from afar.");
}

TEST_CASE("the command that stands beside a finding mends it") {
    const TemporaryFolder folder;
    const auto path = [&](const char* name) { return folder.path(name); };
    const std::string dawn = demo_file("dawn_left.hdr") + " " + demo_file("dawn_top.hdr") + " " +
                             demo_file("dawn_right.hdr") + " " + demo_file("dawn_bottom.hdr") +
                             " " + demo_file("dawn_front.hdr") + " " + demo_file("dawn_back.hdr");
    const std::tuple<std::string, std::string, std::string> spoilt[] = {
        {"green-inverted", path("it's green.png"),
         "rework " + demo_file("slate_normal.png") + " --invert g -o "},
        {"cube-faces-shuffled", path("dawn.ktx2"), "cube " + dawn + " -o "},
        {"looks-premultiplied", path("soft.png"),
         "rework " + demo_file("label.png") + " --resize 800% --premultiply -o "}};
    for (const auto& [name, file, arguments] : spoilt) {
        const std::string code = name;
        CAPTURE(code);
        REQUIRE(run_ylat(arguments + "\"" + file + "\"").exit == 0);
        const auto findings = run_json("lint \"" + file + "\"")["files"][0]["findings"];
        const auto found =
            std::ranges::find_if(findings, [&](const auto& one) { return one["code"] == code; });
        REQUIRE(found != findings.end());
        std::string command = (*found)["command"];
        const std::string out = path(contains(command, "OUT.png") ? "mended.png" : "mended.ktx2");
        for (const auto& [word, meant] : {std::pair<std::string, std::string>{"OUT.png", out},
                                          {"OUT.ktx2", out},
                                          {"FACES/", path("faces/")},
                                          {"ylat ", "'" YLAT_PROGRAM "' --quiet "}})
            for (auto at = command.find(word); at != std::string::npos;
                 at = command.find(word, at + meant.size()))
                command.replace(at, word.size(), meant);
        CAPTURE(command);
        REQUIRE(std::system(command.c_str()) == 0);
        CHECK_FALSE(codes_of(run_json("lint " + out)["files"][0]).contains(code));
    }
}

TEST_CASE("what is denied decides the exit code, what is allowed is left out") {
    const TemporaryFolder folder;
    const std::string file = made_in_gamma_space(folder);
    CHECK(run_ylat("lint " + file + " --deny warning").exit == 1);
    CHECK(run_ylat("lint " + file + " --deny mips-in-gamma-space").exit == 1);
    CHECK(run_ylat("lint " + file + " --deny hint").exit == 1);
    CHECK(run_ylat("lint " + file + " --deny green-inverted").exit == 0);
    CHECK(run_ylat("lint " + file + " --strict").exit == 1);
    const auto allowed = run_ylat("lint " + file + " --deny warning --allow mips-in-gamma-space");
    CHECK(allowed.exit == 0);
    CHECK_FALSE(contains(allowed.out, "mips-in-gamma-space"));
    CHECK(run_ylat("lint " + file + " --deny nonsense").exit == 2);
    CHECK(contains(run_ylat("lint " + file + " --allow nonsense").err, "there is no such finding"));
    CHECK(run_ylat("lint " + file + " --allow no-mips --deny no-mips").exit == 2);
    CHECK(run_ylat("lint").exit == 2);
}

TEST_CASE("folders are looked through; equal textures and broken files are named") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("textures/walls"));
    std::filesystem::copy(demo_file("label.png"), folder.path("textures/label.png"));
    std::filesystem::copy(demo_file("label.png"), folder.path("textures/walls/again.png"));
    std::ofstream(folder.path("textures/notes.txt")) << "no picture";
    const auto result = run_json("lint " + folder.path("textures"));
    REQUIRE(result["files"].size() == 2);
    CHECK_FALSE(codes_of(result["files"][0]).contains("same-as-another"));
    CHECK(codes_of(result["files"][1]).contains("same-as-another"));
    std::ofstream(folder.path("textures/broken.png"), std::ios::binary)
        << "\x89PNG\r\n\x1a\nand no more";
    const auto broken = run_json("lint " + folder.path("textures"), 3);
    CHECK(broken["files"].size() == 3);
    CHECK(broken["files"][0].contains("error"));
    CHECK(broken["files"][1].contains("findings"));
    std::filesystem::create_directories(folder.path("empty"));
    CHECK(run_ylat("lint " + folder.path("empty")).exit == 4);
    CHECK(run_ylat("lint " + folder.path("nowhere.png")).exit == 4);
}

TEST_CASE("textures of a model are looked at as its materials use them") {
    const auto result = run_json("lint " + demo_file("planter.glb"), 0);
    const auto& files = result["files"];
    REQUIRE(files.size() > 6);
    CHECK(files[0]["input"] == demo_file("planter.glb"));
    CHECK_FALSE(files[0].contains("role"));
    std::map<std::string, nlohmann::json> by_name;
    for (const auto& file : files)
        by_name[file["input"].get<std::string>() +
                (file.contains("role") ? " as " + file["role"].get<std::string>() : "")] = file;
    CHECK(by_name.contains(demo_file("planter.glb") + ": slate_normal.png as normal"));
    CHECK(by_name.contains(demo_file("planter.glb") + ": slate_roughness.png as data"));
    std::size_t missing = 0;
    for (const auto& [name, file] : by_name)
        if (codes_of(file).contains("image-missing")) {
            ++missing;
            CHECK(file["findings"][0]["level"] == "error");
        }
    CHECK(missing == 1);
    CHECK(run_ylat("lint " + demo_file("planter.glb") + " --deny error").exit == 1);
    CHECK(run_ylat("lint nowhere.glb").exit == 4);
}

TEST_CASE("a texture that is upside down beside its normals is named") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("walls"));
    std::filesystem::copy(demo_file("slate.png"), folder.path("walls/slate.png"));
    std::filesystem::copy(demo_file("slate_normal.png"), folder.path("walls/slate_normal.png"));
    std::filesystem::copy(demo_file("slate_roughness.png"),
                          folder.path("walls/slate_roughness.png"));
    const auto walls = run_json("lint " + folder.path("walls"));
    REQUIRE(walls["files"].size() >= 2);
    for (const auto& file : walls["files"])
        CHECK_FALSE(codes_of(file).contains("upside-down-among-siblings"));
    REQUIRE(run_ylat("rework " + demo_file("slate_normal.png") + " --turn flip -o " +
                     folder.path("walls/slate_normal.png"))
                .exit == 0);
    const auto turned = run_json("lint " + folder.path("walls"))["files"];
    CHECK(codes_of(turned[1]).contains("upside-down-among-siblings"));
    // Two of one kind are two textures.
    std::filesystem::create_directories(folder.path("others"));
    std::filesystem::copy(demo_file("slate.png"), folder.path("others/tile_1.png"));
    REQUIRE(run_ylat("rework " + demo_file("slate.png") + " --turn flip -o " +
                     folder.path("others/tile_2.png"))
                .exit == 0);
    const auto others = run_json("lint " + folder.path("others"));
    REQUIRE(others["files"].size() >= 2);
    for (const auto& file : others["files"])
        CHECK_FALSE(codes_of(file).contains("upside-down-among-siblings"));
}

TEST_CASE("a blurred sky that is turned beside the sharp one is named") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("skies"));
    REQUIRE(
        run_ylat("cube " + demo_file("dawn.hdr") + " -o " + folder.path("skies/dawn.ktx2")).exit ==
        0);
    REQUIRE(run_ylat("rework " + demo_file("dawn.hdr") + " --turn mirror -o " +
                     folder.path("mirrored.hdr"))
                .exit == 0);
    const auto beside = [&](const std::string& panorama) {
        REQUIRE(run_ylat("cube " + panorama + " --prefilter diffuse --as bc6h-ufloat -o " +
                         folder.path("skies/dawn_light.ktx2"))
                    .exit == 0);
        return run_json("lint " + folder.path("skies"))["files"][1];
    };
    CHECK_FALSE(codes_of(beside(demo_file("dawn.hdr"))).contains("sky-turned-among-siblings"));
    const auto mirrored = beside(folder.path("mirrored.hdr"));
    CHECK(codes_of(mirrored).contains("sky-turned-among-siblings"));
    for (const auto& finding : mirrored["findings"])
        if (finding["code"] == "sky-turned-among-siblings") {
            const std::string problem = finding["problem"];
            CHECK(contains(problem, "dawn.ktx2"));
            CHECK(contains(problem, "mirrored"));
        }
}

TEST_CASE("roughness in a folder is held against the normals of its name") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("walls"));
    constexpr std::uint32_t side = 128;
    yl::Image normals = *yl::Image::create(yl::Format::rgb8_unorm, side, side),
              roughness = *yl::Image::create(yl::Format::r8_unorm, side, side);
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            // Steep to one side or the other, texel by texel.
            std::byte* normal = &normals.view().row(y)[3 * std::size_t{x}];
            normal[0] = static_cast<std::byte>((x * 7 + y * 3) % 2 == 0 ? 200 : 55);
            normal[1] = std::byte{128};
            normal[2] = std::byte{232};
            roughness.view().row(y)[x] = std::byte{80};
        }
    REQUIRE(yl::write_picture(folder.path("walls/brick_normal.png"), normals.view()));
    REQUIRE(yl::write_picture(folder.path("brick_roughness.png"), roughness.view()));
    const auto linted = [&](const std::string& options) {
        REQUIRE(run_ylat("bake " + folder.path("brick_roughness.png") + " --role data " + options +
                         " -o " + folder.path("walls/brick_roughness.ktx2"))
                    .exit == 0);
        return codes_of(run_json("lint " + folder.path("walls"))["files"][1]);
    };
    CHECK(linted("").contains("roughness-not-widened"));
    const auto files = run_json("lint " + folder.path("walls"))["files"];
    for (const auto& finding : files[1]["findings"])
        if (finding["code"] == "roughness-not-widened") {
            const std::string remedy = finding["remedy"];
            CHECK(contains(remedy, "brick_normal.png"));
        }
    CHECK_FALSE(linted("--normals " + folder.path("walls/brick_normal.png"))
                    .contains("roughness-not-widened"));
    CHECK_FALSE(linted("--levels 1").contains("roughness-not-widened"));
}

TEST_CASE("what channels hold is told by names") {
    const TemporaryFolder folder;
    constexpr std::uint32_t side = 64;
    yl::Image packed = *yl::Image::create(yl::Format::rgb8_unorm, side, side);
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            std::byte* texel = &packed.view().row(y)[3 * std::size_t{x}];
            texel[0] = std::byte{230};
            texel[1] = std::byte{static_cast<unsigned char>(x < y ? 255 : 0)};  // metalness
            texel[2] = static_cast<std::byte>(60 + 2 * x);                      // roughness
        }
    REQUIRE(yl::write_picture(folder.path("crate_orm.png"), packed.view()));
    REQUIRE(yl::write_picture(folder.path("crate_other.png"), packed.view()));
    const auto files = run_json("lint " + folder.path("crate_orm.png") + " " +
                                folder.path("crate_other.png") + " --role data")["files"];
    CHECK(codes_of(files[0]).contains("channels-swapped"));
    CHECK_FALSE(codes_of(files[1]).contains("channels-swapped"));
}

TEST_CASE("what a material makes of alpha is held against its texture") {
    const TemporaryFolder folder;
    REQUIRE(run_ylat("rework " + demo_file("slate.png") + " --mask " +
                     demo_file("slate_roughness.png") + " -o " + folder.path("soft.png"))
                .exit == 0);
    const auto codes_with = [&](const std::string& mode) {
        std::ofstream(folder.path("leaf.gltf"))
            << R"({"asset": {"version": "2.0"}, "images": [{"uri": "soft.png"}],)"
            << R"("textures": [{"source": 0}], "materials": [{"alphaMode": ")" << mode
            << R"(", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]})";
        std::set<std::string> codes;
        const auto linted = run_json("lint " + folder.path("leaf.gltf"));
        for (const auto& file : linted["files"])
            codes.merge(codes_of(file));
        return codes;
    };
    CHECK(codes_with("MASK").contains("cutout-soft"));
    CHECK_FALSE(codes_with("BLEND").contains("cutout-soft"));
}

TEST_CASE("a format is tried on a sample") {
    const auto codes = [](const std::string& options) {
        return codes_of(run_json("lint " + demo_file("slate_normal.png") + options)["files"][0]);
    };
    CHECK(codes(" --role normal --as bc1").contains("format-too-weak"));
    CHECK_FALSE(codes(" --role normal --as bc5").contains("format-too-weak"));
    CHECK(run_ylat("lint " + demo_file("slate.png") + " --as nonsense").exit == 2);
}

TEST_CASE("a file beside the textures says how they are looked at") {
    const TemporaryFolder folder;
    std::filesystem::create_directories(folder.path("walls/old"));
    const std::string normal = folder.path("walls/old/brick_nm.png"),
                      settings = folder.path("walls/.ylat-lint.toml");
    REQUIRE(run_ylat("rework " + demo_file("slate_normal.png") + " --invert g -o " + normal).exit ==
            0);
    std::filesystem::copy(demo_file("slate.png"), folder.path("walls/brick_nm.png"));
    const auto write = [&](const std::string& text) { std::ofstream(settings) << text; };
    CHECK(run_ylat("lint " + folder.path("walls")).exit == 0);
    write("deny = [\"green-inverted\"]\n[[files]]\nnames = \"*_nm.png\"\nrole = \"normal\"\n");
    const auto denied = run_json("lint " + folder.path("walls"), 1);
    CHECK(denied["files"][0]["role"] == "normal");
    CHECK(codes_of(denied["files"][0]).contains("no-normals"));
    CHECK(codes_of(denied["files"][1]).contains("green-inverted"));
    // The nearest file counts; the command line goes before it.
    std::ofstream(folder.path("walls/old/.ylat-lint.toml")) << "allow = [\"green-inverted\"]\n";
    CHECK_FALSE(codes_of(run_json("lint " + normal)["files"][0]).contains("green-inverted"));
    CHECK(run_ylat("lint " + normal + " --deny green-inverted").exit == 1);
    CHECK(run_json("lint " + folder.path("walls/brick_nm.png") +
                   " --role color")["files"][0]["role"] == "color");
    for (const auto& [text, where, what] :
         {std::tuple{"denny = []", ":1:1", "did you mean 'deny'?"},
          std::tuple{"deny = \"warning\"", ":1:8", "'deny' is a list"},
          std::tuple{"allow = [\"no-mips\", \"nonsense\"]", ":1:21",
                     "there is no finding 'nonsense'"},
          std::tuple{"role = 3", ":1:8", "'role' is a text"},
          std::tuple{"\nrole = \"hat\"", ":2:8", "hat"},
          std::tuple{"[[files]]\nrole = \"normal\"", ":1:1", "needs 'names'"},
          std::tuple{"[files]\nnames = \"a\"", ":1:", "[[files]]"},
          std::tuple{"[[files]]\nname = \"a\"", ":2:1", "did you mean 'names'?"},
          std::tuple{"deny = [", ":1:", ""}}) {
        const std::string content = text;
        CAPTURE(content);
        write(content);
        const auto outcome = run_ylat("lint " + folder.path("walls/brick_nm.png"));
        CAPTURE(outcome.err);
        CHECK(outcome.exit == 2);
        CHECK(contains(outcome.err, settings + where));
        CHECK(contains(outcome.err, what));
    }
}

TEST_CASE("options tell how a texture is used") {
    const TemporaryFolder folder;
    const std::string file = folder.path("ramp.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("label.png") + " -o " + file).exit == 0);
    const std::string compares = "lint " + file + " --sampler compare=less";
    CHECK_FALSE(codes_of(run_json(compares)["files"][0]).contains("compare-without-depth"));
    CHECK(codes_of(run_json(compares + " --device webgl2")["files"][0])
              .contains("compare-without-depth"));
    CHECK(codes_of(run_json("lint " + demo_file("slate.png") + " --role normal")["files"][0])
              .contains("no-normals"));
    CHECK(run_ylat("lint " + file + " --device nonsense").exit == 2);
    CHECK(run_ylat("lint " + file + " --sampler nonsense").exit == 2);
}

TEST_CASE("every finding is explained, and every one of the sources is among them") {
    const auto one = run_ylat("lint --explain green-inverted");
    CHECK(one.exit == 0);
    CHECK(contains(one.out, "Bumps look like dents"));
    CHECK(run_ylat("lint --explain nonsense").exit == 2);
    std::set<std::string> known;
    for (const auto& info : run_json("lint --explain all"))
        known.insert(info["code"].get<std::string>());
    // A code stands as a literal of its own before the sentence that tells of the problem.
    const std::regex code(
        R"((?:\{|\(|,\s)\s*\"([a-z0-9]+(?:-[a-z0-9]+)+)\",\s*(?:fmt::format|\"[^\"]* |[a-z_.]*(?:remark|text|what)))");
    std::size_t seen = 0;
    for (const char* room : {"src/bake", "src/upload", "src/model", "src/sampling", "src/container",
                             "src/lint", "tool"})
        for (const auto& file : std::filesystem::recursive_directory_iterator(
                 std::string(SOURCE_FOLDER) + "/" + room)) {
            if (file.path().extension() != ".cpp" || file.path().filename() == "finding_table.cpp")
                continue;
            std::ifstream stream(file.path());
            const std::string text(std::istreambuf_iterator<char>(stream), {});
            for (auto found = std::sregex_iterator(text.begin(), text.end(), code);
                 found != std::sregex_iterator(); ++found) {
                const std::string name = (*found)[1];
                if (!known.contains(name))
                    MESSAGE(file.path().string(), ": ", name);
                CHECK(known.contains(name));
                ++seen;
            }
        }
    CHECK(seen > 80);
}
