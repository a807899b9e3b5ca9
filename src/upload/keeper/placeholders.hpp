// One-texel textures that stand for what is not there.
#pragma once

#include <map>
#include <memory>
#include <tuple>

#include <yl/texture_keeper.hpp>

namespace yl {

/// Makes each kind of placeholder once.
class Placeholders {
 public:
    explicit Placeholders(TextureDevice& device) : device_(device) {}

    /// Null when the device refuses it.
    [[nodiscard]] const DeviceTexture* get(KeeperState state, Role role, TextureKind kind);

 private:
    using Key = std::tuple<std::array<std::uint8_t, 4>, Format, TextureKind>;

    TextureDevice& device_;
    std::map<Key, std::unique_ptr<DeviceTexture>> made_;
};

}  // namespace yl
