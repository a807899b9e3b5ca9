// Progress of long calls, and cancelling them.
//
//     yl::BakeOptions options;
//     options.progress = [&](const yl::ProgressStep& step) {
//         show(yl::name(step.phase), step.share);
//         return !window_was_closed;   // false: bake() ends with ErrorKind::cancelled
//     };
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string_view>
#include <type_traits>
#include <utility>
#include <yl/api.hpp>

namespace yl {

/// The phase that a call is in.
enum class Phase : std::uint8_t {
    reading,       ///< a file into pixels
    resizing,      ///< pixels to another size
    ordering,      ///< the faces of a cube
    assembling,    ///< a cube's faces from a picture
    prefiltering,  ///< a cube by roughness, or over half the sky
    levels,        ///< a mip chain
    encoding,      ///< to blocks
    packing,       ///< levels by Zstandard or zlib
    writing,       ///< a file
    textures,      ///< of a model, one after the other
};

/// "reading", "mip levels" ...
[[nodiscard]] YL_API std::string_view name(Phase phase);

/// The progress of a call.
struct ProgressStep {
    Phase phase = Phase::reading;
    float share = 0;  ///< of the phase, 0 .. 1; every phase ends with 1 unless the call fails
};

/// A callback for the progress of a call. It is called from any thread, but never concurrently, and
/// may return false to end the call with `ErrorKind::cancelled`. A call may go through a phase
/// several times. Calls run in the oneTBB arena of the calling thread: `tbb::task_arena` or
/// `tbb::global_control` set the number of threads.
class YL_API Progress {
 public:
    Progress() = default;
    template <class Told>
    requires std::is_invocable_r_v<bool, Told&, const ProgressStep&> Progress(
        Told told)  // NOLINT: a lambda is all that is needed
        : told_(std::make_shared<const Function>(std::move(told))) {}

    /// Whether there is a callback.
    explicit operator bool() const { return told_ != nullptr; }
    /// Reports a step; returns whether to continue.
    bool operator()(const ProgressStep& step) const { return told_ == nullptr || (*told_)(step); }

    /// Always equal, because options with and without progress give the same result.
    friend bool operator==(const Progress&, const Progress&) { return true; }

 private:
    using Function = std::function<bool(const ProgressStep&)>;

    std::shared_ptr<const Function> told_ = {};
};

}  // namespace yl
