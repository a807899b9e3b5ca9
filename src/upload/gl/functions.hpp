// OpenGL's entry points, found through the program's own loader.
#pragma once

#include <GL/glcorearb.h>

#include <yl/gl.hpp>

// name, and the same as the registry spells it in its function types; in OpenGL 3.3 and in ES 3.0
#define YL_GL_REQUIRED(X)                               \
    X(GetString, GETSTRING)                             \
    X(GetStringi, GETSTRINGI)                           \
    X(GetIntegerv, GETINTEGERV)                         \
    X(GetFloatv, GETFLOATV)                             \
    X(GetError, GETERROR)                               \
    X(GenTextures, GENTEXTURES)                         \
    X(DeleteTextures, DELETETEXTURES)                   \
    X(IsTexture, ISTEXTURE)                             \
    X(BindTexture, BINDTEXTURE)                         \
    X(ActiveTexture, ACTIVETEXTURE)                     \
    X(TexImage2D, TEXIMAGE2D)                           \
    X(TexSubImage2D, TEXSUBIMAGE2D)                     \
    X(TexImage3D, TEXIMAGE3D)                           \
    X(TexSubImage3D, TEXSUBIMAGE3D)                     \
    X(CompressedTexImage2D, COMPRESSEDTEXIMAGE2D)       \
    X(CompressedTexImage3D, COMPRESSEDTEXIMAGE3D)       \
    X(CompressedTexSubImage2D, COMPRESSEDTEXSUBIMAGE2D) \
    X(CompressedTexSubImage3D, COMPRESSEDTEXSUBIMAGE3D) \
    X(TexParameteri, TEXPARAMETERI)                     \
    X(PixelStorei, PIXELSTOREI)                         \
    X(BindBuffer, BINDBUFFER)                           \
    X(GenBuffers, GENBUFFERS)                           \
    X(DeleteBuffers, DELETEBUFFERS)                     \
    X(BufferData, BUFFERDATA)                           \
    X(MapBufferRange, MAPBUFFERRANGE)                   \
    X(UnmapBuffer, UNMAPBUFFER)                         \
    X(FenceSync, FENCESYNC)                             \
    X(DeleteSync, DELETESYNC)                           \
    X(ClientWaitSync, CLIENTWAITSYNC)                   \
    X(GenSamplers, GENSAMPLERS)                         \
    X(DeleteSamplers, DELETESAMPLERS)                   \
    X(BindSampler, BINDSAMPLER)                         \
    X(SamplerParameteri, SAMPLERPARAMETERI)             \
    X(SamplerParameterf, SAMPLERPARAMETERF)             \
    X(SamplerParameterfv, SAMPLERPARAMETERFV)           \
    X(Enable, ENABLE)                                   \
    X(Disable, DISABLE)                                 \
    X(IsEnabled, ISENABLED)                             \
    X(Viewport, VIEWPORT)                               \
    X(DrawArrays, DRAWARRAYS)                           \
    X(DrawElements, DRAWELEMENTS)                       \
    X(VertexAttribPointer, VERTEXATTRIBPOINTER)         \
    X(EnableVertexAttribArray, ENABLEVERTEXATTRIBARRAY) \
    X(Clear, CLEAR)                                     \
    X(DepthMask, DEPTHMASK)                             \
    X(BlendFunc, BLENDFUNC)                             \
    X(ReadPixels, READPIXELS)                           \
    X(GenVertexArrays, GENVERTEXARRAYS)                 \
    X(DeleteVertexArrays, DELETEVERTEXARRAYS)           \
    X(BindVertexArray, BINDVERTEXARRAY)                 \
    X(GenFramebuffers, GENFRAMEBUFFERS)                 \
    X(DeleteFramebuffers, DELETEFRAMEBUFFERS)           \
    X(BindFramebuffer, BINDFRAMEBUFFER)                 \
    X(CheckFramebufferStatus, CHECKFRAMEBUFFERSTATUS)   \
    X(FramebufferRenderbuffer, FRAMEBUFFERRENDERBUFFER) \
    X(FramebufferTexture2D, FRAMEBUFFERTEXTURE2D)       \
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
    X(GetUniformBlockIndex, GETUNIFORMBLOCKINDEX)       \
    X(UniformBlockBinding, UNIFORMBLOCKBINDING)         \
    X(BindBufferBase, BINDBUFFERBASE)

// null where the context has not got them
#define YL_GL_OPTIONAL(X)                                               \
    X(TexStorage1D, TEXSTORAGE1D)                                       \
    X(TexStorage2D, TEXSTORAGE2D)                                       \
    X(TexStorage3D, TEXSTORAGE3D)                                       \
    X(TexImage1D, TEXIMAGE1D)                                           \
    X(TexSubImage1D, TEXSUBIMAGE1D)                                     \
    X(GetTexImage, GETTEXIMAGE)                                         \
    X(GetCompressedTexImage, GETCOMPRESSEDTEXIMAGE)                     \
    X(GetTexLevelParameteriv, GETTEXLEVELPARAMETERIV)                   \
    X(GenerateMipmap, GENERATEMIPMAP)                                   \
    X(ObjectLabel, OBJECTLABEL)                                         \
    X(CopyImageSubData, COPYIMAGESUBDATA)                               \
    X(CreateTextures, CREATETEXTURES)                                   \
    X(TextureStorage1D, TEXTURESTORAGE1D)                               \
    X(TextureStorage2D, TEXTURESTORAGE2D)                               \
    X(TextureStorage3D, TEXTURESTORAGE3D)                               \
    X(TextureSubImage1D, TEXTURESUBIMAGE1D)                             \
    X(TextureSubImage2D, TEXTURESUBIMAGE2D)                             \
    X(TextureSubImage3D, TEXTURESUBIMAGE3D)                             \
    X(CompressedTextureSubImage2D, COMPRESSEDTEXTURESUBIMAGE2D)         \
    X(CompressedTextureSubImage3D, COMPRESSEDTEXTURESUBIMAGE3D)         \
    X(TextureParameteri, TEXTUREPARAMETERI)                             \
    X(BindTextureUnit, BINDTEXTUREUNIT)                                 \
    X(GetTextureSamplerHandleARB, GETTEXTURESAMPLERHANDLEARB)           \
    X(MakeTextureHandleResidentARB, MAKETEXTUREHANDLERESIDENTARB)       \
    X(MakeTextureHandleNonResidentARB, MAKETEXTUREHANDLENONRESIDENTARB) \
    X(GetTextureSubImage, GETTEXTURESUBIMAGE)                           \
    X(GetCompressedTextureSubImage, GETCOMPRESSEDTEXTURESUBIMAGE)       \
    X(PixelTransferf, PIXELTRANSFERF)                                   \
    X(ColorMaski, COLORMASKI)                                           \
    X(GetBooleani_v, GETBOOLEANI_V)

namespace yl::gl {

// Of compatibility profiles alone, which the header of the core profile leaves out.
using PFNGLPIXELTRANSFERFPROC = void(APIENTRYP)(GLenum name, GLfloat value);

struct Functions {
#define YL_GL_MEMBER(name, NAME) PFNGL##NAME##PROC name = nullptr;
    YL_GL_REQUIRED(YL_GL_MEMBER)
    YL_GL_OPTIONAL(YL_GL_MEMBER)
#undef YL_GL_MEMBER

    bool is_embedded = false;              ///< OpenGL ES
    bool has_direct_state_access = false;  ///< and may be used
    bool has_fixed_storage = false;        ///< glTexStorage
    bool has_bindless = false;             ///< GL_ARB_bindless_texture
    bool has_labels = false;               ///< glObjectLabel
    bool has_part_reads = false;           ///< glGetTextureSubImage
    bool has_pixel_transfer = false;       ///< a compatibility profile
    bool has_block_pixel_store = false;    ///< GL_UNPACK_COMPRESSED_BLOCK_... and its like

    [[nodiscard]] static Result<Functions> load(const Loader& loader);

    [[nodiscard]] GLint integer(GLenum name) const {
        GLint value = 0;
        GetIntegerv(name, &value);
        return value;
    }

    /// Forgets errors that the program left behind, so that they are not taken for the library's.
    void forget_errors() const;
    /// The first error since the last call, as an error value that says what was being done.
    [[nodiscard]] Status check(const char* what) const;
};

}  // namespace yl::gl
