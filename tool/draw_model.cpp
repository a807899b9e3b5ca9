#include <yl/status_macros.hpp>

#include "draw_model.hpp"

#include <fmt/format.h>
#include <yl/model_bake.hpp>

#include "archives.hpp"
#include "describe.hpp"
#include "driver.hpp"
#include "models.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

std::size_t triangles_of(const yl::ModelScene& scene) {
    std::size_t count = 0;
    for (const yl::Primitive& part : scene.parts)
        count += part.indices.size() / 3;
    return count;
}

/// Each texture keeps what the text leaves out of its own sampler.
yl::Status change_samplers(yl::ModelScene& scene, const std::string& text) {
    for (yl::Material& surface : scene.surfaces)
        for (auto* use :
             {&surface.base_color_texture, &surface.metallic_roughness_texture,
              &surface.normal_texture, &surface.occlusion_texture, &surface.emissive_texture}) {
            if (!*use)
                continue;
            const auto sampler = yl::parse_sampler(text, (*use)->sampler);
            if (!sampler)
                return yl::fail_at(sampler.error(), "--sampler");
            (*use)->sampler = *sampler;
        }
    return {};
}

yl::Result<yl::Image> picture_of(const yl::ModelScene& scene, const yl::ModelView& view,
                                 const ModelChoices& choices, std::string& drawn_by) {
    if (choices.api == "cpu") {
        drawn_by = "CPU sampler";
        return yl::draw_model(scene, view, device_curve);
    }
    YL_TRY(const auto driver, open_driver(choices.api, choices.device));
    drawn_by = driver->profile().name;
    return driver->draw(scene, view);
}

}  // namespace

std::vector<yl::ColorKey> color_keys(const yl::ModelScene& scene, yl::ModelShow show) {
    std::vector<yl::ColorKey> keys;
    if (show == yl::ModelShow::slot) {
        std::vector<bool> is_used(scene.surfaces.size());
        for (const yl::Primitive& part : scene.parts)
            is_used[part.surface] = true;
        for (std::size_t i = 0; i < scene.surfaces.size(); ++i)
            if (is_used[i])
                keys.push_back({yl::slot_color(i), scene.surfaces[i].name});
    }
    if (show == yl::ModelShow::level)
        for (std::size_t level = 0; level < 8; ++level)
            keys.push_back({yl::level_color(level),
                            fmt::format("level {}{}", level, level == 7 ? " and on" : "")});
    return keys;
}

yl::Result<Exit> draw_model(const Session& session, const ModelChoices& choices) {
    yl::model::ModelReadOptions options;
    options.allow_outside = choices.allow_outside;
    options.files = files_for(choices.model);
    options.look_into_images = false;  // they are decoded in a moment anyway
    auto model = read_any_model(choices.model, options);
    if (!model)
        return tl::unexpected(model.error());
    yl::Findings findings = model->findings;
    auto scene = yl::model::scene_of(*model, findings);
    if (!scene)
        return yl::fail_at(scene.error(), choices.model);
    YL_CHECK(change_samplers(*scene, choices.sampler));
    session.warn(findings, choices.model);
    if (triangles_of(*scene) == 0)
        return yl::fail_at({yl::ErrorKind::malformed, "the model has no triangles to draw"},
                           choices.model);
    yl::ModelView view = choices.view;
    view.show = yl::find_model_show(choices.show).value_or(yl::ModelShow::lit);
    std::string drawn_by;
    auto picture = picture_of(*scene, view, choices, drawn_by);
    if (!picture)
        return tl::unexpected(picture.error());
    const auto keys = color_keys(*scene, view.show);
    if (!keys.empty()) {
        picture = yl::with_keys(picture->view(), keys);
        if (!picture)
            return tl::unexpected(picture.error());
    }
    YL_CHECK(save(choices.output, picture->view()));
    session.say(fmt::format("{} -> {}", choices.model, choices.output));
    session.say(row_text("picture", fmt::format("{}, {}, drawn by {}",
                                                size_text(picture->width(), picture->height()),
                                                choices.show, drawn_by)));
    session.say(row_text(
        "model", fmt::format("{} triangles, {} materials, {} textures", triangles_of(*scene),
                             model->materials.size(), scene->textures.size())));
    session.give([&] {
        return Json({{"inputs", {choices.model}},
                     {"output", choices.output},
                     {"show", choices.show},
                     {"width", picture->width()},
                     {"height", picture->height()},
                     {"triangles", triangles_of(*scene)},
                     {"textures", scene->textures.size()},
                     {"drawn_by", drawn_by},
                     {"findings", findings_json(findings)}});
    });
    return session.outcome();
}

}  // namespace ylat
