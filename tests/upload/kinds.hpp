// Textures of every kind and awkward sizes, for every device to take and give back.
#pragma once

#include <fmt/format.h>

#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

namespace support {

/// Shapes of every kind that the device has, at odd sizes, in this format.
inline std::vector<yl::TextureShape> shapes_for(const yl::DeviceProfile& device,
                                                yl::Format format) {
    const bool is_block = yl::info(format).is_block();
    std::vector<yl::TextureShape> shapes;
    const auto add = [&](yl::TextureShape shape) {
        shape.format = format;
        shape.levels = yl::full_level_count(shape.width, shape.height, shape.depth);
        shapes.push_back(shape);
    };
    for (const auto& [width, height] : {std::pair{1U, 1U}, {5U, 3U}, {31U, 18U}}) {
        add({.width = width, .height = height});
        add({.width = width, .height = height, .layers = 3, .is_array = true});
        add({.width = width, .height = height, .depth = 5});
    }
    for (const std::uint32_t side : {1U, 7U, 16U}) {
        add({.width = side, .height = side, .faces = 6});
        if (device.has_cube_arrays)
            add({.width = side, .height = side, .layers = 2, .faces = 6, .is_array = true});
    }
    if (!is_block)
        for (const std::uint32_t width : {1U, 13U}) {
            add({.width = width, .is_1d = true});
            if (device.max_1d_side > 0)  // otherwise an array of lines becomes one of surfaces
                add({.width = width, .layers = 3, .is_array = true, .is_1d = true});
        }
    return shapes;
}

inline std::string text_of(const yl::TextureShape& shape) {
    return fmt::format("{} {} {} x {} x {}, {} layers", yl::name(yl::kind_of(shape)),
                       yl::info(shape.format).name, shape.width, shape.height, shape.depth,
                       shape.layers);
}

/// Whether a device holds, byte for byte, what it was to be given.
inline bool holds(const yl::DeviceTexture& on_device, const yl::UploadPlan& plan,
                  const yl::Texture& texture) {
    const yl::Texture back = must(on_device.read_back());
    const yl::Texture converted =
        plan.converts() ? must(yl::converted_for(plan, texture)) : yl::Texture{};
    const yl::Texture& sent = plan.converts() ? converted : texture;
    if (back.shape() != plan.shape)
        return false;
    for (std::uint32_t level = 0; level < back.shape().levels; ++level)
        if (!std::ranges::equal(back.level(level), sent.level(level)))
            return false;
    return true;
}

/// Calls of a texture that was moved from are refused, and what it tells is empty.
template <class Device>
void check_moved_from(Device& device) {
    const yl::Texture texture =
        random_texture({.format = yl::Format::rgba8_unorm, .width = 8, .height = 8}, 3);
    auto uploaded = must(device.upload(texture));
    const yl::UploadPlan plan = uploaded.plan();
    const auto taken = std::move(uploaded);
    CHECK(holds(taken, plan, texture));
    CHECK(uploaded.plan().regions.empty());
    CHECK(uploaded.findings().empty());
    CHECK(uploaded.shape() == yl::TextureShape{});
    CHECK(must_fail(uploaded.write(plan, 0, texture)).kind == yl::ErrorKind::usage);
    CHECK(must_fail(uploaded.set_level_range({0, 1})).kind == yl::ErrorKind::usage);
    CHECK(must_fail(uploaded.update({.width = 8, .height = 8}, texture)).kind ==
          yl::ErrorKind::usage);
    CHECK(must_fail(uploaded.read_back()).kind == yl::ErrorKind::usage);
    CHECK(must_fail(uploaded.read_back(0, 0, 0)).kind == yl::ErrorKind::usage);
}

/// Two layers of five first, the others later, on a backend's device; and parts read back.
template <class Device>
void check_late_layers(Device& device) {
    const yl::TextureShape shape = {.format = yl::Format::rgba8_unorm,
                                    .width = 8,
                                    .height = 4,
                                    .levels = 4,
                                    .layers = 5,
                                    .is_array = true};
    const yl::Texture texture = random_texture(shape, 3);
    auto uploaded = must(device.upload(texture, {.layer_count = 2}));
    const yl::UploadPlan rest =
        must(yl::plan_upload(shape, device.profile(), {.first_layer = 2, .layer_count = 3}));
    CHECK(rest.regions.size() == 4 * 3);
    must(uploaded.write(rest, 0, texture));
    CHECK(holds(uploaded, rest, texture));
    const yl::Texture one = must(uploaded.read_back(2, 4, 0));
    CHECK(one.shape().width == 2);
    CHECK(std::memcmp(one.level(0).data(), texture.image(2, 4).data, one.level(0).size()) == 0);
    CHECK(must_fail(uploaded.read_back(4, 0, 0)).kind == yl::ErrorKind::usage);
    CHECK(must_fail(uploaded.read_back(0, 5, 0)).kind == yl::ErrorKind::usage);
}

}  // namespace support
