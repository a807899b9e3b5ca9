// The report's page: its data says what is in the texture, its texels come back, and nothing in it is
// taken for markup.
#include <nlohmann/json.hpp>
#include <yl/report.hpp>
#include <yl/yl.hpp>

#include "base/base64.hpp"
#include "base/zlib_stream.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using Json = nlohmann::json;

namespace {

Texture chequered(std::uint32_t side, Format format = Format::rgba8_srgb) {
    Image image = must(Image::create(format, side, side));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const bool is_light = (x + y) % 2 == 0;
            const std::array<int, 4> codes = {is_light ? 200 : 40, 90, static_cast<int>(x % 256),
                                              is_light ? 255 : 128};
            for (std::size_t c = 0; c < 4; ++c)
                image.view().row(y)[x * 4 + c] = static_cast<std::byte>(codes[c]);
        }
    return must(bake(Picture{.image = std::move(image)}, {.role = Role::color})).texture;
}

ReportPart part(const ReportTexture& texture, std::uint64_t max_bytes = 8 << 20) {
    return must(report_part(texture, {.max_bytes = max_bytes}));
}

/// What no compression makes much smaller.
Texture grainy(std::uint32_t side) {
    Image image = must(Image::create(Format::rgba8_srgb, side, side));
    std::uint32_t state = 1;
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::byte& code : image.view().row(y)) {
            state = state * 1664525 + 1013904223;
            code = static_cast<std::byte>(state >> 24);
        }
    return must(bake(Picture{.image = std::move(image)}, {.role = Role::color})).texture;
}

Texture with_one_level(const Texture& texture) {
    TextureShape shape = texture.shape();
    shape.levels = 1;
    Texture first = must(Texture::create(shape));
    std::ranges::copy(texture.level(0), first.level(0).begin());
    return first;
}

/// What a data element of the page holds.
Json element(const std::string& page, const std::string& id) {
    const std::string head = "<script type=\"application/json\" id=\"" + id + "\">";
    const std::size_t begin = page.find(head);
    REQUIRE(begin != std::string::npos);
    const std::size_t from = begin + head.size();
    return Json::parse(page.substr(from, page.find("</script>", from) - from));
}

std::string page_of(std::vector<ReportPart> parts, std::string title = "Textures") {
    return must(report_page({.title = std::move(title), .textures = parts}));
}

std::vector<std::byte> bytes_of(const Json& text) {
    const auto bytes = decode_base64(text.get<std::string>());
    REQUIRE(bytes.has_value());
    return *bytes;
}

}  // namespace

TEST_CASE("a page's data says what is in the texture") {
    const Texture texture = chequered(16);
    const ReportPart made = part({.name = "board.ktx2",
                                  .file = "maps/board.ktx2",
                                  .file_format = "KTX 2.0",
                                  .file_bytes = 1234,
                                  .texture = &texture});
    const Json facts = Json::parse(made.json());
    CHECK(facts["name"] == "board.ktx2");
    CHECK(facts["format"] == "rgba8-srgb");
    CHECK(facts["width"] == 16);
    CHECK(facts["levels"].size() == 5);
    CHECK(facts["levels"][1]["width"] == 8);
    CHECK(facts["gpu_bytes"] == (256 + 64 + 16 + 4 + 1) * 4);
    CHECK(facts["has_alpha"] == true);
    CHECK(facts["decodes_srgb"] == true);
    CHECK(facts["sampler"]["mip"] == "linear");
    // Half of the texels have red 200, the other half 40; green is 90 everywhere.
    const Json& channels = facts["histogram"]["channels"];
    REQUIRE(channels.size() == 4);
    CHECK(channels[0]["counts"][200] == 128);
    CHECK(channels[0]["counts"][40] == 128);
    CHECK(channels[1]["counts"][90] == 256);
    CHECK(channels[2]["counts"][15] == 16);
    CHECK(channels[3]["counts"][255] == 128);
    CHECK(channels[3]["counts"][128] == 128);
    CHECK(facts["scenes"].size() == 3);
    CHECK(facts["scenes"][0]["numbers"].size() % 4 == 0);
}

TEST_CASE("texels come back from a page as they are") {
    const Texture texture = chequered(32);
    const std::string page = page_of({part({.name = "board", .texture = &texture})});
    const Json texels = element(page, "texels-0");
    REQUIRE(texels["levels"].size() == 6);
    for (std::uint32_t level = 0; level < 6; ++level) {
        CAPTURE(level);
        const Picture colors = must(read_picture(bytes_of(texels["levels"][level]["color"][0])));
        const Picture alphas = must(read_picture(bytes_of(texels["levels"][level]["alpha"][0])));
        const ConstImageView stored = texture.image(level);
        const Image rgb = must(
            convert(colors.image.view(), Format::rgba8_srgb, {.source_transfer = Transfer::srgb}));
        const Image alpha = must(
            convert(alphas.image.view(), Format::rgba8_srgb, {.source_transfer = Transfer::srgb}));
        std::size_t differing = 0;
        for (std::uint32_t y = 0; y < stored.height; ++y)
            for (std::size_t i = 0; i < std::size_t{stored.width} * 4; ++i) {
                const std::byte shown =
                    i % 4 == 3 ? alpha.view().row(y)[i - 3] : rgb.view().row(y)[i];
                differing += shown != stored.row(y)[i] ? 1 : 0;
            }
        CHECK(differing == 0);
    }
}

TEST_CASE("blocks and light come back from a page as they are") {
    const Texture plain = chequered(16);
    const Texture blocks = must(encode_texture(plain, Format::bc7_srgb));
    const Json held = element(
        page_of({part({.name = "board", .texture = &blocks, .source = &plain})}), "texels-0");
    const auto packed = bytes_of(held["levels"][0]["blocks"][0]);
    std::vector<std::byte> unpacked(256);
    CHECK(unpack_zlib(packed, unpacked).has_value());
    CHECK(std::ranges::equal(unpacked, blocks.level(0)));
    CHECK(held["levels"][0].contains("source"));

    Texture light =
        must(Texture::create({.format = Format::rgba16_float, .width = 4, .height = 4}));
    for (std::size_t i = 0; i < 64; ++i)
        store(light.level(0).data() + 2 * i, float_to_half(0.5F * static_cast<float>(i)));
    const Json page = element(page_of({part({.name = "lamp", .texture = &light})}), "texels-0");
    std::vector<std::byte> halves(128);
    CHECK(unpack_zlib(bytes_of(page["levels"][0]["color"][0]), halves).has_value());
    CHECK(std::ranges::equal(halves, light.level(0)));
}

TEST_CASE("a page says how far a texture is from its source") {
    const Texture plain = chequered(16);
    const Texture blocks = must(encode_texture(plain, Format::bc1_srgb));
    const Json facts = Json::parse(
        part({.name = "a", .texture = &blocks, .source = &plain, .source_name = "a.png"}).json());
    CHECK(facts["comparison"]["source"] == "a.png");
    const Json& levels = facts["comparison"]["levels"];
    REQUIRE(levels.size() == 5);
    const ImageDifference first =
        must(measure_difference(plain.image(0), blocks.image(0),
                                {.transfer = Transfer::linear, .alpha = blocks.metadata.alpha}));
    CHECK(levels[0]["psnr"].get<double>() == doctest::Approx(first.psnr).epsilon(1e-6));
    CHECK(levels[0]["max"].get<double>() == doctest::Approx(first.max));
    CHECK(first.max > 0);
    const Json same = Json::parse(part({.name = "a", .texture = &plain, .source = &plain}).json());
    CHECK(same["comparison"]["levels"][0]["psnr"].is_null());
    CHECK(same["comparison"]["levels"][0]["max"] == 0);
}

TEST_CASE("a sampler is told word by word") {
    const Texture texture = chequered(8);
    for (const char* text :
         {"mag=nearest min=linear mip=none wrap=mirror,clamp-to-edge,repeat",
          "mag=linear min=nearest mip=nearest wrap=clamp-to-border,mirror-once,mirror "
          "border=0.125,0.25,0.5,1 aniso=4 lod=1..3 bias=0.5"}) {
        CAPTURE(text);
        const Sampler sampler = must(parse_sampler(text));
        const Json facts =
            Json::parse(part({.name = "a", .texture = &texture, .sampler = sampler}).json());
        const Json& told = facts["sampler"];
        CHECK(told["mag"] == name(sampler.mag));
        CHECK(told["min"] == name(sampler.min));
        CHECK(told["mip"] == name(sampler.mip));
        for (std::size_t axis = 0; axis < 3; ++axis)
            CHECK(told["wrap"][axis] == name(sampler.wrap[axis]));
        for (std::size_t c = 0; c < 4; ++c)
            CHECK(told["border"][c] == sampler.border[c]);
        CHECK(told["aniso"] == sampler.max_anisotropy);
        CHECK(told["lod"] == Json({sampler.min_level, sampler.max_level}));
        CHECK(told["bias"] == sampler.level_bias);
        CHECK(must(parse_sampler(told["text"].get<std::string>())) == sampler);
    }
}

TEST_CASE("all layers and faces are compared with their source") {
    TextureShape shape{.format = Format::rgba8_unorm, .width = 8, .height = 8};
    for (const bool is_cube : {false, true}) {
        shape.layers = is_cube ? 1 : 3;
        shape.is_array = !is_cube;
        shape.faces = is_cube ? 6 : 1;
        const std::uint32_t surfaces = shape.layers * shape.faces;
        for (std::uint32_t other = 0; other < surfaces; ++other) {
            CAPTURE(other);
            const Texture source = support::random_texture(shape, 3);
            Texture texture = must(source.clone());
            std::byte& code = texture.level(0)[other * std::size_t{4} * 8 * 8];
            code ^= std::byte{0x40};
            const Json facts =
                Json::parse(part({.name = "a", .texture = &texture, .source = &source}).json());
            const Json& level = facts["comparison"]["levels"][0];
            const std::uint32_t layer = is_cube ? 0 : other, face = is_cube ? other : 0;
            const ImageDifference alone = must(measure_difference(
                source.image(0, layer, face), texture.image(0, layer, face),
                {.transfer = texture.metadata.transfer, .alpha = texture.metadata.alpha}));
            CHECK(alone.max > 0);
            CHECK(level["max"].get<double>() == doctest::Approx(alone.max));
            CHECK(level["psnr"].get<double>() ==
                  doctest::Approx(alone.psnr + 10 * std::log10(surfaces)).epsilon(1e-6));
        }
    }
}

TEST_CASE("a page leaves levels out where its size asks for it, and says so") {
    const Texture texture = grainy(256);
    const auto shown = [&](std::uint64_t max_bytes) {
        const ReportPart made = part({.name = "board", .texture = &texture}, max_bytes);
        const Json texels = element(page_of({made}), "texels-0");
        CHECK(texels["levels"].dump().size() <= max_bytes);
        return Json::parse(made.json())["shown"];
    };
    CHECK(shown(8 << 20)["first_level"] == 0);
    const Json less = shown(200'000);
    CHECK(less["first_level"].get<int>() > 0);
    CHECK(less["is_scaled"] == false);

    const Texture one_level = with_one_level(texture);
    const ReportPart made = part({.name = "board", .texture = &one_level}, 60'000);
    const Json facts = Json::parse(made.json());
    CHECK(facts["shown"]["is_scaled"] == true);
    const Json level = element(page_of({made}), "texels-0")["levels"][0];
    CHECK(level["width"].get<int>() < 256);
}

TEST_CASE("a page that becomes too large leaves the largest levels out") {
    const Texture large = grainy(256), small = chequered(16);
    const std::vector<ReportPart> parts = {part({.name = "a", .texture = &large}),
                                           part({.name = "b", .texture = &small})};
    const std::string whole = page_of(parts);
    const std::size_t most = whole.size() - 20'000;
    const ReportContent content{.max_bytes = most, .textures = parts};
    const std::string page = must(report_page(content));
    CHECK(page.size() <= most);
    const Json report = element(page, "report");
    const int first = report["textures"][0]["shown"]["first_level"].get<int>();
    CHECK(first > 0);
    CHECK(element(page, "texels-0")["levels"].size() == static_cast<std::size_t>(9 - first));
    CHECK(report["textures"][1]["shown"]["first_level"] == 0);
    CHECK(Json::parse(must(report_json(content))) == report);
    // The last levels stay, whatever they take.
    const Json least = element(must(report_page({.max_bytes = 0, .textures = parts})), "report");
    CHECK(least["textures"][0]["shown"]["first_level"] == 8);
    CHECK(least["textures"][1]["shown"]["first_level"] == 4);
}

TEST_CASE("cubes, arrays and volumes bring all their surfaces") {
    const auto count = [](const TextureShape& shape) {
        Texture texture = must(Texture::create(shape));
        std::ranges::fill(texture.level(0), std::byte{7});
        const ReportPart made = part({.name = "a", .texture = &texture});
        return element(page_of({made}), "texels-0")["levels"][0]["color"].size();
    };
    const TextureShape flat = {.format = Format::rgba8_unorm, .width = 4, .height = 4};
    TextureShape cube = flat, array = flat, volume = flat;
    cube.faces = 6;
    array.layers = 3;
    array.is_array = true;
    volume.depth = 5;
    volume.is_3d = true;
    CHECK(count(cube) == 6);
    CHECK(count(array) == 3);
    CHECK(count(volume) == 5);
}

TEST_CASE("nothing in a page is taken for markup") {
    const std::string hostile = "</script><img src=x onerror=alert(1)>\xFF\xFE\"&'";
    const Texture texture = chequered(4);
    ReportTexture given{.name = hostile,
                        .file = hostile,
                        .file_format = hostile,
                        .texture = &texture,
                        .source = &texture,
                        .source_name = hostile};
    given.lint.found.push_back({{"no-detail", hostile, hostile}, hostile, 1, 2});
    given.commands.push_back(hostile);
    const std::vector<ReportPart> parts = {part(given)};
    std::vector<ReportModel> models(1);
    models[0] = {.name = hostile, .file = hostile};
    models[0].materials.push_back({hostile, {{hostile, 0, hostile, hostile}}});
    models[0].findings.push_back({"no-detail", hostile, hostile});
    const std::vector<ReportFailure> failures = {{hostile, hostile}};
    const ReportContent content{
        .title = hostile, .textures = parts, .models = models, .failures = failures};
    const std::string page = must(report_page(content));
    CHECK_FALSE(contains(page, "<img"));
    const Json report = element(page, "report");
    // What is no UTF-8 is replaced, the rest is there.
    CHECK(contains(report["title"].get<std::string>(), "</script><img src=x onerror=alert(1)>"));
    CHECK(report["textures"][0]["findings"][0]["command"] == report["title"]);
    CHECK(report["models"][0]["materials"][0]["bindings"][0]["image"] == report["title"]);
    CHECK(report["failures"][0]["problem"] == report["title"]);
    CHECK(Json::parse(must(report_json(content))) == report);
}

TEST_CASE("a page is whole by itself") {
    const std::string page = page_of({});
    CHECK(page.starts_with("<!DOCTYPE html>"));
    CHECK(contains(page, "default-src 'none'"));
    for (const char* word : {"src=\"http", "href=\"http", "@import", "url(http", "@data@",
                             "@plots@", "@style@", "@scripts@"})
        CHECK_FALSE(contains(page, word));
    const Json report = element(page, "report");
    CHECK(report["schema"] == "yellow-lattice-report");
    CHECK(report["version"] == report_version);
    CHECK(report["textures"].empty());
}

TEST_CASE("what cannot be shown is refused") {
    const auto kind = [](const ReportTexture& texture) {
        const auto made = report_part(texture);
        REQUIRE_FALSE(made.has_value());
        return made.error().kind;
    };
    CHECK(kind({}) == ErrorKind::usage);
    const Texture empty, small = chequered(4), large = chequered(8);
    CHECK(kind({.texture = &empty}) == ErrorKind::usage);
    CHECK(kind({.texture = &small, .source = &large}) == ErrorKind::usage);
    const Texture blocks = must(encode_texture(small, Format::bc7_srgb));
    CHECK(kind({.texture = &small, .source = &blocks}) == ErrorKind::usage);
}

TEST_CASE("a texture that has another size than before has changed, in whichever direction") {
    const TextureShape base{.format = Format::rgba8_srgb, .width = 16, .height = 8};
    const auto report_of = [](TextureShape shape, std::string_view before) {
        Texture texture = support::random_texture(shape, 3);
        const std::array parts = {part({.name = "wall", .texture = &texture})};
        return must(report_json({.textures = parts, .before = before}));
    };
    const auto with = [&](auto change) {
        TextureShape shape = base;
        change(shape);
        return shape;
    };
    const std::pair<TextureShape, std::string> others[] = {
        {with([](TextureShape& s) { s.width = 32; }), "32 x 8"},
        {with([](TextureShape& s) { s.height = 16; }), "16 x 16"},
        {with([](TextureShape& s) { s.depth = 4; }), "16 x 8, 4 slices"},
        {with([](TextureShape& s) { s.layers = 3, s.is_array = true; }), "16 x 8, 3 layers"},
        {with([](TextureShape& s) { s.width = s.height = 16, s.faces = 6; }), "16 x 16, 6 faces"}};
    const std::string before = report_of(base, {});
    CHECK(Json::parse(report_of(base, before))["changes"]["changed"].empty());
    for (const auto& other : others) {
        CAPTURE(other.second);
        const Json changes = Json::parse(report_of(other.first, before))["changes"];
        REQUIRE(changes["changed"].size() == 1);
        bool is_said = false;
        for (const Json& what : changes["changed"][0]["what"])
            if (what["member"] == "size") {
                CHECK(what["before"] == "16 x 8");
                CHECK(what["now"] == other.second);
                is_said = true;
            }
        CHECK(is_said);
    }
}
