#include "call.hpp"

#include "request.hpp"

namespace yl::web {
namespace {

Status check_members(const Json& request, const NamedCall& known) {
    const std::string members = fmt::format(" call {} ", known.members);
    for (const auto& [member, value] : request.items())
        if (members.find(" " + member + " ") == std::string::npos)
            return fail_at({ErrorKind::usage, fmt::format("there is no option '{}'; there are {}",
                                                          member, known.members)},
                           member);
    return {};
}

Result<Json> carry_out(Objects& objects, std::string_view request) {
    // Json::parse would bring a second builder with it, for callbacks.
    Json parsed;
    nlohmann::detail::json_sax_dom_parser<Json> builder(parsed, false);
    if (!Json::sax_parse(request, &builder))
        return fail(ErrorKind::usage, "the request is no JSON");
    if (!parsed.is_object())
        return fail(ErrorKind::usage, "the request is no object of JSON");
    YL_TRY(const std::string name, text(parsed, "call"));
    for (const auto& calls : all_calls())
        for (const NamedCall& known : calls)
            if (name == known.name) {
                YL_CHECK(check_members(parsed, known));
                return known.call(objects, parsed);
            }
    return fail(ErrorKind::unsupported,
                fmt::format("this module has no '{}': load the one that bakes", name));
}

}  // namespace

std::string answer(Objects& objects, std::string_view request) {
    const Result<Json> result = carry_out(objects, request);
    const Json json = result ? *result : Json{{"error", to_json(result.error())}};
    // Names of files may hold what is no UTF-8.
    return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

}  // namespace yl::web
