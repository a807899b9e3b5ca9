// ylat batch: lists of textures, built as a person builds them.
#include <fcntl.h>
#include <signal.h>
#include <sys/resource.h>
#include <unistd.h>

#include <chrono>
#include <fstream>
#include <random>
#include <set>
#include <thread>

#include "tool/run_ylat.hpp"

using support::contains;
using support::demo_file;
using support::Outcome;
using support::run_ylat;
using support::TemporaryFolder;
using Json = nlohmann::json;
namespace fs = std::filesystem;
using namespace std::chrono_literals;

namespace {

/// A folder with pictures of the demo and a list.
struct Project {
    TemporaryFolder folder = {};

    explicit Project(
        const std::string& list = "[[textures]]\nfiles = \"in/*.png\"\nas = \"bc1\"\n") {
        fs::create_directories(path("in"));
        for (const char* name : {"slate", "slate_normal", "moss", "label"})
            fs::copy_file(demo_file(std::string(name) + ".png"),
                          path(std::string("in/") + name + ".png"));
        support::write_text(path("list.toml"), list);
    }
    [[nodiscard]] std::string path(const std::string& name) const { return folder.path(name); }
    [[nodiscard]] Outcome batch(const std::string& options = "",
                                const std::string& common = "") const {
        return run_ylat(common + " batch '" + path("list.toml") + "' " + options);
    }
    [[nodiscard]] Json json(const std::string& options, int exit = 0) const {
        const Outcome outcome = batch(options, "--json");
        CAPTURE(outcome.out);
        CAPTURE(outcome.err);
        REQUIRE(outcome.exit == exit);
        return Json::parse(outcome.out);
    }
    /// The last line of a run's stream of events.
    [[nodiscard]] Json end(const std::string& options = "", int exit = 0) const {
        const auto all = events(options, exit);
        REQUIRE(all.back()["event"] == "end");
        return all.back();
    }
    [[nodiscard]] std::vector<Json> events(const std::string& options = "", int exit = 0) const {
        const Outcome outcome = batch(options, "--json");
        CAPTURE(outcome.out);
        CAPTURE(outcome.err);
        REQUIRE(outcome.exit == exit);
        std::vector<Json> lines;
        std::istringstream stream(outcome.out);
        for (std::string line; std::getline(stream, line);)
            lines.push_back(Json::parse(line));
        return lines;
    }
};

std::string text_of(const std::string& path) {
    std::ifstream stream(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

/// All files below a folder with their contents, but for what the batch knows.
std::map<std::string, std::string> contents(const std::string& folder) {
    std::map<std::string, std::string> found;
    for (const auto& one : fs::recursive_directory_iterator(folder))
        if (one.is_regular_file() && !contains(one.path().string(), ".ylat-batch"))
            found[fs::relative(one.path(), folder).string()] = text_of(one.path().string());
    return found;
}

/// The tool as a process that can be killed.
pid_t start_ylat(std::vector<std::string> words) {
    const pid_t child = ::fork();
    if (child != 0)
        return child;
    const int nowhere = ::open("/dev/null", O_WRONLY);
    ::dup2(nowhere, 1);
    ::dup2(nowhere, 2);
    std::vector<char*> arguments;
    words.insert(words.begin(), YLAT_PROGRAM);
    for (std::string& word : words)
        arguments.push_back(word.data());
    arguments.push_back(nullptr);
    ::execv(YLAT_PROGRAM, arguments.data());
    ::_exit(127);
}

/// The most memory of a run, in MiB.
double peak_of_ylat(const std::vector<std::string>& words) {
    const pid_t child = start_ylat(words);
    int status = 0;
    rusage usage{};
    REQUIRE(::wait4(child, &status, 0, &usage) == child);
    REQUIRE(WIFEXITED(status));
    REQUIRE(WEXITSTATUS(status) == 0);
    return static_cast<double>(usage.ru_maxrss) / 1024;
}

}  // namespace

TEST_CASE("batch: built once, and again what changed; as bake makes it") {
    const Project project;
    CHECK(project.json("--dry-run")["textures"].size() == 4);
    CHECK(project.json("--list")["textures"].size() == 4);
    CHECK_FALSE(fs::exists(project.path(".ylat-batch")));
    CHECK(project.end()["built"] == 4);
    CHECK(project.end()["up_to_date"] == 4);
    const std::string alone = project.path("alone.ktx2");
    REQUIRE(run_ylat("bake " + project.path("in/slate_normal.png") + " --role normal --as bc1 -o " +
                     alone)
                .exit == 0);
    CHECK(text_of(alone) == text_of(project.path("built/in/slate_normal.ktx2")));
    fs::copy_file(demo_file("lattice.png"), project.path("in/moss.png"),
                  fs::copy_options::overwrite_existing);
    const Json plan = project.json("--dry-run");
    std::set<std::string> changed;
    for (const Json& one : plan["textures"])
        if (one["reason"] != "up to date")
            changed.insert(one["output"].get<std::string>() + ": " +
                           one["reason"].get<std::string>());
    CHECK(changed == std::set<std::string>{"built/in/moss.ktx2: input changed"});
    const Json end = project.end();
    CHECK(end["built"] == 1);
    CHECK(end["up_to_date"] == 3);
    // What it knows moves along.
    fs::rename(project.path("in"), project.path("in2"));
    fs::create_directory(project.path("moved"));
    for (const char* name : {"list.toml", "built", ".ylat-batch"})
        fs::rename(project.path(name), project.path(std::string("moved/") + name));
    fs::rename(project.path("in2"), project.path("moved/in"));
    const Outcome moved = run_ylat("batch " + project.path("moved/list.toml"));
    CHECK(contains(moved.out, "4 textures: 4 up to date"));
}

TEST_CASE("batch: targets, names and parts") {
    const Project project(R"(
[targets.desktop]
as = "bc7"
[targets.phone]
as = "etc2-rgb8"
max-size = 64
[[textures]]
files = "in/*.png"
role = "color"
)");
    CHECK(project.end("--target phone")["textures"] == 4);
    CHECK(project.end("--only '*slate*'")["textures"] == 4);
    CHECK(project.end()["built"] == 2);
    CHECK(project.json("--list")["textures"].size() == 8);
    std::set<std::string> seen;
    for (const char* part : {"1/3", "2/3", "3/3"}) {
        const Json list = project.json(std::string("--list --shard ") + part);
        for (const Json& one : list["textures"])
            CHECK(seen.insert(one["output"]).second);
    }
    CHECK(seen.size() == 8);
    CHECK(project.batch("--target tablet").exit == 2);
    CHECK(project.batch("--shard 4/3").exit == 2);
    CHECK(project.batch("--only nothing").exit == 2);
}

TEST_CASE("batch: cubes, arrays, volumes, atlases, models and packed channels from one list") {
    const Project project(R"(
[defaults]
supercompress = "zstd"
[[cubes]]
files = "sky/dawn.hdr"
layout = "panorama"
[[cubes]]
name = "faces"
faces = ["sky/dawn_right.hdr", "sky/dawn_left.hdr", "sky/dawn_top.hdr", "sky/dawn_bottom.hdr", "sky/dawn_front.hdr", "sky/dawn_back.hdr"]
[[arrays]]
name = "array"
files = ["in/slate.png", "in/slate_normal.png"]
role = "data"
[[volumes]]
name = "volume"
files = "in/moss.png"
slices = 4
[[atlases]]
name = "atlas"
files = "in/*.png"
[[models]]
files = "sky/planter.glb"
[[packed]]
files = "in/*_normal.png"
channels = { r = "in/{match}.png:g", g = "in/{match}_normal.png:b", b = 1 }
output = "built/{match}_packed.ktx2"
role = "data"
)");
    fs::create_directories(project.path("sky"));
    for (const auto& one : fs::directory_iterator(DEMO_DATA))
        if (one.path().extension() == ".hdr" || one.path().extension() == ".glb")
            fs::copy_file(one.path(), project.path("sky/" + one.path().filename().string()));
    const Json end = project.end();
    CHECK(end["built"] == 7);
    CHECK(end["findings"] > 0);  // the model lacks an image
    const auto shape = [&](const char* file) {
        return support::run_json("peek " + project.path(file))[0];
    };
    CHECK(shape("built/sky/dawn.ktx2")["faces"] == 6);
    CHECK(shape("built/sky/faces.ktx2")["faces"] == 6);
    CHECK(shape("built/in/array.ktx2")["layers"] == 2);
    CHECK(shape("built/in/volume.ktx2")["depth"] == 4);
    CHECK(fs::exists(project.path("built/in/atlas.json")));
    CHECK(text_of(project.path("built/sky/planter.glb")).starts_with("glTF"));
    CHECK(shape("built/slate_packed.ktx2")["gpu_format"] == "rgba8-unorm");
    CHECK(project.end()["up_to_date"] == 7);
    // The image that the model lacks is waited for.
    fs::create_directories(project.path("sky/pics"));
    const Json plan = project.json("--dry-run");
    CHECK(plan["textures"].size() == 7);
}

TEST_CASE("batch: an unknown option or value is an error with its place, and nothing is built") {
    const auto says = [](const std::string& list, const std::string& what, int exit = 2) {
        const Project project(list);
        const Outcome outcome = project.batch();
        CAPTURE(outcome.err);
        CHECK(outcome.exit == exit);
        CHECK(contains(outcome.err, what));
        CHECK_FALSE(fs::exists(project.path("built")));
    };
    const std::string group = "[[textures]]\nfiles = \"in/*.png\"\n";
    says(group + "filtre = \"box\"\n",
         "list.toml:3:1: there is no option 'filtre'; did you mean 'filter'?");
    says(group + "effort = 11\n", "list.toml:3:1: ");
    says(group + "reduce = \"most\"\n", "list.toml:3:1: ");
    says(group + "as = \"bc99\"\n", "list.toml:3:1: --as: 'bc99' is not understood");
    says(group + "filter = \"boxx\"\n", "list.toml:3:1: --filter: 'boxx' is not a filter");
    says(group + "supercompress = \"rar\"\n", "list.toml:3:1: --supercompress: ");
    says("[targets.phone]\nas = \"astc-7x7\"\n" + group, "list.toml:2:1: --as: ");
    says("[[cubes]]\nfiles = \"in/*.png\"\nlayout = \"flat\"\n", "list.toml:3:1: --layout: ");
    says(group + "array = true\n", "list.toml:3:1: there is no option 'array'");
    says("[[texture]]\nfiles = \"in/*.png\"\n", "did you mean 'textures'?");
    says("[defaults]\neffort = 3\n", "the list names no files");
    CHECK(run_ylat("batch /nowhere/list.toml").exit == 4);
    CHECK(run_ylat("batch").exit == 2);
}

TEST_CASE("batch: a broken file does not stop the others, and comes last in the summary") {
    const Project project;
    support::write_text(project.path("in/broken.png"), "\x89PNG\r\n\x1a\nnot really");
    const Outcome outcome = project.batch();
    CHECK(outcome.exit == 3);
    CHECK(contains(outcome.err, "in/broken.png"));
    CHECK(contains(outcome.out, "5 textures: 4 built, 1 failed"));
    const Json end = project.end("", 3);
    CHECK(end["failed"] == 1);
    CHECK(end["errors"][0]["output"] == "built/in/broken.ktx2");
    CHECK_FALSE(fs::exists(project.path("built/in/broken.ktx2")));
    CHECK(project.batch("--log " + project.path("log.txt")).exit == 3);
    CHECK(
        contains(text_of(project.path("log.txt")), "[error] built/in/broken.ktx2: in/broken.png"));
}

TEST_CASE("batch: what the list makes no more is named, and removed when asked for") {
    const Project project;
    REQUIRE(project.batch().exit == 0);
    fs::remove(project.path("in/moss.png"));
    fs::remove(project.path("in/label.png"));
    support::write_text(project.path("built/in/label.ktx2"), "mine");
    CHECK(project.json("--dry-run")["orphans"] == Json{"built/in/moss.ktx2"});
    const Json pruned = project.json("--prune");
    CHECK(pruned["removed"] == Json{"built/in/moss.ktx2"});
    CHECK(pruned["kept"] == Json{"built/in/label.ktx2"});
    CHECK_FALSE(fs::exists(project.path("built/in/moss.ktx2")));
    CHECK(text_of(project.path("built/in/label.ktx2")) == "mine");
    CHECK(fs::exists(project.path("built/in/slate.ktx2")));
}

TEST_CASE("batch: findings count under --strict, of files that are up to date too") {
    const Project project("[[textures]]\nfiles = \"in/label.png\"\nas = \"bc1\"\n");
    CHECK(project.batch("", "--strict").exit == 1);
    CHECK(project.batch("", "--strict").exit == 1);
    CHECK(project.batch().exit == 0);
}

TEST_CASE("batch: killed at random moments, and run again: the same as never killed") {
    const std::string list = "[[textures]]\nfiles = \"in/*.png\"\nas = \"bc7\"\n";
    const Project undisturbed(list), killed(list);
    REQUIRE(undisturbed.batch("--force").exit == 0);
    std::mt19937 random(1);
    int interrupted = 0;
    for (int round = 0; round < 30; ++round) {
        for (const char* folder : {"built", ".ylat-batch"})
            if (round % 3 == 0)
                fs::remove_all(killed.path(folder));
        const pid_t child = start_ylat({"batch", killed.path("list.toml"), "--force"});
        std::this_thread::sleep_for(std::chrono::milliseconds(random() % 200));
        const int signals[] = {SIGKILL, SIGTERM, SIGINT};
        ::kill(child, signals[round % 3]);
        int status = 0;
        ::waitpid(child, &status, 0);
        interrupted += WIFSIGNALED(status) ? 1 : 0;
    }
    CHECK(interrupted > 15);
    REQUIRE(killed.batch().exit == 0);
    CHECK(contents(killed.path("built")) == contents(undisturbed.path("built")));
    CHECK(fs::is_empty(killed.path(".ylat-batch/work")));
    CHECK(killed.end()["up_to_date"] == 4);
}

TEST_CASE("batch: two at once on one cache: each texture is built once") {
    for (int round = 0; round < 20; ++round) {
        const Project one, two;
        const std::string cache = one.path("cache");
        int built = 0;
        std::thread second([&] { built += two.end("--cache " + cache)["built"].get<int>(); });
        const int first = one.end("--cache " + cache)["built"].get<int>();
        second.join();
        CHECK(first + built == 4);
        CHECK(contents(one.path("built")) == contents(two.path("built")));
    }
}

TEST_CASE("batch: what a file takes is not more than its header told") {
    const Project project;
    fs::create_directories(project.path("big"));
    for (const char* name : {"slate.png", "moss.png", "dawn.hdr"})
        REQUIRE(run_ylat("rework " + demo_file(name) + " --resize 2048x2048 -o " +
                         project.path(std::string("big/") + name))
                    .exit == 0);
    const double bare = peak_of_ylat({"batch", "--example"});
    for (const auto& one : {std::pair{"slate.png", "bc7"},
                            {"slate.png", "rgba32-float"},
                            {"slate.png", "rgba8-srgb"},
                            {"slate.png", "astc-6x6"},
                            {"moss.png", "bc"},
                            {"dawn.hdr", "bc"},
                            {"dawn.hdr", "rgba16-float"}}) {
        const char* file = one.first;
        const char* format = one.second;
        CAPTURE(file);
        CAPTURE(format);
        support::write_text(project.path("list.toml"), std::string("[[textures]]\nfiles = \"big/") +
                                                           file + "\"\nas = \"" + format +
                                                           "\"\neffort = 1\n");
        const double told = project.end("--force")["peak_memory"].get<double>() / (1 << 20);
        const double taken =
            peak_of_ylat({"batch", project.path("list.toml"), "--force", "--quiet"}) - bare;
        CHECK(taken < told);
        CHECK(taken > told / 4);
    }
}

TEST_CASE("batch: files under way stay within the memory that is allowed") {
    const Project project("[[textures]]\nfiles = \"big/*.png\"\nas = \"bc1\"\nrole = \"color\"\n");
    fs::create_directories(project.path("big"));
    for (int i = 0; i < 4; ++i)
        REQUIRE(run_ylat("rework " + demo_file("slate.png") + " --resize " +
                         std::to_string(2000 + i) + "x2000 -o " +
                         project.path("big/" + std::to_string(i) + ".png"))
                    .exit == 0);
    const auto peak_of = [&](const std::string& options) {
        return peak_of_ylat(
            {"--threads", "4", "batch", project.path("list.toml"), "--force", options});
    };
    // What the program takes before it builds anything.
    const double bare = peak_of("--dry-run");
    const Json end = project.end("--force --memory 1G");
    const double of_one = end["peak_memory"].get<double>() / (1 << 20);
    CHECK(of_one > 50);
    const double one_by_one = peak_of("--memory=100M"), two_by_two = peak_of("--memory=200M");
    CAPTURE(bare);
    CHECK(one_by_one - bare < 100);
    CHECK(two_by_two - bare < 200);
}

TEST_CASE("batch: --watch builds what is saved, by writing and by renaming") {
    const Project project;
    REQUIRE(project.batch().exit == 0);
    const pid_t child = start_ylat({"batch", project.path("list.toml"), "--watch"});
    const auto wait_for = [&](const std::function<bool()>& is_so) {
        for (int i = 0; i < 500 && !is_so(); ++i)
            std::this_thread::sleep_for(20ms);
        return is_so();
    };
    std::this_thread::sleep_for(300ms);
    const std::string moss = project.path("built/in/moss.ktx2"), before = text_of(moss);
    fs::copy_file(demo_file("lattice.png"), project.path("in/moss.png"),
                  fs::copy_options::overwrite_existing);
    CHECK(wait_for([&] { return text_of(moss) != before; }));
    const std::string label = project.path("built/in/label.ktx2"), old = text_of(label);
    fs::copy_file(demo_file("slate.png"), project.path("in/.label.swap"));
    fs::rename(project.path("in/.label.swap"), project.path("in/label.png"));
    CHECK(wait_for([&] { return text_of(label) != old; }));
    fs::copy_file(demo_file("slate.png"), project.path("in/new.png"));
    CHECK(wait_for([&] { return fs::exists(project.path("built/in/new.ktx2")); }));
    ::kill(child, SIGTERM);
    int status = 0;
    ::waitpid(child, &status, 0);
    CHECK(WIFSIGNALED(status));
}

TEST_CASE("batch: the example is a list, and its options are known") {
    const Outcome example = run_ylat("batch --example");
    REQUIRE(example.exit == 0);
    const Project project(example.out);
    for (const char* folder : {"walls/brick", "ui", "surfaces", "skies", "leaves"})
        fs::create_directories(project.path(folder));
    for (const auto& [from, to] : {std::pair{"slate.png", "walls/brick/red.png"},
                                   {"slate.png", "walls/hero.png"},
                                   {"slate_normal.png", "walls/brick/red_nm.png"},
                                   {"slate_normal.png", "walls/brick/old_red.png"},
                                   {"label.png", "ui/cursor.png"},
                                   {"moss.png", "surfaces/wood_ao.png"},
                                   {"moss.png", "surfaces/wood_rough.png"},
                                   {"dawn.hdr", "skies/dawn.hdr"},
                                   {"moss.png", "leaves/1.png"},
                                   {"moss.png", "leaves/2.png"}})
        fs::copy_file(demo_file(from), project.path(to));
    const Json list = project.json("--list");
    CHECK(list["textures"].size() == 18);
    const Json end = project.end("--target web");
    CHECK(end["failed"] == 0);
    CHECK(end["built"] == 6);
}

TEST_CASE("batch: names tell roles, by words and the letters that people write for them") {
    const Project project;
    for (const char* name :
         {"wall_nm", "wall_nrm", "wall_orm", "wall_disp", "storm", "form_roughness"})
        fs::copy_file(demo_file("moss.png"), project.path(std::string("in/") + name + ".png"));
    const Json list = project.json("--list");
    std::map<std::string, std::string> roles;
    for (const Json& one : list["textures"]) {
        const std::string command = one["command"];
        const std::size_t role = command.find("--role=");
        roles[fs::path(one["output"].get<std::string>()).stem()] =
            role == std::string::npos
                ? ""
                : command.substr(role + 7, command.find(' ', role) - role - 7);
    }
    CHECK(roles["wall_nm"] == "normal");
    CHECK(roles["wall_nrm"] == "normal");
    CHECK(roles["wall_orm"] == "data");
    CHECK(roles["wall_disp"] == "height");
    CHECK(roles["form_roughness"] == "data");
    CHECK(roles["storm"].empty());
    CHECK(roles["slate"].empty());
}

TEST_CASE("batch: options that mean nothing are refused") {
    const Project project;
    for (const char* options :
         {"--parts 3", "--no-cache --cache x", "--no-cache --shared-cache x", "--shared-read-only",
          "--list --dry-run", "--watch --prune", "--dry-run --log x", "--list --memory 3M",
          "--prune --stamp x", "--shard 1/2/3", "--shard 0/2", "--memory much", "--submit other"}) {
        CAPTURE(options);
        const Outcome outcome = project.batch(options);
        CHECK(outcome.exit == 2);
        CHECK(contains(outcome.err, "--"));
    }
    CHECK_FALSE(fs::exists(project.path("built")));
    CHECK(project.batch("--status").exit == 4);
}

TEST_CASE("batch: the help's examples run") {
    const TemporaryFolder folder;
    const std::string help = run_ylat("help batch").out;
    std::istringstream lines(help.substr(help.find("Examples:")));
    std::string line;
    std::getline(lines, line);
    int run = 0;
    while (std::getline(lines, line) && line.starts_with("  ylat ")) {
        const std::string command = "cd '" + folder.path("") + "' && '" YLAT_PROGRAM "' " +
                                    line.substr(7) + " > /dev/null 2>&1";
        CAPTURE(line);
        CHECK(std::system(command.c_str()) == 0);
        ++run;
    }
    CHECK(run == 3);
}

TEST_CASE("lint and report take a list for the textures that it makes") {
    const Project project(
        "[[textures]]\nfiles = \"in/*.png\"\nas = \"bc1\"\n[[overrides]]\nfiles = "
        "\"in/moss.png\"\nrole = \"mask\"\n");
    CHECK(run_ylat("lint " + project.path("list.toml")).exit == 4);  // nothing is built yet
    REQUIRE(project.batch().exit == 0);
    const Json linted = support::run_json("lint " + project.path("list.toml"));
    std::map<std::string, std::string> roles;
    for (const Json& file : linted["files"])
        roles[fs::path(file["input"].get<std::string>()).filename()] = file["role"];
    CHECK(roles.size() == 4);
    CHECK(roles["moss.ktx2"] == "mask");
    CHECK(roles["slate_normal.ktx2"] == "normal");
    const Json report = support::run_json("report " + project.path("list.toml") + " -o " +
                                          project.path("page.html"));
    REQUIRE(report["textures"].size() == 4);
    for (const Json& texture : report["textures"]) {
        CHECK(texture.contains("comparison"));
        REQUIRE(texture.contains("build"));
        CHECK(texture["build"]["source"] == "built");
        CHECK(texture["build"]["seconds"] > 0);
        CHECK(texture["build"]["state"] == "up to date");
        CHECK(texture["build"]["inputs"].size() == 1);
        CHECK((texture["role"] == "mask") == (texture["name"] == "moss.ktx2"));
    }
    // Parts that other machines built have states of their own.
    fs::remove_all(project.path(".ylat-batch"));
    fs::remove_all(project.path("out"));
    for (const char* part : {"1/2", "2/2"})
        REQUIRE(project.batch("--shard " + std::string(part)).exit == 0);
    support::write_text(project.path("in/moss.png"), "another picture");
    const Json of_parts = support::run_json("report " + project.path("list.toml") + " -o " +
                                            project.path("page.html"));
    for (const Json& texture : of_parts["textures"]) {
        const std::string state = texture["build"]["state"];
        CHECK(contains(
            state, texture["name"] == "moss.ktx2" ? "input changed: in/moss.png" : "up to date"));
    }
    fs::copy_file(demo_file("moss.png"), project.path("in/moss.png"),
                  fs::copy_options::overwrite_existing);
    // A lookup table is no picture to stand beside its volume.
    support::write_text(project.path("in/a.cube"),
                        "LUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 "
                        "0 1\n0 1 1\n1 1 1\n");
    support::write_text(project.path("list.toml"), "[[textures]]\nfiles = \"in/a.cube\"\n");
    REQUIRE(project.batch().exit == 0);
    const Json table = support::run_json("report " + project.path("list.toml") + " -o " +
                                         project.path("page.html"));
    REQUIRE(table["textures"].size() == 1);
    CHECK_FALSE(table["textures"][0].contains("comparison"));
    CHECK(run_ylat("lint " + project.path("none.toml")).exit == 4);
    CHECK(run_ylat("lint /nowhere/none.toml").exit == 4);
}

TEST_CASE("batch: into a folder, several at once, each in the role of its name") {
    const Project project;
    fs::create_directories(project.path("other"));
    fs::copy_file(demo_file("moss.png"), project.path("other/moss.png"));
    const Outcome baked =
        run_ylat("bake " + project.path("in/slate.png") + " " +
                 project.path("in/slate_normal.png") + " " + project.path("in/moss.png") + " " +
                 project.path("other/moss.png") + " -o " + project.path("out/"));
    CHECK(baked.exit == 2);
    CHECK(contains(baked.out, "role normal, by its name"));
    CHECK(contains(baked.out, "3 of 4 baked"));
    CHECK(contains(baked.err, "is made of another input already"));
    CHECK(contents(project.path("out")).size() == 3);
}
