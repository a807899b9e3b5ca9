// ylat mesh: the textures of a model, and the model with baked ones.
#include <fmt/format.h>
#include <yl/mesh_bindings.hpp>

#include <memory>

#include "mesh_bake.hpp"
#include "mesh_tables.hpp"
#include "models.hpp"
#include "option_rules.hpp"

namespace ylat {
namespace {

enum MeshFact : Facts { bakes = 1, lists = 2 };

constexpr const char* for_baking = "it goes with --bake";

constexpr OptionRule refused_by_mesh[] = {
    {"--keep-png", bakes, for_baking},
    {"--as", bakes, for_baking},
    {"--effort", bakes, for_baking},
    {"--max-size", bakes, for_baking},
    {"--pow2", bakes, for_baking},
    {"--supercompress", bakes, for_baking},
    {"--plan", lists, "it goes with the list of a model's textures, not with --bake"},
};

struct Mesh {
    Session& session;
    CLI::App* command = nullptr;
    std::string path = {};
    bool allow_outside = false;
    std::string profile = {};
    MeshBakeChoices bake = {};

    yl::Result<Exit> run() const {
        if (auto sound =
                refuse_options(*command, refused_by_mesh, bake.output.empty() ? lists : bakes);
            !sound)
            return tl::unexpected(sound.error());
        yl::mesh::ModelReadOptions options;
        options.allow_outside = allow_outside;
        options.look_into_images = bake.output.empty();
        auto model = read_any_model(path, options);
        if (!model)
            return tl::unexpected(model.error());
        if (!bake.output.empty())
            return bake_mesh(session, path, *model, bake);
        if (!profile.empty()) {
            const auto device = yl::find_profile(profile);
            if (!device)
                return yl::fail_at(device.error(), "--plan");
            yl::Findings findings = check_bindings(*model, yl::mesh::bindings_of(*model), *device);
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

    void show(const yl::mesh::Model& model) const {
        const yl::mesh::TextureBindings bindings = yl::mesh::bindings_of(model);
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

void add_mesh(CLI::App& app, Session& session) {
    auto mesh = std::make_shared<Mesh>(Mesh{.session = session});
    CLI::App* command =
        add_command(app, session, "mesh", "List the textures of a model, or bake them",
                    [mesh] { return mesh->run(); });
    mesh->command = command;
    command->add_option("MODEL", mesh->path, "A model file: .gltf, .glb and others")->required();
    command->add_flag("--allow-outside", mesh->allow_outside,
                      "Read images outside of the model's folder, if it asks for them");
    command
        ->add_option("--plan", mesh->profile,
                     "Say which materials have more textures than a kind of device can bind")
        ->option_text("PROFILE");
    add_bake_options(*command, mesh->bake);
}

}  // namespace ylat
