// The rules of Direct3D 12 that a checked device keeps watch over: each is broken here on purpose.
#include <yl/d3d12_rules.hpp>
#include <yl/d3d12_scene.hpp>

#include "support/files.hpp"
#include "upload/d3d12/com.hpp"
#include "upload/d3d12/context.hpp"
#include "upload/d3d12/heap_pool.hpp"
#include "upload/d3d12/platform.hpp"
#include "upload/d3d12/rules/states.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using d3d12::iid_of;
using d3d12::Owned;
using support::contains;
using support::must;
using support::must_fail;

namespace {

constexpr auto common = D3D12_RESOURCE_STATE_COMMON;
constexpr auto copy_dest = D3D12_RESOURCE_STATE_COPY_DEST;
constexpr auto copy_source = D3D12_RESOURCE_STATE_COPY_SOURCE;
constexpr auto pixels = D3D12_RESOURCE_STATE_PIXEL_SHADER_RESOURCE;

/// A program of its own on a checked device: a texture, a buffer, lists and fences.
struct Program {
    d3d12::HeadlessDevice headless = must(d3d12::HeadlessDevice::create({.device = "llvmpipe"}));
    d3d12::CheckedDevice checked = must(d3d12::CheckedDevice::wrap(headless.handles()));
    ID3D12Device* device = checked.handles().device;
    ID3D12CommandQueue* queue = checked.handles().queue;
    ID3D12CommandQueue* copy_queue = checked.handles().copy_queue;
    Owned<ID3D12Fence> fence = {};
    std::uint64_t value = 0;

    struct List {
        Owned<ID3D12CommandAllocator> allocator = {};
        Owned<ID3D12GraphicsCommandList> list = {};
        ID3D12GraphicsCommandList* operator->() const { return list.get(); }
    };
    std::vector<List> kept = {};  ///< until the queues are done

    Program() {
        REQUIRE(SUCCEEDED(
            device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), fence.place())));
    }
    Program(const Program&) = delete;
    Program& operator=(const Program&) = delete;

    Owned<ID3D12Resource> texture(UINT width = 16, UINT height = 16, UINT16 levels = 3,
                                  DXGI_FORMAT format = DXGI_FORMAT_R8G8B8A8_UNORM,
                                  D3D12_RESOURCE_STATES state = common,
                                  D3D12_RESOURCE_FLAGS flags = D3D12_RESOURCE_FLAG_NONE) {
        D3D12_HEAP_PROPERTIES heap{};
        heap.Type = D3D12_HEAP_TYPE_DEFAULT;
        D3D12_RESOURCE_DESC desc{};
        desc.Dimension = D3D12_RESOURCE_DIMENSION_TEXTURE2D;
        desc.Width = width;
        desc.Height = height;
        desc.DepthOrArraySize = 2;
        desc.MipLevels = levels;
        desc.Format = format;
        desc.SampleDesc.Count = 1;
        desc.Flags = flags;
        Owned<ID3D12Resource> made;
        REQUIRE(SUCCEEDED(device->CreateCommittedResource(&heap, D3D12_HEAP_FLAG_NONE, &desc, state,
                                                          nullptr, iid_of<ID3D12Resource>(),
                                                          made.place())));
        return made;
    }

    Owned<ID3D12Resource> buffer(UINT64 bytes = 8192,
                                 D3D12_HEAP_TYPE type = D3D12_HEAP_TYPE_UPLOAD) {
        return std::move(must(d3d12::HostBuffer::create(device, bytes, type)).resource);
    }

    List list(D3D12_COMMAND_LIST_TYPE type = D3D12_COMMAND_LIST_TYPE_DIRECT) {
        List made;
        REQUIRE(SUCCEEDED(device->CreateCommandAllocator(type, iid_of<ID3D12CommandAllocator>(),
                                                         made.allocator.place())));
        REQUIRE(SUCCEEDED(device->CreateCommandList(0, type, made.allocator.get(), nullptr,
                                                    iid_of<ID3D12GraphicsCommandList>(),
                                                    made.list.place())));
        return made;
    }

    /// Executes a list; with `waits`, to its end.
    void run(List made, ID3D12CommandQueue* on = nullptr, bool waits = true) {
        REQUIRE(SUCCEEDED(made->Close()));
        ID3D12CommandList* lists[] = {made.list.get()};
        (on != nullptr ? on : queue)->ExecuteCommandLists(1, lists);
        kept.push_back(std::move(made));
        REQUIRE(SUCCEEDED((on != nullptr ? on : queue)->Signal(fence.get(), ++value)));
        if (waits)
            must(d3d12::wait_for(fence.get(), value, on != nullptr ? on : queue));
    }

    /// Behind the back of the checked device, so that nothing is in use though it looks like it.
    void idle_unseen() {
        Owned<ID3D12Fence> done;
        REQUIRE(SUCCEEDED(headless.handles().device->CreateFence(
            0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), done.place())));
        REQUIRE(SUCCEEDED(headless.handles().queue->Signal(done.get(), 1)));
        must(d3d12::wait_for(done.get(), 1, headless.handles().queue));
    }

    [[nodiscard]] bool has(std::string_view code) const {
        return std::ranges::any_of(checked.findings(),
                                   [&](const Finding& f) { return f.code == code; });
    }
    /// Exactly this rule was broken; they are forgotten.
    [[nodiscard]] bool only(std::string_view code) {
        const Findings findings = checked.findings();
        checked.forget_findings();
        for (const Finding& f : findings)
            CHECK(std::string_view(f.code) == code);
        return !findings.empty();
    }
    [[nodiscard]] bool none() {
        const Findings findings = checked.findings();
        checked.forget_findings();
        for (const Finding& f : findings)
            FAIL_CHECK(f.problem);
        return findings.empty();
    }
};

D3D12_RESOURCE_BARRIER barrier(ID3D12Resource* resource, D3D12_RESOURCE_STATES before,
                               D3D12_RESOURCE_STATES after, UINT subresource = 0) {
    D3D12_RESOURCE_BARRIER made{};
    made.Type = D3D12_RESOURCE_BARRIER_TYPE_TRANSITION;
    made.Transition.pResource = resource;
    made.Transition.Subresource = subresource;
    made.Transition.StateBefore = before;
    made.Transition.StateAfter = after;
    return made;
}

void change(const Program::List& list, ID3D12Resource* resource, D3D12_RESOURCE_STATES before,
            D3D12_RESOURCE_STATES after, UINT subresource = 0) {
    const D3D12_RESOURCE_BARRIER one = barrier(resource, before, after, subresource);
    list->ResourceBarrier(1, &one);
}

D3D12_TEXTURE_COPY_LOCATION part_of(ID3D12Resource* texture, UINT subresource = 0) {
    D3D12_TEXTURE_COPY_LOCATION location{};
    location.pResource = texture;
    location.Type = D3D12_TEXTURE_COPY_TYPE_SUBRESOURCE_INDEX;
    location.SubresourceIndex = subresource;
    return location;
}

/// 16 x 16 texels of four bytes, laid out as they should be.
D3D12_TEXTURE_COPY_LOCATION footprint(ID3D12Resource* buffer) {
    D3D12_TEXTURE_COPY_LOCATION location{};
    location.pResource = buffer;
    location.Type = D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
    location.PlacedFootprint.Footprint = {DXGI_FORMAT_R8G8B8A8_UNORM, 16, 16, 1, 256};
    return location;
}

}  // namespace

TEST_CASE("checked Direct3D 12: a sound upload breaks no rule, by promotion or by barriers") {
    Program program;
    const auto texture = program.texture();
    const auto buffer = program.buffer();
    const auto to = part_of(texture.get()), from = footprint(buffer.get());
    auto list = program.list();
    list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);  // from COMMON by promotion
    change(list, texture.get(), copy_dest, pixels);
    program.run(std::move(list));
    CHECK(program.none());
    // On a queue that copies, what is promoted goes back to COMMON at the end.
    const auto other = part_of(texture.get(), 1);
    auto half = footprint(buffer.get());
    half.PlacedFootprint.Footprint.Width = half.PlacedFootprint.Footprint.Height = 8;
    list = program.list(D3D12_COMMAND_LIST_TYPE_COPY);
    list->CopyTextureRegion(&other, 0, 0, 0, &half, nullptr);
    program.run(std::move(list), program.copy_queue);
    list = program.list();
    change(list, texture.get(), common, pixels, 1);
    program.run(std::move(list));
    CHECK(program.none());
    // Two reads promote to both states, and go back together.
    const auto third = part_of(texture.get(), 2), fourth = part_of(texture.get(), 5);
    for (int round = 0; round < 2; ++round) {
        list = program.list();
        list->CopyTextureRegion(&fourth, 0, 0, 0, &third, nullptr);
        change(list, texture.get(), copy_dest, common, 5);
        program.run(std::move(list));
    }
    CHECK(program.none());
    CHECK(program.checked.resources_alive() == 2);
}

TEST_CASE("checked Direct3D 12: placements, pitches, rows and blocks of footprints") {
    Program program;
    const auto texture = program.texture();
    const auto buffer = program.buffer();
    const auto to = part_of(texture.get());
    const auto breaks = [&](const char* code, auto change_it) {
        CAPTURE(code);
        auto from = footprint(buffer.get());
        change_it(from.PlacedFootprint);
        const auto list = program.list();
        list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
        CHECK(program.only(code));
        CHECK(SUCCEEDED(list->Close()));
    };
    breaks("footprint-placement", [](auto& f) { f.Offset = 256; });
    breaks("footprint-pitch", [](auto& f) { f.Footprint.RowPitch = 320; });
    breaks("footprint-pitch", [](auto& f) {
        f.Footprint.Width = 1;
        f.Footprint.RowPitch = 0;
    });
    breaks("footprint-outside", [](auto& f) { f.Offset = 4608; });
    breaks("copy-of-another-format",
           [](auto& f) { f.Footprint.Format = DXGI_FORMAT_R16G16_UNORM; });
    breaks("box-outside", [](auto& f) {
        f.Footprint.Width = 17;
        f.Footprint.Height = 8;
    });
    breaks("box-outside", [](auto& f) { f.Footprint.Height = 17; });
    // The last row may end where the buffer does, short of its pitch.
    auto from = footprint(buffer.get());
    from.PlacedFootprint.Offset = 4096;
    from.PlacedFootprint.Footprint = {DXGI_FORMAT_R8G8B8A8_UNORM, 4, 16, 1, 256};
    const auto list = program.list();
    list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
    CHECK(program.none());

    const auto blocks = program.texture(16, 16, 5, DXGI_FORMAT_BC1_UNORM);
    const auto smallest = part_of(blocks.get(), 4);
    from = footprint(buffer.get());
    from.PlacedFootprint.Footprint = {DXGI_FORMAT_BC1_UNORM, 1, 1, 1, 256};
    list->CopyTextureRegion(&smallest, 0, 0, 0, &from, nullptr);
    CHECK(program.has("footprint-blocks"));
    program.checked.forget_findings();
    from.PlacedFootprint.Footprint = {DXGI_FORMAT_BC1_UNORM, 4, 4, 1, 256};
    list->CopyTextureRegion(&smallest, 0, 0, 0, &from, nullptr);
    CHECK(program.none());
    const auto top = part_of(blocks.get());
    list->CopyTextureRegion(&top, 2, 0, 0, &from, nullptr);
    CHECK(program.only("box-blocks"));
    const D3D12_BOX empty{4, 0, 0, 4, 4, 1};
    list->CopyTextureRegion(&top, 0, 0, 0, &from, &empty);
    CHECK(program.only("box-empty"));
    const auto beyond = part_of(blocks.get(), 10);
    list->CopyTextureRegion(&beyond, 0, 0, 0, &from, nullptr);
    CHECK(program.only("no-such-subresource"));
    const auto not_a_buffer = part_of(buffer.get());
    list->CopyTextureRegion(&top, 0, 0, 0, &not_a_buffer, nullptr);
    CHECK(program.only("location-of-another-kind"));
    CHECK(SUCCEEDED(list->Close()));
}

TEST_CASE("checked Direct3D 12: copies of buffers and whole resources") {
    Program program;
    const auto a = program.buffer(), b = program.buffer(4096, D3D12_HEAP_TYPE_READBACK);
    const auto list = program.list();
    list->CopyBufferRegion(b.get(), 0, a.get(), 4096, 4096);
    CHECK(program.none());
    list->CopyBufferRegion(b.get(), 1, a.get(), 0, 4096);
    CHECK(program.only("copy-outside"));
    list->CopyBufferRegion(b.get(), 0, a.get(), 8193, 0);
    CHECK(program.only("copy-outside"));
    const auto small = program.texture(8, 8), large = program.texture(), twin = program.texture();
    list->CopyResource(small.get(), large.get());
    CHECK(program.only("copy-of-another-size"));
    list->CopyResource(twin.get(), large.get());
    CHECK(program.none());
    CHECK(SUCCEEDED(list->Close()));
}

TEST_CASE("checked Direct3D 12: the state of each subresource at each use") {
    Program program;
    const auto texture = program.texture();
    const auto buffer = program.buffer();
    const auto from = footprint(buffer.get());
    const auto to = part_of(texture.get());
    auto list = program.list();
    change(list, texture.get(), common, pixels);
    list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
    program.run(std::move(list));
    CHECK(program.only("wrong-state"));
    // The sentence names the place and both states.
    list = program.list();
    list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
    program.run(std::move(list));
    const Findings found = program.checked.findings();
    REQUIRE(found.size() == 1);
    CHECK(contains(found[0].problem, "a copy writes subresource 0 (level 0, slice 0)"));
    CHECK(contains(found[0].problem, "PIXEL_SHADER_RESOURCE instead of COPY_DEST"));
    program.checked.forget_findings();
    // Only that one is in the wrong state: its neighbour is promoted.
    auto half = from;
    half.PlacedFootprint.Footprint.Width = half.PlacedFootprint.Footprint.Height = 8;
    const auto next = part_of(texture.get(), 1);
    list = program.list();
    list->CopyTextureRegion(&next, 0, 0, 0, &half, nullptr);
    program.run(std::move(list));
    CHECK(program.none());
    // It was promoted to a state that writes, and stays there.
    list = program.list();
    change(list, texture.get(), common, pixels, 1);
    program.run(std::move(list));
    CHECK(program.only("barrier-from-another-state"));
    list = program.list();
    change(list, texture.get(), copy_dest, pixels, 3);
    program.run(std::move(list));
    CHECK(program.only("barrier-from-another-state"));
}

TEST_CASE("checked Direct3D 12: what shaders sample and draws write, by their descriptors") {
    Program program;
    auto device = must(d3d12::Device::open(program.checked.handles()));
    const auto leaf = must(device.upload(support::random_texture(
        {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 3}, 1)));
    const Scene panel = panel_scene({.width = 64, .height = 48});
    must(d3d12::draw_scene(device, panel, leaf, AlphaMode::straight));
    CHECK(program.none());
    const auto readable = static_cast<D3D12_RESOURCE_STATES>(
        static_cast<unsigned>(pixels) |
        static_cast<unsigned>(D3D12_RESOURCE_STATE_NON_PIXEL_SHADER_RESOURCE));
    auto list = program.list();
    change(list, leaf.resource(), readable, copy_source, 1);
    program.run(std::move(list));
    must(d3d12::draw_scene(device, panel, leaf, AlphaMode::straight));
    const Findings found = program.checked.findings();
    REQUIRE(found.size() == 1);
    CHECK(contains(found[0].problem, "a shader samples subresource 1 (level 1, slice 0)"));
    CHECK(contains(found[0].problem, "COPY_SOURCE instead of PIXEL_SHADER_RESOURCE"));
    program.checked.forget_findings();
    list = program.list();
    change(list, leaf.resource(), copy_source, readable, 1);
    program.run(std::move(list));
    must(d3d12::draw_scene(device, panel, leaf, AlphaMode::straight));
    CHECK(program.none());

    // A clear of what is no target any more.
    const auto target = program.texture(16, 16, 1, DXGI_FORMAT_R8G8B8A8_UNORM, common,
                                        D3D12_RESOURCE_FLAG_ALLOW_RENDER_TARGET);
    Owned<ID3D12DescriptorHeap> heap;
    D3D12_DESCRIPTOR_HEAP_DESC desc{};
    desc.NumDescriptors = 1;
    desc.Type = D3D12_DESCRIPTOR_HEAP_TYPE_RTV;
    REQUIRE(SUCCEEDED(
        program.device->CreateDescriptorHeap(&desc, iid_of<ID3D12DescriptorHeap>(), heap.place())));
    const auto place = heap->GetCPUDescriptorHandleForHeapStart();
    program.device->CreateRenderTargetView(target.get(), nullptr, place);
    const float black[4] = {};
    list = program.list();
    change(list, target.get(), common, D3D12_RESOURCE_STATE_RENDER_TARGET,
           D3D12_RESOURCE_BARRIER_ALL_SUBRESOURCES);
    list->ClearRenderTargetView(place, black, 0, nullptr);
    program.run(std::move(list));
    CHECK(program.none());
    list = program.list();
    change(list, target.get(), D3D12_RESOURCE_STATE_RENDER_TARGET, copy_source);
    list->ClearRenderTargetView(place, black, 0, nullptr);
    program.run(std::move(list));
    CHECK(program.only("wrong-state"));
}

TEST_CASE("checked Direct3D 12: barriers that make no sense") {
    Program program;
    const auto texture = program.texture();
    const auto buffer = program.buffer();
    auto list = program.list();
    change(list, texture.get(), common, common);
    CHECK(program.only("barrier-without-change"));
    change(list, texture.get(), common,
           static_cast<D3D12_RESOURCE_STATES>(static_cast<unsigned>(copy_dest) |
                                              static_cast<unsigned>(pixels)));
    CHECK(program.only("states-that-exclude-each-other"));
    change(list, texture.get(), common, pixels, 6);
    CHECK(program.only("no-such-subresource"));
    change(list, buffer.get(), D3D12_RESOURCE_STATE_GENERIC_READ, copy_source);
    CHECK(program.only("barrier-on-fixed-state"));
    list = program.list(D3D12_COMMAND_LIST_TYPE_COPY);
    change(list, texture.get(), common, pixels);
    CHECK(program.only("state-of-another-queue"));
    CHECK(SUCCEEDED(list->Close()));
    list = program.list();
    change(list, texture.get(), common, pixels, D3D12_RESOURCE_BARRIER_ALL_SUBRESOURCES);
    change(list, texture.get(), pixels, copy_source, 4);
    program.run(std::move(list));
    CHECK(program.none());
}

TEST_CASE("checked Direct3D 12: queues know each other by fences and by COMMON") {
    Program program;
    const auto texture = program.texture();
    const auto buffer = program.buffer();
    const auto to = part_of(texture.get());
    const auto from = footprint(buffer.get());
    const auto copy = [&](bool waits) {
        auto list = program.list(D3D12_COMMAND_LIST_TYPE_COPY);
        list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
        program.run(std::move(list), program.copy_queue, waits);
    };
    const auto show = [&](bool waits) {
        auto list = program.list();
        change(list, texture.get(), common, pixels);
        change(list, texture.get(), pixels, common);
        program.run(std::move(list), nullptr, waits);
    };
    copy(false);
    show(true);
    CHECK(program.only("queues-out-of-order"));
    copy(false);
    REQUIRE(SUCCEEDED(program.queue->Wait(program.fence.get(), program.value)));
    show(true);
    CHECK(program.none());
    // The host may wait as well.
    copy(true);
    show(true);
    CHECK(program.none());
    // The other way round as well.
    show(false);
    copy(true);
    CHECK(program.only("queues-out-of-order"));
    // What the direct queue leaves in another state than COMMON is not for the queue that copies.
    auto list = program.list();
    change(list, texture.get(), common, copy_dest);
    program.run(std::move(list));
    copy(true);
    CHECK(program.only("not-common-between-queues"));
}

TEST_CASE("checked Direct3D 12: a queue that waits for what is signalled later goes on then") {
    Findings broken;
    d3d12::States states([&](FindingCode code, std::string problem, std::string remedy) {
        broken.push_back({code, std::move(problem), std::move(remedy)});
    });
    int draws = 0, copies = 0, fence = 0,
        place = 0;  // whose addresses stand for queues and the like
    auto* texture = reinterpret_cast<ID3D12Resource*>(&place);
    D3D12_RESOURCE_DESC desc{};
    desc.Dimension = D3D12_RESOURCE_DIMENSION_TEXTURE2D;
    desc.Width = desc.Height = 4;
    desc.DepthOrArraySize = desc.MipLevels = 1;
    const auto use = [&](D3D12_RESOURCE_STATES state) {
        return d3d12::Commands{d3d12::Use{texture, {0}, state, "a test uses"}};
    };
    const auto run = [&](bool waits) {
        states.add_resource(texture, desc, D3D12_HEAP_TYPE_DEFAULT, common);
        states.add_queue(&draws, D3D12_COMMAND_LIST_TYPE_DIRECT);
        states.add_queue(&copies, D3D12_COMMAND_LIST_TYPE_COPY);
        if (waits)
            states.wait(&draws, &fence, 1);
        states.execute(&draws, use(pixels));
        states.execute(&copies, use(copy_dest));
        states.signal(&copies, &fence, 1);
    };
    run(true);
    CHECK(broken.empty());
    states.drop_resource(texture);  // the host has waited for nothing
    REQUIRE(broken.size() == 1);
    CHECK(broken[0].code == "released-in-use");
    broken.clear();
    states.drop_fence(&fence);
    run(false);
    REQUIRE(broken.size() == 1);
    CHECK(broken[0].code == "queues-out-of-order");
}

TEST_CASE("checked Direct3D 12: resources that go too early, lists left open, other devices") {
    Program program;
    const auto buffer = program.buffer();
    const auto from = footprint(buffer.get());
    {
        auto texture = program.texture();
        const auto to = part_of(texture.get());
        auto list = program.list();
        list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
        program.run(std::move(list), nullptr, false);
        must(d3d12::wait_for(program.fence.get(), program.value, program.queue));
        texture.reset();
        CHECK(program.none());
        texture = program.texture();
        const auto again = part_of(texture.get());
        list = program.list();
        list->CopyTextureRegion(&again, 0, 0, 0, &from, nullptr);
        program.run(std::move(list), nullptr, false);
        program.idle_unseen();
    }
    CHECK(program.only("released-in-use"));
    must(d3d12::wait_for(program.fence.get(), program.value, program.queue));
    CHECK(program.checked.resources_alive() == 1);
    const auto open = program.list();
    ID3D12CommandList* lists[] = {open.list.get()};
    program.queue->ExecuteCommandLists(1, lists);
    CHECK(program.only("list-not-closed"));
    CHECK(SUCCEEDED(open->Close()));
    Program other;
    const auto foreign = other.list();
    CHECK(SUCCEEDED(foreign->Close()));
    lists[0] = foreign.list.get();
    program.queue->ExecuteCommandLists(1, lists);
    CHECK(program.only("list-of-another-device"));
    const auto elsewhere = other.texture();
    const auto to = part_of(elsewhere.get());
    const auto list = program.list();
    list->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
    CHECK(program.only("unknown-resource"));
    CHECK(SUCCEEDED(list->Close()));
    CHECK(must_fail(d3d12::CheckedDevice::wrap({})).kind == ErrorKind::usage);
}

TEST_CASE("Direct3D 12: a device that is removed at any call: an error, and everything released") {
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 24, .height = 16, .levels = 4}, 1);
    const Texture texels =
        support::random_texture({.format = Format::rgba8_srgb, .width = 4, .height = 4}, 2);
    bool got_through = false;
    std::size_t failures = 0;
    for (std::uint32_t calls = 0; calls < 200 && !got_through; ++calls) {
        CAPTURE(calls);
        Program program;
        program.checked.remove_after(calls);
        {
            auto device = d3d12::Device::open(program.checked.handles(), {.staging_budget = 1024});
            const auto use = [&]() -> Status {
                if (!device)
                    return tl::unexpected(device.error());
                auto uploaded = device->upload(texture);
                if (!uploaded)
                    return tl::unexpected(uploaded.error());
                const Status updated = uploaded->update({.width = 4, .height = 4}, texels);
                if (!updated)
                    return updated;
                const auto back = uploaded->read_back();
                return back ? Status{} : tl::unexpected(back.error());
            };
            const Status used = use();
            got_through = used.has_value();
            if (!used) {
                ++failures;
                CHECK(used.error().kind == ErrorKind::device);
                CHECK(contains(used.error().message, "removed"));
                CHECK_FALSE(d3d12::Device::open(program.checked.handles()).has_value());
            }
        }
        CHECK(program.checked.resources_alive() == 0);
        CHECK(program.none());
    }
    CHECK(got_through);
    CHECK(failures > 20);
}

TEST_CASE("Direct3D 12: small textures share a heap at multiples of 4 KiB") {
    Program program;
    auto device = must(d3d12::Device::open(program.checked.handles()));
    d3d12::HeapPool& heaps = *device.context()->heaps;
    {
        std::vector<d3d12::GpuTexture> small;
        for (std::uint32_t i = 0; i < 40; ++i)
            small.push_back(must(device.upload(support::random_texture(
                {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 3}, i))));
        CHECK(heaps.heap_count() == 1);
        CHECK(heaps.bytes_taken() == 40 * 4096);
        for (std::uint32_t i = 0; i < 40; ++i)
            CHECK(support::holds(
                small[i], small[i].plan(),
                support::random_texture(
                    {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 3}, i)));
        const auto own =
            must(device.upload(small.front().read_back().value(), {}, {.is_committed = true}));
        const auto drawn = must(device.upload(small.front().read_back().value(), {},
                                              {.flags = D3D12_RESOURCE_FLAG_ALLOW_RENDER_TARGET}));
        CHECK(heaps.bytes_taken() == 40 * 4096);
    }
    CHECK(heaps.bytes_taken() == 0);
    const TextureShape at_most{.format = Format::rgba8_unorm, .width = 128, .height = 128};
    CHECK(d3d12::takes_small_alignment(at_most));  // 16 tiles of 32 x 32
    CHECK_FALSE(
        d3d12::takes_small_alignment({.format = Format::rgba8_unorm, .width = 129, .height = 128}));
    CHECK(d3d12::takes_small_alignment({.format = Format::bc1_unorm, .width = 512, .height = 256}));
    CHECK_FALSE(
        d3d12::takes_small_alignment({.format = Format::bc7_unorm, .width = 512, .height = 256}));
    CHECK(d3d12::takes_small_alignment({.format = Format::rg8_unorm, .width = 256, .height = 128}));
    CHECK_FALSE(
        d3d12::takes_small_alignment({.format = Format::rg8_unorm, .width = 128, .height = 257}));
    CHECK(program.none());
}

TEST_CASE("Direct3D 12: a signal that the driver loses does not keep the program waiting") {
    Program program;
    Owned<ID3D12Fence> lost;  // nobody ever signals it
    REQUIRE(SUCCEEDED(program.device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(),
                                                  lost.place())));
    must(d3d12::wait_for(lost.get(), 1, program.queue));
    CHECK(lost->GetCompletedValue() == 0);
    CHECK(program.none());
}
