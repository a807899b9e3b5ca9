// What a module answers: calls by name, with JSON for what is small and memory for what is large.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>
#include <span>
#include <string>
#include <variant>
#include <vector>
#include <yl/device_profile.hpp>
#include <yl/picture.hpp>
#include <yl/status_macros.hpp>
#include <yl/texture_file.hpp>
#include <yl/upload.hpp>

namespace yl::model {
struct Model;
}

namespace yl::web {

using Json = nlohmann::json;

class PartialFile;

/// A texture file of which ranges have arrived.
struct StreamedFile {
    std::shared_ptr<PartialFile> file = {};
    std::optional<TextureStream> stream = {};
};

/// A texture on its way to a device.
struct Upload {
    PreparedUpload prepared = {};
    std::vector<std::byte> staging = {};
};

/// What calls make and name by numbers.
using Object = std::variant<Texture, Picture, DeviceProfile, StreamedFile, Upload,
                            std::vector<std::byte>, Image, std::shared_ptr<model::Model>>;

class Objects {
 public:
    /// The number of what is kept from now on.
    [[nodiscard]] std::uint32_t keep(Object object) {
        objects_.emplace(++last_, std::make_unique<Object>(std::move(object)));
        return last_;
    }
    void drop(std::uint32_t number) { objects_.erase(number); }
    [[nodiscard]] std::size_t count() const { return objects_.size(); }

    template <class Kind>
    [[nodiscard]] Result<Kind*> find(std::uint32_t number) {
        const auto found = objects_.find(number);
        Kind* object = found != objects_.end() ? std::get_if<Kind>(found->second.get()) : nullptr;
        if (object == nullptr)
            return fail(ErrorKind::usage,
                        "there is no such object: it was freed, or is of another kind");
        return object;
    }

 private:
    std::map<std::uint32_t, std::unique_ptr<Object>> objects_ = {};
    std::uint32_t last_ = 0;
};

/// Answers a request, or fails.
using Call = Result<Json> (*)(Objects& objects, const Json& request);

struct NamedCall {
    const char* name;
    Call call;
    /// What its requests may have, between spaces: anything else is refused.
    std::string_view members;
};

[[nodiscard]] std::span<const NamedCall> format_calls();
[[nodiscard]] std::span<const NamedCall> sampler_calls();
[[nodiscard]] std::span<const NamedCall> texture_calls();
[[nodiscard]] std::span<const NamedCall> stream_calls();
[[nodiscard]] std::span<const NamedCall> upload_calls();
[[nodiscard]] std::span<const NamedCall> file_calls();
[[nodiscard]] std::span<const NamedCall> picture_calls();
[[nodiscard]] std::span<const NamedCall> bake_calls();
[[nodiscard]] std::span<const NamedCall> scene_calls();
[[nodiscard]] std::span<const NamedCall> model_calls();

/// What the module has; each defines its own.
[[nodiscard]] std::span<const std::span<const NamedCall>> all_calls();

/// The answer to a request {"call": name, ...} as text: what the call gives, or {"error": {...}}.
[[nodiscard]] std::string answer(Objects& objects, std::string_view request);

}  // namespace yl::web
