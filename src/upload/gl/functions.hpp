// OpenGL's entry points, found through the program's own loader.
#pragma once

#include <GL/glcorearb.h>

#include <yl/gl.hpp>

// name, and the same as the registry spells it in its function types
#define YL_GL_REQUIRED(X)                               \
    X(GetString, GETSTRING)                             \
    X(GetStringi, GETSTRINGI)                           \
    X(GetIntegerv, GETINTEGERV)                         \
    X(GetFloatv, GETFLOATV)                             \
    X(GetError, GETERROR)                               \
    X(GenTextures, GENTEXTURES)                         \
    X(DeleteTextures, DELETETEXTURES)                   \
    X(BindTexture, BINDTEXTURE)                         \
    X(ActiveTexture, ACTIVETEXTURE)                     \
    X(TexImage2D, TEXIMAGE2D)                           \
    X(TexSubImage2D, TEXSUBIMAGE2D)                     \
    X(TexImage3D, TEXIMAGE3D)                           \
    X(TexSubImage3D, TEXSUBIMAGE3D)                     \
    X(CompressedTexSubImage2D, COMPRESSEDTEXSUBIMAGE2D) \
    X(CompressedTexSubImage3D, COMPRESSEDTEXSUBIMAGE3D) \
    X(GetCompressedTexImage, GETCOMPRESSEDTEXIMAGE)     \
    X(TexParameteri, TEXPARAMETERI)                     \
    X(TexParameteriv, TEXPARAMETERIV)                   \
    X(GetTexImage, GETTEXIMAGE)                         \
    X(GetTexLevelParameteriv, GETTEXLEVELPARAMETERIV)   \
    X(PixelStorei, PIXELSTOREI)                         \
    X(BindBuffer, BINDBUFFER)                           \
    X(GenSamplers, GENSAMPLERS)                         \
    X(DeleteSamplers, DELETESAMPLERS)                   \
    X(BindSampler, BINDSAMPLER)                         \
    X(SamplerParameteri, SAMPLERPARAMETERI)             \
    X(SamplerParameterf, SAMPLERPARAMETERF)             \
    X(SamplerParameterfv, SAMPLERPARAMETERFV)           \
    X(Enable, ENABLE)                                   \
    X(Disable, DISABLE)                                 \
    X(Viewport, VIEWPORT)                               \
    X(DrawArrays, DRAWARRAYS)                           \
    X(ReadPixels, READPIXELS)                           \
    X(GenVertexArrays, GENVERTEXARRAYS)                 \
    X(DeleteVertexArrays, DELETEVERTEXARRAYS)           \
    X(BindVertexArray, BINDVERTEXARRAY)                 \
    X(GenFramebuffers, GENFRAMEBUFFERS)                 \
    X(DeleteFramebuffers, DELETEFRAMEBUFFERS)           \
    X(BindFramebuffer, BINDFRAMEBUFFER)                 \
    X(CheckFramebufferStatus, CHECKFRAMEBUFFERSTATUS)   \
    X(FramebufferRenderbuffer, FRAMEBUFFERRENDERBUFFER) \
    X(GenRenderbuffers, GENRENDERBUFFERS)               \
    X(DeleteRenderbuffers, DELETERENDERBUFFERS)         \
    X(BindRenderbuffer, BINDRENDERBUFFER)               \
    X(RenderbufferStorage, RENDERBUFFERSTORAGE)         \
    X(CreateShader, CREATESHADER)                       \
    X(DeleteShader, DELETESHADER)                       \
    X(ShaderSource, SHADERSOURCE)                       \
    X(CompileShader, COMPILESHADER)                     \
    X(CreateProgram, CREATEPROGRAM)                     \
    X(DeleteProgram, DELETEPROGRAM)                     \
    X(AttachShader, ATTACHSHADER)                       \
    X(LinkProgram, LINKPROGRAM)                         \
    X(GetProgramiv, GETPROGRAMIV)                       \
    X(GetProgramInfoLog, GETPROGRAMINFOLOG)             \
    X(UseProgram, USEPROGRAM)                           \
    X(GetUniformLocation, GETUNIFORMLOCATION)           \
    X(Uniform1i, UNIFORM1I)                             \
    X(Uniform1f, UNIFORM1F)                             \
    X(Uniform2f, UNIFORM2F)                             \
    X(Uniform3fv, UNIFORM3FV)

// null where the context has not got them
#define YL_GL_OPTIONAL(X)         \
    X(TexStorage2D, TEXSTORAGE2D) \
    X(TexStorage3D, TEXSTORAGE3D) \
    X(GenerateMipmap, GENERATEMIPMAP)

namespace yl::gl {

struct Functions {
#define YL_GL_MEMBER(name, NAME) PFNGL##NAME##PROC name = nullptr;
    YL_GL_REQUIRED(YL_GL_MEMBER)
    YL_GL_OPTIONAL(YL_GL_MEMBER)
#undef YL_GL_MEMBER

    [[nodiscard]] static Result<Functions> load(const Loader& loader);

    [[nodiscard]] GLint integer(GLenum name) const {
        GLint value = 0;
        GetIntegerv(name, &value);
        return value;
    }

    /// The first error since the last call, as an error value that says what was being done.
    [[nodiscard]] Status check(const char* what) const;
};

}  // namespace yl::gl
