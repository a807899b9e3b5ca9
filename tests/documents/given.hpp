// What the examples of headers and documents take for granted: files in the working directory, and
// objects of their programs. Each object is made when an example asks for it.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>
#include <yl/archive.hpp>
#include <yl/d3d12_rules.hpp>
#include <yl/gl.hpp>
#include <yl/model.hpp>
#include <yl/model_scene.hpp>
#include <yl/vulkan.hpp>
#include <yl/yl.hpp>

#include "documents/frames.hpp"
#include "support/files.hpp"

namespace documents {

/// A folder with every file that an example reads, which is the working directory meanwhile.
class Folder {
 public:
    Folder();
    ~Folder();
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;

    /// Fails the test unless this file of the folder is whole, by reading it again.
    static void must_be_whole(const std::string& name);

 private:
    support::TemporaryFolder folder_;
    std::filesystem::path before_;
};

/// The devices of the tests, each opened when it is asked for.
struct Devices;

class Given {
 public:
    Given();
    ~Given();
    Given(const Given&) = delete;
    Given& operator=(const Given&) = delete;

    yl::Image& image() { return image_; }
    yl::Texture& texture() { return texture_; }  ///< flat, of 64 x 64 texels and all levels
    yl::Texture& cube() { return cube_; }
    const yl::Sampler& sampler() { return sampler_; }
    const yl::TextureSampler& unit();
    const yl::DeviceProfile& profile() { return profile_; }
    yl::TextureDevice& device();
    yl::gl::Loader loader();
    const yl::vulkan::DeviceHandles& handles();
    VkDescriptorSet descriptor_set();  ///< its binding 0 is a texture with its sampler
    const yl::d3d12::DeviceHandles& direct3d();
    D3D12_CPU_DESCRIPTOR_HANDLE view_place();
    D3D12_CPU_DESCRIPTOR_HANDLE sampler_place();
    const yl::TextureShape& shape() { return plan_.shape; }  ///< of 8 x 8 texels in one level
    const yl::UploadPlan& plan() { return plan_; }
    const yl::UploadRegion& region() { return plan_.regions.front(); }
    std::span<const std::byte> bytes() { return bytes_; }  ///< of the shape
    Frames is_running() { return Frames(3); }
    bool window_was_closed() { return false; }
    yl::TextureKeeper& keeper();
    std::vector<yl::TextureTicket> tickets() { return {}; }
    std::vector<std::byte> content();              ///< of a picture file
    const yl::Primitive& part() { return part_; }  ///< of the first material
    std::uint32_t sampler_unit() { return 0; }

 private:
    yl::Image image_;
    yl::Texture texture_, cube_;
    yl::Sampler sampler_;
    yl::DeviceProfile profile_;
    yl::UploadPlan plan_;
    std::vector<std::byte> bytes_;
    std::unique_ptr<Devices> devices_;
    std::optional<yl::TextureSampler> unit_;
    std::optional<yl::TextureKeeper> keeper_;
    yl::Primitive part_;
};

}  // namespace documents
