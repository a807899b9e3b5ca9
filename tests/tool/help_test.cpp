// What people see around the work: help, progress, and texts that fit their terminal.
#include <fmt/format.h>
#include <pty.h>
#include <sys/wait.h>
#include <unistd.h>

#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::must;
using support::Outcome;
using support::read_bytes;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;
using support::write_bytes;

namespace {

constexpr const char* commands[] = {"peek", "rework", "bake",   "cube",  "unpack", "sheet", "draw",
                                    "diff", "lint",   "report", "model", "upload", "demo"};

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> lines;
    for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        lines.push_back(text.substr(begin, end - begin));
        begin = end + 1;
    }
    return lines;
}

/// What a program prints on a terminal of so many columns.
std::string on_terminal(unsigned short columns, std::vector<std::string> words) {
    const winsize size{.ws_row = 24, .ws_col = columns, .ws_xpixel = 0, .ws_ypixel = 0};
    int terminal = -1;
    const pid_t child = ::forkpty(&terminal, nullptr, nullptr, &size);
    REQUIRE(child >= 0);
    if (child == 0) {
        std::vector<char*> arguments;
        words.insert(words.begin(), YLAT_PROGRAM);
        for (std::string& word : words)
            arguments.push_back(word.data());
        arguments.push_back(nullptr);
        ::execv(YLAT_PROGRAM, arguments.data());
        ::_exit(127);
    }
    std::string text;
    char buffer[4096];
    for (ssize_t got = 0; (got = ::read(terminal, buffer, sizeof buffer)) > 0;)
        text.append(buffer, static_cast<std::size_t>(got));
    int status = 0;
    ::waitpid(child, &status, 0);
    ::close(terminal);
    CHECK(WIFEXITED(status));
    CHECK(WEXITSTATUS(status) == 0);
    return text;
}

/// A picture that takes a while.
std::string large_picture(const TemporaryFolder& folder) {
    Image image = must(Image::create(Format::rgb8_srgb, 1024, 1024));
    support::Random random(7);
    support::fill_random(image.view(), random);
    must(write_picture(folder.path("large.png"), image.view()));
    return folder.path("large.png");
}

}  // namespace

TEST_CASE(
    "help fits a page, names every value, and says what is required and what is the default") {
    for (const std::string command : commands) {
        CAPTURE(command);
        const Outcome outcome = run_ylat("help " + command);
        CHECK(outcome.exit == 0);
        for (const std::string& line : lines_of(outcome.out)) {
            CAPTURE(line);
            CHECK(line.size() <= 100);
            if (!line.starts_with("  "))
                continue;
            for (const char* bare : {" TEXT ", " UINT ", " INT ", " FLOAT ", "REQUIRED"})
                CHECK_FALSE(contains(line, bare));
        }
    }
    const std::string bake = run_ylat("help bake").out;
    CHECK(contains(bake, "(default: 5)"));
    CHECK(contains(bake, "(required)"));
    // One way or the other, help is the same.
    CHECK(run_ylat("bake --help").out == bake);
    const std::string draw = run_ylat("help draw").out;
    for (const char* group :
         {"Scenes floor, panel:", "Scene panel:", "Scenes sky, ball:", "Scene model:"})
        CHECK(contains(draw, group));
    CHECK(contains(draw, "(default: 60)"));
}

TEST_CASE("help is as wide as its terminal") {
    std::size_t longest = 0;
    for (const std::string& line : lines_of(on_terminal(72, {"help", "bake"})))
        if (line.starts_with("  "))
            longest = std::max(longest, line.size());
    CHECK(longest <= 73);  // with the terminal's carriage return
    CHECK(longest > 60);
}

TEST_CASE("progress: a bar on a terminal, lines elsewhere, nothing where nobody wants it") {
    const TemporaryFolder folder;
    const std::string bake = "bake " + large_picture(folder) +
                             " --as bc1 --supercompress zstd -o " + folder.path("out.ktx2");
    const Outcome lines = run_ylat("--progress always " + bake);
    CHECK(lines.exit == 0);
    for (const char* phase : {"reading: ", "levels: ", "encoding: ", "packing: ", "writing: "}) {
        CAPTURE(phase);
        CHECK(contains(lines.err, phase));
    }
    CHECK(contains(lines.err, "encoding: 100 %"));
    CHECK(run_ylat("--progress never " + bake).err.empty());
    CHECK(run_ylat(bake).err.empty());  // too short for a line
    CHECK(run_ylat("--json " + bake).err.empty());
    CHECK(run_ylat("--progress sometimes " + bake).exit == 2);
    const std::string shown =
        on_terminal(80, {"--progress", "always", "bake", folder.path("large.png"), "--as", "bc7",
                         "-o", folder.path("out.ktx2")});
    CHECK(contains(shown, "\rencoding ["));
    CHECK(contains(shown, " %"));
    // Every bar is taken away before the result is said.
    const std::size_t result = shown.find("large.png ->");
    REQUIRE(result != std::string::npos);
    const std::size_t bar = shown.rfind('[');
    CHECK(bar < result);
}

TEST_CASE("a table on a narrow terminal loses the middles of its longest words") {
    const TemporaryFolder folder;
    std::vector<std::string> words = {"peek"};
    for (const char* name : {"slate", "label"}) {
        const std::string path = folder.path(std::string(60, 'n') + name + ".png");
        std::filesystem::copy_file(demo_file(std::string(name) + ".png"), path);
        words.push_back(path);
    }
    words.push_back(demo_file("moss.png"));
    bool has_dots = false;
    for (const std::string& line : lines_of(on_terminal(90, words))) {
        CHECK(line.size() <= 91);
        has_dots |= contains(line, "...");
    }
    CHECK(has_dots);
    const std::string piped = run_ylat("peek " + words[1] + " " + words[2] + " " + words[3]).out;
    CHECK(contains(piped, words[1]));
}

TEST_CASE("one of a thing is one, and what is not there is not counted") {
    const TemporaryFolder folder;
    const std::string flat =
        run_ylat("bake " + demo_file("label.png") + " --levels 1 -o " + folder.path("label.ktx2"))
            .out;
    CHECK(contains(flat, "1 level\n"));
    CHECK_FALSE(contains(run_ylat("peek " + folder.path("label.ktx2")).out, "faces"));
    CHECK(
        contains(run_ylat("sheet " + folder.path("label.ktx2") + " -o " + folder.path("s.png")).out,
                 "1 level\n"));
    const Outcome piped = run_ylat("bake " + demo_file("label.png") + " -o -");
    CHECK_FALSE(contains(piped.err, "0 bytes"));
    CHECK(contains(piped.err, "KiB in the file"));
}

TEST_CASE("one thing has one name in every command's document") {
    const TemporaryFolder folder;
    const std::string texture = folder.path("t.ktx2"), picture = demo_file("label.png");
    const auto out = [&](const char* name) { return " -o " + folder.path(name); };
    REQUIRE(run_ylat("bake " + picture + " -o " + texture).exit == 0);
    for (const std::string& command :
         {"bake " + picture + out("b.ktx2"), "rework " + picture + out("r.png"),
          "unpack " + texture + out("faces"), "sheet " + texture + out("s.png"),
          "upload " + texture, "upload --plan webgpu " + texture,
          "model " + demo_file("planter.glb")}) {
        CAPTURE(command);
        CHECK(run_json(command)["input"].is_string());
    }
    CHECK(run_json("peek " + picture)[0]["input"] == picture);
    for (const std::string& command :
         {"draw panel " + picture + out("p.png"), "diff " + texture + " " + texture,
          "cube " + demo_file("dawn.hdr") + out("c.ktx2")}) {
        CAPTURE(command);
        CHECK(run_json(command)["inputs"].is_array());
    }
    for (const std::string& command :
         {"bake " + picture + out("b.ktx2"), "rework " + picture + out("r.png"),
          "upload " + texture, "upload --plan webgpu " + texture})
        CHECK(run_json(command)["gpu_format"] == "rgba8-srgb");
    CHECK(run_json("peek " + texture)[0]["gpu_format"] == "rgba8-srgb");
    CHECK(run_json("peek " + texture)[0]["file_format"] == "KTX 2.0");
}

TEST_CASE("man pages hold every option that help lists") {
    for (const std::string command : commands) {
        CAPTURE(command);
        const Outcome page = run_ylat("help " + command + " --as man");
        CHECK(page.exit == 0);
        CHECK(page.out.starts_with(".TH YLAT\\-"));
        std::size_t options = 0;
        for (const std::string& line : lines_of(run_ylat("help " + command).out)) {
            const std::size_t at = line.find("--");
            if (!line.starts_with("  ") || at == std::string::npos || at > 8)
                continue;
            std::string name = line.substr(at, line.find_first_of(" ,", at) - at);
            CAPTURE(name);
            for (std::size_t dash = 0; (dash = name.find('-', dash)) != std::string::npos;
                 dash += 2)
                name.insert(dash, "\\");
            CHECK(contains(page.out, name));
            ++options;
        }
        CHECK(options > 0);
    }
    CHECK(contains(run_ylat("help --as man").out, "ylat\\-bake (1)"));
    CHECK(run_ylat("help bake --as bash").exit == 2);
    CHECK(run_ylat("help --as pdf").exit == 2);
}

TEST_CASE("bash completes commands, options and listed values") {
    const TemporaryFolder folder;
    const std::string script = run_ylat("help --as bash").out;
    write_bytes(folder.path("ylat.bash"), std::as_bytes(std::span(script)));
    const auto completed = [&](const std::string& words, int word) {
        const std::string command = fmt::format(
            "bash -c '. \"{}\"; COMP_WORDS=(ylat {}); COMP_CWORD={}; _ylat; "
            "echo \"${{COMPREPLY[@]}}\"' >'{}'",
            folder.path("ylat.bash"), words, word, folder.path("out"));
        REQUIRE(std::system(command.c_str()) == 0);
        const auto bytes = read_bytes(folder.path("out"));
        return std::string(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    };
    CHECK(completed("bak", 1) == "bake\n");
    CHECK(completed("ba", 1) == "bake batch\n");
    CHECK(contains(completed("\"\"", 1), "upload"));
    CHECK(contains(completed("bake --rate", 2), "--rate-distortion"));
    CHECK(contains(completed("bake --progress ne", 3), "never"));
    CHECK_FALSE(contains(completed("peek --rate", 2), "--rate-distortion"));
}
