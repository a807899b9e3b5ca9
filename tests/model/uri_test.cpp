// URIs of models: data in them, and the files that they mean.
#include "model/uri.hpp"
#include "support/check.hpp"

using namespace yl;
using namespace yl::model;
using support::contains;
using support::must;
using support::must_fail;

namespace {

std::string decoded(std::string_view uri, std::uint64_t most = 1000) {
    const auto bytes = must(decode_data_uri(uri, most));
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

std::string resolved(std::string_view uri, bool allow_outside = false) {
    return must(resolve_uri(uri, "/models", allow_outside)).generic_string();
}

}  // namespace

TEST_CASE("base64 of the RFC's own examples, with and without padding, in either alphabet") {
    CHECK(decoded("data:;base64,").empty());
    CHECK(decoded("data:;base64,Zg==") == "f");
    CHECK(decoded("data:;base64,Zm8=") == "fo");
    CHECK(decoded("data:;base64,Zm9v") == "foo");
    CHECK(decoded("data:;base64,Zm9vYg==") == "foob");
    CHECK(decoded("data:;base64,Zm9vYmE=") == "fooba");
    CHECK(decoded("data:;base64,Zm9vYmFy") == "foobar");
    CHECK(decoded("data:;base64,Zm8") == "fo");
    CHECK(decoded("data:image/png;base64,+/+/") == decoded("data:image/png;base64,-_-_"));
    CHECK(decoded("data:;base64,//8=") == "\xFF\xFF");
}

TEST_CASE("data without base64 is text with percent signs") {
    CHECK(decoded("data:,a%20b") == "a b");
    CHECK(decoded("data:text/plain,100%") == "100%");
    CHECK(decoded("data:,%4") == "%4");
    CHECK(decoded("data:,%zz%41") == "%zzA");
}

TEST_CASE("broken data URIs, and those beyond the limit, are refused") {
    for (const char* uri : {"data:;base64,Zm9vY", "data:;base64,Zm 9v",
                            "data:;base64,Zg==Zg==", "data:image/png", "dat:,x"}) {
        CAPTURE(uri);
        CHECK(must_fail(decode_data_uri(uri, 1000)).kind == ErrorKind::malformed);
    }
    const std::string data = "data:;base64," + std::string(400, 'A');  // 300 bytes
    CHECK(decoded(data, 300).size() == 300);
    const Error error = must_fail(decode_data_uri(data, 299));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.message, "400 characters"));
    CHECK(is_data_uri("data:,"));
    CHECK_FALSE(is_data_uri("database.png"));
}

TEST_CASE("relative names lead into the folder, whatever their slashes and percent signs") {
    CHECK(resolved("a.png") == "/models/a.png");
    CHECK(resolved("./textures/a.png") == "/models/textures/a.png");
    CHECK(resolved("textures\\stone\\a.png") == "/models/textures/stone/a.png");
    CHECK(resolved("my%20stone%2Ea.png") == "/models/my stone.a.png");
    CHECK(resolved("%C3%A4.png") == "/models/\xC3\xA4.png");
    CHECK(resolved("50%.png") == "/models/50%.png");
    CHECK(resolved("a/b/../c.png") == "/models/a/c.png");
    CHECK(resolved("..a.png") == "/models/..a.png");
    CHECK(resolved("a..b/c.png") == "/models/a..b/c.png");
}

TEST_CASE("names that lead out are refused, or allowed on request") {
    for (const char* uri :
         {"..", "../a.png", "a/../../b.png", "..%2Fa.png", "..\\a.png", "%2e%2e/a.png",
          "/etc/a.png", "file:///etc/a.png", "C:/a.png", "c:\\a.png"}) {
        CAPTURE(uri);
        const Error error = must_fail(resolve_uri(uri, "/models", false));
        CHECK(error.kind == ErrorKind::usage);
        CHECK(contains(error.message, "out of the model's folder"));
    }
    CHECK(resolved("/etc/a.png", true) == "/etc/a.png");
    CHECK(resolved("file:///etc/a.png", true) == "/etc/a.png");
    CHECK(resolved("../a.png", true) == "/models/../a.png");
    for (const bool allow : {false, true})
        for (const char* uri : {"https://example.org/a.png", "ftp://a", "gopher://a/b"})
            CHECK(contains(must_fail(resolve_uri(uri, "/models", allow)).message, "fetched"));
    for (const char* nothing : {"", "file://"})
        CHECK(contains(must_fail(resolve_uri(nothing, "/models", true)).message, "no file"));
    CHECK(must_fail(resolve_uri("a%00.png", "/models", false)).kind == ErrorKind::malformed);
}
