#include <yl/report.hpp>

#include <fmt/format.h>

#include <array>
#include <queue>

#include <yl/picture.hpp>
#include <yl/status_macros.hpp>
#include <yl/version.hpp>
#include "base/base64.hpp"
#include "base/out_of_memory.hpp"
#include "report/page/access.hpp"
#include "report/page/changes.hpp"
#include "report/page/json.hpp"

namespace yl {

using namespace report;

namespace {

// Put together when building: page.html with the style sheet, the scripts and the plotting library
// in their places; `@data@` is left for here.
constexpr std::string_view page_pieces[] = {
#include "page.html.inc"
};

/// What stands before shaders for WebGL, and the scenes' own.
constexpr std::string_view shaders[] = {
#include "webgl.head.inc"
    ,
#include "triangle.vert.inc"
    ,
#include "scene.frag.inc"
    ,
#include "cube_scene.frag.inc"
};

Json model_json(const ReportModel& model) {
    Json materials = Json::array();
    for (const ReportMaterial& material : model.materials) {
        Json bindings = Json::array();
        for (const ReportBinding& binding : material.bindings)
            bindings.push_back({{"slot", binding.slot},
                                {"texture", binding.texture ? Json(*binding.texture) : Json()},
                                {"image", binding.image},
                                {"sampler", binding.sampler}});
        materials.push_back({{"name", material.name}, {"bindings", std::move(bindings)}});
    }
    Json findings = Json::array();
    for (const Finding& finding : model.findings)
        findings.push_back(finding_json(finding));
    return {{"name", model.name},
            {"file", model.file},
            {"triangles", model.triangles},
            {"materials", std::move(materials)},
            {"findings", std::move(findings)}};
}

/// As text, so that what the parts already are is not parsed again.
Result<std::string> document(const ReportContent& content,
                             const std::vector<std::size_t>& left_out) {
    const Json head = {{"schema", "yellow-lattice-report"},
                       {"version", report_version},
                       {"made_by", fmt::format("Yellow Lattice {}", version)},
                       {"title", content.title}};
    std::string text = text_of(head);
    text.pop_back();
    text += ",\"textures\":[";
    for (std::size_t i = 0; i < content.textures.size(); ++i)
        text += (i > 0 ? "," : "") + ReportAccess::json(content.textures[i], left_out[i]);
    text += "]";
    if (!content.before.empty()) {
        Json textures = Json::array();
        for (const ReportPart& part : content.textures)
            textures.push_back(Json::parse(part.json()));
        YL_TRY(const Json changes, changes_since(content.before, textures));
        text += ",\"changes\":" + text_of(changes);
    }
    Json models = Json::array(), failures = Json::array();
    for (const ReportModel& model : content.models)
        models.push_back(model_json(model));
    for (const ReportFailure& failure : content.failures)
        failures.push_back({{"file", failure.file}, {"problem", failure.problem}});
    return text + ",\"models\":" + text_of(models) + ",\"failures\":" + text_of(failures) + "}";
}

/// How many levels of each texture are left out, so that all that is left takes `max_bytes` at most if
/// it can: always the largest one of all. The last level stays.
std::vector<std::size_t> levels_left_out(std::span<const ReportPart> parts,
                                         std::uint64_t max_bytes) {
    std::vector<std::size_t> left_out(parts.size(), 0);
    std::priority_queue<std::pair<std::size_t, std::size_t>> by_size;  // of its largest, and which
    std::uint64_t bytes = 0;
    const auto offer = [&](std::size_t i) {
        const auto& levels = ReportAccess::levels(parts[i]);
        if (left_out[i] + 1 < levels.size())
            by_size.emplace(levels[left_out[i]].size(), i);
    };
    for (std::size_t i = 0; i < parts.size(); ++i) {
        bytes += ReportAccess::json(parts[i], 0).size() + ReportAccess::texels(parts[i], 0).size();
        offer(i);
    }
    while (bytes > max_bytes && !by_size.empty()) {
        const auto [size, i] = by_size.top();
        by_size.pop();
        bytes -= size;
        ++left_out[i];
        offer(i);
    }
    return left_out;
}

/// An element that holds data, which a browser shows nobody.
std::string data_element(std::string_view id, const std::string& json) {
    return fmt::format("<script type=\"application/json\" id=\"{}\">{}</script>\n", id, json);
}

Result<std::string> model_pictures(std::span<const ReportModel> models) {
    Json pictures = Json::array();
    for (const ReportModel& model : models) {
        std::string text;
        if (model.picture.width() > 0) {
            YL_TRY(const auto bytes, encode_picture("webp", model.picture.view()));
            append_base64(text, bytes);
        }
        pictures.push_back(std::move(text));
    }
    return text_of(pictures);
}

std::string whole_template() {
    std::string text;
    for (const std::string_view piece : page_pieces)
        text += piece;
    return text;
}

/// What the page leaves out, whose other parts take `besides` bytes.
std::vector<std::size_t> levels_left_out(const ReportContent& content, std::uint64_t besides) {
    return levels_left_out(content.textures,
                           content.max_bytes > besides ? content.max_bytes - besides : 0);
}

}  // namespace

Result<std::string> report_page(const ReportContent& content) try {
    constexpr std::string_view place = "@data@";
    const std::string page_template = whole_template();
    const std::size_t at = page_template.find(place);
    YL_TRY(const std::string pictures, model_pictures(content.models));
    const std::vector<std::size_t> left_out =
        levels_left_out(content, page_template.size() + pictures.size());
    YL_TRY(const std::string data, document(content, left_out));
    std::string page = page_template.substr(0, at);
    page += data_element("report", data);
    page += data_element("shaders", text_of(Json(shaders)));
    page += data_element("model-pictures", pictures);
    for (std::size_t i = 0; i < content.textures.size(); ++i)
        page += data_element(fmt::format("texels-{}", i),
                             ReportAccess::texels(content.textures[i], left_out[i]));
    page += page_template.substr(at + place.size());
    return page;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::string> report_json(const ReportContent& content) try {
    YL_TRY(const std::string pictures, model_pictures(content.models));
    return document(content, levels_left_out(content, whole_template().size() + pictures.size()));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
