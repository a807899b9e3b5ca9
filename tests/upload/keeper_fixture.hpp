// Pictures of one colour, and the stand-in on which the keeper is tested.
#pragma once

#include <string>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

namespace support {

/// A square picture of one colour.
inline void write_square(const std::string& path, std::uint32_t side, std::uint8_t red) {
    yl::Image image = must(yl::Image::create(yl::Format::rgba8_srgb, side, side));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::size_t x = 0; x < side; ++x) {
            auto* texel = &image.view().row(y)[4 * x];
            texel[0] = static_cast<std::byte>(red);
            texel[1] = texel[2] = std::byte{7};
            texel[3] = std::byte{255};
        }
    must(yl::write_picture(path, image.view()));
}

struct Bench {
    TemporaryFolder folder;
    yl::RecordingDevice device{must(yl::find_profile("vulkan-desktop"))};

    std::string square(const std::string& name, std::uint32_t side, std::uint8_t red) {
        const std::string path = folder.path(name);
        write_square(path, side, red);
        return path;
    }
};

inline int red_of(const yl::DeviceTexture& texture) {
    return std::to_integer<int>(level_of(must(texture.read_back()), 0)[0]);
}

}  // namespace support
