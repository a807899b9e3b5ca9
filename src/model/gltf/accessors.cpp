#include "model/gltf/accessors.hpp"

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>

namespace yl::model {
namespace {

/// Component types by their OpenGL numbers.
enum class Component : std::uint32_t {
    int8 = 5120,
    uint8 = 5121,
    int16 = 5122,
    uint16 = 5123,
    uint32 = 5125,
    float32 = 5126,
};

std::size_t bytes_of_component(Component type) {
    switch (type) {
        case Component::int8:
        case Component::uint8:
            return 1;
        case Component::int16:
        case Component::uint16:
            return 2;
        case Component::uint32:
        case Component::float32:
            return 4;
    }
    return 0;
}

/// Of zeros that an accessor may stand for.
constexpr std::uint64_t most_without_bytes = 1U << 22;

float signed_fraction(float value, float max, bool normalised) {
    return normalised ? std::max(value / max, -1.0F) : value;
}

float component_at(const std::byte* bytes, Component type, bool normalised) {
    switch (type) {
        case Component::int8:
            return signed_fraction(static_cast<std::int8_t>(load<std::uint8_t>(bytes)), 127,
                                   normalised);
        case Component::uint8:
            return static_cast<float>(load<std::uint8_t>(bytes)) / (normalised ? 255.0F : 1.0F);
        case Component::int16:
            return signed_fraction(static_cast<std::int16_t>(load<std::uint16_t>(bytes)), 32767,
                                   normalised);
        case Component::uint16:
            return static_cast<float>(load<std::uint16_t>(bytes)) / (normalised ? 65535.0F : 1.0F);
        case Component::uint32:
            return static_cast<float>(load<std::uint32_t>(bytes));
        case Component::float32:
            return std::bit_cast<float>(load<std::uint32_t>(bytes));
    }
    return 0;
}

bool is_index_type(Component type) {
    return type == Component::uint8 || type == Component::uint16 || type == Component::uint32;
}

std::uint32_t index_at(const std::byte* bytes, Component type) {
    return type == Component::uint8    ? load<std::uint8_t>(bytes)
           : type == Component::uint16 ? load<std::uint16_t>(bytes)
                                       : load<std::uint32_t>(bytes);
}

std::size_t components_of(const std::string& type) {
    constexpr std::pair<std::string_view, std::size_t> types[] = {
        {"SCALAR", 1}, {"VEC2", 2}, {"VEC3", 3}, {"VEC4", 4},
        {"MAT2", 4},   {"MAT3", 9}, {"MAT4", 16}};
    for (const auto& [name, count] : types)
        if (type == name)
            return count;
    return 0;
}

}  // namespace

struct Accessors::Layout {
    Component type = Component::float32;
    std::size_t components = 1;
    std::uint64_t count = 0;
    bool is_normalised = false;

    [[nodiscard]] std::uint64_t element_bytes() const {
        return components * bytes_of_component(type);
    }

    /// Elements that lie `stride` bytes apart become floats that lie `step` bytes apart.
    void convert(const std::byte* from, std::uint64_t stride, std::uint64_t elements,
                 std::byte* target, std::size_t step) const {
        const std::size_t size = bytes_of_component(type);
        const auto convert_all = [&](const auto& value_at) {
            for (std::uint64_t i = 0; i < elements; ++i)
                for (std::size_t c = 0; c < components; ++c) {
                    const float value = value_at(from + i * stride + c * size);
                    std::memcpy(target + i * step + c * sizeof value, &value, sizeof value);
                }
        };
        if (type == Component::float32)  // nearly always
            convert_all(
                [](const std::byte* at) { return component_at(at, Component::float32, false); });
        else
            convert_all([&](const std::byte* at) { return component_at(at, type, is_normalised); });
    }
};

/// Where an accessor's elements lie; nowhere, if they are all zeros.
struct Accessors::Values {
    ByteSpan bytes = {};
    std::uint64_t stride = 0;
};

Result<Accessors::Layout> Accessors::layout_of(std::size_t index) const {
    const Json& entry = list_of(model_, "accessors")[index];
    YL_TRY(const auto type, whole_of(entry, "componentType"));
    YL_TRY(const auto count, whole_of(entry, "count"));
    Layout layout;
    layout.components = components_of(text_of(entry, "type"));
    layout.type = static_cast<Component>(type.value_or(0));
    layout.count = count.value_or(0);
    layout.is_normalised = member(entry, "normalized") == true;
    if (type.value_or(0) > 0xFFFF || bytes_of_component(layout.type) == 0 || layout.components == 0)
        return fail(ErrorKind::malformed,
                    fmt::format("accessor {} has a type that glTF has not", index));
    if (layout.count > limits_.max_bytes / (sizeof(float) * layout.components))
        return fail(ErrorKind::limit, fmt::format("accessor {} has {} elements: more than {} bytes",
                                                  index, layout.count, limits_.max_bytes));
    return layout;
}

/// Files may keep plain bytes beside compressed ones; those that do not have a buffer of no bytes.
bool Accessors::is_only_packed(const Json& view) const {
    constexpr const char* extension = "extensions/EXT_meshopt_compression";
    if (!member_at(view, extension).is_object())
        return false;
    const auto buffer = index_of(view, "buffer", model_, "buffers");
    if (!buffer || !*buffer)
        return true;
    const Json& entry = list_of(model_, "buffers")[**buffer];
    return member(member_at(entry, extension), "fallback") == true && text_of(entry, "uri").empty();
}

Result<ByteSpan> Accessors::bytes_of(const Json& entry, std::uint64_t count, std::uint64_t element,
                                     std::uint64_t stride, const std::string& what) const {
    YL_TRY(const auto view, index_of(entry, "bufferView", model_, "bufferViews"));
    YL_TRY(const auto offset, whole_of(entry, "byteOffset"));
    if (!view)
        return fail(ErrorKind::malformed, fmt::format("{} has no buffer view", what));
    if (is_only_packed(list_of(model_, "bufferViews")[*view]))
        return fail(ErrorKind::unsupported,
                    fmt::format("{} is compressed by EXT_meshopt_compression", what));
    YL_TRY(const ByteSpan bytes, buffers_.view(*view));
    const std::uint64_t begin = offset.value_or(0);
    const bool fits = count == 0 || (begin <= bytes.size() && element <= bytes.size() - begin &&
                                     (count - 1) <= (bytes.size() - begin - element) / stride);
    if (!fits)
        return fail(ErrorKind::malformed,
                    fmt::format("{} takes {} elements of {} bytes at {}, and its view has {}", what,
                                count, element, begin, bytes.size()));
    return bytes.subspan(std::min<std::uint64_t>(begin, bytes.size()));
}

Result<Accessors::Values> Accessors::values_of(const Layout& layout, std::size_t index) const {
    const Json& entry = list_of(model_, "accessors")[index];
    YL_TRY(const auto view, index_of(entry, "bufferView", model_, "bufferViews"));
    if (!view) {  // zeros, for a sparse one to fill in
        if (layout.count > most_without_bytes)
            return fail(ErrorKind::limit, fmt::format("accessor {} has {} elements and no bytes",
                                                      index, layout.count));
        return Values{};
    }
    YL_TRY(const auto declared, whole_of(list_of(model_, "bufferViews")[*view], "byteStride"));
    const std::uint64_t stride = declared.value_or(layout.element_bytes());
    if (stride < layout.element_bytes() || stride > 252)
        return fail(ErrorKind::malformed,
                    fmt::format("accessor {}: a stride of {} bytes for elements of {}", index,
                                stride, layout.element_bytes()));
    YL_TRY(const ByteSpan bytes, bytes_of(entry, layout.count, layout.element_bytes(), stride,
                                          fmt::format("accessor {}", index)));
    return Values{bytes, stride};
}

Status Accessors::read_sparse(const Layout& layout, const Json& sparse, std::byte* target,
                              std::size_t step) const {
    YL_TRY(const auto count, whole_of(sparse, "count"));
    const Json& places = member(sparse, "indices");
    YL_TRY(const auto type, whole_of(places, "componentType"));
    const auto place_type = static_cast<Component>(type.value_or(0) & 0xFFFF);
    const std::size_t place_bytes = bytes_of_component(place_type);
    if (!count || *count > layout.count || !is_index_type(place_type))
        return fail(ErrorKind::malformed, "a sparse accessor has no sound count or type");
    YL_TRY(const ByteSpan at, bytes_of(places, *count, place_bytes, place_bytes, "a sparse index"));
    YL_TRY(const ByteSpan values, bytes_of(member(sparse, "values"), *count, layout.element_bytes(),
                                           layout.element_bytes(), "a sparse value"));
    for (std::size_t i = 0; i < *count; ++i) {
        const std::uint32_t place = index_at(at.data() + i * place_bytes, place_type);
        if (place >= layout.count)
            return fail(ErrorKind::malformed,
                        fmt::format("a sparse index is {}, of {}", place, layout.count));
        layout.convert(values.data() + i * layout.element_bytes(), 0, 1, target + place * step, 0);
    }
    return {};
}

Result<ElementKind> Accessors::kind(std::size_t index) const {
    YL_TRY(const Layout layout, layout_of(index));
    YL_CHECK(values_of(layout, index));
    return ElementKind{static_cast<std::size_t>(layout.count), layout.components};
}

Status Accessors::read_floats(std::size_t index, std::byte* target, std::size_t step) const {
    YL_TRY(const Layout layout, layout_of(index));
    YL_TRY(const Values values, values_of(layout, index));
    if (values.stride > 0)
        layout.convert(values.bytes.data(), values.stride, layout.count, target, step);
    else
        for (std::uint64_t i = 0; i < layout.count; ++i)
            std::memset(target + i * step, 0, layout.components * sizeof(float));
    const Json& sparse = member(list_of(model_, "accessors")[index], "sparse");
    return sparse.is_object() ? read_sparse(layout, sparse, target, step) : Status();
}

Result<Accessors::Values> Accessors::indices_at(std::size_t index) const {
    YL_TRY(const Layout layout, layout_of(index));
    if (!is_index_type(layout.type) || layout.components != 1)
        return fail(ErrorKind::malformed,
                    fmt::format("accessor {} has no type that indices can have", index));
    const std::size_t stride = bytes_of_component(layout.type);
    YL_TRY(const ByteSpan bytes, bytes_of(list_of(model_, "accessors")[index], layout.count, stride,
                                          stride, fmt::format("accessor {}", index)));
    return Values{bytes.first(layout.count * stride), stride};
}

Result<std::size_t> Accessors::index_count(std::size_t index) const {
    YL_TRY(const Values values, indices_at(index));
    return values.bytes.size() / values.stride;
}

Result<std::vector<std::uint32_t>> Accessors::indices(std::size_t index) const {
    YL_TRY(const Layout layout, layout_of(index));
    YL_TRY(const Values values, indices_at(index));
    std::vector<std::uint32_t> indices(layout.count);
    for (std::size_t i = 0; i < indices.size(); ++i)
        indices[i] = index_at(values.bytes.data() + i * values.stride, layout.type);
    return indices;
}

}  // namespace yl::model
