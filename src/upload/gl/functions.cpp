#include "upload/gl/functions.hpp"

#include <fmt/format.h>

namespace yl::gl {

Result<Functions> Functions::load(const Loader& loader) {
    Functions functions;
    const char* missing = nullptr;
#define YL_GL_LOAD(name, NAME) \
    functions.name = reinterpret_cast<PFNGL##NAME##PROC>(loader("gl" #name));
#define YL_GL_LOAD_REQUIRED(name, NAME) \
    YL_GL_LOAD(name, NAME)              \
    if (functions.name == nullptr)      \
        missing = "gl" #name;
    YL_GL_REQUIRED(YL_GL_LOAD_REQUIRED)
    YL_GL_OPTIONAL(YL_GL_LOAD)
#undef YL_GL_LOAD_REQUIRED
#undef YL_GL_LOAD
    if (missing != nullptr)
        return fail(
            ErrorKind::device,
            fmt::format("the OpenGL context has no {}; version 3.3, or 3.0 of OpenGL ES, is needed",
                        missing));
    return functions;
}

namespace {

constexpr GLenum context_lost = 0x0507;  // GL_CONTEXT_LOST

}  // namespace

void Functions::forget_errors() const {
    // A lost context never runs out of errors.
    constexpr int most = 32;
    for (int i = 0; i < most && GetError() != GL_NO_ERROR; ++i) {
    }
}

Status Functions::check(const char* what) const {
    const GLenum first = GetError();
    if (first == GL_NO_ERROR)
        return {};
    forget_errors();
    const char* meaning = first == GL_OUT_OF_MEMORY   ? "out of memory"
                          : first == context_lost     ? "the context is lost"
                          : first == GL_INVALID_ENUM  ? "invalid enumerant"
                          : first == GL_INVALID_VALUE ? "invalid value"
                                                      : "invalid operation";
    return fail(first == GL_OUT_OF_MEMORY ? ErrorKind::memory : ErrorKind::device,
                fmt::format("OpenGL refused to {}: {} ({:#06x})", what, meaning, first));
}

}  // namespace yl::gl
