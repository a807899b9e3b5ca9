// ylat model: the textures of a model, and the model with baked ones.
#include <fmt/format.h>
#include <yl/model_bake.hpp>

#include <memory>

#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "bake_many.hpp"
#include "model_bake.hpp"
#include "model_extract.hpp"
#include "model_tables.hpp"
#include "model_textures.hpp"
#include "models.hpp"

namespace ylat {
namespace {

struct ModelListing {
    Session& session;
    Command command;
    std::string path = {};
    bool allow_outside = false;
    std::string profile = {}, extracted = {};
    ModelBakeChoices bake = {};

    yl::Result<Exit> run() const {
        const bool into_folder = is_folder(bake.output);
        YL_CHECK(command.refuse_options(!bake.output.empty()
                                            ? bakes_model | (into_folder ? Facts{0} : writes_model)
                                        : !extracted.empty() ? Facts{extracts_images}
                                                             : lists_textures));
        yl::model::ModelReadOptions options;
        options.allow_outside = allow_outside;
        options.look_into_images = bake.output.empty();
        options.files = files_for(path);
        auto model = read_any_model(path, options);
        if (!model)
            return tl::unexpected(model.error());
        if (into_folder)
            return bake_model_textures(session, path, *model, bake);
        if (!bake.output.empty())
            return bake_model_file(session, path, *model, bake);
        if (!extracted.empty())
            return extract_images(session, path, *model, extracted);
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
    auto listing = std::make_shared<ModelListing>(ModelListing{
        session, Command(app, session, "model", "List the textures of a model, or bake them")});
    Command& command = listing->command;
    command.runs([listing] { return listing->run(); },
                 [listing]() -> yl::Status {
                     YL_TRY([[maybe_unused]] const auto parsed, options_of(listing->bake));
                     return {};
                 });
    command.add(
        {.rows = {{"MODEL",
                   &listing->path,
                   "",
                   "A model file: .gltf, .glb and others",
                   {.required = true}},
                  {"--allow-outside", &listing->allow_outside, "",
                   "Also read images outside of the model's folder"},
                  {"--extract",
                   &listing->extracted,
                   "FOLDER",
                   "Write the model's images as files, as they are, with a list of them",
                   {.rules = {refused_without(Facts{lists_textures} | extracts_images,
                                              "it does not go with --bake")}}},
                  {"--plan",
                   &listing->profile,
                   "PROFILE",
                   "Name the materials that have more textures than this kind of device can bind",
                   {.rules = {refused_without(
                        lists_textures, "it goes with the list of a model's textures alone")}}}}});
    for (const OptionTable& table : model_bake_options(listing->bake))
        command.add(table);
}

}  // namespace ylat
