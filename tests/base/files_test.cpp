// Files from the disk, from memory and from a program, in the place of paths.
#include <atomic>
#include <cerrno>
#include <yl/yl.hpp>

#include "base/new_file.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::TemporaryFolder;

namespace {

using Bytes = std::vector<std::byte>;

Bytes counted(std::size_t count) {
    Bytes bytes;
    for (std::size_t i = 0; i < count; ++i)
        bytes.push_back(std::byte(i * 7 & 255U));
    return bytes;
}

Bytes some_png(std::uint32_t width) {
    Image image = must(Image::create(Format::rgb8_srgb, width, 3));
    support::Random random(width);
    support::fill_random(image.view(), random);
    return must(encode_picture("png", std::as_const(image).view()));
}

/// What a program may have: it counts, and fails when told to.
class OwnFiles final : public Files {
 public:
    explicit OwnFiles(std::shared_ptr<const Files> inner) : inner_(std::move(inner)) {}

    Result<std::unique_ptr<File>> open(const std::filesystem::path& name) const override {
        ++opened;
        if (fails)
            return tl::unexpected(Error{ErrorKind::forbidden, "not today", name.string(), {}});
        return inner_->open(name);
    }
    Result<std::vector<std::string>> list() const override { return inner_->list(); }

    mutable std::atomic<int> opened = 0;
    bool fails = false;

 private:
    std::shared_ptr<const Files> inner_;
};

}  // namespace

TEST_CASE("files of the disk and of memory are read at any place") {
    const TemporaryFolder folder;
    const Bytes content = counted(1000);
    support::write_bytes(folder.path("one.bin"), content);
    std::filesystem::create_directories(folder.path("in"));
    support::write_bytes(folder.path("in/two.bin"), counted(3));
    const auto disk = disk_files(folder.path(""));
    const auto memory = memory_files({{"one.bin", Bytes(content)}, {"in/two.bin", counted(3)}});
    for (const auto& files : {disk, memory}) {
        CHECK(must(files->list()) == std::vector<std::string>{"in/two.bin", "one.bin"});
        const auto file = must(files->open("one.bin"));
        CHECK(file->size() == 1000);
        Bytes part(10);
        must(file->read_at(990, part));
        CHECK(part == Bytes(content.end() - 10, content.end()));
        must(file->read_at(0, part));
        CHECK(part == Bytes(content.begin(), content.begin() + 10));
        for (const std::uint64_t offset : {991ULL, 1001ULL, ~0ULL})
            CHECK(must_fail(file->read_at(offset, part)).kind == ErrorKind::malformed);
        CHECK(must(files->open("in/../in/two.bin"))->size() == 3);
        CHECK(must_fail(files->open("none.bin")).kind == ErrorKind::missing);
    }
    CHECK(contains(must_fail(disk->open("in")).message, "is a folder"));

    const std::string path = folder.path("one.bin");
    must(write_whole_file(path, counted(5)));
    const Buffer read = must(read_whole_file(path));
    CHECK(std::ranges::equal(read.bytes(), counted(5)));
    CHECK(must(read_whole_file("in/two.bin", memory)).size() == 3);
    CHECK(must_fail(read_whole_file("in/two.bin", memory, 2)).kind == ErrorKind::limit);
    CHECK(must(read_whole_file("in/two.bin", memory, 3)).size() == 3);
    CHECK(must(read_whole_file(path, {}, 5)).size() == 5);
    CHECK(must_fail(read_whole_file(path, {}, 4)).kind == ErrorKind::limit);
    CHECK_FALSE(write_whole_file(folder.path("none/one.bin"), counted(5)).has_value());
}

TEST_CASE("an errno that somebody left behind says nothing about a file") {
    const TemporaryFolder folder;
    const std::string path = folder.path("one.bin");
    const Bytes content = counted(5000);
    for (const int left_behind : {EINTR, ENOSPC, ENOENT, EAGAIN}) {
        errno = left_behind;
        must(write_whole_file(path, content));
        errno = left_behind;
        CHECK(std::ranges::equal(must(read_whole_file(path)).bytes(), content));
        errno = left_behind;
        CHECK(must(read_whole_file("one.bin", disk_files(folder.path("")))).size() == 5000);
        errno = left_behind;
        Bytes part(10);
        must(must(disk_files(folder.path(""))->open("one.bin"))->read_at(4990, part));
        CHECK(part == Bytes(content.end() - 10, content.end()));
        NewFile file = must(NewFile::begin(folder.path("new.bin")));
        errno = left_behind;
        must(file.write_at(0, content));
        must(file.commit());
        CHECK(support::read_bytes(folder.path("new.bin")) == content);
    }
}

TEST_CASE("whatever reads a file by its name takes a program's own files") {
    const Texture texture =
        support::random_texture({.format = Format::rgba8_srgb, .width = 8, .height = 4}, 3);
    const auto text_file = [](const std::string& text) {
        const auto bytes = std::as_bytes(std::span(text));
        return SharedBytes(Bytes(bytes.begin(), bytes.end()));
    };
    std::string table = "LUT_3D_SIZE 2\n";
    for (int i = 0; i < 8; ++i)
        table += "0.5 0.25 1\n";
    const auto memory =
        memory_files({{"a/pot.png", some_png(5)},
                      {"pot.ktx2", must(texture_file_bytes("ktx2", texture))},
                      {"grade.cube", text_file(table)},
                      {"atlas.json", text_file(atlas_table_text(AtlasTable{}, "atlas.ktx2"))}});
    const auto own = std::make_shared<OwnFiles>(memory);
    CHECK(must(read_picture("a/pot.png", {.files = own})).image.width() == 5);
    CHECK(must(read_frames("a/pot.png", {.files = own})).pictures.size() == 1);
    CHECK(must(peek_picture("a/pot.png", own)).width == 5);
    CHECK(must(read_texture("pot.ktx2", {.files = own})).texture.shape().width == 8);
    CHECK(must(TextureStream::open("pot.ktx2", {.files = own})).shape().height == 4);
    CHECK(must(file_content("pot.ktx2", own)) == FileContent::texture);
    CHECK(must(bake_file("a/pot.png", {}, {.files = own})).texture.shape().width == 5);
    CHECK(must(read_lookup_table("grade.cube", {}, own)).texture.shape().width == 2);
    CHECK(must(read_atlas_table("atlas.json", own)).parts.empty());
    CHECK(must(PictureRows::open("a/pot.png", {.files = own})).width() == 5);
    CHECK(must(read_levels("a/pot.png", {.files = own})).size() == 1);
    CHECK(own->opened == 11);

    CHECK(must_fail(TextureStream::open("pot.ktx2", {.files = own}, FileAccess::map)).kind ==
          ErrorKind::usage);
    const Error missing = must_fail(read_picture("b.png", {.files = own}));
    CHECK(missing.kind == ErrorKind::missing);
    CHECK(missing.place == "b.png");
    const auto failing = std::make_shared<OwnFiles>(memory);
    failing->fails = true;
    CHECK(must_fail(read_texture("pot.ktx2", {.files = failing})).kind == ErrorKind::forbidden);
    // And the disk is not looked at.
    CHECK_FALSE(std::filesystem::exists("a/pot.png"));
}
