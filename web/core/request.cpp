#include "request.hpp"

#include <yl/sampler_rules.hpp>

namespace yl::web {
namespace {

constexpr const char* alpha_names[] = {"straight", "premultiplied", "data", "opaque"};

}  // namespace

Result<std::span<std::byte>> memory(const Json& request, const char* member) {
    if (!has(request, member) || !request[member].is_array() || request[member].size() != 2 ||
        !request[member][0].is_number() || !request[member][1].is_number())
        return wrong(member, "[address, length]");
    const auto address = static_cast<std::uintptr_t>(request[member][0].get<double>());
    const auto length = static_cast<std::size_t>(request[member][1].get<double>());
    return std::span(reinterpret_cast<std::byte*>(address), length);
}

Json place_of(std::span<const std::byte> bytes) {
    return {reinterpret_cast<std::uintptr_t>(bytes.data()), bytes.size()};
}

Result<std::optional<Role>> role_of(const Json& request) {
    if (!has(request, "role"))
        return std::optional<Role>();
    YL_TRY(const std::string name, text(request, "role"));
    const auto role = find_role(name);
    if (!role)
        return wrong("role", "color, normal, mask, data, hdr or height");
    return std::optional(*role);
}

Result<std::optional<Transfer>> transfer_of(const Json& request) {
    if (!has(request, "transfer"))
        return std::optional<Transfer>();
    YL_TRY(const std::string name, text(request, "transfer"));
    if (name != "srgb" && name != "linear")
        return wrong("transfer", "srgb or linear");
    return std::optional(name == "srgb" ? Transfer::srgb : Transfer::linear);
}

Result<std::optional<Format>> format_of(const Json& request, const char* member) {
    if (!has(request, member))
        return std::optional<Format>();
    YL_TRY(const std::string name, text(request, member));
    const FormatInfo* found = find_format(name);
    if (found == nullptr)
        return wrong(member, fmt::format("the name of a format, and '{}' is none", name));
    return std::optional(found->format);
}

Result<std::optional<Sampler>> sampler_of(const Json& request) {
    if (!has(request, "sampler"))
        return std::optional<Sampler>();
    YL_TRY(const std::string form, text(request, "sampler"));
    YL_TRY(const Sampler sampler, parse_sampler(form));
    return std::optional(sampler);
}

Json to_json(const Findings& findings) {
    Json list = Json::array();
    for (const Finding& finding : findings)
        list.push_back({{"code", std::string_view(finding.code)},
                        {"problem", finding.problem},
                        {"remedy", finding.remedy},
                        {"level", name(finding.level)}});
    return list;
}

Json level_bytes(const TextureShape& shape) {
    Json bytes = Json::array();
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        bytes.push_back(shape.level_bytes(level));
    return bytes;
}

Json to_json(const TextureShape& shape) {
    return {{"format", info(shape.format).name},
            {"width", shape.width},
            {"height", shape.height},
            {"depth", shape.depth},
            {"levels", shape.levels},
            {"layers", shape.layers},
            {"faces", shape.faces},
            {"is_array", shape.is_array || shape.layers > 1},
            {"dimensions", shape.dimensions()},
            {"bytes", shape.total_bytes()},
            {"level_bytes", level_bytes(shape)}};
}

Json to_json(const TextureMetadata& metadata) {
    Json json = {{"transfer", metadata.transfer == Transfer::srgb ? "srgb" : "linear"},
                 {"alpha", alpha_names[static_cast<std::size_t>(metadata.alpha)]},
                 {"origin", metadata.origin == Origin::top ? "top" : "bottom"},
                 {"swizzle", swizzle_text(metadata.swizzle)},
                 {"key_values", metadata.key_values}};
    if (metadata.sampler)
        json["sampler"] = sampler_text(*metadata.sampler);
    return json;
}

Json to_json(const TextureFileInfo& info) {
    return {{"file_format", info.file_format},
            {"file_bytes", info.file_bytes},
            {"supercompression", name(info.supercompression)},
            {"remarks", info.remarks}};
}

Json to_json(const Error& error) {
    Json json = {{"kind", name(error.kind)}, {"message", error.message}, {"place", error.place}};
    if (error.offset)
        json["offset"] = *error.offset;
    return json;
}

Json to_json(const Sampler& sampler) {
    const GlSampler gl = gl_sampler(sampler);
    const WebGpuSampler gpu = webgpu_sampler(sampler);
    Json webgpu = {{"magFilter", gpu.mag_filter},         {"minFilter", gpu.min_filter},
                   {"mipmapFilter", gpu.mipmap_filter},   {"addressModeU", gpu.address_mode[0]},
                   {"addressModeV", gpu.address_mode[1]}, {"addressModeW", gpu.address_mode[2]},
                   {"lodMinClamp", gpu.lod_min_clamp},    {"lodMaxClamp", gpu.lod_max_clamp},
                   {"maxAnisotropy", gpu.max_anisotropy}};
    if (!gpu.compare.empty())
        webgpu["compare"] = gpu.compare;
    return {{"text", sampler_text(sampler)},
            {"gl",
             {{"mag_filter", gl.mag_filter},
              {"min_filter", gl.min_filter},
              {"wrap", gl.wrap},
              {"compare_mode", gl.compare_mode},
              {"compare_func", gl.compare_func},
              {"min_lod", sampler.min_level},
              {"max_lod", sampler.max_level},
              {"max_anisotropy", sampler.max_anisotropy}}},
            {"webgpu", std::move(webgpu)}};
}

Result<Json> kept(Objects& objects, Image image) {
    Json json = {{"width", image.width()}, {"height", image.height()}};
    const std::uint32_t number_of_image = objects.keep(std::move(image));
    YL_TRY(const Image* held, objects.find<Image>(number_of_image));
    const ConstImageView pixels = held->view();
    json["object"] = number_of_image;
    json["memory"] = place_of({pixels.data, pixels.row_stride * pixels.height});
    return json;
}

Json kept(Objects& objects, Texture texture) {
    Json json = {{"shape", to_json(texture.shape())}, {"metadata", to_json(texture.metadata)}};
    json["texture"] = objects.keep(std::move(texture));
    return json;
}

}  // namespace yl::web
