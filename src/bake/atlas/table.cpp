// The table of an atlas as JSON, and coordinates of its parts.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include <yl/atlas.hpp>
#include <yl/status_macros.hpp>
#include "base/files.hpp"
#include "base/out_of_memory.hpp"

namespace yl {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* part_source =
#include "part.glsl.inc"
    ;

Json json_of(const Box& box) {
    return {box.x, box.y, box.width, box.height};
}

Json json_of(const AtlasTable& table, const AtlasPart& part) {
    const auto width = static_cast<double>(table.width), height = static_cast<double>(table.height);
    const Box& box = part.box;
    return {{"name", part.name},
            {"layer", part.layer},
            {"box", json_of(box)},
            {"cell", json_of(part.cell)},
            {"turned", part.is_turned},
            {"repeats", part.repeats},
            {"uv",
             {box.x / width, box.y / height, (box.x + box.width) / width,
              (box.y + box.height) / height}},
            {"picture", part.picture_size},
            {"trimmed", part.trimmed},
            {"pivot", part.pivot}};
}

/// An entry of the text, with the way to it for errors.
class Entry {
 public:
    Entry(const Json& json, std::string place) : json_(&json), place_(std::move(place)) {}

    [[nodiscard]] auto wrong(std::string_view expected) const {
        return fail_at({ErrorKind::malformed, fmt::format("it is not {}", expected)}, place_);
    }
    [[nodiscard]] Result<Entry> member(const char* key) const {
        const std::string place = place_.empty() ? key : fmt::format("{}.{}", place_, key);
        if (!json_->is_object() || !json_->contains(key))
            return fail_at({ErrorKind::malformed, "it is not there"}, place);
        return Entry(json_->at(key), place);
    }
    [[nodiscard]] bool has(const char* key) const {
        return json_->is_object() && json_->contains(key);
    }
    [[nodiscard]] Result<std::vector<Entry>> entries() const {
        if (!json_->is_array())
            return wrong("a list");
        std::vector<Entry> result;
        for (std::size_t i = 0; i < json_->size(); ++i)
            result.emplace_back(json_->at(i), fmt::format("{}[{}]", place_, i));
        return result;
    }
    [[nodiscard]] Status read(std::string& value) const {
        if (!json_->is_string() || json_->get_ref<const std::string&>().empty())
            return wrong("a name");
        value = json_->get<std::string>();
        return {};
    }
    [[nodiscard]] Status read(bool& value) const {
        if (!json_->is_boolean())
            return wrong("true or false");
        value = json_->get<bool>();
        return {};
    }
    [[nodiscard]] Status read(std::uint32_t& value) const {
        constexpr std::uint64_t most = 1U << 24U;
        if (!json_->is_number_unsigned() || json_->get<std::uint64_t>() > most)
            return wrong("a whole number from 0 to 16,777,216");
        value = json_->get<std::uint32_t>();
        return {};
    }
    template <class Float>
    requires std::is_floating_point_v<Float>
    [[nodiscard]] Status read(Float& value) const {
        if (!json_->is_number() || !std::isfinite(json_->get<Float>()))
            return wrong("a finite number");
        value = json_->get<Float>();
        return {};
    }
    template <class T, std::size_t count>
    [[nodiscard]] Status read(std::array<T, count>& values) const {
        YL_TRY(const auto list, entries());
        if (list.size() != count)
            return wrong(fmt::format("a list of {} numbers", count));
        for (std::size_t i = 0; i < count; ++i)
            YL_CHECK(list[i].read(values[i]));
        return {};
    }
    [[nodiscard]] Status read(Box& box) const {
        std::array<std::uint32_t, 4> numbers = {};
        YL_CHECK(read(numbers));
        box = {numbers[0], numbers[1], numbers[2], numbers[3]};
        return {};
    }
    template <class T>
    [[nodiscard]] Status read(std::vector<T>& values) const {
        YL_TRY(const auto list, entries());
        for (const Entry& entry : list)
            YL_CHECK(entry.read(values.emplace_back()));
        return {};
    }
    template <class T>
    [[nodiscard]] Status read(const char* key, T& value) const {
        YL_TRY(const Entry entry, member(key));
        return entry.read(value);
    }

 private:
    const Json* json_;
    std::string place_;
};

bool is_within(const Box& inner, const Box& outer) {
    return inner.width > 0 && inner.height > 0 && inner.x >= outer.x && inner.y >= outer.y &&
           inner.x + inner.width <= outer.x + outer.width &&
           inner.y + inner.height <= outer.y + outer.height;
}

Result<AtlasPart> part_of(const AtlasTable& table, const Entry& entry) {
    AtlasPart part;
    YL_CHECK(entry.read("name", part.name));
    YL_CHECK(entry.read("layer", part.layer));
    YL_CHECK(entry.read("box", part.box));
    YL_CHECK(entry.read("cell", part.cell));
    YL_CHECK(entry.read("turned", part.is_turned));
    YL_CHECK(entry.read("repeats", part.repeats));
    YL_CHECK(entry.read("picture", part.picture_size));
    YL_CHECK(entry.read("trimmed", part.trimmed));
    YL_CHECK(entry.read("pivot", part.pivot));
    const std::uint32_t wide = part.is_turned ? part.box.height : part.box.width;
    const std::uint32_t high = part.is_turned ? part.box.width : part.box.height;
    if (!is_within(part.cell, {0, 0, table.width, table.height}) ||
        !is_within(part.box, part.cell) || part.layer >= table.layers ||
        part.trimmed[0] + wide > part.picture_size[0] ||
        part.trimmed[1] + high > part.picture_size[1])
        return entry.wrong(
            "a part that lies on the atlas, with its box in its cell and its picture");
    if (table.find(part.name) != nullptr)
        return entry.wrong("the only part of its name");
    return part;
}

Result<AtlasTable> table_of(const Json& json) {
    const Entry entry(json, "");
    AtlasTable table;
    YL_CHECK(entry.read("width", table.width));
    YL_CHECK(entry.read("height", table.height));
    YL_CHECK(entry.read("layers", table.layers));
    YL_CHECK(entry.read("last_clean_level", table.last_clean_level));
    YL_TRY(const Entry parts, entry.member("parts"));
    YL_TRY(const auto part_entries, parts.entries());
    for (const Entry& part : part_entries) {
        YL_TRY(AtlasPart read, part_of(table, part));
        table.parts.push_back(std::move(read));
    }
    YL_TRY(const Entry books, entry.member("flipbooks"));
    YL_TRY(const auto book_entries, books.entries());
    for (const Entry& book : book_entries) {
        Flipbook& read = table.flipbooks.emplace_back();
        YL_CHECK(book.read("name", read.name));
        YL_CHECK(book.read("parts", read.parts));
        if (book.has("seconds"))
            YL_CHECK(book.read("seconds", read.seconds));
        for (const std::string& name : read.parts)
            if (table.find(name) == nullptr)
                return book.wrong("made of parts of this atlas");
    }
    return table;
}

/// Members of the outermost object, of which lists have a line for each entry.
std::string text_of(const Json& json) {
    const auto dumped = [](const Json& value) {
        return value.dump(-1, ' ', false, Json::error_handler_t::replace);
    };
    std::string text;
    for (const auto& [key, value] : json.items()) {
        text += fmt::format("{}  {}: ", text.empty() ? "{\n" : ",\n", dumped(Json(key)));
        if (!value.is_array()) {
            text += dumped(value);
            continue;
        }
        const char* separator = "[\n    ";
        for (const Json& entry : value) {
            text += separator + dumped(entry);
            separator = ",\n    ";
        }
        text += value.empty() ? "[]" : "\n  ]";
    }
    return text + "\n}\n";
}

}  // namespace

std::string atlas_table_text(const AtlasTable& table, std::string_view texture) {
    Json json = Json::object();  // one that is null becomes an object without a map if memory ends
    if (!texture.empty())
        json["texture"] = texture;
    json["width"] = table.width;
    json["height"] = table.height;
    json["layers"] = table.layers;
    json["last_clean_level"] = table.last_clean_level;
    json["parts"] = Json::array();
    for (const AtlasPart& part : table.parts)
        json["parts"].push_back(json_of(table, part));
    json["flipbooks"] = Json::array();
    for (const Flipbook& book : table.flipbooks) {
        Json entry = {{"name", book.name}, {"parts", book.parts}};
        if (!book.seconds.empty())
            entry["seconds"] = book.seconds;
        json["flipbooks"].push_back(std::move(entry));
    }
    return text_of(json);
}

Result<AtlasTable> parse_atlas_table(std::string_view text) try {
    const Json json = Json::parse(text, nullptr, false);
    if (json.is_discarded() || !json.is_object())
        return fail(ErrorKind::malformed, "it is not a JSON object");
    return table_of(json);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<AtlasTable> read_atlas_table(const std::filesystem::path& path,
                                    const std::shared_ptr<const Files>& files) try {
    constexpr std::uint64_t most = 64U << 20U;
    return parse_file(files, path, most,
                      [&](std::string_view text) { return parse_atlas_table(text); });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status write_atlas_table(const std::filesystem::path& path, const AtlasTable& table,
                         std::string_view texture) try {
    const std::string text = atlas_table_text(table, texture);
    if (const auto status = write_file(path, std::as_bytes(std::span(text))); !status)
        return fail_at(status.error(), path.string());
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

PartCoordinates part_coordinates(const AtlasTable& table, const AtlasPart& part) {
    const auto number = [](std::uint32_t n) { return static_cast<float>(n); };
    const float wide = number(part.picture_size[0]), high = number(part.picture_size[1]);
    const float across = number(table.width), down = number(table.height);
    const float left = number(part.trimmed[0]), top = number(part.trimmed[1]);
    const Box& box = part.box;
    PartCoordinates result;
    result.repeats = part.repeats;
    const auto texel = static_cast<float>(1U << std::min(table.last_clean_level, 31U));
    result.last_level_size = {across / texel, down / texel};
    if (part.is_turned)  // the picture's top is on the right
        result.atlas_from_picture = {0,
                                     -high / across,
                                     (number(box.x + box.width) + top) / across,
                                     wide / down,
                                     0,
                                     (number(box.y) - left) / down};
    else
        result.atlas_from_picture = {wide / across,
                                     0,
                                     (number(box.x) - left) / across,
                                     0,
                                     high / down,
                                     (number(box.y) - top) / down};
    const float columns = number(part.is_turned ? box.height : box.width);
    const float rows = number(part.is_turned ? box.width : box.height);
    result.box = {left / wide, top / high, (left + columns) / wide, (top + rows) / high};
    return result;
}

std::string_view part_shader() {
    return part_source;
}

}  // namespace yl
