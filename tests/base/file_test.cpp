#include "base/file.hpp"

#include <sys/stat.h>

#include "support/check.hpp"
#include "support/files.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::TemporaryFolder;

TEST_CASE("a file is written in pieces, replaced whole, and read back") {
    const TemporaryFolder folder;
    const std::string path = folder.path("out.bin");
    const ByteSpan pieces[] = {as_bytes("yellow "), as_bytes(""), as_bytes("lattice")};
    must(write_file(path, pieces));
    CHECK(as_text(must(MappedFile::open(path)).bytes()) == "yellow lattice");
    const MappedFile before = must(MappedFile::open(path));
    must(write_file(path, as_bytes("new")));
    CHECK(as_text(before.bytes()) == "yellow lattice");  // who has the old file open keeps it
    CHECK(as_text(must(MappedFile::open(path)).bytes()) == "new");
    CHECK(folder.entries() == std::vector<std::string>{"out.bin"});
}

TEST_CASE("a link's target is written, and the link stays") {
    const TemporaryFolder folder;
    support::write_text(folder.path("real"), "old");
    std::filesystem::create_symlink("real", folder.path("link"));
    must(write_file(folder.path("link"), as_bytes("new")));
    CHECK(std::filesystem::is_symlink(folder.path("link")));
    CHECK(as_text(must(MappedFile::open(folder.path("real"))).bytes()) == "new");
}

TEST_CASE("failed reads and writes say why and leave nothing behind") {
    const TemporaryFolder folder;
    Error error = must_fail(MappedFile::open(folder.path("missing")));
    CHECK(error.kind == ErrorKind::missing);
    CHECK(contains(error.sentence(), folder.path("missing")));
    CHECK(contains(error.message, "No such file"));
    error = must_fail(MappedFile::open(folder.path("")));
    CHECK(contains(error.message, "folder"));
    error = must_fail(write_file(folder.path("no/such/folder/x"), as_bytes("x")));
    CHECK(error.kind == ErrorKind::missing);
    std::filesystem::create_directory(folder.path("d"));
    error = must_fail(write_file(folder.path("d"), as_bytes("x")));
    CHECK(contains(error.message, "folder"));
    CHECK(folder.entries() == std::vector<std::string>{"d"});
}

TEST_CASE("a file of just the size that is allowed is read, and one byte more is too much") {
    const TemporaryFolder folder;
    support::write_text(folder.path("seven"), "lattice");
    CHECK(as_text(must(read_file(folder.path("seven"), 7)).bytes()) == "lattice");
    CHECK(must_fail(read_file(folder.path("seven"), 6)).kind == ErrorKind::limit);
}

TEST_CASE("control letters of a quoted name do not reach a terminal, from the first to the last") {
    const Error error{ErrorKind::malformed, std::string("a\0b\x1F\x7F c", 7), {}, {}};
    CHECK(error.sentence() == "a\\x00b\\x1f\\x7f c");
}

TEST_CASE("an empty file is an empty span") {
    const TemporaryFolder folder;
    support::write_text(folder.path("empty"), "");
    CHECK(must(MappedFile::open(folder.path("empty"))).bytes().empty());
}

TEST_CASE("new files get the permissions that the user's mask leaves") {
    const TemporaryFolder folder;
    const mode_t before = ::umask(027);
    must(write_file(folder.path("f"), as_bytes("x")));
    ::umask(before);
    struct stat info {};
    REQUIRE(::stat(folder.path("f").c_str(), &info) == 0);
    CHECK((info.st_mode & 0777) == 0640);
}
