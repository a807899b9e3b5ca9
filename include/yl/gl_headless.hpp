// An OpenGL context without window and monitor, by EGL. Needs YellowLattice::gl.
#pragma once

#include <memory>
#include <yl/gl.hpp>

namespace yl::gl {

struct HeadlessOptions {
    int major = 4;
    int minor = 5;
    bool embedded = false;       ///< OpenGL ES of that version
    bool compatibility = false;  ///< the profile that has all of the old functions
    /// Asks Mesa's software rasteriser, through the environment, not to take its shortcuts in level
    /// of detail and 8-bit filtering. It listens only before the process's first context.
    bool exact_filtering = true;
};

/// A context on EGL's surfaceless platform, current on the
/// thread that made it.
class HeadlessContext {
 public:
    /// Fails with `ErrorKind::device` when there is no such platform or no such context.
    [[nodiscard]] static Result<HeadlessContext> create(const HeadlessOptions& options = {});

    [[nodiscard]] Loader loader() const;

 private:
    struct Handles;
    struct Release {
        void operator()(Handles* handles) const;
    };
    std::unique_ptr<Handles, Release> handles_;
};

}  // namespace yl::gl
