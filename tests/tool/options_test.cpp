// Every option of every command, on every kind of input: it changes the result, is refused, or is
// remarked on.
#include <algorithm>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::must;
using support::Outcome;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

/// One way to run a command: what is given, and the file or folder that comes out.
struct Run {
    std::string name;
    std::string command;        ///< with {out} where the output stands
    std::string output;         ///< a name in the test's folder
    bool says_results = false;  ///< what is said counts as well
};

/// An option with values, of which one at least differs from what would be so without it.
struct Given {
    std::string option;
    std::vector<std::string> values = {""};
    std::string said = {};  ///< what is told of it where the result has to be the same
};

/// All that a run leaves behind: its exit code, and its files' bytes, or what it says where it
/// writes none.
std::string left_behind(const TemporaryFolder& folder, const Run& run, const Outcome& outcome) {
    const std::filesystem::path path = folder.path(run.output);
    std::string bytes = std::to_string(outcome.exit) + "\n";
    if (run.output.empty() || run.says_results)
        bytes += outcome.out;
    if (run.output.empty())
        return bytes;
    const auto add = [&](const std::filesystem::path& file) {
        const auto content = support::read_bytes(file.string());
        bytes += file.filename().string() + "\n";
        bytes.append(reinterpret_cast<const char*>(content.data()), content.size());
    };
    if (std::filesystem::is_directory(path)) {
        std::set<std::filesystem::path> files;
        for (const auto& entry : std::filesystem::directory_iterator(path))
            files.insert(entry.path());
        for (const auto& file : files)
            add(file);
    } else if (std::filesystem::exists(path)) {
        add(path);
    }
    std::filesystem::remove_all(path);
    return bytes;
}

Outcome run_with(const TemporaryFolder& folder, const Run& run, const std::string& more) {
    std::string command = run.command;
    const std::size_t place = command.find("{out}");
    if (place != std::string::npos)
        command.replace(place, 5, "'" + folder.path(run.output) + "'");
    return run_ylat(command + " " + more);
}

/// The options that a command's help lists.
std::set<std::string> options_of(const std::string& command) {
    std::set<std::string> options;
    std::istringstream words(run_ylat(command + " --help").out);
    for (std::string word; words >> word;) {
        const bool is_option = word.starts_with("--") && word.size() > 2;
        if (is_option)
            options.insert(word.substr(0, word.find_first_of(",:=")));
    }
    options.erase("--help");
    return options;
}

/// Whether a message speaks of an option: by all words of its name, of a refusal by one; or by its
/// value.
bool speaks_of(const std::string& message, const std::string& option, const std::string& value,
               bool is_refusal) {
    std::string words = option.substr(2);
    std::ranges::replace(words, '-', ' ');
    std::istringstream each(words);
    std::size_t said = 0, all = 0;
    for (std::string word; each >> word; ++all)
        said += contains(message, word) ? 1 : 0;
    return (is_refusal ? said > 0 : said == all) || (!value.empty() && contains(message, value));
}

/// Whether one of the option's values is honoured, refused or remarked on.
void check_option(const TemporaryFolder& folder, const Run& run, const std::string& before,
                  const Given& given) {
    std::string said;
    bool is_heard = false;
    for (const std::string& value : given.values) {
        const Outcome outcome =
            run_with(folder, run, given.option + (value.empty() ? "" : " '" + value + "'"));
        const std::string after = left_behind(folder, run, outcome);
        const bool is_refused = outcome.exit >= 2 && outcome.exit <= 3;
        const bool is_done = outcome.exit <= 1;
        is_heard =
            is_heard || (is_done && after != before) ||
            (is_done && !given.said.empty() && contains(outcome.out, given.said)) ||
            ((is_done || is_refused) && speaks_of(outcome.err, given.option, value, is_refused));
        said += outcome.err;
    }
    CAPTURE(run.name);
    CAPTURE(given.option);
    CAPTURE(said);
    CHECK(is_heard);
}

void check_options(const TemporaryFolder& folder, const std::string& command,
                   const std::vector<Run>& runs, const std::vector<Given>& options) {
    std::set<std::string> known;
    for (const Given& given : options)
        known.insert(given.option);
    for (const std::string& option : options_of(command)) {
        CAPTURE(option);
        CHECK(known.contains(option));  // an option without a value here is not looked at
    }
    for (const Run& run : runs) {
        CAPTURE(run.name);
        const Outcome outcome = run_with(folder, run, "");
        CAPTURE(outcome.err);
        REQUIRE(outcome.exit <= 1);
        const std::string before = left_behind(folder, run, outcome);
        for (const Given& given : options)
            if (!given.values.empty() && !contains(run.command, given.option + " "))
                check_option(folder, run, before, given);
    }
}

/// Small inputs of each kind.
class Inputs {
 public:
    Inputs() {
        make("color.png", "rework " + demo_file("slate.png") + " --resize 47x41 -o");
        make("cutout.png", "rework " + demo_file("lattice.png") + " --crop 0,0,61x45 -o");
        make("normal.png",
             "rework --role normal " + demo_file("slate_normal.png") + " --resize 31x33 -o");
        make("gray.png", "rework --role mask " + demo_file("moss.png") + " --resize 33x31 -o");
        make("light.exr", "rework " + demo_file("dawn.hdr") + " --resize 120x60 -o");
        make("color.ktx2", "bake " + path("cutout.png") + " -o");
        make("blocks.ktx2", "bake --as bc7 " + path("cutout.png") + " -o");
        make("color.dds", "bake " + path("cutout.png") + " -o");
        make("one.ktx2", "bake --levels 1 " + path("color.png") + " -o");
        make("cutout2.png", "rework " + demo_file("lattice.png") + " --crop 70,30,61x45 -o");
        make("array.ktx2",
             "bake --array " + path("color.png") + " " + path("normal.png") + " --sizes resize -o");
        make("volume.ktx2",
             "bake --volume " + path("cutout.png") + " " + path("cutout2.png") + " -o");
        make("atlas.ktx2", "atlas " + path("cutout.png") + " " + path("gray.png") + " -o");
        make("other.ktx2", "atlas " + path("color.png") + " -o");
        make("sky.ktx2", "cube " + path("light.exr") + " -o");
        make("color_sky.ktx2",
             "cube " + path("sky.png", "rework " + path("light.exr") + " -o") + " -o");
    }

    [[nodiscard]] std::string path(const std::string& name) const {
        return "'" + folder_.path(name) + "'";
    }
    [[nodiscard]] std::string folder() const { return folder_.path("."); }

 private:
    std::string path(const std::string& name, const std::string& command) {
        make(name, command);
        return path(name);
    }
    void make(const std::string& name, const std::string& command) {
        const Outcome outcome = run_ylat(command + " " + path(name));
        CAPTURE(command);
        CAPTURE(outcome.err);
        REQUIRE(outcome.exit == 0);
    }

    TemporaryFolder folder_;
};

}  // namespace

namespace {

/// The options of bake, with values that change something somewhere.
std::vector<Given> bake_options(const Inputs& inputs) {
    return {{"--role", {"normal", "data"}},
            {"--alpha", {"data", "coverage"}},
            {"--transfer", {"linear", "srgb"}},
            {"--as", {"bc7", "rgba8"}},
            {"--levels", {"2"}},
            {"--origin", {"bottom"}},
            {"--supercompress", {"zstd"}},
            {"--sampler", {"mag=nearest"}},
            {"--old-header"},
            {"--effort", {"1"}},
            {"--weights", {"perceptual"}},
            {"--bc1-black"},
            {"--rate-distortion", {"20"}},
            {"--etc1-only"},
            {"--filter", {"triangle", "box"}},
            {"--edge", {"repeat"}},
            {"--reduce", {"maximum"}},
            {"--coverage", {"0.3"}},
            {"--level", {"1=" + inputs.path("cutout.png")}},
            {"--normals", {inputs.path("normal.png")}},
            {"--sharpen", {"1"}},
            {"--fade", {"1..3"}},
            {"--first-level", {"1"}},
            {"--max-size", {"16"}},
            {"--pow2", {"down", "up"}},
            {"--from-top"},
            {"--dim-fireflies"},
            {"--limit-ringing"},
            {"--dither"},
            {"--plain-chain"},
            {"--array"},
            {"--volume"},
            {"--sizes", {"pad", "resize", "refuse"}},
            {"--slices", {"3"}},
            {"--role-of", {"*=data"}},
            {"--frames"},
            {"--by-rows", {""}, "the whole picture"},
            {"--stored-levels"},
            {"--part", {"front"}},
            {"--profile", {"keep"}}};
}

void check_bake(const TemporaryFolder& folder, const Inputs& inputs, const std::vector<Run>& runs) {
    check_options(folder, "bake", runs, bake_options(inputs));
}

std::vector<Run> bakes_of(const Inputs& inputs, std::initializer_list<const char*> files) {
    std::vector<Run> runs;
    for (const char* input : files)
        for (const char* output : {"t.ktx2", "t.dds"})
            runs.push_back({std::string(input) + " to " + output,
                            "bake " + inputs.path(input) + " -o {out}", output});
    return runs;
}

}  // namespace

TEST_CASE("bake: every option on every kind of picture is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    check_bake(folder, inputs,
               bakes_of(inputs, {"color.png", "cutout.png", "gray.png", "light.exr"}));
}

TEST_CASE("bake: every option on every kind of texture is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    check_bake(
        folder, inputs,
        bakes_of(inputs, {"color.ktx2", "blocks.ktx2", "color.dds", "one.ktx2", "sky.ktx2"}));
}

TEST_CASE("bake: every option beside others is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    const std::string cutout = inputs.path("cutout.png"), gray = inputs.path("gray.png");
    const auto run = [](const std::string& name, const std::string& command) {
        return Run{name, "bake " + command + " -o {out}", "t.ktx2"};
    };
    check_bake(folder, inputs,
               {run("blocks", "--as bc7 " + cutout), run("bc1", "--as bc1 --effort 8 " + cutout),
                run("etc2", "--as etc2-rgb8 " + cutout),
                run("normals", "--role normal " + inputs.path("normal.png")),
                run("roughness", "--role data " + gray),
                run("array", "--array --sizes pad " + cutout + " " + gray),
                run("volume", "--volume --sizes resize " + cutout + " " + gray)});
}

TEST_CASE("cube: every option on every kind of input is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    std::string six;
    for (const char* face : {"right", "left", "top", "bottom", "front", "back"})
        six += std::string(" ") + demo_file("dawn_" + std::string(face) + ".hdr");
    std::vector<Run> runs = {
        {"panorama", "cube " + inputs.path("light.exr") + " -o {out}", "t.ktx2"},
        {"colours", "cube " + inputs.path("sky.png") + " -o {out}", "t.ktx2"},
        {"to dds", "cube " + inputs.path("sky.png") + " -o {out}", "t.dds"},
        {"blocks", "cube --as bc7 " + inputs.path("sky.png") + " -o {out}", "t.ktx2"},
        {"rough",
         "cube --prefilter specular --samples 16 --face-size 16 " + inputs.path("light.exr") +
             " -o {out}",
         "t.ktx2"},
        {"matt", "cube --prefilter diffuse --face-size 8 " + inputs.path("light.exr") + " -o {out}",
         "t.ktx2"},
        {"six", "cube" + six + " -o {out}", "t.ktx2"},
        {"table", "cube --lookup --face-size 16 -o {out}", "t.ktx2"},
    };
    check_options(folder, "cube", runs,
                  {{"--role", {"normal", "data"}},
                   {"--alpha", {"data", "coverage"}},
                   {"--transfer", {"linear", "srgb"}},
                   {"--as", {"rgba16-unorm"}},
                   {"--sampler", {"mag=nearest"}},
                   {"--supercompress", {"zstd"}},
                   {"--layout", {"octahedral", "row"}},
                   {"--convention", {"z-up"}},
                   {"--reorder"},
                   {"--top", {inputs.path("light.exr")}},
                   {"--front", {inputs.path("light.exr")}},
                   {"--turn", {"front=half"}},
                   {"--face-size", {"12"}},
                   {"--levels", {"2"}},
                   {"--filter", {"box"}},
                   {"--join-edges"},
                   {"--level", {"1=" + inputs.path("sky.png")}},
                   {"--prefilter", {"diffuse"}},
                   {"--samples", {"8"}},
                   {"--roughness", {"0,0.3"}},
                   {"--lookup"},
                   {"--dither"},
                   {"--effort", {"1"}},
                   {"--weights", {"perceptual"}},
                   {"--bc1-black"},
                   {"--rate-distortion", {"20"}},
                   {"--etc1-only"}});
}

TEST_CASE("rework: every option on every kind of input is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    std::vector<Run> runs;
    for (const char* input : {"color.png", "cutout.png", "gray.png", "light.exr", "color.ktx2",
                              "blocks.ktx2", "sky.ktx2"})
        for (const char* output : {"t.png", "t.jpg", "t.exr"})
            runs.push_back({std::string(input) + " to " + output,
                            "rework " + inputs.path(input) + " -o {out}", output});
    check_options(folder, "rework", runs,
                  {{"--role", {"data"}},
                   {"--alpha", {"data", "coverage"}},
                   {"--transfer", {"linear", "srgb"}},
                   {"--profile", {"keep"}},
                   {"--part", {"front"}},
                   {"--pack", {"r=" + inputs.path("gray.png")}},
                   {"--filter", {"box"}},
                   {"--edge", {"repeat"}},
                   {"--limit-ringing"},
                   {"--dither"},
                   {"--effort", {"1"}},
                   {"--split", {""}},
                   {"--quality", {"40"}},
                   {"--whole-chroma"},
                   {"--progressive"},
                   {"--gray"},
                   {"--levels", {"0.1,0.8"}},
                   {"--curve", {"0,0.2:1,0.9"}},
                   {"--tile", {"0.25"}},
                   {"--turn", {"right"}},
                   {"--crop", {"1,1,8x8"}},
                   {"--resize", {"16x16"}},
                   {"--channels", {"bgr"}},
                   {"--invert", {"g"}},
                   {"--composite-over", {"1,0,0.25"}},
                   {"--mask", {inputs.path("gray.png")}},
                   {"--normals", {"2"}},
                   {"--bits", {"16", "8"}},
                   {"--premultiply"},
                   {"--unpremultiply"},
                   {"--bleed"}});
}

TEST_CASE("unpack, sheet, diff and upload: every option is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    std::vector<Run> unpacks, sheets, diffs, uploads;
    for (const char* input :
         {"color.ktx2", "blocks.ktx2", "color.dds", "sky.ktx2", "color_sky.ktx2"}) {
        unpacks.push_back({input, "unpack " + inputs.path(input) + " -o {out}", "d"});
        sheets.push_back({input, "sheet " + inputs.path(input) + " -o {out}", "t.png"});
        uploads.push_back({input, "upload --api gl " + inputs.path(input), ""});
        if (std::string(input) != "sky.ktx2")  // light is fit for every role
            uploads.push_back({std::string(input) + " planned",
                               "upload --plan vulkan-desktop " + inputs.path(input), ""});
    }
    uploads.push_back(
        {"blocks for a phone", "upload --plan vulkan-mobile " + inputs.path("blocks.ktx2"), ""});
    sheets.push_back({"picture", "sheet " + inputs.path("cutout.png") + " -o {out}", "t.png"});
    sheets.push_back(
        {"enlarged", "sheet --enlarge " + inputs.path("color.ktx2") + " -o {out}", "t.png"});
    diffs.push_back(
        {"textures", "diff " + inputs.path("color.ktx2") + " " + inputs.path("blocks.ktx2"), ""});
    diffs.push_back(
        {"drawn",
         "diff " + inputs.path("color.ktx2") + " " + inputs.path("blocks.ktx2") + " -o {out}",
         "t.png", true});
    const std::vector<Given> told = {{"--role", {"data", "normal"}},
                                     {"--alpha", {"data", "coverage"}},
                                     {"--transfer", {"linear", "srgb"}}};
    const auto with_told = [&](std::vector<Given> values) {
        values.insert(values.end(), told.begin(), told.end());
        return values;
    };
    check_options(folder, "unpack", unpacks,
                  with_told({{"--layout", {"panorama"}},
                             {"--convention", {"z-up"}},
                             {"--rebuild-z"},
                             {"--level", {"1"}},
                             {"--width", {"16"}},
                             {"--ending", {"tga"}}}));
    check_options(folder, "sheet", sheets,
                  with_told({{"--enlarge"},
                             {"--max-size", {"200"}},
                             {"--channels", {"r"}},
                             {"--stops", {"2"}},
                             {"--columns", {"1"}}}));
    check_options(folder, "diff", diffs,
                  with_told({{"--tolerance", {"64"}}, {"--full", {"3"}}, {"--level", {"1"}}}));
    check_options(folder, "upload", uploads,
                  with_told({{"--api", {"gles"}},
                             {"--device", {"none"}},
                             {"--sampler", {"mag=nearest"}},
                             {"--plan", {"webgpu"}},
                             {"--from-level", {"1"}},
                             {"--staging", {"1k"}},
                             {"--smallest-first"},
                             {"--transcode"},
                             {"--effort", {"0"}}}));
}

TEST_CASE("draw: every option in every scene is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    const std::string planter = demo_file("planter.glb");
    std::vector<Run> runs;
    for (const char* scene : {"floor", "panel"})
        runs.push_back({scene,
                        std::string("draw ") + scene + " " + inputs.path("cutout.png") +
                            " --size 96x64 -o {out}",
                        "t.png"});
    for (const char* scene : {"sky", "ball"})
        runs.push_back({scene,
                        std::string("draw ") + scene + " " + inputs.path("sky.ktx2") +
                            " --size 96x64 -o {out}",
                        "t.png"});
    runs.push_back(
        {"lit",
         "draw floor " + inputs.path("normal.png") + " --lamp 0.3,0.4,0.8 --size 96x64 -o {out}",
         "t.png"});
    runs.push_back({"model", "draw model " + planter + " --size 96x64 -o {out}", "t.png"});
    for (const char* texture : {"array.ktx2", "volume.ktx2", "atlas.ktx2 --part cutout"})
        runs.push_back({texture,
                        "draw panel " + inputs.folder() + "/" + texture + " --size 96x64 -o {out}",
                        "t.png"});
    check_options(folder, "draw", runs,
                  {{"--role", {"data"}},
                   {"--alpha", {"data", "coverage"}},
                   {"--transfer", {"linear", "srgb"}},
                   {"--sampler", {"mag=nearest min=nearest mip=none"}},
                   {"--api", {"gl"}},
                   {"--device", {"none"}},
                   {"--size", {"64x48"}},
                   {"--columns", {"1"}},
                   {"--declare-levels", {"1..2"}},
                   {"--cutout", {"0.5"}},
                   {"--lamp", {"0,0.5,0.8"}},
                   {"--roughness", {"0.7"}},
                   {"--roughness-map", {inputs.path("gray.png")}},
                   {"--layer", {"1"}},
                   {"--slice", {"1"}},
                   {"--part", {"gray"}},
                   {"--table", {inputs.path("other.json")}},
                   {"--tiles", {"2,3"}},
                   {"--turn", {"30"}},
                   {"--tilt", {"30"}},
                   {"--repeats", {"3"}},
                   {"--pitch", {"35"}},
                   {"--yaw", {"10"}},
                   {"--fov", {"30"}},
                   {"--stops", {"2"}},
                   {"--show", {"uv"}},
                   {"--zoom", {"2"}},
                   {"--allow-outside", {}},
                   {"--matt"}});
}

TEST_CASE("atlas: every option on every kind of input is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const Inputs inputs;
    std::vector<Run> runs;
    for (const auto& [name, pictures] :
         {std::pair{"cut-outs", inputs.path("cutout.png") + " " + inputs.path("gray.png")},
          std::pair{"opaque", inputs.path("color.png") + " " + inputs.path("normal.png")},
          std::pair{"light", inputs.path("light.exr")}})
        for (const char* ending : {"ktx2", "dds"})
            runs.push_back({std::string(name) + " " + ending, "atlas " + pictures + " -o {out}",
                            std::string("t.") + ending});
    check_options(folder, "atlas", runs,
                  {{"--role", {"data", "mask"}},
                   {"--alpha", {"data", "coverage"}},
                   {"--transfer", {"linear", "srgb"}},
                   {"--profile", {"keep"}},
                   {"--part", {"front"}},
                   {"--as", {"bc7", "rgba16-float"}},
                   {"--levels", {"1", "full"}},
                   {"--supercompress", {"zstd"}},
                   {"--sampler", {"mag=nearest"}},
                   {"--filter", {"box", "lanczos:4"}},
                   {"--coverage", {"0.5", "0.9", "0.1"}},
                   {"--table", {}},
                   {"--keep", {}},
                   {"--clean-levels", {"1"}},
                   {"--turn", {}},
                   {"--keep-borders"},
                   {"--layers", {}},
                   {"--frames"},
                   {"--tile", {"nobody"}},
                   {"--pivot", {"nobody=1,2"}},
                   {"--max-size", {"8"}},
                   {"--pow2", {"up"}},
                   {"--effort", {"1"}},
                   {"--weights", {"perceptual"}},
                   {"--bc1-black"},
                   {"--rate-distortion", {"10"}},
                   {"--etc1-only"}});
}

TEST_CASE("model: every option is honoured, refused or remarked on") {
    const TemporaryFolder folder;
    const std::string planter = demo_file("planter.glb");
    check_options(folder, "model",
                  {{"listed", "model " + planter, ""},
                   {"baked", "model " + planter + " --bake {out}", "t.glb"}},
                  {{"--allow-outside", {}},
                   {"--plan", {"webgpu"}},
                   {"--bake", {folder.path("u.glb")}},
                   {"--extract", {folder.path("images")}},
                   {"--keep-png"},
                   {"--as", {"rgba8"}},
                   {"--effort", {"1"}},
                   {"--max-size", {"16"}},
                   {"--pow2", {"down", "up"}},
                   {"--supercompress", {"zlib"}}});
}

TEST_CASE("pictures whose row 0 is at the bottom are shown upright by every command") {
    const TemporaryFolder folder;
    const Inputs inputs;
    const std::string top = "'" + folder.path("t.ktx2") + "'";
    const std::string bottom = "'" + folder.path("b.ktx2") + "'";
    REQUIRE(run_ylat("bake " + inputs.path("color.png") + " -o " + top).exit == 0);
    REQUIRE(run_ylat("bake --origin bottom " + inputs.path("color.png") + " -o " + bottom).exit ==
            0);
    CHECK(run_ylat("diff " + top + " " + bottom).exit == 0);
    const auto shown = [&](const std::string& command, const std::string& texture) {
        const std::string out = folder.path("p.png");
        REQUIRE(run_ylat(command + " " + texture + " -o '" + out + "'").exit == 0);
        return must(read_picture(out));
    };
    for (const char* command : {"draw panel", "draw floor", "rework"})
        CHECK(support::equal_pixels(support::view_of(shown(command, top).image),
                                    support::view_of(shown(command, bottom).image)));
    REQUIRE(run_ylat("unpack " + top + " -o '" + folder.path("ut") + "'").exit == 0);
    REQUIRE(run_ylat("unpack " + bottom + " -o '" + folder.path("ub") + "'").exit == 0);
    CHECK(support::read_bytes(folder.path("ut/t_level0.png")) ==
          support::read_bytes(folder.path("ub/b_level0.png")));
}
