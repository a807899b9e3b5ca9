#include <EGL/egl.h>
#include <EGL/eglext.h>
#include <fmt/format.h>

#include <cstdlib>
#include <vector>

#include <yl/gl.hpp>
#include "base/out_of_memory.hpp"

namespace yl::gl {

struct HeadlessContext::Handles {
    EGLDisplay display = EGL_NO_DISPLAY;
    EGLContext context = EGL_NO_CONTEXT;
};

void HeadlessContext::Release::operator()(Handles* handles) const {
    if (handles->context != EGL_NO_CONTEXT) {
        eglMakeCurrent(handles->display, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
        eglDestroyContext(handles->display, handles->context);
    }
    delete handles;  // the display is the process's own and stays
}

Result<HeadlessContext> HeadlessContext::create(const HeadlessOptions& options) try {
    const auto no_device = [](const char* step) {
        return fail(ErrorKind::device,
                    fmt::format("no OpenGL device without a window: {} failed (EGL error {:#06x})",
                                step, eglGetError()));
    };
    if (options.exact_filtering)
        ::setenv("GALLIVM_PERF", "no_quad_lod,no_aos_sampling,no_rho_approx,no_brilinear", 0);
    HeadlessContext result;
    result.handles_.reset(new Handles);
    Handles& handles = *result.handles_;
    handles.display =
        eglGetPlatformDisplay(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
    if (handles.display == EGL_NO_DISPLAY)
        return no_device("opening a surfaceless display");
    if (eglInitialize(handles.display, nullptr, nullptr) != EGL_TRUE)
        return no_device("starting the display");
    if (eglBindAPI(options.embedded ? EGL_OPENGL_ES_API : EGL_OPENGL_API) != EGL_TRUE)
        return no_device("choosing OpenGL");
    std::vector<EGLint> attributes = {EGL_CONTEXT_MAJOR_VERSION, options.major,
                                      EGL_CONTEXT_MINOR_VERSION, options.minor};
    if (!options.embedded)
        attributes.insert(attributes.end(),
                          {EGL_CONTEXT_OPENGL_PROFILE_MASK,
                           options.compatibility ? EGL_CONTEXT_OPENGL_COMPATIBILITY_PROFILE_BIT
                                                 : EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT});
    attributes.push_back(EGL_NONE);
    handles.context =
        eglCreateContext(handles.display, EGL_NO_CONFIG_KHR, EGL_NO_CONTEXT, attributes.data());
    if (handles.context == EGL_NO_CONTEXT)
        return no_device("creating a context");
    if (eglMakeCurrent(handles.display, EGL_NO_SURFACE, EGL_NO_SURFACE, handles.context) !=
        EGL_TRUE)
        return no_device("making the context current");
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Loader HeadlessContext::loader() const {
    return [](const char* name) { return reinterpret_cast<void*>(eglGetProcAddress(name)); };
}

}  // namespace yl::gl
