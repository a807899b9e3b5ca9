#include "documents/given.hpp"

#include <doctest/doctest.h>

#include <array>
#include <filesystem>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/zip_file.hpp"
#include "upload/d3d12/com.hpp"
#include "upload/gl_fixture.hpp"
#include "upload/vulkan_fixture.hpp"

// What examples call of their programs.
void draw_with(const yl::DeviceTexture& texture) {
    CHECK(texture.shape().width > 0);
}
void show(std::string_view what, float share) {
    CHECK_FALSE(what.empty());
    CHECK((share >= 0 && share <= 1));
}
void upload_everything(ID3D12Device* device, ID3D12CommandQueue* queue) {
    const yl::Texture texture = support::random_texture(
        {.format = yl::Format::rgba8_unorm, .width = 16, .height = 16, .levels = 5}, 5);
    yl::d3d12::Device opened =
        support::must(yl::d3d12::Device::open({.device = device, .queue = queue}));
    CHECK(support::must(opened.upload(texture)).shape().levels == 5);
}

namespace documents {
namespace {

using support::must;
using yl::d3d12::iid_of;
using yl::d3d12::Owned;

std::string demo_file(const std::string& name) {
    return std::string(DEMO_DATA) + "/" + name;
}

/// One triangle with texture coordinates, as modelling programs export it.
constexpr const char* pot = "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n";

constexpr const char* list =
    "output = \"{name}.ktx2\"\n\n[[textures]]\nfiles = [\"leaf.png\", \"slate.png\"]\nas = "
    "\"bc7\"\n";

std::string lookup_table() {
    std::string text = "LUT_3D_SIZE 2\n";
    for (int corner = 0; corner < 8; ++corner)
        text += std::to_string(corner & 1) + " " + std::to_string(corner >> 1 & 1) + " " +
                std::to_string(corner >> 2) + "\n";
    return text;
}

void write_inputs() {
    const yl::Texture colors =
        support::random_texture({.format = yl::Format::rgba8_srgb, .width = 64, .height = 64}, 7);
    for (const char* name :
         {"leaf", "pot", "grass", "stone", "a", "b", "bricks_height", "continent"})
        must(yl::write_picture(std::string(name) + ".png", colors.image(0)));
    for (const char* name : {"slate.png", "planter.glb"})
        std::filesystem::copy_file(demo_file(name), name);
    std::filesystem::copy_file("slate.png", "wall.png");
    std::filesystem::copy_file(demo_file("dawn.hdr"), "sky_panorama.hdr");
    for (const char* name : {"leaf", "slate", "wall", "large"})
        must(yl::write_texture(std::string(name) + ".ktx2",
                               must(yl::bake_file("leaf.png")).texture));
    support::write_text("pot.obj", pot);
    support::write_text("textures.toml", list);
    support::write_text("evening.cube", lookup_table());
    support::write_bytes("pots.zip",
                         support::zip_file({{"maps/slate.png", support::read_bytes("slate.png")}}));
}

yl::Texture flat_texture(yl::Format format, std::uint32_t side, std::uint32_t levels) {
    return support::random_texture(
        {.format = format, .width = side, .height = side, .levels = levels}, 11);
}

}  // namespace

Folder::Folder() : before_(std::filesystem::current_path()) {
    std::filesystem::current_path(folder_.path(""));
    write_inputs();
}

Folder::~Folder() {
    std::filesystem::current_path(before_);
}

void Folder::must_be_whole(const std::string& name) {
    CAPTURE(name);
    const std::string ending = std::filesystem::path(name).extension().string();
    if (ending == ".ktx2" || ending == ".dds")
        CHECK(must(yl::read_texture(name)).texture.shape().width > 0);
    else if (ending == ".glb")
        CHECK_FALSE(must(yl::model::read_model(name)).materials.empty());
    else
        CHECK(must(yl::read_picture(name)).image.width() > 0);
}

/// Descriptors of one texture with its sampler.
class DescriptorSet {
 public:
    explicit DescriptorSet(VkDevice device) : device_(device) {
        const VkDescriptorSetLayoutBinding binding = {0, VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER,
                                                      1, VK_SHADER_STAGE_ALL, nullptr};
        VkDescriptorSetLayoutCreateInfo layout{};
        layout.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_CREATE_INFO;
        layout.bindingCount = 1;
        layout.pBindings = &binding;
        REQUIRE(vkCreateDescriptorSetLayout(device, &layout, nullptr, &layout_) == VK_SUCCESS);
        const VkDescriptorPoolSize size = {VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER, 1};
        VkDescriptorPoolCreateInfo pool{};
        pool.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_POOL_CREATE_INFO;
        pool.maxSets = pool.poolSizeCount = 1;
        pool.pPoolSizes = &size;
        REQUIRE(vkCreateDescriptorPool(device, &pool, nullptr, &pool_) == VK_SUCCESS);
        VkDescriptorSetAllocateInfo set{};
        set.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_ALLOCATE_INFO;
        set.descriptorPool = pool_;
        set.descriptorSetCount = 1;
        set.pSetLayouts = &layout_;
        REQUIRE(vkAllocateDescriptorSets(device, &set, &set_) == VK_SUCCESS);
    }
    DescriptorSet(const DescriptorSet&) = delete;
    DescriptorSet& operator=(const DescriptorSet&) = delete;
    ~DescriptorSet() {
        vkDestroyDescriptorPool(device_, pool_, nullptr);
        vkDestroyDescriptorSetLayout(device_, layout_, nullptr);
    }
    [[nodiscard]] VkDescriptorSet set() const { return set_; }

 private:
    VkDevice device_;
    VkDescriptorSetLayout layout_ = VK_NULL_HANDLE;
    VkDescriptorPool pool_ = VK_NULL_HANDLE;
    VkDescriptorSet set_ = VK_NULL_HANDLE;
};

struct Devices {
    std::optional<support::GlFixture> gl;
    std::optional<support::VulkanFixture> vulkan;
    std::optional<DescriptorSet> descriptors;
    std::optional<yl::d3d12::HeadlessDevice> headless;
    yl::d3d12::DeviceHandles direct3d;
    Owned<ID3D12DescriptorHeap> views, samplers;

    support::GlFixture& open_gl() { return gl ? *gl : gl.emplace(); }
    support::VulkanFixture& open_vulkan() { return vulkan ? *vulkan : vulkan.emplace("llvmpipe"); }
    const yl::d3d12::DeviceHandles& open_direct3d() {
        if (!headless) {
            headless = must(yl::d3d12::HeadlessDevice::create({.device = "llvmpipe"}));
            direct3d = headless->handles();
        }
        return direct3d;
    }
    D3D12_CPU_DESCRIPTOR_HANDLE place_in(Owned<ID3D12DescriptorHeap>& heap,
                                         D3D12_DESCRIPTOR_HEAP_TYPE type) {
        D3D12_DESCRIPTOR_HEAP_DESC desc{};
        desc.Type = type;
        desc.NumDescriptors = 1;
        REQUIRE(SUCCEEDED(open_direct3d().device->CreateDescriptorHeap(
            &desc, iid_of<ID3D12DescriptorHeap>(), heap.place())));
        return heap->GetCPUDescriptorHandleForHeapStart();
    }
};

Given::Given()
    : image_(must(yl::Image::create(yl::Format::rgba8_srgb, 128, 96))),
      texture_(flat_texture(yl::Format::rgba8_srgb, 64, 7)),
      cube_(support::random_texture(
          {.format = yl::Format::rgba16_float, .width = 16, .height = 16, .faces = 6}, 13)),
      profile_(must(yl::find_profile("metal"))),
      devices_(std::make_unique<Devices>()) {
    support::Random random(17);
    support::fill_random(image_.view(), random);
    const yl::Texture small = flat_texture(yl::Format::rgba8_unorm, 8, 1);
    plan_ = must(yl::plan_upload(small, profile_));
    bytes_ = support::bytes_of(small.image(0));
}

Given::~Given() = default;

const yl::TextureSampler& Given::unit() {
    if (!unit_)
        unit_ = must(
            yl::TextureSampler::create(texture_, sampler_, yl::LevelRange::of(texture_.shape())));
    return *unit_;
}

yl::TextureDevice& Given::device() {
    return devices_->open_gl().device;
}

yl::gl::Loader Given::loader() {
    return devices_->open_gl().context.loader();
}

const yl::vulkan::DeviceHandles& Given::handles() {
    return devices_->open_vulkan().headless.handles();
}

VkDescriptorSet Given::descriptor_set() {
    return devices_->descriptors.emplace(handles().device).set();
}

const yl::d3d12::DeviceHandles& Given::direct3d() {
    return devices_->open_direct3d();
}

D3D12_CPU_DESCRIPTOR_HANDLE Given::view_place() {
    return devices_->place_in(devices_->views, D3D12_DESCRIPTOR_HEAP_TYPE_CBV_SRV_UAV);
}

D3D12_CPU_DESCRIPTOR_HANDLE Given::sampler_place() {
    return devices_->place_in(devices_->samplers, D3D12_DESCRIPTOR_HEAP_TYPE_SAMPLER);
}

yl::TextureKeeper& Given::keeper() {
    return keeper_ ? *keeper_ : keeper_.emplace(device());
}

std::vector<std::byte> Given::content() {
    return support::read_bytes("leaf.png");
}

}  // namespace documents
