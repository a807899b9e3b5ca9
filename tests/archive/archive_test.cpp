// Files in ZIP archives that the general-purpose library writes: pictures, textures, models.
#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <thread>
#include <yl/archive.hpp>
#include <yl/model.hpp>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/zip_file.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::TemporaryFolder;

namespace {

using Bytes = std::vector<std::byte>;

Bytes png(std::uint32_t width) {
    Image image = must(Image::create(Format::rgb8_srgb, width, 7));
    support::Random random(width);
    support::fill_random(image.view(), random);
    return must(encode_picture("png", std::as_const(image).view()));
}

Bytes bytes_of_text(const std::string& text) {
    const auto bytes = std::as_bytes(std::span(text));
    return {bytes.begin(), bytes.end()};
}

/// A triangle with its positions in a file beside it, and an image in a folder of its own.
std::vector<support::ZipEntry> model_files() {
    const std::array<float, 9> positions = {0, 0, 0, 1, 0, 0, 0, 1, 0};
    const auto raw = std::as_bytes(std::span(positions));
    const nlohmann::json model = {
        {"asset", {{"version", "2.0"}}},
        {"buffers", {{{"uri", "pot.bin"}, {"byteLength", 36}}}},
        {"bufferViews", {{{"buffer", 0}, {"byteLength", 36}}}},
        {"accessors",
         {{{"bufferView", 0},
           {"componentType", 5126},
           {"count", 3},
           {"type", "VEC3"},
           {"min", {0, 0, 0}},
           {"max", {1, 1, 0}}}}},
        {"images", {{{"uri", "maps/clay%201.png"}}, {{"uri", "../../out.png"}}}},
        {"textures", {{{"source", 0}}, {{"source", 1}}}},
        {"materials",
         {{{"name", "clay"}, {"pbrMetallicRoughness", {{"baseColorTexture", {{"index", 0}}}}}}}},
        {"meshes", {{{"primitives", {{{"attributes", {{"POSITION", 0}}}, {"material", 0}}}}}}},
        {"nodes", {{{"mesh", 0}}}},
        {"scenes", {{{"nodes", {0}}}}}};
    return {{"pots/pot.gltf", bytes_of_text(model.dump())},
            {"pots/pot.bin", Bytes(raw.begin(), raw.end()), true},
            {"pots/maps/clay 1.png", png(9)},
            {"out.png", png(4)}};
}

}  // namespace

TEST_CASE("files of an archive are listed and read, on the disk and in memory") {
    support::Random random(3);
    Bytes large(300'000);
    for (std::byte& byte : large)
        byte = std::byte(random() % 7);
    const Bytes zip = support::zip_file({{"b/large.bin", large},
                                         {"a.bin", bytes_of_text("stored"), true},
                                         {"gr\xC3\xBCn.png", png(5)}});
    const TemporaryFolder folder;
    support::write_bytes(folder.path("all.zip"), zip);
    for (const auto& files : {must(open_archive(SharedBytes(Bytes(zip)))),
                              must(open_archive(folder.path("all.zip")))}) {
        CHECK(must(files->list()) ==
              std::vector<std::string>{"a.bin", "b/large.bin", "gr\xC3\xBCn.png"});
        const auto file = must(files->open("b/./large.bin"));
        CHECK(file->size() == large.size());
        Bytes part(1000);
        must(file->read_at(123'456, part));
        CHECK(std::equal(part.begin(), part.end(), large.begin() + 123'456));
        Bytes whole(large.size());
        must(file->read_at(0, whole));
        CHECK(whole == large);
        CHECK(must_fail(file->read_at(large.size() - 10, part)).kind == ErrorKind::malformed);
        CHECK(must_fail(files->open("c.bin")).kind == ErrorKind::missing);
        CHECK(must_fail(files->open("../a.bin")).kind == ErrorKind::missing);
        CHECK(must(read_picture("gr\xC3\xBCn.png", {.files = files})).image.width() == 5);
        const Error limit = must_fail(read_texture("b/large.bin", {.files = files}));
        CHECK(limit.kind == ErrorKind::unsupported);
    }
    // Paths lead into archives as into folders.
    const auto both = files_with_archives();
    CHECK(
        must(read_picture(folder.path("all.zip/gr\xC3\xBCn.png"), {.files = both})).image.width() ==
        5);
    const Error missing = must_fail(both->open(folder.path("all.zip/none.png")));
    CHECK(missing.kind == ErrorKind::missing);
    CHECK(missing.place == folder.path("all.zip/none.png"));
    CHECK(must(both->open(folder.path("all.zip")))->size() == zip.size());
}

TEST_CASE("a model and its images come out of an archive, and nothing touches the disk") {
    const auto files = must(open_archive(SharedBytes(support::zip_file(model_files()))));
    const auto model = must(yl::model::read_model("pots/pot.gltf", {.files = files}));
    REQUIRE(model.images.size() == 2);
    CHECK(model.images[0].width == 9);
    CHECK_FALSE(model.images[0].error);
    CHECK(Bytes(model.contents[0].begin(), model.contents[0].end()) == png(9));
    // What leads out of the model's folder is refused here as well.
    REQUIRE(model.images[1].error);
    CHECK(contains(model.images[1].error->message, "leads out"));
    Findings findings;
    const auto parts = must(yl::model::primitives_of(model, findings));
    REQUIRE(parts.size() == 1);
    CHECK(parts[0].vertices.size() == 3);

    auto open = model_files();
    const auto allowed =
        must(yl::model::read_model("pots/pot.gltf", {.files = files, .allow_outside = true}));
    CHECK_FALSE(allowed.images[0].error);
}

TEST_CASE("several threads read one archive at the same time") {
    std::vector<support::ZipEntry> entries;
    for (std::uint32_t i = 1; i <= 12; ++i)
        entries.push_back({fmt::format("{}.png", i), png(i)});
    const auto files = must(open_archive(SharedBytes(support::zip_file(entries))));
    std::vector<std::filesystem::path> paths;
    for (int round = 0; round < 4; ++round)
        for (std::uint32_t i = 1; i <= 12; ++i)
            paths.emplace_back(fmt::format("{}.png", i));
    int right = 0;
    read_pictures(paths,
                  [&](std::size_t index, Result<Picture> picture) {
                      right += picture && picture->image.width() == index % 12 + 1 ? 1 : 0;
                  },
                  {.files = files});
    CHECK(right == 48);
}

TEST_CASE(
    "what is not an archive, damaged or locked is refused, and no memory is taken for claims") {
    CHECK(must_fail(open_archive(SharedBytes(bytes_of_text("no archive")))).kind ==
          ErrorKind::malformed);
    CHECK(must_fail(open_archive("/none.zip")).kind == ErrorKind::missing);
    const auto locked = must(open_archive(SharedBytes(
        support::zip_file({{.name = "a.png", .content = png(3), .is_encrypted = true}}))));
    CHECK(contains(must_fail(locked->open("a.png")).message, "encrypted"));

    support::Random random(8);
    const Bytes sound = support::zip_file({{"a.png", png(60)}, {"b.png", png(50), true}});
    int failed = 0;
    for (int round = 0; round < 600; ++round) {
        Bytes damaged = sound;
        damaged[random() % damaged.size()] = std::byte(random() % 256);
        if (round % 4 == 0)
            damaged.resize(random() % damaged.size());
        const auto files = open_archive(SharedBytes(std::move(damaged)));
        if (!files) {
            CHECK_FALSE(files.error().message.empty());
            continue;
        }
        for (const char* name : {"a.png", "b.png"}) {
            const auto picture =
                read_picture(name, {.limits = {.max_bytes = 1 << 20}, .files = *files});
            failed += picture ? 0 : 1;
            if (!picture)
                CHECK_FALSE(picture.error().message.empty());
        }
    }
    CHECK(failed > 50);
    // What is packed small may be large.
    const auto bomb =
        must(open_archive(SharedBytes(support::zip_file({{"zeros.png", Bytes(64 << 20)}}))));
    const auto file = must(bomb->open("zeros.png"));
    CHECK(file->size() == 64 << 20);
    CHECK(must_fail(
              yl::model::read_model("zeros.png", {.limits = {.max_bytes = 1 << 20}, .files = bomb}))
              .kind == ErrorKind::limit);
}
