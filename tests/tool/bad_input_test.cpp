// What people get wrong: one clear sentence, the right exit code, nothing lost, nothing
// half-written.
#include <sys/resource.h>

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

/// A run that has to fail with this exit code and one sentence on standard error that names all
/// the parts, and to leave the folder as it was.
void check_failure(const TemporaryFolder& folder, const std::string& arguments, int exit,
                   const std::vector<std::string>& parts, const std::string& environment = "") {
    CAPTURE(arguments);
    const auto before = folder.entries();
    const Outcome outcome = run_ylat(arguments, environment);
    CAPTURE(outcome.err);
    CHECK(outcome.exit == exit);
    CHECK(outcome.out.empty());
    CHECK(std::count(outcome.err.begin(), outcome.err.end(), '\n') == 1);
    for (const std::string& part : parts)
        CHECK(contains(outcome.err, part));
    CHECK(folder.entries() == before);
}

std::vector<std::byte> first_half(const std::string& path) {
    auto bytes = support::read_bytes(path);
    bytes.resize(bytes.size() / 2);
    return bytes;
}

/// A PNG of nothing but a header that claims this size.
std::vector<std::byte> claim(std::uint32_t width, std::uint32_t height) {
    const Image pixel = must(Image::create(Format::rgba8_srgb, 1, 1));
    auto file = must(encode_picture("png", pixel.view()));
    for (int i = 0; i < 4; ++i) {
        file[static_cast<std::size_t>(16 + i)] = static_cast<std::byte>(width >> (24 - 8 * i));
        file[static_cast<std::size_t>(20 + i)] = static_cast<std::byte>(height >> (24 - 8 * i));
    }
    std::uint32_t crc = ~0U;  // of the chunk's type and data, bit by bit
    for (std::size_t i = 12; i < 29; ++i) {
        crc ^= std::to_integer<std::uint32_t>(file[i]);
        for (int bit = 0; bit < 8; ++bit)
            crc = crc >> 1 ^ ((crc & 1) != 0 ? 0xEDB88320U : 0U);
    }
    for (int i = 0; i < 4; ++i)
        file[static_cast<std::size_t>(29 + i)] = static_cast<std::byte>(~crc >> (24 - 8 * i));
    return file;
}

}  // namespace

TEST_CASE("inputs that cannot be read") {
    const TemporaryFolder folder;
    const std::string out = " -o " + folder.path("out.ktx2");
    support::write_text(folder.path("empty.png"), "");
    support::write_text(folder.path("text.png"), "this is not a picture at all, only some text");
    support::write_bytes(folder.path("half.png"), first_half(demo_file("slate.png")));
    auto flipped = support::read_bytes(demo_file("slate.png"));
    flipped[flipped.size() / 2] ^= std::byte{1};
    support::write_bytes(folder.path("flipped.png"), flipped);
    support::write_bytes(folder.path("huge.png"), claim(60000, 60000));
    support::write_bytes(folder.path("promise.png"), claim(16000, 16000));

    check_failure(folder, "bake " + folder.path("none.png") + out, 4, {"none.png", "No such file"});
    check_failure(folder, "bake " + folder.path("") + out, 4, {"folder"});
    check_failure(folder, "bake " + folder.path("empty.png") + out, 3, {"empty.png", "empty"});
    check_failure(folder, "bake " + folder.path("text.png") + out, 3,
                  {"text.png", "not a picture"});
    check_failure(folder, "bake " + folder.path("half.png") + out, 3,
                  {"half.png", "at byte", "truncated"});
    check_failure(folder, "bake " + folder.path("flipped.png") + out, 3,
                  {"flipped.png", "checksum"});
    check_failure(folder, "bake " + folder.path("huge.png") + out, 3,
                  {"huge.png", "60000", "cannot hold"});
    check_failure(
        folder, "rework " + folder.path("huge.png") + " --resize 50% -o " + folder.path("out.png"),
        3, {"huge.png", "60000", "16384"});
    check_failure(folder, "bake " + folder.path("promise.png") + out, 3,
                  {"promise.png", "cannot hold"});
    check_failure(folder, "draw floor " + folder.path("none.png") + " -o " + folder.path("o.png"),
                  4, {"none.png", "No such file"});
    check_failure(folder, "upload " + folder.path("text.png"), 3,
                  {"text.png", "neither a picture nor a texture"});
    check_failure(folder, "peek " + folder.path(""), 4, {"folder"});
}

TEST_CASE("texture files that are damaged") {
    const TemporaryFolder folder;
    REQUIRE(run_ylat("bake " + demo_file("label.png") + " -o " + folder.path("good.ktx2")).exit ==
            0);
    support::write_bytes(folder.path("half.ktx2"), first_half(folder.path("good.ktx2")));
    auto flipped = support::read_bytes(folder.path("good.ktx2"));
    flipped[41] ^= std::byte{64};  // levelCount
    support::write_bytes(folder.path("flipped.ktx2"), flipped);
    check_failure(folder, "peek " + folder.path("half.ktx2"), 3, {"half.ktx2", "file's end"});
    check_failure(folder, "upload " + folder.path("half.ktx2"), 3, {"half.ktx2", "file's end"});
    check_failure(folder,
                  "draw floor " + folder.path("flipped.ktx2") + " -o " + folder.path("o.png"), 3,
                  {"at byte 40", "levelCount"});
}

TEST_CASE("one bad file among several is named, and the others are shown") {
    const Outcome outcome =
        run_ylat("peek " + demo_file("label.png") + " nowhere.png " + demo_file("moss.png"));
    CHECK(outcome.exit == 4);
    CHECK(contains(outcome.out, "45 x 29"));
    CHECK(contains(outcome.out, "256 x 256"));
    CHECK(contains(outcome.err, "nowhere.png"));
}

TEST_CASE("options that mean nothing") {
    const TemporaryFolder folder;
    const std::string bake =
        "bake " + demo_file("label.png") + " -o " + folder.path("out.ktx2") + " ";
    check_failure(folder, bake + "--as rgba9", 2, {"--as", "rgba9", "rgba8-srgb"});
    check_failure(folder, bake + "--role shiny", 2, {"--role", "shiny", "normal"});
    check_failure(folder, bake + "--levels 0", 2, {"--levels"});
    check_failure(folder, bake + "--levels 9", 2, {"levels", "1 to 6"});
    check_failure(folder, bake + "--origin left", 2, {"--origin"});
    check_failure(folder, bake + "--supercompress zip", 2, {"--supercompress", "zip"});
    check_failure(folder, bake + "--supercompress zstd:99", 2, {"1 to 22"});
    check_failure(folder, bake + "--sampler wrap=round", 2, {"wrap=round", "clamp-to-edge"});
    check_failure(folder, bake + "--frobnicate", 2, {"--frobnicate"});
    check_failure(folder, "bake " + demo_file("label.png"), 2, {"-o"});
    check_failure(folder, "bake " + demo_file("label.png") + " -o " + folder.path("out.tex"), 2,
                  {"out.tex", ".ktx2"});
    check_failure(folder, "draw ceiling " + demo_file("label.png") + " -o " + folder.path("o.png"),
                  2, {"ceiling"});
    check_failure(folder,
                  "draw floor " + demo_file("label.png") + " --size 0x5 -o " + folder.path("o.png"),
                  2, {"--size"});
    check_failure(folder, "upload --api metal " + demo_file("label.png"), 2, {"metal"});
    check_failure(folder, "paint", 2, {"paint"});
    check_failure(folder, "", 2, {});
}

TEST_CASE("targets that cannot be written: an existing file stays as it was") {
    const TemporaryFolder folder;
    check_failure(folder,
                  "bake " + demo_file("label.png") + " -o " + folder.path("no/such/out.ktx2"), 4,
                  {"out.ktx2", "cannot write"});
    std::filesystem::create_directory(folder.path("dir.ktx2"));
    check_failure(folder, "bake " + demo_file("label.png") + " -o " + folder.path("dir.ktx2"), 4,
                  {"dir.ktx2", "folder"});
    check_failure(folder, "bake " + demo_file("label.png") + " -o /proc/out.ktx2", 4,
                  {"/proc/out.ktx2", "cannot write"});
    check_failure(folder, "draw floor " + demo_file("label.png") + " -o " + folder.path("no/o.png"),
                  4, {"cannot write"});

    support::write_text(folder.path("old.ktx2"), "what was there before");
    const auto untouched = [&] {
        const auto bytes = support::read_bytes(folder.path("old.ktx2"));
        return std::string(reinterpret_cast<const char*>(bytes.data()), bytes.size()) ==
               "what was there before";
    };
    check_failure(folder, "bake nowhere.png -o " + folder.path("old.ktx2"), 4, {"nowhere.png"});
    CHECK(untouched());
    // A full disk, played by a limit on the size of files.
    check_failure(folder, "bake " + demo_file("slate.png") + " -o " + folder.path("old.ktx2"), 4,
                  {"old.ktx2", "cannot write"}, "trap '' XFSZ; ulimit -f 100;");
    CHECK(untouched());
}

TEST_CASE("a machine without an OpenGL device") {
    const TemporaryFolder folder;
    const std::string no_device = "__EGL_VENDOR_LIBRARY_FILENAMES=/nowhere.json";
    check_failure(folder, "upload " + demo_file("label.png"), 5, {"no OpenGL device"}, no_device);
    check_failure(folder,
                  "draw panel --api gl " + demo_file("label.png") + " -o " + folder.path("o.png"),
                  5, {"no OpenGL device"}, no_device);
    CHECK(run_ylat(
              "draw panel --size 32x32 " + demo_file("label.png") + " -o " + folder.path("o.png"),
              no_device)
              .exit == 0);
}
