// Interfaces that are released at the end of their scope.
#pragma once

#include <utility>

#include <yl/d3d12.hpp>

namespace yl::d3d12 {

/// Owns one reference.
template <class Interface>
class Owned {
 public:
    Owned() = default;
    /// Takes over the caller's reference.
    explicit Owned(Interface* object) : object_(object) {}
    Owned(Owned&& other) noexcept : object_(std::exchange(other.object_, nullptr)) {}
    Owned& operator=(Owned&& other) noexcept {
        std::swap(object_, other.object_);
        return *this;
    }
    Owned(const Owned&) = delete;
    Owned& operator=(const Owned&) = delete;
    ~Owned() { reset(); }

    void reset() {
        if (Interface* object = std::exchange(object_, nullptr))
            object->Release();
    }
    [[nodiscard]] Interface* get() const { return object_; }
    Interface* operator->() const { return object_; }
    explicit operator bool() const { return object_ != nullptr; }
    /// Where a call puts what it makes.
    [[nodiscard]] void** place() {
        reset();
        return reinterpret_cast<void**>(&object_);
    }

 private:
    Interface* object_ = nullptr;
};

#ifdef _WIN32
template <class Interface>
[[nodiscard]] const GUID& iid_of() {
    return __uuidof(Interface);
}
#else
template <class Interface>
[[nodiscard]] const GUID& iid_of() {
    return __vkd3d_uuidof<Interface>();
}
#endif

/// What a call says, as an error that tells what it was to do.
[[nodiscard]] Status check(HRESULT result, const char* what);

}  // namespace yl::d3d12
