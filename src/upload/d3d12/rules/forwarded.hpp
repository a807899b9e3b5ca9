// Interfaces that stand before others of the same kind and hand calls on to them.
#pragma once

#include <atomic>

#include "upload/d3d12/com.hpp"

namespace yl::d3d12 {

/// Goes with its last reference; begins with one.
template <class Interface>
class Counted : public Interface {
 public:
    Counted() = default;
    Counted(const Counted&) = delete;
    Counted& operator=(const Counted&) = delete;
    virtual ~Counted() = default;

    ULONG STDMETHODCALLTYPE AddRef() override { return ++references_; }
    ULONG STDMETHODCALLTYPE Release() override {
        const ULONG left = --references_;
        if (left == 0)
            delete this;
        return left;
    }

 private:
    std::atomic<ULONG> references_ = 1;
};

/// Owns one reference to the real object. `Bases` are interfaces that it answers for beside its own.
template <class Interface, class... Bases>
class Forwarded : public Counted<Interface> {
 public:
    explicit Forwarded(Owned<Interface> real) : real_(std::move(real)) {}

    [[nodiscard]] Interface* real() const { return real_.get(); }

    /// Only for what stands here, so that nobody gets past it.
    HRESULT STDMETHODCALLTYPE QueryInterface(REFIID id, void** object) override {
        const auto is_one_of = [&](auto... ids) { return (IsEqualGUID(id, ids) || ...); };
        if (!is_one_of(iid_of<IUnknown>(), iid_of<ID3D12Object>(), iid_of<Interface>(),
                       iid_of<Bases>()...)) {
            *object = nullptr;
            return E_NOINTERFACE;
        }
        this->AddRef();
        *object = this;
        return S_OK;
    }
    HRESULT STDMETHODCALLTYPE GetPrivateData(REFGUID id, UINT* bytes, void* data) override {
        return real()->GetPrivateData(id, bytes, data);
    }
    HRESULT STDMETHODCALLTYPE SetPrivateData(REFGUID id, UINT bytes, const void* data) override {
        return real()->SetPrivateData(id, bytes, data);
    }
    HRESULT STDMETHODCALLTYPE SetPrivateDataInterface(REFGUID id, const IUnknown* data) override {
        return real()->SetPrivateDataInterface(id, data);
    }
    HRESULT STDMETHODCALLTYPE SetName(const WCHAR* name) override { return real()->SetName(name); }

 private:
    Owned<Interface> real_;
};

/// A child of a device.
template <class Interface, class... Bases>
class ForwardedChild : public Forwarded<Interface, ID3D12DeviceChild, Bases...> {
 public:
    using Forwarded<Interface, ID3D12DeviceChild, Bases...>::Forwarded;

    HRESULT STDMETHODCALLTYPE GetDevice(REFIID id, void** device) override {
        return this->real()->GetDevice(id, device);
    }
};

}  // namespace yl::d3d12
