// What the keeper knows of one texture.
#pragma once

#include <array>
#include <yl/texture_keeper.hpp>
#include "upload/keeper/load_queue.hpp"

namespace yl {

/// Time and size of a file, to see whether it has changed.
struct FileStamp {
    std::filesystem::file_time_type time = {};
    std::uintmax_t size = 0;

    friend bool operator==(const FileStamp&, const FileStamp&) = default;
};

/// Of a request's file and of its normals'; nothing where there is no such file.
[[nodiscard]] std::array<std::optional<FileStamp>, 2> stamps_of(const TextureRequest& request);

/// A texture on its way to the device.
struct Upload {
    std::uint64_t texture = 0;
    LoadedTexture loaded = {};
    std::unique_ptr<DeviceTexture> target = {};
    std::size_t next_batch = 0;
    std::uint64_t bytes_done = 0;
    std::uint64_t held_bytes = 0;  ///< that it takes in this program's memory
    bool is_reduction = false;     ///< of a texture that is there, with fewer levels

    [[nodiscard]] bool is_begun() const { return target != nullptr; }
};

struct KeptEntry {
    std::uint64_t number = 0;  ///< under which the keeper finds it
    TextureRequest request = {};
    std::string name = {};    ///< under which equal requests are looked for
    std::size_t tickets = 0;  ///< that want it; without those that were cancelled
    std::vector<std::uint64_t> ticket_numbers = {};  ///< with those
    bool is_changed = false;                         ///< since the last call of `pump`
    KeeperState state = KeeperState::waiting;
    std::optional<Error> error = {};
    Findings findings = {};
    std::unique_ptr<DeviceTexture> texture = {};
    std::uint64_t generation = 0;  ///< of its jobs
    std::uint64_t last_use = 0;    ///< the number of the call of `pump` before it
    std::array<std::optional<FileStamp>, 2> stamps = {};  ///< of the texture and of its normals
    TextureShape full_shape = {};                         ///< on the device, with all levels
    std::uint32_t dropped_levels = 0;                     ///< of `texture`
    bool has_job = false;                                 ///< queued, at work, or being uploaded
    float progress = 0;
    std::uint64_t freeing = 0;  ///< bytes that the job under way will free
    /// Of a texture that can shrink: the use and the size under which it is filed.
    std::optional<std::array<std::uint64_t, 2>> filed = {};

    [[nodiscard]] std::uint64_t device_bytes() const {
        return texture != nullptr ? texture->shape().total_bytes() : 0;
    }
    /// A file that could not be read again would fail in the same way, again and again.
    [[nodiscard]] bool can_reload() const { return texture != nullptr && !has_job && !error; }
    [[nodiscard]] bool can_shrink() const { return can_reload() && texture->shape().levels > 1; }
};

}  // namespace yl
