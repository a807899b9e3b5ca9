#include <yl/d3d12_rules.hpp>

#include <numeric>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "upload/d3d12/platform.hpp"
#include "upload/d3d12/rules/checked_list.hpp"
#include "upload/d3d12/rules/checked_queue.hpp"
#include "upload/d3d12/rules/copy_rules.hpp"
#include "upload/d3d12/rules/forwarded_device.hpp"
#include "upload/d3d12/rules/views.hpp"

namespace yl::d3d12 {
namespace {

using Book = std::shared_ptr<RuleBook>;

class DeviceInFront final : public ForwardedDevice {
 public:
    DeviceInFront(Book book, Owned<ID3D12Device> real)
        : ForwardedDevice(std::move(real)), book_(std::move(book)) {}

    HRESULT STDMETHODCALLTYPE CreateCommandQueue(const D3D12_COMMAND_QUEUE_DESC* desc, REFIID id,
                                                 void** queue) override {
        return make<ID3D12CommandQueue, CheckedQueue>(id, queue, [&](REFIID real_id, void** made) {
            return real()->CreateCommandQueue(desc, real_id, made);
        });
    }
    HRESULT STDMETHODCALLTYPE CreateCommandAllocator(D3D12_COMMAND_LIST_TYPE type, REFIID id,
                                                     void** allocator) override {
        return is_there() ? real()->CreateCommandAllocator(type, id, allocator) : device_removed;
    }
    HRESULT STDMETHODCALLTYPE CreateGraphicsPipelineState(
        const D3D12_GRAPHICS_PIPELINE_STATE_DESC* desc, REFIID id, void** pipeline) override {
        return is_there() ? real()->CreateGraphicsPipelineState(desc, id, pipeline)
                          : device_removed;
    }
    HRESULT STDMETHODCALLTYPE CreateComputePipelineState(
        const D3D12_COMPUTE_PIPELINE_STATE_DESC* desc, REFIID id, void** pipeline) override {
        return is_there() ? real()->CreateComputePipelineState(desc, id, pipeline) : device_removed;
    }
    HRESULT STDMETHODCALLTYPE CreateCommandList(UINT mask, D3D12_COMMAND_LIST_TYPE type,
                                                ID3D12CommandAllocator* allocator,
                                                ID3D12PipelineState* pipeline, REFIID id,
                                                void** list) override {
        return make<ID3D12GraphicsCommandList, CheckedList>(
            id, list, [&](REFIID real_id, void** made) {
                return real()->CreateCommandList(mask, type, allocator, pipeline, real_id, made);
            });
    }
    HRESULT STDMETHODCALLTYPE CreateDescriptorHeap(const D3D12_DESCRIPTOR_HEAP_DESC* desc,
                                                   REFIID id, void** heap) override {
        return is_there() ? real()->CreateDescriptorHeap(desc, id, heap) : device_removed;
    }
    HRESULT STDMETHODCALLTYPE CreateRootSignature(UINT mask, const void* bytecode, SIZE_T bytes,
                                                  REFIID id, void** signature) override {
        if (!is_there())
            return device_removed;
        const HRESULT result = real()->CreateRootSignature(mask, bytecode, bytes, id, signature);
        if (FAILED(result))
            return result;
        const std::scoped_lock lock(book_->mutex);
        book_->signatures[static_cast<ID3D12RootSignature*>(*signature)] =
            tables_of({static_cast<const std::byte*>(bytecode), static_cast<std::size_t>(bytes)});
        return result;
    }
    HRESULT STDMETHODCALLTYPE CreateFence(UINT64 value, D3D12_FENCE_FLAGS flags, REFIID id,
                                          void** fence) override {
        return make<ID3D12Fence, CheckedFence>(id, fence, [&](REFIID real_id, void** made) {
            return real()->CreateFence(value, flags, real_id, made);
        });
    }
    HRESULT STDMETHODCALLTYPE CreateHeap(const D3D12_HEAP_DESC* desc, REFIID id,
                                         void** heap) override {
        return is_there() ? real()->CreateHeap(desc, id, heap) : device_removed;
    }
    HRESULT STDMETHODCALLTYPE GetDeviceRemovedReason() override {
        return is_there() ? real()->GetDeviceRemovedReason() : device_removed;
    }

    HRESULT STDMETHODCALLTYPE CreateCommittedResource(const D3D12_HEAP_PROPERTIES* heap,
                                                      D3D12_HEAP_FLAGS flags,
                                                      const D3D12_RESOURCE_DESC* desc,
                                                      D3D12_RESOURCE_STATES state,
                                                      const D3D12_CLEAR_VALUE* clear, REFIID id,
                                                      void** resource) override {
        return followed(is_there() ? real()->CreateCommittedResource(heap, flags, desc, state,
                                                                     clear, id, resource)
                                   : device_removed,
                        resource, heap->Type, state);
    }
    HRESULT STDMETHODCALLTYPE CreatePlacedResource(ID3D12Heap* heap, UINT64 offset,
                                                   const D3D12_RESOURCE_DESC* desc,
                                                   D3D12_RESOURCE_STATES state,
                                                   const D3D12_CLEAR_VALUE* clear, REFIID id,
                                                   void** resource) override {
        return followed(is_there() ? real()->CreatePlacedResource(heap, offset, desc, state, clear,
                                                                  id, resource)
                                   : device_removed,
                        resource, heap->GetDesc().Properties.Type, state);
    }
    HRESULT STDMETHODCALLTYPE CreateReservedResource(const D3D12_RESOURCE_DESC* desc,
                                                     D3D12_RESOURCE_STATES state,
                                                     const D3D12_CLEAR_VALUE* clear, REFIID id,
                                                     void** resource) override {
        return followed(is_there()
                            ? real()->CreateReservedResource(desc, state, clear, id, resource)
                            : device_removed,
                        resource, D3D12_HEAP_TYPE_DEFAULT, state);
    }

    void STDMETHODCALLTYPE CreateShaderResourceView(ID3D12Resource* resource,
                                                    const D3D12_SHADER_RESOURCE_VIEW_DESC* desc,
                                                    D3D12_CPU_DESCRIPTOR_HANDLE place) override {
        keep_view(place, resource, [&](const auto& of) { return sampled_view(of, desc); });
        real()->CreateShaderResourceView(resource, desc, place);
    }
    void STDMETHODCALLTYPE CreateRenderTargetView(ID3D12Resource* resource,
                                                  const D3D12_RENDER_TARGET_VIEW_DESC* desc,
                                                  D3D12_CPU_DESCRIPTOR_HANDLE place) override {
        keep_view(place, resource, [&](const auto& of) { return target_view(of, desc); });
        real()->CreateRenderTargetView(resource, desc, place);
    }
    void STDMETHODCALLTYPE CreateDepthStencilView(ID3D12Resource* resource,
                                                  const D3D12_DEPTH_STENCIL_VIEW_DESC* desc,
                                                  D3D12_CPU_DESCRIPTOR_HANDLE place) override {
        keep_view(place, resource, [&](const auto& of) { return depth_view(of, desc); });
        real()->CreateDepthStencilView(resource, desc, place);
    }
    void STDMETHODCALLTYPE CreateUnorderedAccessView(ID3D12Resource* resource,
                                                     ID3D12Resource* counter,
                                                     const D3D12_UNORDERED_ACCESS_VIEW_DESC* desc,
                                                     D3D12_CPU_DESCRIPTOR_HANDLE place) override {
        forget_view(place);
        real()->CreateUnorderedAccessView(resource, counter, desc, place);
    }
    void STDMETHODCALLTYPE CreateConstantBufferView(const D3D12_CONSTANT_BUFFER_VIEW_DESC* desc,
                                                    D3D12_CPU_DESCRIPTOR_HANDLE place) override {
        forget_view(place);
        real()->CreateConstantBufferView(desc, place);
    }
    void STDMETHODCALLTYPE CopyDescriptorsSimple(UINT count, D3D12_CPU_DESCRIPTOR_HANDLE to,
                                                 D3D12_CPU_DESCRIPTOR_HANDLE from,
                                                 D3D12_DESCRIPTOR_HEAP_TYPE type) override {
        copy_views(to.ptr, from.ptr, count, type);
        real()->CopyDescriptorsSimple(count, to, from, type);
    }
    void STDMETHODCALLTYPE CopyDescriptors(UINT to_ranges,
                                           const D3D12_CPU_DESCRIPTOR_HANDLE* to_starts,
                                           const UINT* to_sizes, UINT from_ranges,
                                           const D3D12_CPU_DESCRIPTOR_HANDLE* from_starts,
                                           const UINT* from_sizes,
                                           D3D12_DESCRIPTOR_HEAP_TYPE type) override {
        const UINT step = GetDescriptorHandleIncrementSize(type);
        const auto places = [&](UINT ranges, const auto* starts, const UINT* sizes) {
            std::vector<SIZE_T> all;
            for (UINT range = 0; range < ranges; ++range)
                for (UINT i = 0; i < (sizes != nullptr ? sizes[range] : 1); ++i)
                    all.push_back(starts[range].ptr + SIZE_T{i} * step);
            return all;
        };
        const auto to = places(to_ranges, to_starts, to_sizes);
        const auto from = places(from_ranges, from_starts, from_sizes);
        for (std::size_t i = 0; i < std::min(to.size(), from.size()); ++i)
            copy_views(to[i], from[i], 1, type);
        real()->CopyDescriptors(to_ranges, to_starts, to_sizes, from_ranges, from_starts,
                                from_sizes, type);
    }

 private:
    [[nodiscard]] bool is_there() {
        const std::scoped_lock lock(book_->mutex);
        return book_->is_there();
    }

    /// Makes a real object, and what stands before it.
    template <class Interface, class Checked, class Make>
    HRESULT make(REFIID id, void** object, const Make& make_real) {
        *object = nullptr;
        if (!is_there())
            return device_removed;
        Owned<Interface> made;
        if (const HRESULT result = make_real(iid_of<Interface>(), made.place()); FAILED(result))
            return result;
        const Owned<Checked> checked(new Checked(book_, std::move(made)));
        return checked->QueryInterface(id, object);
    }

    HRESULT followed(HRESULT result, void** resource, D3D12_HEAP_TYPE heap,
                     D3D12_RESOURCE_STATES state) {
        if (SUCCEEDED(result) && resource != nullptr)
            follow(book_, static_cast<ID3D12Resource*>(*resource), heap, state);
        return result;
    }

    template <class MakeView>
    void keep_view(D3D12_CPU_DESCRIPTOR_HANDLE place, ID3D12Resource* resource,
                   const MakeView& make_view) {
        const std::scoped_lock lock(book_->mutex);
        book_->views.erase(place.ptr);
        if (resource == nullptr)
            return;
        if (const D3D12_RESOURCE_DESC* desc = book_->states.desc_of(resource)) {
            View view = make_view(*desc);
            view.resource = resource;
            book_->views[place.ptr] = std::move(view);
        } else {
            book_->report("unknown-resource", "a view shows a resource of another device",
                          "make resources by the device that is checked");
        }
    }

    void forget_view(D3D12_CPU_DESCRIPTOR_HANDLE place) {
        const std::scoped_lock lock(book_->mutex);
        book_->views.erase(place.ptr);
    }

    void copy_views(SIZE_T to, SIZE_T from, UINT count, D3D12_DESCRIPTOR_HEAP_TYPE type) {
        const UINT step = GetDescriptorHandleIncrementSize(type);
        const std::scoped_lock lock(book_->mutex);
        for (UINT i = 0; i < count; ++i) {
            const SIZE_T offset = SIZE_T{i} * step;
            const auto view = book_->views.find(from + offset);
            if (view != book_->views.end())
                book_->views[to + offset] = View(view->second);
            else
                book_->views.erase(to + offset);
        }
    }

    Book book_;
};

/// Another reference to an interface of the program's.
template <class Interface>
Owned<Interface> shared(Interface* object) {
    object->AddRef();
    return Owned<Interface>(object);
}

}  // namespace

struct CheckedDevice::Parts {
    Book book = std::make_shared<RuleBook>();
    Owned<ID3D12Device> device = {};
    Owned<ID3D12CommandQueue> queue = {}, copy_queue = {};
    DeviceHandles handles = {};
};

Result<CheckedDevice> CheckedDevice::wrap(const DeviceHandles& real) try {
    if (real.device == nullptr || real.queue == nullptr)
        return fail(ErrorKind::usage, "the device and a queue are needed");
    auto parts = std::make_unique<Parts>();
    const Book& book = parts->book;
    parts->device = Owned<ID3D12Device>(new DeviceInFront(book, shared(real.device)));
    book->device = parts->device.get();
    parts->queue = Owned<ID3D12CommandQueue>(new CheckedQueue(book, shared(real.queue)));
    if (real.copy_queue != nullptr)
        parts->copy_queue =
            Owned<ID3D12CommandQueue>(new CheckedQueue(book, shared(real.copy_queue)));
    parts->handles = real;
    parts->handles.device = parts->device.get();
    parts->handles.queue = parts->queue.get();
    parts->handles.copy_queue = parts->copy_queue.get();
    if (real.make_resource)
        parts->handles.make_resource =
            [book, make = real.make_resource](
                const D3D12_RESOURCE_DESC& desc) -> Result<ID3D12Resource*> {
            YL_TRY(ID3D12Resource * made, make(desc));
            if (made != nullptr)
                follow(book, made, D3D12_HEAP_TYPE_DEFAULT, D3D12_RESOURCE_STATE_COMMON);
            return made;
        };
    return CheckedDevice(std::move(parts));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

CheckedDevice::CheckedDevice(std::unique_ptr<Parts> parts) : parts_(std::move(parts)) {}
CheckedDevice::CheckedDevice(CheckedDevice&&) noexcept = default;
CheckedDevice& CheckedDevice::operator=(CheckedDevice&&) noexcept = default;
CheckedDevice::~CheckedDevice() = default;

const DeviceHandles& CheckedDevice::handles() const {
    return parts_->handles;
}

Findings CheckedDevice::findings() const {
    const std::scoped_lock lock(parts_->book->mutex);
    return parts_->book->findings;
}

void CheckedDevice::forget_findings() {
    const std::scoped_lock lock(parts_->book->mutex);
    parts_->book->findings.clear();
}

std::size_t CheckedDevice::resources_alive() const {
    const std::scoped_lock lock(parts_->book->mutex);
    return parts_->book->states.resources();
}

void CheckedDevice::remove() {
    const std::scoped_lock lock(parts_->book->mutex);
    parts_->book->remove();
}

void CheckedDevice::remove_after(std::uint32_t calls) {
    const std::scoped_lock lock(parts_->book->mutex);
    parts_->book->remove_after(calls);
}

}  // namespace yl::d3d12
