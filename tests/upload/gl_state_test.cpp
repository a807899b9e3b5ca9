// Samplers that are shared, updates, levels that come later, handles, and the state around them.
#include <cstring>
#include <map>

#include "support/files.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl_fixture.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using support::contains;
using support::GlFixture;
using support::must;
using support::must_fail;

TEST_CASE("equal samplers are one object, which goes with its last texture") {
    const GlFixture gl;
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 4, .height = 4, .levels = 3}, 1);
    const auto with = [&](const char* text) {
        return must(gl.device.upload(texture, {.sampler = must(parse_sampler(text))}));
    };
    CHECK(gl.device.sampler_count() == 0);
    {
        const auto a = with("aniso=4 wrap=mirror"), b = with("wrap=mirror aniso=4");
        CHECK(a.sampler_name() == b.sampler_name());
        const auto c = with("wrap=repeat");
        CHECK(a.sampler_name() != c.sampler_name());
        CHECK(gl.device.sampler_count() == 2);
    }
    CHECK(gl.device.sampler_count() == 0);
}

TEST_CASE("an update changes its box, in the texture's own format") {
    const GlFixture fixture;
    for (const bool streaming : {false, true}) {
        const auto device =
            must(gl::Device::open(fixture.context.loader(), {.streaming = streaming}));
        const Texture texture = support::random_texture({.format = Format::r8_srgb,
                                                         .width = 20,
                                                         .height = 10,
                                                         .levels = 5,
                                                         .layers = 2,
                                                         .is_array = true},
                                                        1);
        auto uploaded = must(device.upload(texture));
        const Texture patch =
            support::random_texture({.format = Format::r8_srgb, .width = 3, .height = 2}, 2);
        const TextureBox box = {.level = 1, .layer = 1, .x = 7, .y = 3, .width = 3, .height = 2};
        must(uploaded.update(box, patch));
        const UploadPlan plan = must(plan_update(uploaded.plan(), box, device.profile()));
        const Texture sent = plan.converts() ? must(converted_for(plan, patch)) : Texture{};
        const Texture back = must(uploaded.read_back(1, 1, 0));
        const std::size_t bytes = info(plan.shape.format).block_bytes;
        const ConstImageView now = back.image(0);
        const ConstImageView patched = plan.converts() ? sent.image(0) : patch.image(0);
        for (std::uint32_t y = 0; y < 2; ++y)
            CHECK(std::memcmp(&now.row(3 + y)[7 * bytes], patched.row(y).data(), 3 * bytes) == 0);
        CHECK(contains(must_fail(uploaded.update({.width = 2}, patch)).message, "do not fill"));
        CHECK(must_fail(uploaded.update({.level = 9}, patch)).kind == ErrorKind::usage);
    }
}

TEST_CASE("small levels first, and the others when they come") {
    GlFixture gl;
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 32, .height = 32, .levels = 6}, 1);
    auto uploaded = must(gl.device.upload(texture, {.levels = {3, 3}}));
    CHECK(uploaded.level_range().first == 3);
    CHECK(uploaded.level_range().last() == 5);
    const UploadPlan rest =
        must(plan_upload(texture.shape(), gl.device.profile(), {.levels = {0, 3}}));
    must(uploaded.write(rest, 0, texture));
    must(uploaded.set_level_range({0, 6}));
    CHECK(support::holds(uploaded, rest, texture));
    CHECK(must_fail(uploaded.set_level_range({0, 7})).kind == ErrorKind::usage);
    CHECK(must_fail(uploaded.write(rest, 1, texture)).kind == ErrorKind::usage);
}

TEST_CASE("streaming leaves unpack state, buffers and bindings as they were") {
    const GlFixture fixture;
    const auto device = must(gl::Device::open(fixture.context.loader(),
                                              {.streaming = true, .direct_state_access = false}));
    const gl::Functions& gl = device.functions();
    GLuint texture = 0, buffer = 0;
    gl.GenTextures(1, &texture);
    gl.BindTexture(GL_TEXTURE_3D, texture);
    gl.GenBuffers(1, &buffer);
    gl.BindBuffer(GL_PIXEL_UNPACK_BUFFER, buffer);
    gl.PixelStorei(GL_UNPACK_ROW_LENGTH, 77);
    const Texture sent = support::random_texture(
        {.format = Format::rgb8_unorm, .width = 7, .height = 5, .depth = 3}, 1);
    const auto uploaded = must(device.upload(sent));
    CHECK(gl.integer(GL_TEXTURE_BINDING_3D) == static_cast<GLint>(texture));
    CHECK(gl.integer(GL_PIXEL_UNPACK_BUFFER_BINDING) == static_cast<GLint>(buffer));
    CHECK(gl.integer(GL_UNPACK_ROW_LENGTH) == 77);
    CHECK(support::holds(uploaded, uploaded.plan(), sent));
    gl.BindBuffer(GL_PIXEL_UNPACK_BUFFER, 0);
    gl.DeleteBuffers(1, &buffer);
    gl.DeleteTextures(1, &texture);
}

TEST_CASE("reading back from OpenGL ES leaves drawing state as it was") {
    const auto context =
        must(gl::HeadlessContext::create({.major = 3, .minor = 2, .embedded = true}));
    const auto device = must(gl::Device::open(context.loader()));
    CHECK(contains(device.profile().api, "OpenGL ES 3.2"));
    CHECK(device.profile().api_kind == GraphicsApi::opengl_es);
    CHECK_FALSE(device.profile().supports(Format::bgra8_unorm));
    const gl::Functions& gl = device.functions();
    gl.Enable(GL_SCISSOR_TEST);
    gl.Enable(GL_BLEND);
    gl.ActiveTexture(GL_TEXTURE2);
    gl.Viewport(1, 2, 3, 4);
    const Texture sent = support::random_texture(
        {.format = Format::rgb16_float, .width = 7, .height = 5, .faces = 1}, 1);
    const auto uploaded = must(device.upload(sent));
    CHECK(support::holds(uploaded, uploaded.plan(), sent));
    CHECK(gl.IsEnabled(GL_SCISSOR_TEST) == GL_TRUE);
    CHECK(gl.IsEnabled(GL_BLEND) == GL_TRUE);
    CHECK(gl.integer(GL_ACTIVE_TEXTURE) == GL_TEXTURE2);
    std::array<GLint, 4> viewport{};
    gl.GetIntegerv(GL_VIEWPORT, viewport.data());
    CHECK(viewport == std::array<GLint, 4>{1, 2, 3, 4});
    must(gl.check("run this test"));
}

namespace {

/// A driver's part that this machine's has not: texture handles, recorded.
struct HandleDriver {
    static inline std::map<GLuint64, bool> resident = {};
    static inline std::size_t made = 0;

    static GLuint64 make(GLuint texture, GLuint sampler) {
        ++made;
        const GLuint64 handle = (GLuint64{texture} << 32) | sampler;
        resident[handle] = false;
        return handle;
    }
    static void get_integer(GLenum name, GLint* value) {
        real_integer(name, value);
        *value += name == GL_NUM_EXTENSIONS ? 1 : 0;
    }
    /// One more than the driver has.
    static const GLubyte* get_string(GLenum name, GLuint index) {
        GLint count = 0;
        real_integer(GL_NUM_EXTENSIONS, &count);
        const bool is_ours = name == GL_EXTENSIONS && index == static_cast<GLuint>(count);
        return is_ours ? reinterpret_cast<const GLubyte*>("GL_ARB_bindless_texture")
                       : real_string(name, index);
    }
    static inline PFNGLGETINTEGERVPROC real_integer = nullptr;
    static inline PFNGLGETSTRINGIPROC real_string = nullptr;
    static void enter(GLuint64 handle) { resident.at(handle) = true; }
    static void leave(GLuint64 handle) { resident.at(handle) = false; }
};

gl::Loader with_handles(const gl::Loader& driver) {
    HandleDriver::real_integer = reinterpret_cast<PFNGLGETINTEGERVPROC>(driver("glGetIntegerv"));
    HandleDriver::real_string = reinterpret_cast<PFNGLGETSTRINGIPROC>(driver("glGetStringi"));
    return [driver](const char* name) -> void* {
        const std::string wanted = name;
        if (wanted == "glGetIntegerv")
            return reinterpret_cast<void*>(&HandleDriver::get_integer);
        if (wanted == "glGetStringi")
            return reinterpret_cast<void*>(&HandleDriver::get_string);
        if (wanted == "glGetTextureSamplerHandleARB")
            return reinterpret_cast<void*>(&HandleDriver::make);
        if (wanted == "glMakeTextureHandleResidentARB")
            return reinterpret_cast<void*>(&HandleDriver::enter);
        if (wanted == "glMakeTextureHandleNonResidentARB")
            return reinterpret_cast<void*>(&HandleDriver::leave);
        return driver(name);
    };
}

gl::Loader without_handles(const gl::Loader& driver) {
    return [driver](const char* name) -> void* {
        return contains(name, "TextureSamplerHandle") ? nullptr : driver(name);
    };
}

}  // namespace

TEST_CASE("handles: one for each sampler, resident on request, gone with the texture") {
    const GlFixture fixture;
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 4, .height = 4, .levels = 3}, 1);
    {
        const auto plain = must(gl::Device::open(without_handles(fixture.context.loader())));
        auto uploaded = must(plain.upload(texture));
        CHECK(must_fail(uploaded.handle()).kind == ErrorKind::unsupported);
    }
    const auto device = must(gl::Device::open(with_handles(fixture.context.loader())));
    HandleDriver::made = 0;
    std::uint64_t own = 0, mirrored = 0;
    {
        auto uploaded = must(device.upload(texture));
        own = must(uploaded.handle());
        CHECK(must(uploaded.handle()) == own);
        CHECK(must(uploaded.handle(uploaded.sampler())) == own);
        mirrored = must(uploaded.handle(must(parse_sampler("wrap=mirror"))));
        CHECK(mirrored != own);
        CHECK(HandleDriver::made == 2);
        CHECK_FALSE(HandleDriver::resident.at(own));
        must(uploaded.make_resident(own, true));
        must(uploaded.make_resident(own, true));
        CHECK(HandleDriver::resident.at(own));
        CHECK_FALSE(HandleDriver::resident.at(mirrored));
        must(uploaded.make_resident(mirrored, true));
        must(uploaded.make_resident(mirrored, false));
        CHECK(must_fail(uploaded.make_resident(12345, true)).kind == ErrorKind::usage);
        // a handle freezes the texture's description
        CHECK(must_fail(uploaded.set_level_range({1, 2})).kind == ErrorKind::usage);
    }
    CHECK_FALSE(HandleDriver::resident.at(own));
}

TEST_CASE("scales, biases and maps of a compatibility profile touch no texel, and stay") {
    const auto context = must(gl::HeadlessContext::create({.compatibility = true}));
    const auto transfer =
        reinterpret_cast<void (*)(GLenum, GLfloat)>(context.loader()("glPixelTransferf"));
    REQUIRE(static_cast<bool>(transfer));
    constexpr GLenum red_scale = 0x0D14, alpha_bias = 0x0D1D;
    transfer(red_scale, 0.5F);
    transfer(alpha_bias, 0.25F);
    for (const bool streaming : {false, true}) {
        const auto device = must(gl::Device::open(context.loader(), {.streaming = streaming}));
        const Texture texture = support::random_texture(
            {.format = Format::rgba8_unorm, .width = 20, .height = 12, .levels = 5}, 4);
        const auto uploaded = must(device.upload(texture));
        CHECK(support::holds(uploaded, uploaded.plan(), texture));
        GLfloat scale = 0, bias = 0;
        device.functions().GetFloatv(red_scale, &scale);
        device.functions().GetFloatv(alpha_bias, &bias);
        CHECK(scale == 0.5F);
        CHECK(bias == 0.25F);
    }
}

TEST_CASE("OpenGL ES reads three channels back whatever the program's colour mask") {
    const auto context =
        must(gl::HeadlessContext::create({.major = 3, .minor = 2, .embedded = true}));
    const auto device = must(gl::Device::open(context.loader()));
    const auto& gl = device.functions();
    gl.ColorMaski(0, GL_FALSE, GL_TRUE, GL_FALSE, GL_TRUE);
    gl.ColorMaski(1, GL_TRUE, GL_FALSE, GL_TRUE, GL_TRUE);
    const Texture texture = support::random_texture(
        {.format = Format::rgb8_unorm, .width = 9, .height = 6, .levels = 2}, 4);
    const auto uploaded = must(device.upload(texture));
    CHECK(support::holds(uploaded, uploaded.plan(), texture));
    std::array<GLboolean, 4> mask{}, next{};
    gl.GetBooleani_v(GL_COLOR_WRITEMASK, 0, mask.data());
    gl.GetBooleani_v(GL_COLOR_WRITEMASK, 1, next.data());
    CHECK(mask == std::array<GLboolean, 4>{GL_FALSE, GL_TRUE, GL_FALSE, GL_TRUE});
    CHECK(next == std::array<GLboolean, 4>{GL_TRUE, GL_FALSE, GL_TRUE, GL_TRUE});
    must(gl.check("run this test"));
}

TEST_CASE("one part is read alone, of every kind of texture and by every way") {
    const gl::HeadlessOptions contexts[] = {
        {}, {.major = 3, .minor = 3}, {.major = 3, .minor = 2, .embedded = true}};
    for (const gl::HeadlessOptions& options : contexts) {
        const auto context = must(gl::HeadlessContext::create(options));
        auto device = must(gl::Device::open(context.loader()));
        for (const Format format : {Format::rgba8_unorm, Format::rgb8_unorm, Format::bc1_unorm}) {
            TextureShape flat{.format = format, .width = 16, .height = 16, .levels = 3};
            TextureShape array = flat, cube = flat, cubes = flat, volume = flat;
            array.layers = 3;
            array.is_array = cubes.is_array = true;
            cube.faces = 6;
            cubes.faces = 6;
            cubes.layers = 2;
            volume.depth = 5;
            for (const TextureShape& shape : {flat, array, cube, cubes, volume}) {
                if (format == Format::bc1_unorm && (shape.depth > 1 || options.embedded))
                    continue;
                const Texture texture = support::random_texture(shape, 5);
                const auto uploaded = device.upload(texture);
                if (!uploaded)  // cube arrays are not in every context
                    continue;
                REQUIRE(uploaded->plan().shape == shape);
                for (std::uint32_t level = 0; level < 3; ++level) {
                    CAPTURE(level);
                    const std::uint32_t layer = shape.layers - 1, face = shape.faces / 2;
                    const Texture one = must(uploaded->read_back(level, layer, face));
                    const std::byte* from = texture.image(level, layer, face).data;
                    CHECK(std::equal(one.level(0).begin(), one.level(0).end(), from));
                }
            }
        }
        must(device.functions().check("run this test"));
    }
}

TEST_CASE("names go back to the program, and come from it") {
    const GlFixture fixture;
    auto device = must(gl::Device::open(fixture.context.loader()));
    const auto& gl = device.functions();
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 20, .height = 12, .levels = 5}, 4);
    GLuint name = 0;
    {
        gl::GpuTexture uploaded = must(device.upload(texture));
        name = std::move(uploaded).release();
    }
    REQUIRE(gl.IsTexture(name) == GL_TRUE);
    {
        gl::GpuTexture adopted = must(
            device.adopt(name, texture.shape(), {.sampler = must(parse_sampler("mag=nearest"))}));
        CHECK(adopted.texture_name() == name);
        CHECK(adopted.sampler().mag == Filter::nearest);
        CHECK(support::holds(adopted, adopted.plan(), texture));
        const Texture texel = support::random_texture({.format = Format::rgba8_unorm}, 9);
        must(adopted.update({.level = 1, .x = 3, .y = 2}, texel));
        const Texture level = must(adopted.read_back(1, 0, 0));
        CHECK(std::ranges::equal(level.image(0).row(2).subspan(12, 4), texel.level(0)));
    }
    CHECK(gl.IsTexture(name) == GL_FALSE);
    // What is no such texture is refused, and stays the caller's.
    CHECK(must_fail(device.adopt(name, texture.shape())).place == "name");
    const gl::GpuTexture other = must(device.upload(texture));
    TextureShape shape = texture.shape();
    shape.width = 21;
    CHECK(contains(must_fail(device.adopt(other.texture_name(), shape)).message, "20 x 12"));
    shape = texture.shape();
    shape.layers = 2;
    CHECK(must_fail(device.adopt(other.texture_name(), shape)).place == "shape");
    CHECK(gl.IsTexture(other.texture_name()) == GL_TRUE);
    must(gl.check("run this test"));
}

TEST_CASE("the keeper on OpenGL, streamed") {
    const GlFixture fixture;
    auto device = must(gl::Device::open(fixture.context.loader(), {.streaming = true}));
    support::TemporaryFolder folder;
    const Texture texture = support::random_texture(
        {.format = Format::bc7_srgb, .width = 40, .height = 24, .levels = 6}, 4);
    must(write_texture(folder.path("panel.ktx2"), texture));
    TextureKeeper keeper(device, {.staging_budget = 1000});
    const auto ticket = keeper.request({.file = folder.path("panel.ktx2")});
    const auto missing = keeper.request({.file = folder.path("missing.ktx2")});
    REQUIRE(keeper.texture_as<gl::GpuTexture>(ticket) != nullptr);
    struct OtherBackend : DeviceTexture {
        static const void* backend_key() { return nullptr; }
    };
    CHECK(keeper.texture_as<OtherBackend>(ticket) == nullptr);
    CHECK(keeper.texture(ticket)->shape().width == 1);
    keeper.pump_until_settled();
    const auto* kept = keeper.texture_as<gl::GpuTexture>(ticket);
    REQUIRE(kept != nullptr);
    CHECK(support::holds(*kept, kept->plan(), texture));
    kept->bind(3);
    CHECK(keeper.status(missing).state == KeeperState::failed);
    must(device.functions().check("run this test"));
}

namespace {

/// The real driver, but that it says to be out of memory when told so.
struct SpentDriver {
    static inline GLenum pending = GL_NO_ERROR;
    static inline int calls_before = 0;  ///< that find no error, before the one that does
    static inline PFNGLGETERRORPROC real = nullptr;

    static GLenum get_error() {
        if (pending != GL_NO_ERROR && calls_before-- > 0)
            return GL_NO_ERROR;
        const GLenum error = pending;
        pending = GL_NO_ERROR;
        return error != GL_NO_ERROR ? error : real();
    }
};

}  // namespace

TEST_CASE("OpenGL without memory, or lost, is an error, and no texture stays") {
    const GlFixture fixture;
    SpentDriver::real = reinterpret_cast<PFNGLGETERRORPROC>(fixture.context.loader()("glGetError"));
    const auto device = must(gl::Device::open([&](const char* name) -> void* {
        return std::string(name) == "glGetError" ? reinterpret_cast<void*>(&SpentDriver::get_error)
                                                 : fixture.context.loader()(name);
    }));
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 4, .height = 4, .levels = 3}, 1);
    // What the program left behind is forgotten.
    SpentDriver::pending = GL_INVALID_VALUE;
    must(device.upload(texture));
    SpentDriver::pending = GL_OUT_OF_MEMORY;
    SpentDriver::calls_before = 1;
    const Error spent = must_fail(device.upload(texture));
    CHECK(spent.kind == ErrorKind::memory);
    CHECK(contains(spent.message, "out of memory"));
    CHECK(device.sampler_count() == 0);
    SpentDriver::pending = 0x0507;  // GL_CONTEXT_LOST
    SpentDriver::calls_before = 1;
    const Error lost = must_fail(device.upload(texture));
    CHECK(lost.kind == ErrorKind::device);
    CHECK(contains(lost.message, "context is lost"));
    CHECK(
        support::holds(must(device.upload(texture)), must(device.upload(texture)).plan(), texture));
}

TEST_CASE("layers of an array that come later, on OpenGL") {
    GlFixture gl;
    support::check_late_layers(gl.device);
}

TEST_CASE("OpenGL: textures that were moved from refuse what is asked of them") {
    GlFixture gl;
    support::check_moved_from(gl.device);
}

namespace {

/// What a driver is asked for around streaming, seen through functions that stand before its own.
struct StreamLog {
    std::map<GLuint, GLsync> pending = {};  ///< of each buffer that copies may still read
    GLuint bound = 0;
    int fences = 0, waits = 0, maps = 0, too_early = 0;
    PFNGLBINDBUFFERPROC bind = nullptr;
    PFNGLMAPBUFFERRANGEPROC map = nullptr;
    PFNGLFENCESYNCPROC fence = nullptr;
    PFNGLCLIENTWAITSYNCPROC wait = nullptr;
    GLuint last_mapped = 0;
};

StreamLog stream_log;  // the driver's functions take no object

void* logged(const gl::Loader& loader, const std::string& name) {
    void* own = loader(name.c_str());
    if (name == "glBindBuffer") {
        stream_log.bind = reinterpret_cast<PFNGLBINDBUFFERPROC>(own);
        return reinterpret_cast<void*>(+[](GLenum target, GLuint buffer) {
            if (target == GL_PIXEL_UNPACK_BUFFER)
                stream_log.bound = buffer;
            stream_log.bind(target, buffer);
        });
    }
    if (name == "glMapBufferRange") {
        stream_log.map = reinterpret_cast<PFNGLMAPBUFFERRANGEPROC>(own);
        return reinterpret_cast<void*>(
            +[](GLenum target, GLintptr offset, GLsizeiptr length, GLbitfield access) {
                ++stream_log.maps;
                stream_log.last_mapped = stream_log.bound;
                if (stream_log.pending[stream_log.bound] != nullptr)
                    ++stream_log.too_early;
                return stream_log.map(target, offset, length, access);
            });
    }
    if (name == "glFenceSync") {
        stream_log.fence = reinterpret_cast<PFNGLFENCESYNCPROC>(own);
        return reinterpret_cast<void*>(+[](GLenum condition, GLbitfield flags) {
            ++stream_log.fences;
            return stream_log.pending[stream_log.last_mapped] = stream_log.fence(condition, flags);
        });
    }
    if (name == "glClientWaitSync") {
        stream_log.wait = reinterpret_cast<PFNGLCLIENTWAITSYNCPROC>(own);
        return reinterpret_cast<void*>(+[](GLsync sync, GLbitfield flags, GLuint64 timeout) {
            ++stream_log.waits;
            const GLenum state = stream_log.wait(sync, flags, timeout);
            for (auto& [buffer, fence] : stream_log.pending)
                if (fence == sync && state != GL_TIMEOUT_EXPIRED && state != GL_WAIT_FAILED)
                    fence = nullptr;
            return state;
        });
    }
    return own;
}

}  // namespace

TEST_CASE("a pixel buffer is filled again only when its copies are done") {
    const GlFixture fixture;
    stream_log = {};
    const gl::Loader loader = [&](const char* name) {
        return logged(fixture.context.loader(), name);
    };
    auto device = must(gl::Device::open(loader, {.streaming = true}));
    std::vector<gl::GpuTexture> textures;
    for (std::uint32_t i = 0; i < 12; ++i)
        textures.push_back(must(device.upload(support::random_texture(
            {.format = Format::rgba8_srgb, .width = 64, .height = 64}, i))));
    CHECK(stream_log.maps >= 12);
    CHECK(stream_log.fences == stream_log.maps);
    CHECK(stream_log.waits > 0);
    CHECK(stream_log.too_early == 0);
}
