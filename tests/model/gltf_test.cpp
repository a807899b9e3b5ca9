// glTF models written in the test: images from everywhere, slots, samplers, and hostile files.
#include <fstream>
#include <yl/model_bake.hpp>
#include <yl/picture.hpp>

#include "model/models.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace support::models;

TEST_CASE("images beside the model, by names with percent signs and either slash") {
    const support::TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("my textures"));
    support::write_bytes(folder.path("my textures/slate stone.png"), png(8));
    support::write_bytes(folder.path("plain.png"), png(4));
    const json model =
        model_of(json::array({{{"uri", "my%20textures/slate%20stone.png"}, {"name", "slate"}},
                              {{"uri", "my textures\\slate stone.png"}},
                              {{"uri", "./plain.png"}},
                              {{"uri", "gone.png"}, {"name", "gone"}}}),
                 json::array({{{"source", 0}}, {{"source", 3}}}),
                 json::array({base_color(0), base_color(1)}));
    const std::string text = model.dump();
    std::ofstream(folder.path("model.gltf")) << text;
    const Model read = must(read_model(folder.path("model.gltf")));
    REQUIRE(read.images.size() == 4);
    CHECK(read.images[0].width == 8);
    CHECK(read.images[0].file_format == "PNG");
    CHECK(read.images[0].source == ImageSource::file);
    CHECK(read.images[1].same_as == 0U);  // the same file by another name
    CHECK(read.images[2].height == 4);
    CHECK_FALSE(read.images[2].same_as);
    REQUIRE(read.images[3].error);
    CHECK(read.images[3].error->kind == ErrorKind::missing);
    REQUIRE(read.findings.size() == 1);
    CHECK(contains(read.findings[0].problem, "image 3 (gone)"));
    CHECK(read.materials[1].textures[0].image == 3U);  // its place is kept, for a placeholder
}

TEST_CASE("images in data URIs, in buffers, and in a .glb file's binary chunk") {
    const auto first = png(8), second = png(16);
    std::vector<std::byte> binary(first.begin(), first.end());
    binary.insert(binary.end(), second.begin(), second.end());
    json model =
        model_of(json::array({{{"bufferView", 0}, {"mimeType", "image/png"}},
                              {{"bufferView", 1}, {"mimeType", "image/jpeg"}},  // a wrong type
                              {{"uri", data_uri(first)}}}),
                 json::array({{{"source", 1}}}), json::array({base_color(0)}));
    model["buffers"] = json::array({{{"byteLength", binary.size()}}});
    model["bufferViews"] =
        json::array({{{"buffer", 0}, {"byteLength", first.size()}},
                     {{"buffer", 0}, {"byteOffset", first.size()}, {"byteLength", second.size()}}});
    const Model in_glb = must(read_model(glb(model, binary), "/nowhere"));
    REQUIRE(in_glb.images.size() == 3);
    CHECK(in_glb.images[0].source == ImageSource::buffer_view);
    CHECK(in_glb.images[1].width == 16);
    CHECK(in_glb.images[1].file_format == "PNG");
    CHECK(in_glb.images[2].source == ImageSource::data_uri);
    CHECK(in_glb.images[2].same_as == 0U);
    CHECK(std::ranges::equal(in_glb.contents[1], second));
    CHECK(in_glb.findings.empty());
    model["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64(binary);
    CHECK(std::ranges::equal(must(read(model)).contents[1], second));
}

TEST_CASE("every slot is found, with its role, transform, coordinate set and factor") {
    const json texture = {{"index", 0}};
    json material = {
        {"name", "all"},
        {"alphaMode", "MASK"},
        {"alphaCutoff", 0.25},
        {"pbrMetallicRoughness",
         {{"baseColorTexture",
           {{"index", 0},
            {"texCoord", 1},
            {"extensions",
             {{"KHR_texture_transform",
               {{"offset", {0.5, 0.25}},
                {"rotation", 1.5},
                {"scale", {2, 3}},
                {"texCoord", 2}}}}}}},
          {"metallicRoughnessTexture", texture}}},
        {"normalTexture", {{"index", 0}, {"scale", 0.75}}},
        {"occlusionTexture", {{"index", 0}, {"strength", 0.5}, {"texCoord", 1}}},
        {"emissiveTexture", texture},
        {"extensions",
         {{"KHR_materials_clearcoat",
           {{"clearcoatTexture", texture},
            {"clearcoatRoughnessTexture", texture},
            {"clearcoatNormalTexture", {{"index", 0}, {"scale", 2}}}}},
          {"KHR_materials_sheen",
           {{"sheenColorTexture", texture}, {"sheenRoughnessTexture", texture}}},
          {"KHR_materials_specular",
           {{"specularTexture", texture}, {"specularColorTexture", texture}}},
          {"KHR_materials_transmission", {{"transmissionTexture", texture}}},
          {"KHR_materials_diffuse_transmission",
           {{"diffuseTransmissionTexture", texture}, {"diffuseTransmissionColorTexture", texture}}},
          {"KHR_materials_volume", {{"thicknessTexture", texture}}},
          {"KHR_materials_iridescence",
           {{"iridescenceTexture", texture}, {"iridescenceThicknessTexture", texture}}},
          {"KHR_materials_anisotropy", {{"anisotropyTexture", texture}}}}}};
    const Model model =
        must(read(model_of(json::array({{{"uri", data_uri(png(4))}}}),
                           json::array({{{"source", 0}}}), json::array({material}))));
    const ModelMaterial& read_material = model.materials.at(0);
    CHECK(read_material.surface.alpha == AlphaUse::mask);
    CHECK(read_material.surface.cutoff == 0.25F);
    REQUIRE(read_material.textures.size() == 19);
    for (std::size_t i = 0; i < 19; ++i)
        CHECK(read_material.textures[i].slot == static_cast<Slot>(i));
    const BoundTexture& color = read_material.textures[0];
    CHECK(color.coordinate_set == 2);  // the transform's own
    REQUIRE(color.transform);
    CHECK(color.transform->offset == std::array{0.5F, 0.25F});
    CHECK(color.transform->rotation == 1.5F);
    CHECK(color.transform->scale == std::array{2.0F, 3.0F});
    CHECK(read_material.textures[2].factor == 0.75F);
    CHECK(read_material.textures[3].factor == 0.5F);
    CHECK(read_material.textures[3].coordinate_set == 1);
    CHECK(role_of(Slot::emissive) == Role::color);
    CHECK(role_of(Slot::metallic_roughness) == Role::data);
    CHECK(role_of(Slot::clearcoat_normal) == Role::normal);
    CHECK(name(Slot::sheen_color) == "sheen color");
    CHECK(model.findings.empty());  // colours, normals and numbers of one image are all right
    const TextureBindings bindings = bindings_of(model);
    REQUIRE(bindings.textures.size() == 4);  // and colours cut out by the mask
    for (const NeededTexture& needed : bindings.textures)
        CHECK(needed.image == 0U);
}

TEST_CASE("samplers: all enumerants, and defaults where the model is silent") {
    json model = model_of(json::array({{{"uri", data_uri(png(4))}}}), json::array(), json::array());
    const std::pair<int, Sampler> filters[] = {
        {9728, {.min = Filter::nearest, .mip = MipFilter::none}},
        {9729, {.min = Filter::linear, .mip = MipFilter::none}},
        {9984, {.min = Filter::nearest, .mip = MipFilter::nearest}},
        {9985, {.min = Filter::linear, .mip = MipFilter::nearest}},
        {9986, {.min = Filter::nearest, .mip = MipFilter::linear}},
        {9987, {.min = Filter::linear, .mip = MipFilter::linear}}};
    model["samplers"] = json::array();
    for (const auto& [number, sampler] : filters) {
        model["textures"].push_back({{"source", 0}, {"sampler", model["samplers"].size()}});
        model["materials"].push_back(base_color(model["samplers"].size()));
        model["samplers"].push_back({{"minFilter", number}});
    }
    model["textures"].push_back({{"source", 0}, {"sampler", 6}});
    model["samplers"].push_back({{"magFilter", 9728}, {"wrapS", 33071}, {"wrapT", 33648}});
    model["materials"].push_back(base_color(6));
    model["textures"].push_back({{"source", 0}});
    model["materials"].push_back(base_color(7));
    const Model read_back = must(read(model));
    for (std::size_t i = 0; i < 6; ++i) {
        CHECK(read_back.materials[i].textures[0].sampler.min == filters[i].second.min);
        CHECK(read_back.materials[i].textures[0].sampler.mip == filters[i].second.mip);
    }
    const Sampler& wrapped = read_back.materials[6].textures[0].sampler;
    CHECK(wrapped.mag == Filter::nearest);
    CHECK(wrapped.wrap[0] == Wrap::clamp_to_edge);
    CHECK(wrapped.wrap[1] == Wrap::mirror);
    CHECK(read_back.materials[7].textures[0].sampler == Sampler{});
}

TEST_CASE("KTX 2.0 by its extension comes before the ordinary source") {
    const Texture blocks = support::random_texture(
        {.format = Format::bc7_srgb, .width = 8, .height = 4, .levels = 3}, 1);
    const auto bytes = must(texture_file_bytes("ktx2", blocks));
    json texture = {{"source", 0}, {"extensions", {{"KHR_texture_basisu", {{"source", 1}}}}}};
    const Model model = must(read(model_of(
        json::array(
            {{{"uri", data_uri(png(4))}}, {{"uri", "data:image/ktx2;base64," + base64(bytes)}}}),
        json::array({texture, json::object()}), json::array({base_color(0), base_color(1)}))));
    CHECK(model.materials[0].textures[0].image == 1U);
    CHECK(model.images[1].file_format == "KTX 2.0");
    CHECK(model.images[1].width == 8);
    CHECK_FALSE(model.materials[1].textures[0].image);
    REQUIRE(model.findings.size() == 1);
    CHECK(model.findings[0].problem ==
          "texture 1 (base color of 'stone') has no image that is understood");
    const json other = {{"extensions", {{"OTHER_picture", {{"source", 0}}}}}};
    const Model unknown = must(read(
        model_of(list_of({{"uri", data_uri(png(4))}}), list_of(other), list_of(base_color(0)))));
    CHECK(contains(unknown.findings.at(0).problem, "understood, only OTHER_picture"));
}

TEST_CASE(
    "WebP by its extension comes before the ordinary source, and gives way to it if damaged") {
    Image image = must(Image::create(Format::rgb8_srgb, 12, 6));
    auto webp = must(encode_picture("webp", std::as_const(image).view()));
    const auto read_one = [&] {
        json texture = {{"source", 0}, {"extensions", {{"EXT_texture_webp", {{"source", 1}}}}}};
        return must(
            read(model_of(json::array({{{"uri", data_uri(png(4))}},
                                       {{"uri", "data:image/webp;base64," + base64(webp)}}}),
                          list_of(texture), list_of(base_color(0)))));
    };
    const Model model = read_one();
    CHECK(model.materials[0].textures[0].image == 1U);
    CHECK(model.images[1].file_format == "WebP");
    CHECK(model.images[1].width == 12);
    CHECK(model.findings.empty());
    webp[16] = std::byte{0xFF};
    webp.resize(24);
    const Model damaged = read_one();
    CHECK(damaged.materials[0].textures[0].image == 0U);
    CHECK_FALSE(damaged.findings.empty());
}

TEST_CASE("DDS by its extension; and texture files that do not fit their use") {
    const auto texture_file = [](Format format, std::uint32_t levels, const char* file_format) {
        const Texture texture = support::random_texture(
            {.format = format, .width = 8, .height = 8, .levels = levels}, 1);
        return "data:;base64," + base64(must(texture_file_bytes(file_format, texture)));
    };
    const auto read_one = [&](const std::string& uri, const char* extension) {
        json texture = {{"source", 0}, {"extensions", {{extension, {{"source", 1}}}}}};
        return must(read(model_of(json::array({{{"uri", data_uri(png(4))}}, {{"uri", uri}}}),
                                  list_of(texture), list_of(base_color(0)))));
    };
    const Model fitting = read_one(texture_file(Format::bc1_srgb, 4, "dds"), "MSFT_texture_dds");
    CHECK(fitting.materials[0].textures[0].image == 1U);
    CHECK(fitting.images[1].file_format == "DDS");
    CHECK(fitting.findings.empty());
    const Model wrong = read_one(texture_file(Format::bc1_unorm, 1, "ktx2"), "KHR_texture_basisu");
    REQUIRE(wrong.findings.size() == 2);
    CHECK(contains(wrong.findings[0].problem,
                   "the base color texture of 'stone': colours in bc1-unorm"));
    CHECK(contains(wrong.findings[1].problem, "the texture has one level"));
}

TEST_CASE("hostile names: nothing outside of the folder is read unless it is allowed") {
    const support::TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("models"));
    support::write_bytes(folder.path("secret.png"), png(4));
    for (const std::string uri :
         {"../secret.png", "%2e%2e/secret.png", "..\\secret.png", "a/../../secret.png",
          "file:///etc/hostname", "/etc/hostname", "C:\\secret.png", "https://example.org/a.png"}) {
        CAPTURE(uri);
        const Model model =
            must(read(model_of(json::array({{{"uri", uri}}}), json::array(), json::array()),
                      folder.path("models")));
        REQUIRE(model.images[0].error);
        CHECK(model.images[0].error->kind == ErrorKind::usage);
        CHECK(model.contents[0].empty());
    }
    ModelReadOptions trusting;
    trusting.allow_outside = true;
    const json outside =
        model_of(json::array({{{"uri", "../secret.png"}}}), json::array(), json::array());
    CHECK(must(read(outside, folder.path("models"), trusting)).images[0].width == 4);
    CHECK(must(read(model_of(json::array({{{"uri", "https://example.org/a.png"}}}), json::array(),
                             json::array()),
                    folder.path("models"), trusting))
              .images[0]
              .error);
}

TEST_CASE("hostile references and lengths are errors that name the field") {
    const json image = {{"uri", data_uri(png(4))}};
    const auto refused = [](const json& model) {
        const Error error = must_fail(read(model));
        CHECK(error.kind == ErrorKind::malformed);
        return error.message;
    };
    CHECK(contains(
        refused(model_of(list_of(image), list_of({{"source", 7}}), list_of(base_color(0)))),
        "'source' is 7, and there are 1 images"));
    CHECK(contains(refused(model_of(list_of(image), json::array(), list_of(base_color(0)))),
                   "'index' is 0"));
    CHECK(contains(
        refused(model_of(list_of(image), list_of({{"source", -1}}), list_of(base_color(0)))),
        "-1"));
    CHECK(contains(
        refused(model_of(list_of(image), list_of({{"source", "x"}}), list_of(base_color(0)))),
        "'source'"));
    CHECK(contains(refused(model_of(list_of(image), list_of({{"source", 0}, {"sampler", 0}}),
                                    list_of(base_color(0)))),
                   "samplers"));
    CHECK(contains(refused(model_of(list_of(json::object()), json::array(), json::array())),
                   "neither a URI nor a buffer view"));
    json model = model_of(list_of({{"bufferView", 0}}), json::array(), json::array());
    CHECK(contains(refused(model), "bufferViews"));
    model["bufferViews"] = list_of({{"buffer", 0}, {"byteLength", 10}});
    CHECK(contains(refused(model), "buffers"));
    model["buffers"] = list_of({{"byteLength", 4}, {"uri", "data:;base64,AAAAAA=="}});
    CHECK(contains(refused(model), "takes 10 bytes at 0 of buffer 0, which has 4"));
    model["bufferViews"][0]["byteLength"] = 2;
    model["bufferViews"][0]["byteOffset"] = 18446744073709551615ULL;
    CHECK(contains(refused(model), "18446744073709551615"));
    model["buffers"][0]["byteLength"] = 400;
    CHECK(contains(refused(model), "says to have 400 bytes, and has 4"));
    CHECK(must_fail(read({{"asset", {{"version", "1.0"}}}})).kind == ErrorKind::unsupported);
    CHECK(contains(refused(json::object()), "asset.version"));
    CHECK(contains(refused(json::array()), "neither"));
}

TEST_CASE("a data URI beyond the limits is refused before it takes memory; broken ones are said") {
    ModelReadOptions small;
    small.limits.max_bytes = 1000;
    const json large =
        model_of(json::array({{{"uri", "data:image/png;base64," + std::string(4000, 'A')}},
                              {{"uri", "data:image/png;base64,A*AA"}},
                              {{"uri", "data:image/png"}},
                              {{"uri", "data:image/png;base64,AAAA"}}}),
                 json::array(), json::array());
    const Model model = must(read(large, "/nowhere", small));
    CHECK(model.images[0].error.value().kind == ErrorKind::limit);
    CHECK(contains(model.images[1].error.value().message, "not base64"));
    CHECK(contains(model.images[2].error.value().message, "comma"));
    CHECK(model.images[3].error);  // three zero bytes are no picture
    CHECK(model.findings.size() == 4);
    const Model by_default = must(read(large));
    CHECK(by_default.images[0].error.value().kind != ErrorKind::limit);  // read, but no picture
    const Model strict = must(read(large, "/nowhere", {.max_data_uri = 2000}));
    CHECK(contains(strict.images[0].error.value().message, "exceeds the limit of 2000 bytes"));
}

TEST_CASE("a text longer than any data URI may be is refused before anything is parsed") {
    const json model =
        model_of(list_of({{"uri", "data:image/png;base64," + std::string(9000, 'A')}}),
                 json::array(), json::array());
    const Error error = must_fail(read(model, "/nowhere", {.max_data_uri = 2000}));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.message, "a text of 9022 characters"));
    REQUIRE(error.offset);
    CHECK(model.dump().substr(*error.offset, 6) == "\"data:");
    // Quotation marks and brackets within texts are none of JSON's.
    json named = model_of(json::array(), json::array(), list_of(base_color(0)));
    named["materials"][0] = {{"name", "\\\"" + std::string(100, '[') + "\\"}};
    CHECK(must(read(named)).materials.at(0).surface.name.size() == 103);
}

TEST_CASE("a .glb file cut at every byte, or with its headers changed, is an error") {
    const auto picture = png(4);
    json model =
        model_of(list_of({{"bufferView", 0}}), list_of({{"source", 0}}), list_of(base_color(0)));
    model["buffers"] = list_of({{"byteLength", picture.size()}});
    model["bufferViews"] = list_of({{"buffer", 0}, {"byteLength", picture.size()}});
    const auto whole = glb(model, picture);
    must(read_model(whole, "/nowhere"));
    for (std::size_t size = 0; size < whole.size(); ++size)
        CHECK_FALSE(read_model(std::span(whole).first(size), "/nowhere"));
    auto wrong = whole;
    wrong[4] = std::byte{1};
    CHECK(contains(must_fail(read_model(wrong, "/nowhere")).message, "version 2"));
    wrong = whole;
    wrong[16] = std::byte{'X'};
    CHECK(contains(must_fail(read_model(wrong, "/nowhere")).message, "first chunk"));
}

TEST_CASE("specular colour and glossiness: an older way, whose textures count as well") {
    const json gloss = {{"diffuseTexture", {{"index", 0}}},
                        {"diffuseFactor", {0.5, 0.25, 1, 1}},
                        {"specularGlossinessTexture", {{"index", 1}}}};
    json old = {{"name", "old"}, {"extensions", {{"KHR_materials_pbrSpecularGlossiness", gloss}}}};
    json both = old;
    both["pbrMetallicRoughness"] = {{"baseColorTexture", {{"index", 2}}},
                                    {"baseColorFactor", {1, 1, 1, 0.5}}};
    const json images = json::array(
        {{{"uri", data_uri(png(4))}}, {{"uri", data_uri(png(8))}}, {{"uri", data_uri(png(16))}}});
    const json textures = json::array({{{"source", 0}}, {{"source", 1}}, {{"source", 2}}});
    const Model model = must(read(model_of(images, textures, json::array({old, both}))));
    REQUIRE(model.materials[0].textures.size() == 2);
    CHECK(model.materials[0].textures[0].slot == Slot::base_color);
    CHECK(model.materials[0].textures[0].image == 0U);
    CHECK(model.materials[0].textures[1].slot == Slot::specular_glossiness);
    CHECK(role_of(Slot::specular_glossiness) == Role::color);
    CHECK(model.materials[0].surface.base_color == Rgba{0.5F, 0.25F, 1, 1});
    CHECK(model.materials[0].surface.metallic == 0);
    // Where there is a base colour of the newer kind, it comes first.
    REQUIRE(model.materials[1].textures.size() == 3);
    CHECK(model.materials[1].textures[0].image == 2U);
    CHECK(model.materials[1].textures[2].slot == Slot::diffuse);
    CHECK(model.materials[1].textures[2].image == 0U);
    CHECK(model.materials[1].surface.base_color[3] == 0.5F);
    CHECK(model.findings.empty());
}

TEST_CASE("textures that no known slot uses are said") {
    json material = base_color(1);
    material["extensions"] = {{"OTHER_materials_glitter", {{"glitterTexture", {{"index", 0}}}}}};
    const json textures = json::array({{{"source", 0}}, {{"source", 0}}, {{"source", 0}}});
    const Model model =
        must(read(model_of(list_of({{"uri", data_uri(png(4))}}), textures, list_of(material))));
    REQUIRE(model.findings.size() == 1);
    CHECK(contains(model.findings[0].problem, "no slot that is known uses texture 0, 2"));
}

TEST_CASE("every slot has a name and a role, and no two have one name") {
    std::vector<std::string> names;
    for (int i = 0; i <= static_cast<int>(Slot::other); ++i) {
        const auto slot = static_cast<Slot>(i);
        names.emplace_back(name(slot));
        CHECK_FALSE(names.back().empty());
        CHECK(info(role_of(slot)).role == role_of(slot));
    }
    std::ranges::sort(names);
    CHECK(std::ranges::adjacent_find(names) == names.end());
    CHECK(name(Slot::other) == "other");
    CHECK(name(ImageSource::raw_pixels) == "raw pixels");
}
