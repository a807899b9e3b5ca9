// Lists of textures: what they mean, and what is wrong with them.
#include <algorithm>
#include <yl/batch_list.hpp>

#include "batch/jobs.hpp"

using namespace yl::batch;
using support::must;
using support::must_fail;
using support::Workshop;

namespace {

Vocabulary words() {
    const std::vector<KnownOption> options = {
        {"role", false, false, true}, {"effort"}, {"as"}, {"max-size"}, {"dither", true},
        {"level", false, true}};
    Vocabulary vocabulary;
    vocabulary.kinds = {{"textures", "ktx2", false, false, false, options},
                        {"arrays", "ktx2", true, false, false, options},
                        {"cubes", "ktx2", false, true, false, {{"as"}, {"layout"}}},
                        {"packed", "ktx2", false, false, true, options}};
    vocabulary.role_of = [](const std::string& path) {
        return path.find("normal") != std::string::npos ? std::string("normal") : std::string();
    };
    return vocabulary;
}

/// A list in a folder of pictures; the folder is the current one for as long as this lives.
struct ListFolder : Workshop {
    std::filesystem::path before = std::filesystem::current_path();

    ListFolder() {
        for (const char* name :
             {"walls/brick.png", "walls/stone.png", "walls/stone_nm.png", "walls/old/brick.png",
              "walls/.hidden.png", "ui/cursor.png", "sky/px.png", "sky/nx.png", "m/wood_ao.png"})
            write(name, name);
        std::filesystem::current_path(path("."));
    }
    ~ListFolder() { std::filesystem::current_path(before); }
    ListFolder(const ListFolder&) = delete;
    ListFolder& operator=(const ListFolder&) = delete;

    [[nodiscard]] List read(const std::string& text) const {
        write("list.toml", text);
        return must(read_list("list.toml", words()));
    }
    [[nodiscard]] std::string refusal(const std::string& text) const {
        write("list.toml", text);
        const yl::Error error = must_fail(read_list("list.toml", words()));
        CHECK(error.kind == yl::ErrorKind::usage);
        return error.sentence();
    }
};

std::string value_of(const ListEntry& entry, const char* option) {
    const ListOption* found = entry.find(option);
    return found == nullptr ? "-" : found->values.empty() ? "on" : found->values.front();
}

std::vector<std::string> outputs_of(const List& list) {
    std::vector<std::string> outputs;
    for (const ListEntry& entry : list.entries)
        outputs.push_back(entry.output);
    return outputs;
}

}  // namespace

TEST_CASE("patterns of files: folders, exclusions, hidden files") {
    const ListFolder folder;
    CHECK(find_files("walls/*.png") ==
          std::vector<std::string>{"walls/brick.png", "walls/stone.png", "walls/stone_nm.png"});
    CHECK(find_files("**/brick.png") ==
          std::vector<std::string>{"walls/brick.png", "walls/old/brick.png"});
    CHECK(find_files("**/*.png").size() == 8);
    CHECK(find_files("*/.h*").size() == 1);
    CHECK(find_files("walls/ston?.png").size() == 1);
    CHECK(find_files("walls").empty());
    const List list = folder.read(
        "output = \"o/{folder}/{name}\"\n[[textures]]\nfiles = "
        "[\"walls/**/*.png\", \"!walls/old/*\", \"!**/*_nm.png\"]");
    CHECK(outputs_of(list) == std::vector<std::string>{"o/walls/brick", "o/walls/stone"});
}

TEST_CASE("what holds for fewer files wins") {
    const ListFolder folder;
    const List list = folder.read(R"(
[defaults]
effort = 1
dither = true
[targets.desktop]
as = "bc"
[targets.phone]
as = "astc"
max-size = 512
output = "phone/{name}.ktx2"
[[names]]
files = "*_nm"
role = "normal"
for.phone = { effort = 2 }
[[textures]]
files = "walls/*.png"
dither = false
for.phone = { max-size = 256 }
[[overrides]]
files = "walls/brick.png"
effort = 9
)");
    REQUIRE(list.entries.size() == 6);
    CHECK(list.targets == std::vector<std::string>{"desktop", "phone"});
    const auto entry = [&](const std::string& output) -> const ListEntry& {
        return *std::ranges::find(list.entries, output, &ListEntry::output);
    };
    const ListEntry& brick = entry("built/desktop/walls/brick.ktx2");
    CHECK(value_of(brick, "as") == "bc");
    CHECK(value_of(brick, "effort") == "9");
    CHECK(value_of(brick, "dither") == "-");
    CHECK(value_of(brick, "role") == "-");
    CHECK(value_of(brick, "max-size") == "-");
    const ListEntry& normals = entry("phone/stone_nm.ktx2");
    CHECK(value_of(normals, "as") == "astc");
    CHECK(value_of(normals, "effort") == "2");
    CHECK(value_of(normals, "role") == "normal");
    CHECK(value_of(normals, "max-size") == "256");
    CHECK(normals.find("as")->is_general);
    CHECK_FALSE(normals.find("max-size")->is_general);
    CHECK(value_of(entry("built/desktop/walls/stone.ktx2"), "effort") == "1");
}

TEST_CASE("files that become one, faces, channels, includes, and settings") {
    const ListFolder folder;
    folder.write("more/skies.toml", R"(
[targets.web]
as = "etc"
[[cubes]]
name = "dawn"
faces = ["px=sky/px.png", "nx=sky/nx.png"]
)");
    const List list = folder.read(R"(
include = "more/skies.toml"
memory = "2G"
[cache]
size = 1000
shared = "http://127.0.0.1/x"
[[arrays]]
name = "walls"
files = "walls/*.png"
level = ["1=a.png", "2=b.png"]
[[packed]]
files = "m/*_ao.png"
channels = { r = "{folder}/{match}_ao.png", a = 1 }
output = "p/{match}_orm.ktx2"
)");
    CHECK(list.settings.memory == std::uint64_t{2} << 30U);
    CHECK(list.settings.cache_size == 1000);
    CHECK(list.settings.shared_cache == "http://127.0.0.1/x");
    CHECK(list.files.size() == 2);
    REQUIRE(list.entries.size() == 3);
    const ListEntry& cube = list.entries[0];
    CHECK(cube.output == "built/web/sky/dawn.ktx2");
    CHECK(cube.inputs == std::vector<std::string>{"sky/px.png", "sky/nx.png"});
    CHECK(cube.faces.front() == "px=sky/px.png");
    const ListEntry& array = list.entries[1];
    CHECK(array.inputs.size() == 3);
    CHECK(array.find("level")->values == std::vector<std::string>{"1=a.png", "2=b.png"});
    CHECK(list.entries[2].output == "p/wood_orm.ktx2");
    CHECK(list.entries[2].channels == std::vector<std::string>{"a=1", "r=m/wood_ao.png"});
}

TEST_CASE("a list that is wrong says where, and what is near") {
    const ListFolder folder;
    const auto says = [&](const std::string& text, const std::string& begin) {
        const std::string said = folder.refusal(text);
        CAPTURE(said);
        CHECK(said.starts_with(begin));
    };
    const std::string group = "[[textures]]\nfiles = \"walls/*.png\"\n";
    says("[[texture]]\n", "list.toml:1:3: there is no key 'texture'; did you mean 'textures'?");
    says(group + "efort = 3\n",
         "list.toml:3:1: there is no option 'efort'; did you mean 'effort'?");
    says(group + "dither = 1\n", "list.toml:3:10: 'dither' is true or false");
    says(group + "effort = true\n", "list.toml:3:10: 'effort' is a text or a number");
    says(group + "effort = [1, 2]\n", "list.toml:3:10: 'effort' is one value, not a list");
    says("[[textures]]\nfiles = 3\n", "list.toml:2:9: 'files' is a text in quotation marks");
    says("[[textures]]\neffort = 3\n", "list.toml:1:1: [[textures]] needs 'files'");
    says("[[textures]]\nfiles = \"none/*\"\n", "list.toml:2:9: no file matches none/*");
    says("[textures]\nfiles = \"a\"\n", "list.toml:1:1: 'textures' is a list of tables");
    says(group + "targets = \"phon\"\n[targets.phone]\n",
         "list.toml:3:11: there is no target 'phon'; did you mean 'phone'?");
    says(group + "for.pc = { effort = 1 }\n", "list.toml:3:5: there is no target 'pc'");
    says(group + "output = \"{nmae}\"\n", "list.toml:1:1: nothing is called {nmae} here; did you");
    says(group + group,
         "list.toml:3:1: built/walls/brick.ktx2 is made of walls/brick.png already, "
         "by list.toml:1:1");
    says("[[arrays]]\nfiles = \"walls/*\"\n",
         "list.toml:1:1: [[arrays]] makes one file of several");
    says("[[cubes]]\nfiles = \"sky/*\"\nfaces = \"sky/px.png\"\n",
         "list.toml:1:1: [[cubes]] needs 'files' or 'faces', not both");
    says("[[packed]]\nfiles = \"m/*\"\n", "list.toml:1:1: [[packed]] needs 'channels'");
    says("[cache]\nsise = 3\n", "list.toml:2:1: there is no key 'sise'; did you mean 'size'?");
    says("memory = \"much\"\n", "list.toml:1:10: 'memory' is a number of bytes");
    says("include = \"none.toml\"\n", "list.toml:1:11: there is no list 'none.toml'");
    says("include = \"list.toml\"\n", "list.toml: the list includes itself");
    says("files = [\n", "list.toml:1:");
    says("", "list.toml: the list names no files");
}
