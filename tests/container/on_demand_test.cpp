// Streams that read on demand give what streams in memory give, and read no more than they need.
#include <filesystem>
#include <mutex>
#include <random>

#include <yl/texture_file.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

using Bytes = std::vector<std::byte>;

/// Counts the bytes that are read of one file in memory.
class CountedFiles final : public Files {
 public:
    explicit CountedFiles(Bytes content) : files_(memory_files({{"file", std::move(content)}})) {}

    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const override {
        auto file = files_->open(name);
        if (!file)
            return file;
        return std::make_unique<Counted>(std::move(*file), *this);
    }
    [[nodiscard]] Result<std::vector<std::string>> list() const override { return files_->list(); }

    [[nodiscard]] std::uint64_t read() const { return read_; }

 private:
    class Counted final : public File {
     public:
        Counted(std::unique_ptr<File> file, const CountedFiles& files)
            : file_(std::move(file)), files_(files) {}
        [[nodiscard]] std::uint64_t size() const override { return file_->size(); }
        [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) const override {
            const std::lock_guard lock(files_.mutex_);
            files_.read_ += to.size();
            return file_->read_at(offset, to);
        }

     private:
        std::unique_ptr<File> file_;
        const CountedFiles& files_;
    };

    std::shared_ptr<const Files> files_;
    mutable std::mutex mutex_;
    mutable std::uint64_t read_ = 0;
};

/// Into memory whose rows are further apart than they are long.
void check_surfaces(const TextureStream& stream, const Texture& texture) {
    const TextureShape& shape = texture.shape();
    for (std::uint32_t level = 0; level < shape.levels; level += 2)
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face) {
                const ConstImageView expected = texture.image(level, layer, face);
                const std::size_t stride = expected.row_bytes() + 12;
                Bytes memory(stride * expected.row_count(), std::byte{0xEE});
                const ImageView target{memory.data(), shape.format, expected.width, expected.height,
                                       stride};
                must(stream.read_surface(target, level, layer, face));
                REQUIRE(support::equal_pixels(target, expected));
                REQUIRE(memory.back() == std::byte{0xEE});
            }
    Bytes small(64);
    const ImageView wrong{small.data(), shape.format, 1, 1, 4};
    CHECK(must_fail(stream.read_surface(wrong, 0)).kind == ErrorKind::usage);
    CHECK(must_fail(stream.read_surface(wrong, shape.levels)).kind == ErrorKind::usage);
    CHECK(must_fail(stream.read_surface(wrong, 6, 0, shape.faces)).kind == ErrorKind::usage);
    CHECK(must_fail(stream.read_surface({}, 0)).kind == ErrorKind::usage);
    for (const auto& [more_columns, more_rows] : {std::pair{1U, 0U}, std::pair{0U, 1U}}) {
        const TextureShape larger{.format = shape.format,
                                  .width = shape.width_at(0) + more_columns,
                                  .height = shape.height_at(0) + more_rows};
        Bytes memory(static_cast<std::size_t>(larger.surface_bytes(0)));
        const ImageView target{memory.data(), larger.format, larger.width, larger.height,
                               static_cast<std::size_t>(larger.row_bytes(0))};
        CHECK(must_fail(stream.read_surface(target, 0)).kind == ErrorKind::usage);
    }
}

/// Both ways give the same texture, or the same error.
void check_both(const Bytes& content, const TextureReadOptions& options) {
    const auto whole = TextureStream::open(content, options);
    TextureReadOptions on_demand = options;
    on_demand.files = memory_files({{"file", SharedBytes(Bytes(content))}});
    const auto stream = TextureStream::open("file", on_demand, FileAccess::on_demand);
    REQUIRE(whole.has_value() == stream.has_value());
    if (!whole) {
        CHECK(stream.error().kind == whole.error().kind);
        CHECK(stream.error().message == whole.error().message);
        CHECK(stream.error().offset == whole.error().offset);
        return;
    }
    CHECK(stream->shape() == whole->shape());
    CHECK(stream->info().remarks == whole->info().remarks);
    for (std::uint32_t level = 0; level < whole->shape().levels; ++level) {
        Bytes expected(static_cast<std::size_t>(whole->shape().level_bytes(level)));
        Bytes read = expected;
        const Status one = whole->read_level(level, expected);
        const Status other = stream->read_level(level, read);
        REQUIRE(one.has_value() == other.has_value());
        if (one)
            CHECK(read == expected);
        else
            CHECK(other.error().message == one.error().message);
    }
}

}  // namespace

TEST_CASE("every seed, whole, cut off and damaged, is the same in memory and on demand") {
    std::mt19937 random(3);
    std::size_t files = 0;
    for (const auto& entry : std::filesystem::directory_iterator(SEEDS "/texture")) {
        CAPTURE(entry.path().string());
        const auto seed = support::read_bytes(entry.path().string());
        for (const bool forgiving : {false, true}) {
            const TextureReadOptions options{.limits = {.max_side = 4096, .max_bytes = 1 << 24},
                                             .forgiving = forgiving};
            check_both(seed, options);
            for (int i = 0; i < 20; ++i) {
                auto damaged = seed;
                damaged[random() % std::min<std::size_t>(damaged.size(), 400)] ^=
                    static_cast<std::byte>(1U << random() % 8);
                check_both(damaged, options);
                damaged.resize(1 + random() % damaged.size());
                check_both(damaged, options);
            }
        }
        ++files;
    }
    CHECK(files > 10);
}

TEST_CASE("only the header is read at first, and then the levels that are asked for") {
    for (const std::string kind : {"ktx2", "dds", "zstd"})
        for (const std::uint32_t faces : {1U, 6U})
            for (const std::uint32_t layers : {1U, 3U}) {
                CAPTURE(kind);
                const Texture texture = support::random_texture({.format = Format::rgba8_srgb,
                                                                 .width = 64,
                                                                 .height = 64,
                                                                 .levels = 7,
                                                                 .layers = layers,
                                                                 .faces = faces,
                                                                 .is_array = layers > 1},
                                                                layers + faces);
                const auto content = must(texture_file_bytes(
                    kind == "dds" ? "dds" : "ktx2", texture,
                    {.supercompression =
                         kind == "zstd" ? Supercompression::zstd : Supercompression::none}));
                const auto files = std::make_shared<CountedFiles>(content);
                const TextureStream stream =
                    must(TextureStream::open("file", {.files = files}, FileAccess::on_demand));
                CHECK(stream.info().file_bytes == content.size());
                CHECK(files->read() < 2000);
                CHECK(must_fail(stream.surface(0)).kind == ErrorKind::unsupported);
                check_surfaces(stream, texture);
                check_surfaces(must(TextureStream::open(content)), texture);
                Bytes level(static_cast<std::size_t>(texture.shape().level_bytes(3)));
                const std::uint64_t before = files->read();
                must(stream.read_level(3, level));
                CHECK(std::ranges::equal(level, support::level_of(texture, 3)));
                CHECK(files->read() - before < level.size() + 1000);
            }
}

TEST_CASE("levels come from the smallest up to the one that is wanted, until somebody says no") {
    const Texture texture = support::random_texture(
        {.format = Format::bc7_srgb, .width = 32, .height = 16, .levels = 6}, 4);
    const auto content = must(texture_file_bytes("ktx2", texture));
    const TextureStream stream = must(TextureStream::open(content));
    std::vector<std::uint32_t> seen;
    const auto take = [&](std::uint32_t level, std::span<const std::byte> texels) {
        CHECK(std::ranges::equal(texels, support::level_of(texture, level)));
        seen.push_back(level);
        return level != 3;
    };
    must(stream.read_smallest_first(4, take));
    CHECK(seen == std::vector<std::uint32_t>{5, 4});
    seen.clear();
    must(stream.read_smallest_first(0, take));
    CHECK(seen == std::vector<std::uint32_t>{5, 4, 3});
    CHECK(must_fail(stream.read_smallest_first(6, take)).kind == ErrorKind::usage);
    for (std::uint32_t first = 0; first < 6; ++first) {
        const Texture rest = must(stream.read_all(first));
        const Texture expected = must(without_top_levels(texture, first));
        REQUIRE(rest.shape() == expected.shape());
        for (std::uint32_t level = 0; level < rest.shape().levels; ++level)
            CHECK(std::ranges::equal(rest.level(level), expected.level(level)));
    }
    CHECK(must_fail(stream.read_all(6)).kind == ErrorKind::usage);
}

TEST_CASE("files of the disk are read on demand, and a file made shorter is an error") {
    const support::TemporaryFolder folder;
    const std::string path = folder.path("t.ktx2");
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 64, .height = 64, .levels = 7}, 9);
    must(write_texture(path, texture));
    const TextureStream stream = must(TextureStream::open(path, {}, FileAccess::on_demand));
    CHECK(std::ranges::equal(support::level_of(must(stream.read_all()), 0),
                             support::level_of(texture, 0)));
    std::filesystem::resize_file(path, 2000);
    Bytes level(texture.level(0).size());
    CHECK(must_fail(stream.read_level(0, level)).kind == ErrorKind::io);
    CHECK(must_fail(TextureStream::open(folder.path("none"), {}, FileAccess::on_demand)).kind ==
          ErrorKind::missing);
}
