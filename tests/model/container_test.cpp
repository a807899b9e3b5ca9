// The pieces of a model's file: chunks, data URIs, held bytes, accessors of every type.
#include <numeric>

#include "model/gltf/accessors.hpp"
#include "model/models.hpp"
#include "model/uri.hpp"
#include "support/files.hpp"

using namespace support::models;

namespace {

std::span<const std::byte> bytes_of(std::string_view text) {
    return std::as_bytes(std::span(text.data(), text.size()));
}

/// An accessor's numbers, one after the other.
struct Elements {
    std::size_t count = 0, components = 0;
    std::vector<float> values = {};
};

/// What an accessor over these bytes gives; between its elements, memory stays what it was.
template <class T>
Result<Elements> elements_of(const std::vector<T>& numbers, int component, const char* type,
                             std::size_t count, bool normalised, int stride = 0) {
    Builder builder;
    const std::size_t accessor = builder.add_accessor(numbers, type, count, component);
    builder.model["accessors"][accessor]["normalized"] = normalised;
    if (stride > 0)
        builder.model["bufferViews"][0]["byteStride"] = stride;
    const auto file = builder.glb();
    const Container container = must(split_container(file));
    const json model = json::parse(builder.model.dump());  // as a file's numbers are
    const ModelReadOptions options;
    const std::filesystem::path folder;
    Buffers buffers(model, container, folder, options);
    const Accessors accessors(model, buffers, options.limits);
    const auto kind = accessors.kind(accessor);
    if (!kind)
        return tl::unexpected(kind.error());
    Elements elements{kind->count, kind->components};
    const std::size_t step = kind->components + 1;
    std::vector<float> spread(kind->count * step, 77);
    must(accessors.read_floats(accessor, reinterpret_cast<std::byte*>(spread.data()),
                               step * sizeof(float)));
    for (std::size_t i = 0; i < spread.size(); ++i)
        if (i % step < kind->components)
            elements.values.push_back(spread[i]);
        else
            CHECK(spread[i] == 77);
    return elements;
}

}  // namespace

TEST_CASE("chunks are padded, JSON by spaces and bytes by zeros, and come back") {
    const support::TemporaryFolder folder;
    const std::string path = folder.path("a.glb");
    for (const std::size_t size : {0U, 1U, 2U, 3U, 4U, 9U}) {
        CAPTURE(size);
        std::vector<std::byte> binary(size);
        for (std::size_t i = 0; i < size; ++i)
            binary[i] = static_cast<std::byte>(i + 1);
        const std::size_t half = size / 2;
        const std::span<const std::byte> pieces[] = {std::span(binary).first(half),
                                                     std::span(binary).subspan(half)};
        must(write_container(path, R"({"a":1})", pieces));
        const auto file = support::read_bytes(path);
        CHECK(file.size() % 4 == 0);
        const Container container = must(split_container(file));
        CHECK(container.json.size() == 8);
        CHECK(container.json.back() == std::byte{' '});
        REQUIRE(container.binary);
        CHECK(container.binary->size() == (size + 3) / 4 * 4);
        CHECK(std::equal(binary.begin(), binary.end(), container.binary->begin()));
        for (std::size_t i = size; i < container.binary->size(); ++i)
            CHECK((*container.binary)[i] == std::byte{0});
    }
    CHECK(must_fail(write_container(folder.path("no/a.glb"), "{}", {})).kind == ErrorKind::missing);
}

TEST_CASE("data URIs by the RFC's examples, there and back") {
    const std::pair<const char*, const char*> examples[] = {{"", ""},
                                                            {"f", "Zg=="},
                                                            {"fo", "Zm8="},
                                                            {"foo", "Zm9v"},
                                                            {"foob", "Zm9vYg=="},
                                                            {"fooba", "Zm9vYmE="},
                                                            {"foobar", "Zm9vYmFy"}};
    for (const auto& [plain, coded] : examples)
        CHECK(encode_data_uri("text/plain", bytes_of(plain)) ==
              "data:text/plain;base64," + std::string(coded));
    std::vector<std::byte> all(256);
    for (std::size_t i = 0; i < all.size(); ++i)
        all[i] = static_cast<std::byte>(i);
    for (std::size_t size = 250; size <= 256; ++size) {
        const auto part = std::span(all).first(size);
        const auto back = must(decode_data_uri(encode_data_uri("a/b", part), 1000));
        CHECK(std::ranges::equal(back, part));
    }
    CHECK(percent_decoded("a%20b%2Fc%zz%4") == "a b/c%zz%4");
    CHECK(percent_decoded("%C3%A4") == "\xC3\xA4");
}

TEST_CASE("files are mapped, within the limits; URIs lead to them or hold them") {
    const support::TemporaryFolder folder;
    support::write_text(folder.path("a b.bin"), "hello");
    const auto held = must(open_bytes(folder.path("a b.bin"), {}));
    CHECK(std::ranges::equal(held->bytes(), bytes_of("hello")));
    Limits small;
    small.max_bytes = 4;
    const Error error = must_fail(open_bytes(folder.path("a b.bin"), small));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.sentence(), "a b.bin"));
    CHECK(must_fail(open_bytes(folder.path("none"), {})).kind == ErrorKind::missing);
    const auto by_uri = must(open_uri("a%20b.bin", folder.path(""), {}));
    CHECK(std::ranges::equal(by_uri->bytes(), bytes_of("hello")));
    CHECK(std::ranges::equal(must(open_uri("data:,hello", "/nowhere", {}))->bytes(),
                             bytes_of("hello")));
    CHECK(must_fail(open_uri("../x", folder.path(""), {})).kind == ErrorKind::usage);
}

TEST_CASE("numbers of every component type, as they are and as fractions") {
    const auto values = [](Result<Elements> elements) { return must(std::move(elements)).values; };
    CHECK(values(elements_of<std::int8_t>({-128, -127, 0, 127}, 5120, "VEC4", 1, false)) ==
          std::vector<float>{-128, -127, 0, 127});
    CHECK(values(elements_of<std::int8_t>({-128, -127, 0, 127}, 5120, "VEC4", 1, true)) ==
          std::vector<float>{-1, -1, 0, 1});
    CHECK(values(elements_of<std::uint8_t>({0, 51, 255, 0}, 5121, "VEC3", 1, true)) ==
          std::vector<float>{0, 0.2F, 1});
    CHECK(values(elements_of<std::int16_t>({-32768, 32767, 0, 5}, 5122, "VEC2", 2, true)) ==
          std::vector<float>{-1, 1, 0, 5.0F / 32767});
    CHECK(values(elements_of<std::uint16_t>({65535, 13107}, 5123, "VEC2", 1, true)) ==
          std::vector<float>{1, 0.2F});
    CHECK(values(elements_of<std::uint16_t>({65535, 7}, 5123, "SCALAR", 2, false)) ==
          std::vector<float>{65535, 7});
    CHECK(values(elements_of<std::uint32_t>({1U << 31}, 5125, "SCALAR", 1, false)) ==
          std::vector<float>{2147483648.0F});
    CHECK(values(elements_of<float>({-1.5F, 2.25F}, 5126, "VEC2", 1, false)) ==
          std::vector<float>{-1.5F, 2.25F});
}

TEST_CASE("strides step over what lies between, and the last element may end the buffer") {
    std::vector<float> numbers(11);
    std::iota(numbers.begin(), numbers.end(), 0.0F);
    const auto strided = must(elements_of(numbers, 5126, "VEC3", 3, false, 16));
    CHECK(strided.values == std::vector<float>{0, 1, 2, 4, 5, 6, 8, 9, 10});
    CHECK(strided.count == 3);
    CHECK(strided.components == 3);
    CHECK(contains(must_fail(elements_of(numbers, 5126, "VEC3", 4, false, 16)).message,
                   "takes 4 elements of 12 bytes at 0, and its view has 44"));
    CHECK(contains(must_fail(elements_of(numbers, 5126, "VEC3", 2, false, 8)).message,
                   "a stride of 8 bytes for elements of 12"));
    CHECK(contains(must_fail(elements_of(numbers, 5126, "VEC3", 2, false, 256)).message,
                   "a stride of 256"));
    CHECK(must(elements_of(numbers, 5126, "VEC3", 0, false)).values.empty());
}
