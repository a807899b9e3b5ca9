// Atlases: every part against its picture, and against atlases in which all others look different.
#include <algorithm>
#include <cmath>
#include <set>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

Picture noise(std::uint32_t width, std::uint32_t height, unsigned seed) {
    Picture picture;
    picture.image = must(Image::create(Format::rgba8_srgb, width, height));
    support::Random random(seed);
    support::fill_random(picture.image.view(), random);
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x)
            picture.image.view().row(y)[4 * x + 3] |= std::byte{1};  // nothing to trim
    return picture;
}

/// Pictures and their names, with a fixed seed.
struct Sprites {
    std::vector<Picture> pictures = {};
    std::vector<AtlasPicture> list = {};

    void add(std::string name, Picture picture) {
        pictures.push_back(std::move(picture));
        list.push_back({.name = std::move(name)});
    }
    std::span<const AtlasPicture> all() {
        for (std::size_t i = 0; i < list.size(); ++i)
            list[i].picture = &pictures[i];
        return list;
    }
    static Sprites random(std::size_t count, std::uint32_t least, std::uint32_t most,
                          unsigned seed) {
        Sprites sprites;
        support::Random dice(seed);
        std::uniform_int_distribution<std::uint32_t> side(least, most);
        for (std::size_t i = 0; i < count; ++i) {
            const std::uint32_t width = side(dice), height = side(dice);
            sprites.add(
                std::string(1, static_cast<char>('a' + i % 26)) + "." + std::to_string(i) + "x",
                noise(width, height, seed + static_cast<unsigned>(i)));
        }
        return sprites;
    }
};

/// The bytes of a part's cell at a level; of blocks where there are some.
std::vector<std::byte> cell_bytes(const Texture& texture, const AtlasPart& part,
                                  std::uint32_t level) {
    const FormatInfo& f = info(texture.shape().format);
    const std::uint32_t across = std::uint32_t{f.block_width} << level;
    const std::uint32_t down = std::uint32_t{f.block_height} << level;
    const std::size_t row_bytes = static_cast<std::size_t>(texture.shape().row_bytes(level));
    const std::size_t rows =
        static_cast<std::size_t>(texture.shape().surface_bytes(level)) / row_bytes;
    const auto bytes = texture.level(level).subspan(part.layer * rows * row_bytes);
    std::vector<std::byte> result;
    for (std::uint32_t y = part.cell.y / down; y < (part.cell.y + part.cell.height) / down; ++y) {
        const auto row = bytes.subspan(y * row_bytes + part.cell.x / across * f.block_bytes,
                                       part.cell.width / across * f.block_bytes);
        result.insert(result.end(), row.begin(), row.end());
    }
    return result;
}

bool overlap(const Box& a, const Box& b) {
    return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height &&
           b.y < a.y + a.height;
}

void check_layout(const AtlasTable& table, std::uint32_t alignment, std::uint32_t gutter) {
    for (const AtlasPart& part : table.parts) {
        CAPTURE(part.name);
        for (const std::uint32_t side :
             {part.cell.x, part.cell.y, part.cell.width, part.cell.height})
            CHECK(side % alignment == 0);
        CHECK(part.cell.x + part.cell.width <= table.width);
        CHECK(part.cell.y + part.cell.height <= table.height);
        CHECK(part.box.x >= part.cell.x + gutter);
        CHECK(part.box.y >= part.cell.y + gutter);
        CHECK(part.box.x + part.box.width + gutter <= part.cell.x + part.cell.width);
        CHECK(part.box.y + part.box.height + gutter <= part.cell.y + part.cell.height);
        for (const AtlasPart& other : table.parts)
            if (&other != &part && other.layer == part.layer)
                CHECK_FALSE(overlap(part.cell, other.cell));
    }
}

/// The picture's texel through the part's coordinates, as a shader finds it.
const std::byte* texel_at(const Atlas& atlas, const AtlasPart& part, double x, double y) {
    const PartCoordinates to = part_coordinates(atlas.table, part);
    const auto& m = to.atlas_from_picture;
    const double u = x / part.picture_size[0], v = y / part.picture_size[1];
    const auto column =
        static_cast<std::uint32_t>((m[0] * u + m[1] * v + m[2]) * atlas.table.width);
    const auto row = static_cast<std::uint32_t>((m[3] * u + m[4] * v + m[5]) * atlas.table.height);
    return &atlas.baked.texture.image(0, part.layer).row(row)[4 * column];
}

bool shows_picture(const Atlas& atlas, std::size_t index, ConstImageView picture) {
    const AtlasPart& part = atlas.table.parts[index];
    for (std::uint32_t y = 0; y < picture.height; ++y)
        for (std::uint32_t x = 0; x < picture.width; ++x) {
            const PartCoordinates to = part_coordinates(atlas.table, part);
            const double u = (x + 0.5) / picture.width, v = (y + 0.5) / picture.height;
            const bool inside =
                u >= to.box[0] && v >= to.box[1] && u <= to.box[2] && v <= to.box[3];
            const std::byte* wanted = &picture.row(y)[4 * x];
            if (inside ? !std::equal(wanted, wanted + 4, texel_at(atlas, part, x + 0.5, y + 0.5))
                       : wanted[3] != std::byte{0})
                return false;
        }
    return true;
}

}  // namespace

TEST_CASE("each part shows its picture, in a cell of its own, turned or not") {
    Sprites sprites = Sprites::random(40, 3, 60, 5);
    for (const bool turn : {false, true})
        for (const std::uint32_t clean : {0U, 1U, 3U}) {
            const Atlas atlas =
                must(make_atlas(sprites.all(), {.last_clean_level = clean, .turn = turn}));
            CAPTURE(turn);
            CAPTURE(clean);
            check_layout(atlas.table, 1U << clean, 1U << clean);
            CHECK(atlas.baked.texture.shape().levels == clean + 1);
            CHECK(atlas.baked.findings.empty());
            const auto turned = std::ranges::count_if(atlas.table.parts, &AtlasPart::is_turned);
            CHECK((turned > 0) == turn);
            for (std::size_t i = 0; i < sprites.list.size(); ++i)
                CHECK(shows_picture(atlas, i, std::as_const(sprites.pictures[i].image).view()));
        }
}

TEST_CASE("no clean level of a part knows what its neighbours look like, whatever the kernel") {
    Sprites sprites = Sprites::random(12, 5, 40, 9);
    Sprites others = Sprites::random(12, 5, 40, 9);
    constexpr std::size_t same = 4;
    for (std::size_t i = 0; i < others.pictures.size(); ++i)
        if (i != same)
            for (std::uint32_t y = 0; y < others.pictures[i].image.height(); ++y)
                std::ranges::fill(others.pictures[i].image.view().row(y), std::byte{255});
    struct Kind {
        Format format;
        std::uint32_t alignment;
    };
    for (const auto& [format, alignment] :
         {Kind{Format::rgba8_srgb, 4}, Kind{Format::bc7_srgb, 16}, Kind{Format::astc_6x6_srgb, 24},
          Kind{Format::astc_5x4_srgb, 80}})
        for (const char* kernel : {"box", "kaiser:3,4", "lanczos:8"}) {
            AtlasOptions options = {.last_clean_level = 2};
            options.bake.format = format;
            options.bake.blocks.effort = 0;
            options.bake.mips.kernel = must(parse_kernel(kernel));
            const Atlas a = must(make_atlas(sprites.all(), options));
            const Atlas b = must(make_atlas(others.all(), options));
            CAPTURE(kernel);
            REQUIRE(a.table == b.table);
            check_layout(a.table, alignment, 4);
            for (std::uint32_t level = 0; level < 3; ++level) {
                CHECK(cell_bytes(a.baked.texture, a.table.parts[same], level) ==
                      cell_bytes(b.baked.texture, b.table.parts[same], level));
                CHECK(cell_bytes(a.baked.texture, a.table.parts[same + 1], level) !=
                      cell_bytes(b.baked.texture, b.table.parts[same + 1], level));
            }
        }
}

TEST_CASE("the levels of a tile are those of the tile baked alone, gutters and all") {
    Sprites sprites = Sprites::random(5, 8, 30, 3);
    sprites.add("tile", noise(16, 24, 77));
    sprites.list.back().repeats = true;
    const Picture& tile = sprites.pictures.back();
    for (const char* kernel : {"box", "kaiser:3,4"}) {
        AtlasOptions options = {.last_clean_level = 2, .turn = true};
        options.bake.mips.kernel = must(parse_kernel(kernel));
        const Atlas atlas = must(make_atlas(sprites.all(), options));
        const AtlasPart& part = atlas.table.parts.back();
        CHECK_FALSE(part.is_turned);
        BakeOptions alone = {.levels = 3};
        alone.mips.kernel = options.bake.mips.kernel;
        alone.mips.edges = {Edge::repeat, Edge::repeat};
        const Baked baked = must(bake(tile, alone));
        for (std::uint32_t level = 0; level < 3; ++level) {
            const ConstImageView wanted = baked.texture.image(level);
            const ConstImageView shown = atlas.baked.texture.image(level, part.layer);
            int worst = 0;
            for (std::uint32_t y = 0; y < part.cell.height >> level; ++y)
                for (std::uint32_t x = 0; x < part.cell.width >> level; ++x) {
                    const std::uint32_t gutter = 4U >> level;
                    const std::uint32_t column = (x + 2 * wanted.width - gutter) % wanted.width;
                    const std::uint32_t row = (y + 2 * wanted.height - gutter) % wanted.height;
                    for (std::size_t c = 0; c < 4; ++c)
                        worst = std::max(
                            worst, std::abs(static_cast<int>(wanted.row(row)[4 * column + c]) -
                                            static_cast<int>(shown.row(
                                                (part.cell.y >> level) +
                                                y)[4 * ((part.cell.x >> level) + x) + c])));
                }
            CAPTURE(kernel);
            CAPTURE(level);
            CHECK(worst <= 1);
        }
    }
}

TEST_CASE("gutters continue the outermost texels") {
    Sprites sprites;
    sprites.add("one", noise(3, 2, 8));
    const Atlas atlas = must(make_atlas(sprites.all(), {.last_clean_level = 1}));
    const Box cell = atlas.table.parts[0].cell;
    const ConstImageView picture = std::as_const(sprites.pictures[0].image).view();
    for (std::uint32_t y = 0; y < cell.height; ++y)
        for (std::uint32_t x = 0; x < cell.width; ++x) {
            const auto near = [](std::uint32_t at, std::uint32_t side) {
                return std::clamp<std::int64_t>(std::int64_t{at} - 2, 0, std::int64_t{side} - 1);
            };
            const auto row = picture.row(static_cast<std::uint32_t>(near(y, 2)));
            CHECK(std::equal(
                row.begin() + 4 * near(x, 3), row.begin() + 4 * near(x, 3) + 4,
                atlas.baked.texture.image(0).row(cell.y + y).begin() + 4 * (cell.x + x)));
        }
}

TEST_CASE("transparent borders are left out and can be found again") {
    Sprites sprites;
    sprites.add("leaf", noise(20, 12, 4));
    sprites.add("nothing", noise(9, 9, 5));
    sprites.add("tile", noise(8, 8, 6));
    sprites.list.back().repeats = true;
    for (const std::size_t i : {0U, 1U, 2U})
        for (std::uint32_t y = 0; y < sprites.pictures[i].image.height(); ++y)
            for (std::uint32_t x = 0; x < sprites.pictures[i].image.width(); ++x)
                if (i != 0 || x < 3 || x >= 14 || y < 5 || y >= 11)
                    sprites.pictures[i].image.view().row(y)[4 * x + 3] = std::byte{0};
    for (const bool turn : {false, true}) {
        const Atlas atlas = must(make_atlas(sprites.all(), {.turn = turn}));
        const AtlasPart& leaf = atlas.table.parts[0];
        CHECK(atlas.bordered == 2);
        CHECK(leaf.trimmed == std::array{3U, 5U});
        CHECK(std::minmax(leaf.box.width, leaf.box.height) == std::minmax(11U, 6U));
        CHECK(leaf.picture_size == std::array{20U, 12U});
        CHECK(leaf.pivot == std::array{10.0F, 6.0F});
        CHECK(atlas.table.parts[1].box.width == 1);
        CHECK(atlas.table.parts[2].box.width == 8);
        for (const std::size_t i : {0U, 1U})
            CHECK(shows_picture(atlas, i, std::as_const(sprites.pictures[i].image).view()));
    }
    const Atlas whole = must(make_atlas(sprites.all(), {.trim = false}));
    CHECK(whole.table.parts[0].box.width == 20);
    CHECK(whole.bordered == 2);
    // Alpha that is a number is nothing to trim by.
    const Atlas data = must(make_atlas(sprites.all(), {.bake = {.role = Role::data}}));
    CHECK(data.table.parts[0].box.width == 20);
}

TEST_CASE("300 sprites of mixed sizes leave at most 8 % of an atlas empty") {
    for (const unsigned seed : {1U, 2U, 3U})
        for (const bool turn : {false, true}) {
            Sprites sprites = Sprites::random(300, 8, 128, seed);
            const Atlas atlas = must(make_atlas(sprites.all(), {.turn = turn}));
            CAPTURE(seed);
            CAPTURE(turn);
            CAPTURE(atlas.unused);
            CHECK(atlas.unused <= 0.08);
            check_layout(atlas.table, 4, 4);
            // The same share, by hand.
            double used = 0;
            for (const AtlasPart& part : atlas.table.parts)
                used += static_cast<double>(part.cell.width) * part.cell.height;
            CHECK(1 - used / (static_cast<double>(atlas.table.width) * atlas.table.height) ==
                  doctest::Approx(atlas.unused));
            const Atlas again = must(make_atlas(sprites.all(), {.turn = turn}));
            CHECK(again.table == atlas.table);
        }
}

TEST_CASE("powers of two, layers, and what fits into neither") {
    Sprites sprites = Sprites::random(30, 20, 60, 11);
    AtlasOptions options;
    options.bake.power_of_two = PowerOfTwo::up;
    const AtlasTable one = must(make_atlas(sprites.all(), options)).table;
    CHECK((one.width & (one.width - 1)) == 0);
    CHECK((one.height & (one.height - 1)) == 0);
    options.bake.format = Format::astc_6x6_srgb;
    CHECK(contains(must_fail(make_atlas(sprites.all(), options)).message, "blocks are 6 x 6"));
    options.bake.format.reset();
    options.bake.max_side = 128;
    const Error error = must_fail(make_atlas(sprites.all(), options));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.message, "128 x 128"));
    options.layers = true;
    const Atlas several = must(make_atlas(sprites.all(), options));
    CHECK(several.table.layers > 1);
    CHECK(several.baked.texture.shape().is_array);
    CHECK(several.baked.texture.shape().layers == several.table.layers);
    check_layout(several.table, 4, 4);
    for (std::size_t i = 0; i < sprites.list.size(); ++i)
        CHECK(shows_picture(several, i, std::as_const(sprites.pictures[i].image).view()));
    options.bake.max_side = 32;
    const Error large = must_fail(make_atlas(sprites.all(), options));
    CHECK(large.kind == ErrorKind::limit);
    CHECK(std::ranges::find(sprites.list, large.place, &AtlasPicture::name) != sprites.list.end());
}

TEST_CASE("a changed sprite moves no other") {
    Sprites sprites = Sprites::random(60, 8, 50, 21);
    const AtlasTable old = must(make_atlas(sprites.all(), {.turn = true})).table;
    // Smaller: it stays. Larger: it alone moves. New: it finds room. Gone: its room is free.
    sprites.pictures[7] = noise(6, 6, 1);
    sprites.pictures[20] = noise(90, 70, 2);
    sprites.add("new", noise(12, 40, 3));
    sprites.list.erase(sprites.list.begin() + 33);
    sprites.pictures.erase(sprites.pictures.begin() + 33);
    const Atlas atlas = must(make_atlas(sprites.all(), {.turn = true, .keep = &old}));
    CHECK(atlas.kept == 58);
    check_layout(atlas.table, 4, 4);
    for (std::size_t i = 0; i < atlas.table.parts.size(); ++i) {
        const AtlasPart& part = atlas.table.parts[i];
        CAPTURE(part.name);
        CHECK(shows_picture(atlas, i, std::as_const(sprites.pictures[i].image).view()));
        const AtlasPart* before = old.find(part.name);
        if (before == nullptr || i == 20)
            continue;
        CHECK(part.cell.x == before->cell.x);
        CHECK(part.cell.y == before->cell.y);
        CHECK(part.is_turned == before->is_turned);
    }
    // With another alignment nothing can stay, which is said.
    AtlasOptions other = {.last_clean_level = 4, .keep = &old};
    const Atlas anew = must(make_atlas(sprites.all(), other));
    CHECK(anew.kept == 0);
    REQUIRE(anew.baked.findings.size() == 1);
    CHECK(anew.baked.findings[0].code == "atlas-repacked");
    check_layout(anew.table, 16, 16);
}

TEST_CASE("levels beyond the clean ones are made when asked for, and said to mix") {
    Sprites sprites = Sprites::random(9, 8, 30, 2);
    const Atlas full = must(make_atlas(sprites.all(), {.last_clean_level = 1, .full_chain = true}));
    const TextureShape& shape = full.baked.texture.shape();
    CHECK(shape.levels == full_level_count(shape.width, shape.height));
    REQUIRE(full.baked.findings.size() == 1);
    CHECK(full.baked.findings[0].code == "atlas-levels-mix");
    const Atlas clean = must(make_atlas(sprites.all(), {.last_clean_level = 1}));
    for (const std::uint32_t level : {0U, 1U})
        CHECK(
            std::ranges::equal(full.baked.texture.level(level), clean.baked.texture.level(level)));
    // The next level is made of the last clean one.
    Texture rest = must(Texture::create({.format = shape.format,
                                         .width = shape.width_at(1),
                                         .height = shape.height_at(1),
                                         .levels = 2}));
    rest.metadata = full.baked.texture.metadata;
    std::ranges::copy(full.baked.texture.level(1), rest.level(0).begin());
    must(build_mips(rest, {.kernel = default_kernel(Role::color), .limit_ringing = true}));
    CHECK(std::ranges::equal(full.baked.texture.level(2), std::as_const(rest).level(1)));
    AtlasOptions options = {.last_clean_level = 3};
    options.bake.levels = 2;
    CHECK(must(make_atlas(sprites.all(), options)).baked.texture.shape().levels == 2);
    options.bake.levels = 20;
    CHECK(must_fail(make_atlas(sprites.all(), options)).place == "levels");
}

TEST_CASE("names that end in numbers become flipbooks, in their order") {
    Sprites sprites;
    for (const char* name :
         {"walk_10", "walk_2", "walk_1", "alone7", "2024", "tree", "fly-1", "fly-2"})
        sprites.add(name, noise(4, 4, 1));
    for (AtlasPicture& picture : sprites.list)
        if (picture.name.starts_with("walk"))
            picture.seconds = 0.25;
    const AtlasTable table = must(make_atlas(sprites.all())).table;
    REQUIRE(table.flipbooks.size() == 2);
    CHECK(table.flipbooks[0] == Flipbook{"fly", {"fly-1", "fly-2"}, {}});
    CHECK(table.flipbooks[1] ==
          Flipbook{"walk", {"walk_1", "walk_2", "walk_10"}, {0.25, 0.25, 0.25}});
}

TEST_CASE("the table survives its text, and damaged texts say where") {
    Sprites sprites = Sprites::random(6, 4, 20, 8);
    sprites.add("f1", noise(5, 5, 1));
    sprites.add("f2", noise(5, 7, 1));
    sprites.list[2].pivot = {-1.5F, 30};
    sprites.list[3].repeats = true;
    const AtlasTable table = must(make_atlas(sprites.all(), {.turn = true})).table;
    const std::string text = atlas_table_text(table, "a \"b\".ktx2");
    CHECK(contains(text, "a \\\"b\\\".ktx2"));
    CHECK(must(parse_atlas_table(text)) == table);
    const auto damaged = [&](const std::string& from, const std::string& to) {
        std::string other = text;
        const std::size_t at = other.find(from);
        REQUIRE(at != std::string::npos);
        other.replace(at, from.size(), to);
        const Error error = must_fail(parse_atlas_table(other));
        CHECK(error.kind == ErrorKind::malformed);
        return error.place;
    };
    CHECK(damaged("\"width\":", "\"wide\":") == "width");
    CHECK(damaged("\"layers\": 1", "\"layers\": -1") == "layers");
    CHECK(damaged("\"layer\":0", "\"layer\":1") == "parts[0]");
    CHECK(damaged("\"turned\":false", "\"turned\":0").ends_with(".turned"));
    CHECK(damaged("\"name\":\"f2\"", "\"name\":\"f1\"") == "parts[7]");
    CHECK(damaged("\"name\":\"f2\"", "\"name\":\"\"") == "parts[7].name");
    CHECK(damaged("\"box\":[", "\"box\":[9999,") == "parts[0].box");
    CHECK(damaged("\"f1\",", "\"f3\",") == "flipbooks[0]");
    CHECK(must_fail(parse_atlas_table("[1]")).kind == ErrorKind::malformed);
    CHECK(must_fail(parse_atlas_table(text.substr(0, text.size() / 2))).kind ==
          ErrorKind::malformed);
}

TEST_CASE("what makes no atlas is refused") {
    Sprites sprites = Sprites::random(3, 4, 9, 1);
    CHECK(must_fail(make_atlas({})).kind == ErrorKind::usage);
    const auto place = [&](const AtlasOptions& options) {
        return must_fail(make_atlas(sprites.all(), options)).place;
    };
    CHECK(place({.last_clean_level = 9}) == "last clean level");
    CHECK(place({.bake = {.role = Role::normal}, .turn = true}) == "turn");
    CHECK(place({.bake = {.origin = Origin::bottom}}) == "origin");
    CHECK(place({.bake = {.first_level = 1}}) == "first level");
    sprites.list[1].name = sprites.list[0].name;
    CHECK(place({}) == sprites.list[0].name);
    sprites.list[1].name.clear();
    CHECK(place({}) == "picture 1");
    std::vector<AtlasPicture> none = {{.name = "no picture"}};
    CHECK(must_fail(make_atlas(none)).place == "no picture");
}

TEST_CASE("premultiplied and straight pictures share an atlas; normal maps keep their length") {
    Sprites sprites = Sprites::random(4, 8, 20, 6);
    sprites.pictures[1].alpha = AlphaMode::premultiplied;
    const Atlas atlas = must(make_atlas(sprites.all()));
    CHECK(atlas.baked.texture.metadata.alpha == AlphaMode::premultiplied);
    CHECK(atlas.baked.findings.size() == 3);
    CHECK(contains(atlas.baked.findings[0].problem, sprites.list[0].name + ":"));
    AtlasOptions options;
    options.bake.role = Role::normal;
    const Atlas normals = must(make_atlas(sprites.all(), options));
    const ConstImageView last = normals.baked.texture.image(2);
    const Box& cell = normals.table.parts[0].cell;
    for (std::uint32_t y = cell.y / 4; y < (cell.y + cell.height) / 4; ++y)
        for (std::uint32_t x = cell.x / 4; x < (cell.x + cell.width) / 4; ++x) {
            double length = 0;
            const std::size_t channels = info(last.format).channel_count;
            for (std::size_t c = 0; c < 3; ++c) {
                const double n = static_cast<double>(last.row(y)[channels * x + c]) / 127.5 - 1;
                length += n * n;
            }
            CHECK(std::sqrt(length) == doctest::Approx(1).epsilon(0.02));
        }
}
