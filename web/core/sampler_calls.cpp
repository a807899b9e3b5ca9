// Samplers: their text form, what a device makes of them, what will look wrong.
#include <yl/sampler_rules.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

/// The sampler of a text as the API's values; fitted to a device where one is named.
Result<Json> sampler(Objects& objects, const Json& request) {
    YL_TRY(const auto given, sampler_of(request));
    Sampler made = given.value_or(Sampler{});
    Findings findings;
    if (has(request, "profile")) {
        YL_TRY(const DeviceProfile* profile, object<DeviceProfile>(objects, request, "profile"));
        made = fit_sampler(made, *profile, findings);
    }
    Json json = to_json(made);
    json["findings"] = to_json(findings);
    return json;
}

/// Findings about a texture with a sampler on a device.
Result<Json> check(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const DeviceProfile* profile, object<DeviceProfile>(objects, request, "profile"));
    YL_TRY(const auto given, sampler_of(request));
    YL_TRY(const auto role, role_of(request));
    const Sampler asked = given.value_or(texture->metadata.sampler.value_or(Sampler{}));
    return Json{
        {"findings", to_json(check_on_device(
                         {.shape = texture->shape(), .sampler = asked, .role = role}, *profile))}};
}

constexpr NamedCall calls[] = {{"sampler", sampler, "sampler profile"},
                               {"check", check, "texture profile sampler role"}};

}  // namespace

std::span<const NamedCall> sampler_calls() {
    return calls;
}

}  // namespace yl::web
