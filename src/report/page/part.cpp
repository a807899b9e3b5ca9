#include <yl/report.hpp>

#include <array>
#include <cmath>

#include <yl/block.hpp>
#include <yl/measure.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "report/page/access.hpp"
#include "report/page/drawings.hpp"
#include "report/page/histogram.hpp"
#include "report/page/texels.hpp"

namespace yl {

using namespace report;

namespace {

std::string_view name_of(AlphaMode mode) {
    constexpr std::array names = {"straight", "premultiplied", "data", "opaque"};
    return names[static_cast<std::size_t>(mode)];
}

Json shape_json(const Texture& texture) {
    const TextureShape& shape = texture.shape();
    const FormatInfo& format = info(shape.format);
    std::uint64_t bytes = 0;
    Json levels = Json::array();
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        bytes += texture.level(level).size();
        levels.push_back({{"width", shape.width_at(level)},
                          {"height", shape.height_at(level)},
                          {"depth", shape.depth_at(level)},
                          {"bytes", texture.level(level).size()}});
    }
    return {{"format", format.name},
            {"width", shape.width},
            {"height", shape.height},
            {"depth", shape.depth},
            {"layers", shape.layers},
            {"faces", shape.faces},
            {"is_block", format.is_block()},
            {"is_signed", format.kind == NumericKind::snorm},
            {"decodes_srgb", format.transfer == Transfer::srgb},
            {"alpha", name_of(texture.metadata.alpha)},
            {"gl_format", format.gl.internal_format},
            {"gpu_bytes", bytes},
            {"levels", levels}};
}

Json findings_json(const ReportTexture& given) {
    Json list = Json::array();
    for (std::size_t i = 0; i < given.lint.found.size(); ++i) {
        const Evidence& found = given.lint.found[i];
        Json one = finding_json(found.finding);
        one["place"] = found.place;
        if (const FindingInfo* kind = find_finding(found.finding.code))
            one["seen"] = kind->seen;
        if (found.limit != 0) {
            one["measured"] = found.measured;
            one["limit"] = found.limit;
        }
        if (i < given.commands.size() && !given.commands[i].empty())
            one["command"] = given.commands[i];
        list.push_back(std::move(one));
    }
    return list;
}

/// Of all layers and faces of a level together.
Result<Json> level_difference(const Texture& source, const Texture& plain, Role role,
                              std::uint32_t level) {
    const TextureShape& shape = plain.shape();
    double square_error = 0, largest = 0, log_square_error = 0;
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face) {
            YL_TRY(const ImageDifference difference,
                   measure_difference(source.image(level, layer, face),
                                      plain.image(level, layer, face),
                                      {.role = role,
                                       .transfer = plain.metadata.transfer,
                                       .alpha = plain.metadata.alpha}));
            square_error += std::pow(10.0, -difference.psnr / 10);
            log_square_error += std::pow(difference.log_error.value_or(0), 2);
            largest = std::max(largest, difference.max);
        }
    const double surfaces = double{1} * shape.layers * shape.faces;
    Json json = {{"level", level}, {"max", largest}};
    if (info(shape.format).is_float())
        json["stops"] = std::sqrt(log_square_error / surfaces);
    else  // nothing where nothing differs
        json["psnr"] = square_error > 0 ? Json(-10 * std::log10(square_error / surfaces)) : Json();
    return json;
}

Result<Json> comparison_json(const ReportTexture& given, const Texture& plain) {
    Json levels = Json::array();
    for (std::uint32_t level = 0; level < plain.shape().levels; ++level) {
        YL_TRY(Json one, level_difference(*given.source, plain, given.lint.role, level));
        levels.push_back(std::move(one));
    }
    return Json{{"source", given.source_name}, {"levels", std::move(levels)}};
}

bool can_be_compared(const TextureShape& source, const TextureShape& texture) {
    return !info(source.format).is_block() && have_equal_sizes(source, texture) &&
           source.levels == texture.levels;
}

Status check(const ReportTexture& given) {
    if (given.texture == nullptr || given.texture->shape().levels == 0)
        return fail_at({ErrorKind::usage, "there is no texture"}, "ReportTexture::texture");
    if (given.source != nullptr && !can_be_compared(given.source->shape(), given.texture->shape()))
        return fail_at({ErrorKind::usage,
                        "it has to be as large as the texture, with as many levels, and not "
                        "compressed"},
                       "ReportTexture::source");
    return {};
}

/// What scenes and drawings show of arrays and volumes.
Result<Texture> first_part(const Texture& texture) {
    if (texture.shape().depth > 1)
        return single_slice(texture, 0);
    return texture.shape().layers > 1 ? single_layer(texture, 0) : texture.clone();
}

Result<ReportPart> make(const ReportTexture& given, const ReportOptions& options) {
    const Texture& texture = *given.texture;
    Texture decoded;
    const bool is_block = info(texture.shape().format).is_block();
    if (is_block) {
        YL_TRY(decoded, decode_texture(texture));
    }
    const Texture& plain = is_block ? decoded : texture;
    YL_TRY(const Texture first, first_part(plain));
    const ChannelUse use = analyse_channels(plain.image(0), plain.metadata.swizzle);
    const bool has_alpha = !use.is_opaque || plain.shape().layers > 1 || plain.shape().depth > 1;
    const Sampler sampler = given.sampler.value_or(texture.metadata.sampler.value_or(Sampler{}));

    Json facts = {{"name", given.name},
                  {"file", given.file},
                  {"file_format", given.file_format},
                  {"file_bytes", given.file_bytes},
                  {"is_picture", given.is_picture},
                  {"role", info(given.lint.role).name}};
    facts.update(shape_json(texture));
    facts["channels"] = use.useful_channels();
    facts["has_alpha"] = has_alpha;
    facts["sampler"] = sampler_json(sampler);
    facts["findings"] = findings_json(given);
    facts["histogram"] = histogram_of(plain, has_alpha);
    if (given.source != nullptr) {
        YL_TRY(facts["comparison"], comparison_json(given, plain));
    }
    if (given.build)
        facts["build"] = {{"inputs", given.build->inputs},
                          {"source", given.build->source},
                          {"seconds", given.build->seconds},
                          {"state", given.build->state}};
    facts["scenes"] = scenes_of(first);
    YL_TRY(const Json drawings, drawings_of(first, sampler));
    YL_TRY(const std::string small, thumbnail(plain));
    facts["thumbnail"] = small;
    const std::uint64_t drawn_bytes = text_of(drawings).size();
    YL_TRY(PackedTexels texels,
           pack_texels({plain, texture, given.source, has_alpha},
                       options.max_bytes > drawn_bytes ? options.max_bytes - drawn_bytes : 0));
    return ReportAccess::part(facts, drawings, std::move(texels));
}

}  // namespace

ReportPart ReportAccess::part(const Json& facts, const Json& drawings, PackedTexels texels) {
    ReportPart part;
    part.facts_ = text_of(facts);
    part.drawings_ = text_of(drawings);
    part.levels_ = std::move(texels.levels);
    part.first_level_ = texels.first_level;
    part.is_light_ = texels.is_light;
    part.is_scaled_ = texels.is_scaled;
    return part;
}

std::string ReportAccess::json(const ReportPart& part, std::size_t levels_left_out) {
    const Json shown = {{"first_level", part.first_level_ + levels_left_out},
                        {"is_light", part.is_light_},
                        {"is_scaled", part.is_scaled_}};
    return part.facts_.substr(0, part.facts_.size() - 1) + ",\"shown\":" + text_of(shown) + "}";
}

std::string ReportAccess::texels(const ReportPart& part, std::size_t levels_left_out) {
    std::string text = "{\"levels\":[";
    for (std::size_t i = levels_left_out; i < part.levels_.size(); ++i)
        text += (i > levels_left_out ? "," : "") + part.levels_[i];
    return text + "],\"drawings\":" + part.drawings_ + "}";
}

std::string ReportPart::json() const {
    return ReportAccess::json(*this, 0);
}

Result<ReportPart> report_part(const ReportTexture& texture, const ReportOptions& options) try {
    YL_CHECK(check(texture));
    return make(texture, options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
