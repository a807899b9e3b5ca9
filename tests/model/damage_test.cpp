// Damaged and hostile glTF: whatever is changed, an error or a sound model comes back.
#include <yl/model_bake.hpp>

#include "model/models.hpp"
#include "support/files.hpp"

using namespace support::models;

namespace {

/// A little of everything that is read.
Builder small_model() {
    Builder builder;
    builder.add("images", {{"bufferView", builder.add_view(png(4))}, {"mimeType", "image/png"}});
    builder.add("images", {{"uri", data_uri(png(2))}});
    builder.model["samplers"] = list_of({{"magFilter", 9728}, {"wrapS", 33648}});
    builder.add("textures", {{"source", 0}, {"sampler", 0}});
    builder.add("textures", {{"source", 1}});
    builder.add(
        "materials",
        {{"name", "a"},
         {"alphaMode", "MASK"},
         {"alphaCutoff", 0.5},
         {"pbrMetallicRoughness",
          {{"baseColorTexture",
            {{"index", 0},
             {"extensions", {{"KHR_texture_transform", {{"offset", {0, 1}}, {"rotation", 1}}}}}}},
           {"baseColorFactor", {1, 1, 1, 1}}}},
         {"normalTexture", {{"index", 1}, {"scale", 2}}}});
    builder.add_square(0);
    builder.model["nodes"] = json::array(
        {{{"mesh", 0}, {"children", list_of(1)}, {"translation", {1, 2, 3}}}, {{"mesh", 0}}});
    builder.model["scenes"] = list_of({{"nodes", list_of(0)}});
    builder.model["scene"] = 0;
    return builder;
}

/// Reads it as far as it goes; whatever comes back has to be sound.
bool is_sound(std::span<const std::byte> bytes) {
    ModelReadOptions options;
    options.limits = {.max_side = 64, .max_bytes = 1 << 20};
    const auto model = read_model(bytes, "/nowhere", options);
    if (!model)
        return !model.error().message.empty();
    bool sound = model->images.size() == model->contents.size();
    const TextureBindings bindings = bindings_of(*model);
    for (const auto& material : bindings.materials)
        for (const TextureBinding& binding : material)
            sound = sound && binding.texture < bindings.textures.size();
    for (const NeededTexture& texture : bindings.textures)
        sound = sound && (!texture.image || *texture.image < model->images.size());
    Findings findings;
    const auto scene = scene_of(*model, findings);
    if (!scene)
        return sound && !scene.error().message.empty();
    for (const Primitive& part : scene->parts) {
        sound = sound && part.surface < scene->surfaces.size() && part.indices.size() % 3 == 0;
        for (const std::uint32_t index : part.indices)
            sound = sound && index < part.vertices.size();
    }
    return sound;
}

}  // namespace

TEST_CASE("every value of a model replaced by each of many wrong ones") {
    Builder builder = small_model();
    const auto whole = builder.glb();
    CHECK(is_sound(whole));
    const json flat = builder.model.flatten();
    const json wrong[] = {
        json(), -1,   4294967295U,   18446744073709551615ULL, 1e300,          -0.5,          "",
        "x",    true, json::array(), json::array({1, 2, 3}),  json::object(), {{"index", 0}}};
    std::size_t tried = 0, still_read = 0;
    for (const auto& item : flat.items())
        for (const json& replacement : wrong) {
            const std::string place = item.key();
            json changed = builder.model;
            changed[json::json_pointer(place)] = replacement;
            CAPTURE(place);
            CAPTURE(replacement.dump());
            const auto bytes = glb(changed, builder.binary);
            CHECK(is_sound(bytes));
            ++tried;
            still_read += read_model(bytes, "/nowhere") ? 1 : 0;
        }
    CHECK(tried > 700);
    CHECK(still_read > 100);          // names and numbers that may be anything
    CHECK(still_read < tried - 100);  // indices and lengths that may not
}

TEST_CASE("whatever is wrong with a model, baking gives an error or a model that can be read") {
    const support::TemporaryFolder folder;
    Builder builder = small_model();
    builder.model["extensionsUsed"] = list_of("KHR_texture_transform");
    builder.model["textures"][1]["extensions"] = {{"OTHER_extension", {{"value", 1}}}};
    CHECK(is_sound(builder.glb()));
    const std::string output = folder.path("baked.glb");
    ModelBakeOptions options;
    options.bake = BakeByRole();
    std::size_t baked = 0, refused = 0;
    const auto attempt = [&](const json& changed) {
        const auto model = read_model(glb(changed, builder.binary), "/nowhere");
        if (!model)
            return;
        std::filesystem::remove(output);
        const auto report = bake_model(*model, output, options);
        CHECK(std::filesystem::exists(output) == report.has_value());
        CHECK((!report || is_sound(support::read_bytes(output))));
        (report ? baked : refused) += 1;
    };
    const json flat = builder.model.flatten();
    for (const auto& item : flat.items())
        for (auto pointer = json::json_pointer(item.key()); !pointer.empty();
             pointer = pointer.parent_pointer())
            for (const json& replacement :
                 {json(), json(7), json("x"), json::array(), json::object()}) {
                json changed = builder.model;
                changed[pointer] = replacement;
                CAPTURE(pointer.to_string());
                CAPTURE(replacement.dump());
                attempt(changed);
            }
    CHECK(baked > 100);
    CHECK(refused > 5);
}

TEST_CASE("lists that are none are refused before anything is written") {
    const support::TemporaryFolder folder;
    const auto trouble = [&](const char* key, const json& value) {
        Builder builder;
        builder.add("images", {{"uri", data_uri(png(4))}});
        builder.add("textures", {{"source", 0}});
        builder.add("materials", base_color(0));
        builder.model[key] = value;
        const std::string text = builder.model.dump();
        const auto model = read_model(std::as_bytes(std::span(text)), "/nowhere");
        if (!model)
            return model.error().message;
        return must_fail(bake_model(*model, folder.path("x.glb"))).message;
    };
    for (const char* key : {"buffers", "bufferViews", "extensionsUsed"}) {
        CAPTURE(key);
        CHECK(contains(trouble(key, {{"a", 1}}), std::string("'") + key + "' is not a list"));
        CHECK(contains(trouble(key, "text"), "is not a list"));
    }
    CHECK(contains(trouble("textures", list_of({{"source", 0}, {"extensions", {1, 2}}})),
                   "'extensions' are not an object"));
    CHECK(folder.entries().empty());
}

TEST_CASE("every member of a model left out, one at a time") {
    Builder builder = small_model();
    CHECK(is_sound(builder.glb()));
    const json whole = builder.model;
    const json flat = whole.flatten();
    for (const auto& item : flat.items()) {
        // Its own place, and each object or list above it.
        for (auto pointer = json::json_pointer(item.key()); !pointer.empty();
             pointer = pointer.parent_pointer()) {
            json changed = whole;
            json& parent = changed[pointer.parent_pointer()];
            if (parent.is_object())
                parent.erase(pointer.back());
            else
                parent.erase(std::stoul(pointer.back()));
            CAPTURE(pointer.to_string());
            CHECK(is_sound(glb(changed, builder.binary)));
        }
    }
}

TEST_CASE("every byte of a .glb file changed") {
    Builder builder = small_model();
    const auto whole = builder.glb();
    for (std::size_t i = 0; i < whole.size(); ++i)
        for (const int change : {0x01, 0x80, 0xFF}) {
            auto changed = whole;
            changed[i] ^= static_cast<std::byte>(change);
            CAPTURE(i);
            CHECK(is_sound(changed));
        }
}

TEST_CASE("what cannot be read gives way to what can: baked, universal, ordinary") {
    std::vector<std::byte> broken;
    for (const int byte : {0xAB, 0x4B, 0x54, 0x58, 0x20, 0x32, 0x30, 0xBB, 0x0D, 0x0A, 0x1A, 0x0A})
        broken.push_back(static_cast<std::byte>(byte));
    broken.resize(100);
    const Texture whole =
        must(Texture::create({.format = Format::bc7_srgb, .width = 4, .height = 4}));
    const auto sound = must(texture_file_bytes("ktx2", whole));
    const auto uri = [](const std::vector<std::byte>& bytes) {
        return "data:image/ktx2;base64," + base64(bytes);
    };
    const json images = json::array({{{"uri", data_uri(png(4))}},
                                     {{"uri", uri(broken)}},
                                     {{"uri", uri(sound)}},
                                     {{"uri", "gone.png"}}});
    const auto chosen = [&](const json& texture, bool look = true) {
        ModelReadOptions options;
        options.look_into_images = look;
        const Model model = must(
            read(model_of(images, list_of(texture), list_of(base_color(0))), "/nowhere", options));
        return model.materials[0].textures[0];
    };
    const auto universal = [](int source) {
        return json{{"KHR_texture_basisu", {{"source", source}}}};
    };
    const auto baked = [](int source) {
        return json{
            {std::string(baked_extension),
             {{"sources", list_of({{"source", source}, {"role", "color"}, {"alpha", "data"}})}}}};
    };
    CHECK(chosen({{"source", 0}, {"extensions", universal(2)}}).image == 2U);
    CHECK(chosen({{"source", 0}, {"extensions", universal(1)}}).image == 0U);
    CHECK(chosen({{"source", 0}, {"extensions", universal(1)}}, false).image == 0U);
    CHECK(chosen({{"extensions", universal(1)}}).image == 1U);  // nothing else is there
    CHECK(chosen({{"source", 3}, {"extensions", universal(1)}}).image == 1U);
    CHECK(chosen({{"source", 0}, {"extensions", baked(2)}}).image == 2U);
    CHECK(chosen({{"source", 0}, {"extensions", baked(2)}}).ordinary_image == 0U);
    CHECK(chosen({{"source", 0}, {"extensions", baked(1)}}).image == 0U);
    CHECK_FALSE(chosen({{"source", 0}, {"extensions", baked(1)}}).ordinary_image);
    CHECK(chosen({{"source", 3}, {"extensions", baked(2)}}).image == 2U);
    json data = baked(2);
    data[std::string(baked_extension)]["sources"][0]["role"] = "data";
    CHECK(chosen({{"source", 0}, {"extensions", data}}).image == 0U);  // baked for another role
    const Model model =
        must(read(model_of(images, list_of({{"source", 0}, {"extensions", universal(1)}}),
                           json::array({base_color(0), base_color(0)}))));
    std::size_t said = 0;
    for (const Finding& finding : model.findings)
        said += contains(finding.problem, "image 1 gives way to image 0") ? 1 : 0;
    CHECK(said == 1);
}

TEST_CASE("a scene of more vertices than the limits allow is refused") {
    Builder builder = small_model();
    const auto bytes = builder.glb();
    ModelReadOptions options;
    options.limits.max_bytes = 5 * sizeof(Vertex);  // two squares are eight vertices
    const Model model = must(read_model(bytes, "/nowhere", options));
    Findings findings;
    const Error error = must_fail(scene_of(model, findings));
    CHECK(error.kind == ErrorKind::limit);
    CHECK(contains(error.message, "takes more than 360 bytes"));
    CHECK(must_fail(primitives_of(Model{}, findings)).kind == ErrorKind::usage);
}

TEST_CASE("images larger than the limits are errors of their own") {
    Builder builder = small_model();
    ModelReadOptions options;
    options.limits.max_side = 3;
    const Model model = must(read_model(builder.glb(), "/nowhere", options));
    REQUIRE(model.images[0].error);
    CHECK(model.images[0].error->kind == ErrorKind::limit);
    CHECK_FALSE(model.images[1].error);
    const auto made = make_textures(model, bindings_of(model));
    REQUIRE(made.size() == 2);
    CHECK(made[0].error);
    CHECK(made[1].texture->shape().width == 2);
}

TEST_CASE("nodes in two places, in circles, and in a long row") {
    const auto trouble = [](const json& nodes) {
        Builder builder = small_model();
        builder.model["nodes"] = nodes;
        Findings findings;
        const auto scene = scene_of(builder.read(), findings);
        return scene ? std::string() : scene.error().message;
    };
    CHECK(contains(trouble(json::array({{{"children", {1, 1}}}, {{"mesh", 0}}})), "two places"));
    CHECK(contains(trouble(json::array({{{"children", list_of(1)}}, {{"children", list_of(0)}}})),
                   "circle"));
    json row = json::array();
    for (int i = 0; i < 300; ++i)
        row.push_back({{"children", list_of(i + 1)}});
    row.push_back({{"mesh", 0}});
    CHECK(contains(trouble(row), "200 deep"));
    CHECK(trouble(json::array({{{"children", {1, 2}}}, {{"mesh", 0}}, {{"mesh", 0}}})).empty());
}
