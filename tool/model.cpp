// ylat model: the textures of a model, and the model with baked ones.
#include <fmt/format.h>
#include <yl/model_bake.hpp>

#include <memory>

#include <yl/status_macros.hpp>

#include "model_bake.hpp"
#include "model_tables.hpp"
#include "models.hpp"
#include "option_rules.hpp"

namespace ylat {
namespace {

enum MeshFact : Facts { bakes = 1, lists = 2 };

constexpr const char* for_baking = "it goes with --bake";

constexpr OptionRule refused_by_model[] = {
    {"--keep-png", bakes, for_baking},
    {"--as", bakes, for_baking},
    {"--effort", bakes, for_baking},
    {"--max-size", bakes, for_baking},
    {"--pow2", bakes, for_baking},
    {"--supercompress", bakes, for_baking},
    {"--plan", lists, "it goes with the list of a model's textures, not with --bake"},
};

struct ModelListing {
    Session& session;
    CLI::App* command = nullptr;
    std::string path = {};
    bool allow_outside = false;
    std::string profile = {};
    ModelBakeChoices bake = {};

    yl::Result<Exit> run() const {
        YL_CHECK(refuse_options(*command, refused_by_model, bake.output.empty() ? lists : bakes));
        yl::model::ModelReadOptions options;
        options.allow_outside = allow_outside;
        options.look_into_images = bake.output.empty();
        auto model = read_any_model(path, options);
        if (!model)
            return tl::unexpected(model.error());
        if (!bake.output.empty())
            return bake_model_file(session, path, *model, bake);
        if (!profile.empty()) {
            const auto device = yl::find_profile(profile);
            if (!device)
                return yl::fail_at(device.error(), "--plan");
            yl::Findings findings = check_bindings(*model, yl::model::bindings_of(*model), *device);
            if (findings.empty())
                session.say(
                    fmt::format("{}: every material's textures can be bound at once, in "
                                "their full size",
                                device->name));
            model->findings.insert(model->findings.end(), findings.begin(), findings.end());
        }
        show(*model);
        return session.outcome();
    }

    void show(const yl::model::Model& model) const {
        const yl::model::TextureBindings bindings = yl::model::bindings_of(model);
        session.say(fmt::format("{}: {} materials, {} images, {} textures to bind, {} samplers",
                                path, model.materials.size(), model.images.size(),
                                bindings.textures.size(), bindings.samplers));
        if (!model.images.empty())
            session.say("\n" + image_table(model));
        const std::string slots = slot_table(model);
        if (!slots.empty())
            session.say("\n" + slots);
        session.warn(model.findings, path);
        session.give([&] { return Json(json_of(model)); });
    }
};

}  // namespace

void add_model(CLI::App& app, Session& session) {
    auto listing = std::make_shared<ModelListing>(ModelListing{.session = session});
    CLI::App* command =
        add_command(app, session, "model", "List the textures of a model, or bake them",
                    [listing] { return listing->run(); });
    listing->command = command;
    command->add_option("MODEL", listing->path, "A model file: .gltf, .glb and others")->required();
    command->add_flag("--allow-outside", listing->allow_outside,
                      "Read images outside of the model's folder, if it asks for them");
    command
        ->add_option("--plan", listing->profile,
                     "Say which materials have more textures than a kind of device can bind")
        ->option_text("PROFILE");
    add_bake_options(*command, listing->bake);
}

}  // namespace ylat
