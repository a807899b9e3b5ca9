// Every format in every kind of texture on every driver that is here, as a table: what goes up and
// comes back identical, or as what it is converted. Ends with 1 if anything is different.
//     upload_matrix > docs/upload-matrix.md
#include <fmt/format.h>

#include <map>
#include <random>
#include <yl/d3d12.hpp>
#include <yl/gl.hpp>
#include <yl/vulkan.hpp>
#include <yl/yl.hpp>

namespace {

struct Driver {
    std::string name;
    yl::TextureDevice* device;
};

std::vector<yl::TextureShape> shapes_of(yl::TextureKind kind, yl::Format format) {
    std::vector<yl::TextureShape> shapes;
    for (const auto& [width, height] : {std::pair{1U, 1U}, {5U, 3U}, {31U, 18U}}) {
        yl::TextureShape shape{.format = format, .width = width, .height = height};
        switch (kind) {
            case yl::TextureKind::flat:
                break;
            case yl::TextureKind::flat_array:
                shape.layers = 3;
                shape.is_array = true;
                break;
            case yl::TextureKind::cube:
            case yl::TextureKind::cube_array:
                shape.height = width;
                shape.faces = 6;
                shape.is_array = kind == yl::TextureKind::cube_array;
                shape.layers = shape.is_array ? 2 : 1;
                break;
            case yl::TextureKind::volume:
                shape.depth = 5;
                break;
            case yl::TextureKind::line:
                shape.height = 1;
                shape.is_1d = true;
                break;
        }
        shape.levels = yl::full_level_count(shape.width, shape.height, shape.depth);
        shapes.push_back(shape);
    }
    return shapes;
}

/// Bytes that mean finite numbers in every format: no float's exponent is full.
yl::Result<yl::Texture> some_texture(const yl::TextureShape& shape) {
    auto texture = yl::Texture::create(shape);
    if (!texture)
        return texture;
    std::mt19937 random(shape.width * 31 + static_cast<unsigned>(shape.format));
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::byte& byte : texture->level(level))
            byte = static_cast<std::byte>(1 + random() % 60);
    return texture;
}

/// "same", the format that it becomes, "-" where the device has no such textures, or "DIFFERENT".
std::string outcome(yl::TextureDevice& device, const yl::TextureShape& shape) {
    const auto texture = some_texture(shape);
    if (!texture)
        return "-";  // no such texture anywhere: lines of blocks
    const auto uploaded = yl::upload_texture(device, *texture);
    if (!uploaded)
        return "-";
    const auto back = uploaded->texture->read_back();
    yl::Texture converted;
    if (uploaded->plan.converts()) {
        auto result = yl::converted_for(uploaded->plan, *texture);
        if (!result)
            return "DIFFERENT";
        converted = std::move(*result);
    }
    const yl::Texture& sent = uploaded->plan.converts() ? converted : *texture;
    for (std::uint32_t level = 0; back && level < shape.levels; ++level)
        if (!std::ranges::equal(back->level(level), sent.level(level)))
            return "DIFFERENT";
    if (!back)
        return "DIFFERENT";
    const yl::TextureShape& there = uploaded->plan.shape;
    if (there.format != shape.format)
        return std::string(yl::info(there.format).name);
    return there.is_1d == shape.is_1d ? "same" : "same, as 2D";
}

std::string outcome(yl::TextureDevice& device, yl::TextureKind kind, yl::Format format) {
    std::string all;
    for (const yl::TextureShape& shape : shapes_of(kind, format)) {
        const std::string one = outcome(device, shape);
        if (one == "DIFFERENT")
            return one;
        if (all.empty() || one != "-")
            all = one;
    }
    return all;
}

bool print_driver(const Driver& driver) {
    constexpr yl::TextureKind kinds[] = {yl::TextureKind::line,       yl::TextureKind::flat,
                                         yl::TextureKind::flat_array, yl::TextureKind::volume,
                                         yl::TextureKind::cube,       yl::TextureKind::cube_array};
    bool all_same = true;
    fmt::print(
        "\n## {}\n\n{}\n\n| format | 1D | 2D | 2D array | 3D | cube | cube array |\n"
        "|---|---|---|---|---|---|---|\n",
        driver.name, driver.device->profile().api);
    for (const yl::FormatInfo& f : yl::all_formats()) {
        fmt::print("| {} ", f.name);
        for (const yl::TextureKind kind : kinds) {
            const std::string text = outcome(*driver.device, kind, f.format);
            all_same = all_same && text != "DIFFERENT";
            fmt::print("| {} ", text);
        }
        fmt::print("|\n");
    }
    return all_same;
}

}  // namespace

int main() {
    fmt::print(
        "# What goes up and comes back\n\n"
        "Made by `scripts/upload-matrix`. Each format is uploaded as textures of 1 x 1, 5 x 3 "
        "and 31 x 18 texels (3 layers, 5 slices, 2 cubes) with all levels and read back. "
        "*same*: every byte is what was sent. A format's name: the device lacks the format, "
        "and holds, byte for byte, what the plan said that it is converted to. -: the device "
        "has no such textures.\n");
    bool all_same = true;
    for (const bool embedded : {false, true}) {
        const auto context = yl::gl::HeadlessContext::create(
            embedded ? yl::gl::HeadlessOptions{.major = 3, .minor = 2, .embedded = true}
                     : yl::gl::HeadlessOptions{});
        auto device = context ? yl::gl::Device::open(context->loader())
                              : yl::Result<yl::gl::Device>(tl::unexpected(context.error()));
        if (!device) {
            fmt::print(stderr, "{}\n", device.error().sentence());
            return 1;
        }
        all_same = print_driver({embedded ? "OpenGL ES" : "OpenGL", &*device}) && all_same;
    }
    for (const char* name : {"llvmpipe", "SwiftShader"}) {
        const auto headless = yl::vulkan::HeadlessDevice::create({.device = name});
        auto device = headless ? yl::vulkan::Device::open(headless->handles())
                               : yl::Result<yl::vulkan::Device>(tl::unexpected(headless.error()));
        if (!device) {
            fmt::print(stderr, "{}\n", device.error().sentence());
            return 1;
        }
        all_same = print_driver({fmt::format("Vulkan, {}", name), &*device}) && all_same;
    }
    const auto headless = yl::d3d12::HeadlessDevice::create({.device = "llvmpipe"});
    auto device = headless ? yl::d3d12::Device::open(headless->handles())
                           : yl::Result<yl::d3d12::Device>(tl::unexpected(headless.error()));
    if (!device) {
        fmt::print(stderr, "{}\n", device.error().sentence());
        return 1;
    }
    all_same = print_driver({"Direct3D 12, libvkd3d on llvmpipe", &*device}) && all_same;
    return all_same ? 0 : 1;
}
