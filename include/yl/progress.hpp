// How far a long call is, and a way to end it.
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

/// What a call is doing.
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

/// How far a call is.
struct ProgressStep {
    Phase phase = Phase::reading;
    float share = 0;  ///< of this phase, 0 .. 1; every phase ends with 1 unless the call fails
};

/// Told of each step of a call, from any thread, one at a time; an answer of false ends the call
/// with `ErrorKind::cancelled`. A call goes through the phases that it needs, some of them several
/// times. All calls run on the oneTBB arena of the thread that makes them: `tbb::task_arena` or
/// `tbb::global_control` set the number of threads.
class YL_API Progress {
 public:
    Progress() = default;
    template <class Told>
    requires std::is_invocable_r_v<bool, Told&, const ProgressStep&> Progress(
        Told told)  // NOLINT: a lambda is all that is needed
        : told_(std::make_shared<const Function>(std::move(told))) {}

    /// Whether anybody is told.
    explicit operator bool() const { return told_ != nullptr; }
    /// Whether to go on.
    bool operator()(const ProgressStep& step) const { return told_ == nullptr || (*told_)(step); }

    /// Options with and without progress give the same result, and are equal.
    friend bool operator==(const Progress&, const Progress&) { return true; }

 private:
    using Function = std::function<bool(const ProgressStep&)>;

    std::shared_ptr<const Function> told_ = {};
};

}  // namespace yl
