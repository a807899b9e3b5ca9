// What a program does with textures of Direct3D 12: records, updates, views, memory of its own, the keeper.
#include <array>
#include <cstring>
#include <thread>

#include "upload/d3d12/com.hpp"
#include "upload/d3d12_fixture.hpp"
#include "upload/keeper_fixture.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using d3d12::iid_of;
using d3d12::Owned;
using support::contains;
using support::D3d12Fixture;
using support::must;
using support::must_fail;

namespace {

const TextureShape patterned = {.format = Format::rgba8_srgb,
                                .width = 24,
                                .height = 16,
                                .levels = 4,
                                .layers = 2,
                                .is_array = true};

#ifdef __SANITIZE_ADDRESS__
constexpr bool is_sanitized = true;
#else
constexpr bool is_sanitized = false;
#endif

/// A command list of the program's own.
struct ProgramCommands {
    ID3D12CommandQueue* queue;
    Owned<ID3D12CommandAllocator> allocator = {};
    Owned<ID3D12GraphicsCommandList> list = {};
    Owned<ID3D12Fence> fence = {};

    explicit ProgramCommands(const d3d12::DeviceHandles& handles) : queue(handles.queue) {
        ID3D12Device* device = handles.device;
        REQUIRE(SUCCEEDED(device->CreateCommandAllocator(
            D3D12_COMMAND_LIST_TYPE_DIRECT, iid_of<ID3D12CommandAllocator>(), allocator.place())));
        REQUIRE(SUCCEEDED(
            device->CreateCommandList(0, D3D12_COMMAND_LIST_TYPE_DIRECT, allocator.get(), nullptr,
                                      iid_of<ID3D12GraphicsCommandList>(), list.place())));
        REQUIRE(SUCCEEDED(
            device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), fence.place())));
    }
    void run() {
        REQUIRE(SUCCEEDED(list->Close()));
        ID3D12CommandList* lists[] = {list.get()};
        queue->ExecuteCommandLists(1, lists);
        REQUIRE(SUCCEEDED(queue->Signal(fence.get(), 1)));
        while (fence->GetCompletedValue() < 1)
            std::this_thread::yield();
    }
};

}  // namespace

TEST_CASE("Direct3D 12: the layer below sees a barrier that is missing") {
    D3d12Fixture direct3d;
    direct3d.expects_messages = true;
    const Texture texture = support::random_texture(patterned, 1);
    const auto uploaded = must(direct3d.device.upload(texture));
    CHECK(direct3d.log.text().empty());
    ProgramCommands commands(direct3d.checked.handles());
    D3D12_TEXTURE_COPY_LOCATION from{}, to{};
    from.pResource = to.pResource = uploaded.resource();
    from.SubresourceIndex = uploaded.subresource(0, 0);
    to.SubresourceIndex = uploaded.subresource(0, 1);
    commands.list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);  // both are for samplers
    commands.run();
    CHECK_FALSE(direct3d.log.text().empty());
    CHECK_FALSE(direct3d.checked.findings().empty());
}

TEST_CASE("Direct3D 12: an upload recorded into the program's list") {
    for (const std::uint64_t budget : {std::uint64_t{1024}, std::uint64_t{1} << 30}) {
        D3d12Fixture direct3d;
        const Texture texture = support::random_texture(patterned, 5);
        ProgramCommands commands(direct3d.checked.handles());
        auto recorded = must(direct3d.device.record(commands.list.get(), texture,
                                                    {.staging_budget = budget, .label = "leaf"}));
        commands.run();
        const d3d12::GpuTexture leaf = std::move(recorded).finish();
        CHECK(support::holds(leaf, leaf.plan(), texture));
        CHECK(leaf.level_range() == LevelRange{0, 4});
        CHECK(must_fail(direct3d.device.record(nullptr, texture)).kind == ErrorKind::usage);
    }
}

TEST_CASE("Direct3D 12: levels come late, and boxes are replaced while samplers see them") {
    for (const bool has_copy_queue : {false, true}) {
        CAPTURE(has_copy_queue);
        D3d12Fixture direct3d({}, has_copy_queue);
        Texture texture = support::random_texture(patterned, 9);
        auto small = must(direct3d.device.upload(texture, {.levels = {2, 2}}));
        CHECK(small.level_range() == LevelRange{2, 2});
        CHECK(small.view_desc().Texture2DArray.MostDetailedMip == 2);
        CHECK(must_fail(small.set_level_range({0, 4})).kind == ErrorKind::usage);
        CHECK(must_fail(small.read_back(0, 0, 0)).kind == ErrorKind::usage);
        const UploadPlan rest =
            must(plan_upload(texture, direct3d.device.profile(), {.levels = {0, 2}}));
        must(small.write(rest, 0, texture));
        must(small.set_level_range({0, 4}));
        CHECK(support::holds(small, rest, texture));

        const TextureBox box{.level = 1, .layer = 1, .x = 3, .y = 2, .width = 5, .height = 4};
        const Texture texels =
            support::random_texture({.format = Format::rgba8_srgb, .width = 5, .height = 4}, 2);
        must(small.update(box, texels));
        for (std::uint32_t y = 0; y < 4; ++y)
            std::ranges::copy(std::as_const(texels).image(0).row(y),
                              texture.image(1, 1).row(2 + y).begin() + 12);
        CHECK(support::holds(small, rest, texture));
        CHECK(must_fail(small.update({.x = 20, .width = 5, .height = 4}, texels)).kind ==
              ErrorKind::usage);
    }
}

TEST_CASE("Direct3D 12: views of every kind of texture, and the subresource of each part") {
    D3d12Fixture direct3d;
    const auto view_of = [&](const TextureShape& shape) {
        const auto uploaded = must(direct3d.device.upload(support::random_texture(shape, 3)));
        CHECK(uploaded.subresource(1, 0, 0) == 1);
        if (shape.layers > 1)
            CHECK(uploaded.subresource(0, 1, 0) == shape.levels * shape.faces);
        if (shape.faces == 6)
            CHECK(uploaded.subresource(1, 0, 5) == 1 + 5 * shape.levels);
        return uploaded.view_desc();
    };
    TextureShape shape{.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 3};
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURE2D);
    CHECK(view_of(shape).Texture2D.MipLevels == 3);
    shape.layers = 3;
    shape.is_array = true;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURE2DARRAY);
    CHECK(view_of(shape).Texture2DArray.ArraySize == 3);
    shape.faces = 6;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURECUBEARRAY);
    CHECK(view_of(shape).TextureCubeArray.NumCubes == 3);
    shape.layers = 1;
    shape.is_array = false;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURECUBE);
    shape.faces = 1;
    shape.depth = 4;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURE3D);
    shape.depth = shape.height = 1;
    shape.is_1d = true;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURE1D);
    shape.layers = 2;
    shape.is_array = true;
    CHECK(view_of(shape).ViewDimension == D3D12_SRV_DIMENSION_TEXTURE1DARRAY);
}

TEST_CASE("Direct3D 12: swizzles, samplers and typeless resources as the standard's words") {
    D3d12Fixture direct3d;
    Texture gray =
        support::random_texture({.format = Format::rgba8_srgb, .width = 8, .height = 8}, 3);
    gray.metadata.swizzle = *parse_swizzle("g0b1");
    const Sampler sampler = must(
        parse_sampler("mag=nearest min=linear mip=nearest wrap=mirror,clamp-to-edge lod=1..3"));
    const auto uploaded =
        must(direct3d.device.upload(gray, {.sampler = sampler}, {.is_typeless = true}));
    CHECK(uploaded.resource()->GetDesc().Format == DXGI_FORMAT_R8G8B8A8_TYPELESS);
    CHECK(uploaded.view_desc().Format == DXGI_FORMAT_R8G8B8A8_UNORM_SRGB);
    CHECK(uploaded.view_desc(Transfer::linear).Format == DXGI_FORMAT_R8G8B8A8_UNORM);
    CHECK(uploaded.view_desc().Shader4ComponentMapping ==
          static_cast<UINT>(D3D12_ENCODE_SHADER_4_COMPONENT_MAPPING(1, 4, 2, 5)));
    CHECK(support::holds(uploaded, uploaded.plan(), gray));
    const D3D12_SAMPLER_DESC desc = uploaded.sampler_desc();
    CHECK(desc.Filter == D3D12_FILTER_MIN_LINEAR_MAG_MIP_POINT);
    CHECK(desc.AddressU == D3D12_TEXTURE_ADDRESS_MODE_MIRROR);
    CHECK(desc.AddressV == D3D12_TEXTURE_ADDRESS_MODE_CLAMP);
    CHECK(desc.MinLOD == 1);
    CHECK(desc.MaxLOD == 3);
    // Both go into heaps without a word of the layer below.
    Owned<ID3D12DescriptorHeap> views, samplers;
    D3D12_DESCRIPTOR_HEAP_DESC heap{};
    heap.NumDescriptors = 1;
    heap.Type = D3D12_DESCRIPTOR_HEAP_TYPE_CBV_SRV_UAV;
    REQUIRE(SUCCEEDED(direct3d.raw()->CreateDescriptorHeap(&heap, iid_of<ID3D12DescriptorHeap>(),
                                                           views.place())));
    heap.Type = D3D12_DESCRIPTOR_HEAP_TYPE_SAMPLER;
    REQUIRE(SUCCEEDED(direct3d.raw()->CreateDescriptorHeap(&heap, iid_of<ID3D12DescriptorHeap>(),
                                                           samplers.place())));
    uploaded.write_view(views->GetCPUDescriptorHandleForHeapStart());
    uploaded.write_sampler(samplers->GetCPUDescriptorHandleForHeapStart());
}

TEST_CASE("Direct3D 12: what libvkd3d lacks is refused or put in its place, with a sentence") {
    D3d12Fixture direct3d;
    const DeviceProfile& profile = direct3d.device.profile();
    CHECK_FALSE(profile.supports(Format::rgb9e5_float));
    CHECK_FALSE(profile.supports(Format::rgb32_float));
    CHECK_FALSE(profile.supports(Format::etc2_rgb8_srgb));
    for (const FormatInfo& f : all_formats())
        if (f.family == BlockFamily::bc)
            CHECK(profile.supports(f.format) == (f.dxgi != 0));
    Findings changes;
    const Sampler fitted = fit_sampler(
        must(parse_sampler("wrap=clamp-to-border,mirror-once border=1,0,0,1")), profile, changes);
    CHECK(fitted.wrap[0] != Wrap::clamp_to_border);
    CHECK(fitted.wrap[1] != Wrap::mirror_once);
    CHECK(changes.size() >= 2);
    const Texture odd =
        support::random_texture({.format = Format::bc7_unorm, .width = 10, .height = 6}, 3);
    const auto uploaded = must(direct3d.device.upload(odd));
    CHECK(uploaded.shape().format == Format::rgba8_unorm);
    CHECK(std::ranges::any_of(uploaded.findings(), [](const Finding& finding) {
        return contains(finding.problem, "not a multiple of bc7-unorm's blocks");
    }));
    const Texture three =
        support::random_texture({.format = Format::rgb32_float, .width = 8, .height = 8}, 3);
    CHECK(must(direct3d.device.upload(three)).shape().format == Format::rgba32_float);
}

TEST_CASE("Direct3D 12: resources of the program's own memory, each released once") {
    // A heap of the program's, from which textures are placed one after the other.
    const auto headless = must(d3d12::HeadlessDevice::create({.device = "llvmpipe"}));
    ID3D12Device* device = headless.handles().device;
    Owned<ID3D12Heap> heap;
    D3D12_HEAP_DESC desc{};
    desc.SizeInBytes = 8 << 20;
    desc.Properties.Type = D3D12_HEAP_TYPE_DEFAULT;
    desc.Flags = D3D12_HEAP_FLAG_ALLOW_ONLY_NON_RT_DS_TEXTURES;
    REQUIRE(SUCCEEDED(device->CreateHeap(&desc, iid_of<ID3D12Heap>(), heap.place())));
    std::uint64_t offset = 0;
    ID3D12Resource* last = nullptr;
    d3d12::DeviceHandles handles = headless.handles();
    handles.make_resource = [&](const D3D12_RESOURCE_DESC& wanted) -> Result<ID3D12Resource*> {
        const auto room = device->GetResourceAllocationInfo(0, 1, &wanted);
        offset = (offset + room.Alignment - 1) / room.Alignment * room.Alignment;
        if (offset + room.SizeInBytes > desc.SizeInBytes)
            return fail(ErrorKind::memory, "the program's heap is full");
        const HRESULT made = device->CreatePlacedResource(
            heap.get(), offset, &wanted, D3D12_RESOURCE_STATE_COMMON, nullptr,
            iid_of<ID3D12Resource>(), reinterpret_cast<void**>(&last));
        if (FAILED(made))
            return fail(ErrorKind::device, "the program's heap took no texture");
        offset += room.SizeInBytes;
        last->AddRef();  // to look at it once the library has let go
        return last;
    };
    auto opened = must(d3d12::Device::open(handles));
    const Texture texture = support::random_texture(patterned, 4);
    {
        const auto uploaded = must(opened.upload(texture));
        CHECK(uploaded.resource() == last);
        CHECK(support::holds(uploaded, uploaded.plan(), texture));
    }
    CHECK(last->Release() == 0);
    const Texture large =
        support::random_texture({.format = Format::rgba32_float, .width = 1024, .height = 1024}, 4);
    CHECK(must_fail(opened.upload(large)).kind == ErrorKind::memory);
    handles.make_resource = [](const D3D12_RESOURCE_DESC&) -> Result<ID3D12Resource*> {
        return nullptr;
    };
    opened = must(d3d12::Device::open(handles));
    CHECK(must_fail(opened.upload(texture)).kind == ErrorKind::usage);
}

TEST_CASE(
    "Direct3D 12: handles that are missing or of another type, and devices that are not there") {
    CHECK(must_fail(d3d12::Device::open({})).kind == ErrorKind::usage);
    const Error none = must_fail(d3d12::HeadlessDevice::create({.device = "no such device"}));
    CHECK(none.kind == ErrorKind::device);
    CHECK(contains(none.message, "llvmpipe"));
    const auto headless = must(d3d12::HeadlessDevice::create({.device = "llvmpipe"}));
    d3d12::DeviceHandles turned = headless.handles();
    std::swap(turned.queue, turned.copy_queue);
    const Error wrong = must_fail(d3d12::Device::open(turned));
    CHECK(wrong.kind == ErrorKind::usage);
    CHECK(wrong.place == "queue");
    turned = headless.handles();
    turned.copy_queue = turned.queue;
    CHECK(must_fail(d3d12::Device::open(turned)).place == "copy_queue");
}

TEST_CASE("Direct3D 12: two thousand textures made and dropped take no memory for good") {
    D3d12Fixture direct3d;
    const auto resident = [] {
        std::ifstream status("/proc/self/statm");
        std::uint64_t all = 0, pages = 0;
        status >> all >> pages;
        return pages * 4096;
    };
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 128, .height = 128, .levels = 8}, 6);
    std::uint64_t early = 0;
    for (int i = 0; i < 2000; ++i) {
        const auto uploaded = must(direct3d.device.upload(texture));
        if (i == 200)
            early = resident();
    }
    // Two thousand of them are 170 MB. The address sanitizer keeps what was freed, 256 MB of it.
    CHECK(resident() < early + ((is_sanitized ? 300U : 16U) << 20));
}

TEST_CASE("Direct3D 12: textures that went stay until no frame uses them") {
    D3d12Fixture direct3d({.frames_in_flight = 2});
    ID3D12Resource* resource = nullptr;
    {
        const auto uploaded = must(direct3d.device.upload(support::random_texture(patterned, 6)));
        resource = uploaded.resource();
        resource->AddRef();
    }
    const auto references = [&] {
        resource->AddRef();
        return resource->Release();
    };
    CHECK(references() == 2);
    direct3d.device.next_frame();
    direct3d.device.next_frame();
    CHECK(references() == 2);
    direct3d.device.next_frame();
    CHECK(references() == 1);
    resource->Release();
}

TEST_CASE("Direct3D 12: the keeper loads, shows small levels early, and gives memory back") {
    support::Bench bench;
    D3d12Fixture direct3d;
    TextureKeeper keeper(direct3d.device, {.show_early = true});
    std::vector<TextureTicket> tickets;
    for (int i = 0; i < 5; ++i)
        tickets.push_back(keeper.request(
            {.file = bench.square("square" + std::to_string(i) + ".png", 64U << (i % 3), 40)}));
    while (!keeper.totals().is_settled())
        keeper.pump();
    for (const TextureTicket& ticket : tickets) {
        CHECK(keeper.status(ticket).state == KeeperState::ready);
        CHECK(support::red_of(*keeper.texture(ticket)) == 40);
    }
}

TEST_CASE("samplers in the words of d3d12.h: every filter, address mode and comparison") {
    struct Named {
        const char* text;
        D3D12_FILTER plain, comparison;
    };
    for (const Named& named :
         {Named{"min=nearest mag=nearest mip=nearest", D3D12_FILTER_MIN_MAG_MIP_POINT,
                D3D12_FILTER_COMPARISON_MIN_MAG_MIP_POINT},
          {"min=nearest mag=nearest mip=linear", D3D12_FILTER_MIN_MAG_POINT_MIP_LINEAR,
           D3D12_FILTER_COMPARISON_MIN_MAG_POINT_MIP_LINEAR},
          {"min=nearest mag=linear mip=nearest", D3D12_FILTER_MIN_POINT_MAG_LINEAR_MIP_POINT,
           D3D12_FILTER_COMPARISON_MIN_POINT_MAG_LINEAR_MIP_POINT},
          {"min=nearest mag=linear mip=linear", D3D12_FILTER_MIN_POINT_MAG_MIP_LINEAR,
           D3D12_FILTER_COMPARISON_MIN_POINT_MAG_MIP_LINEAR},
          {"min=linear mag=nearest mip=nearest", D3D12_FILTER_MIN_LINEAR_MAG_MIP_POINT,
           D3D12_FILTER_COMPARISON_MIN_LINEAR_MAG_MIP_POINT},
          {"min=linear mag=nearest mip=linear", D3D12_FILTER_MIN_LINEAR_MAG_POINT_MIP_LINEAR,
           D3D12_FILTER_COMPARISON_MIN_LINEAR_MAG_POINT_MIP_LINEAR},
          {"min=linear mag=linear mip=nearest", D3D12_FILTER_MIN_MAG_LINEAR_MIP_POINT,
           D3D12_FILTER_COMPARISON_MIN_MAG_LINEAR_MIP_POINT},
          {"min=linear mag=linear mip=linear", D3D12_FILTER_MIN_MAG_MIP_LINEAR,
           D3D12_FILTER_COMPARISON_MIN_MAG_MIP_LINEAR},
          {"min=linear mag=linear mip=linear aniso=8", D3D12_FILTER_ANISOTROPIC,
           D3D12_FILTER_COMPARISON_ANISOTROPIC}}) {
        CAPTURE(named.text);
        CHECK(d3d12_sampler(must(parse_sampler(named.text))).filter == named.plain);
        const std::string compared = std::string(named.text) + " compare=less-or-equal";
        const D3d12Sampler words = d3d12_sampler(must(parse_sampler(compared)));
        CHECK(words.filter == named.comparison);
        CHECK(words.comparison_func == D3D12_COMPARISON_FUNC_LESS_EQUAL);
    }
    const std::pair<const char*, D3D12_TEXTURE_ADDRESS_MODE> modes[] = {
        {"repeat", D3D12_TEXTURE_ADDRESS_MODE_WRAP},
        {"mirror", D3D12_TEXTURE_ADDRESS_MODE_MIRROR},
        {"clamp-to-edge", D3D12_TEXTURE_ADDRESS_MODE_CLAMP},
        {"clamp-to-border", D3D12_TEXTURE_ADDRESS_MODE_BORDER},
        {"mirror-once", D3D12_TEXTURE_ADDRESS_MODE_MIRROR_ONCE}};
    for (std::size_t i = 0; i < std::size(modes); ++i) {
        const auto& [u, first] = modes[i];
        const auto& [v, second] = modes[(i + 1) % std::size(modes)];
        const auto& [w, third] = modes[(i + 3) % std::size(modes)];
        const D3d12Sampler words =
            d3d12_sampler(must(parse_sampler(std::string("wrap=") + u + "," + v + "," + w)));
        CHECK(words.address_mode ==
              std::array<std::uint32_t, 3>{static_cast<std::uint32_t>(first),
                                           static_cast<std::uint32_t>(second),
                                           static_cast<std::uint32_t>(third)});
    }
    const std::pair<const char*, D3D12_COMPARISON_FUNC> comparisons[] = {
        {"never", D3D12_COMPARISON_FUNC_NEVER},
        {"less", D3D12_COMPARISON_FUNC_LESS},
        {"equal", D3D12_COMPARISON_FUNC_EQUAL},
        {"greater", D3D12_COMPARISON_FUNC_GREATER},
        {"not-equal", D3D12_COMPARISON_FUNC_NOT_EQUAL},
        {"greater-or-equal", D3D12_COMPARISON_FUNC_GREATER_EQUAL},
        {"always", D3D12_COMPARISON_FUNC_ALWAYS}};
    for (const auto& [text, function] : comparisons)
        CHECK(d3d12_sampler(must(parse_sampler(std::string("compare=") + text))).comparison_func ==
              static_cast<std::uint32_t>(function));
}
