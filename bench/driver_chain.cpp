// Mip chains against those of the software OpenGL driver: the time for a 4096 x 4096 sRGB texture,
// and how far both are from the ideal, in code values.
//     driver_chain DEMO_DATA
#include <GL/gl.h>
#include <GL/glext.h>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <yl/gl.hpp>
#include <yl/yl.hpp>

#include "subjects.hpp"

namespace {

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// OpenGL's own way from level 0 to a chain.
class DriverChain {
 public:
    explicit DriverChain(const yl::gl::Loader& loader)
        : gen_(load<PFNGLGENTEXTURESPROC>(loader, "glGenTextures")),
          bind_(load<PFNGLBINDTEXTUREPROC>(loader, "glBindTexture")),
          storage_(load<PFNGLTEXSTORAGE2DPROC>(loader, "glTexStorage2D")),
          upload_(load<PFNGLTEXSUBIMAGE2DPROC>(loader, "glTexSubImage2D")),
          generate_(load<PFNGLGENERATEMIPMAPPROC>(loader, "glGenerateMipmap")),
          read_(load<PFNGLGETTEXIMAGEPROC>(loader, "glGetTexImage")),
          finish_(load<PFNGLFINISHPROC>(loader, "glFinish")),
          destroy_(load<PFNGLDELETETEXTURESPROC>(loader, "glDeleteTextures")) {}

    /// Fills the levels from 1 on; gives the seconds that the driver took.
    double run(yl::Texture& texture) const {
        const yl::TextureShape& shape = texture.shape();
        const bool srgb = yl::info(shape.format).transfer == yl::Transfer::srgb;
        GLuint name = 0;
        gen_(1, &name);
        bind_(GL_TEXTURE_2D, name);
        const auto width = static_cast<GLsizei>(shape.width);
        const auto height = static_cast<GLsizei>(shape.height);
        storage_(GL_TEXTURE_2D, static_cast<GLsizei>(shape.levels),
                 srgb ? GL_SRGB8_ALPHA8 : GL_RGBA8, width, height);
        upload_(GL_TEXTURE_2D, 0, 0, 0, width, height, GL_RGBA, GL_UNSIGNED_BYTE,
                texture.level(0).data());
        finish_();
        const auto start = std::chrono::steady_clock::now();
        generate_(GL_TEXTURE_2D);
        finish_();
        const double seconds = seconds_since(start);
        for (std::uint32_t level = 1; level < shape.levels; ++level)
            read_(GL_TEXTURE_2D, static_cast<GLint>(level), GL_RGBA, GL_UNSIGNED_BYTE,
                  texture.level(level).data());
        destroy_(1, &name);
        return seconds;
    }

 private:
    template <class Function>
    static Function load(const yl::gl::Loader& loader, const char* name) {
        return reinterpret_cast<Function>(loader(name));
    }

    using PFNGLGENTEXTURESPROC = void (*)(GLsizei, GLuint*);
    using PFNGLBINDTEXTUREPROC = void (*)(GLenum, GLuint);
    using PFNGLTEXSUBIMAGE2DPROC = void (*)(GLenum, GLint, GLint, GLint, GLsizei, GLsizei, GLenum,
                                            GLenum, const void*);
    using PFNGLGETTEXIMAGEPROC = void (*)(GLenum, GLint, GLenum, GLenum, void*);
    using PFNGLFINISHPROC = void (*)();
    using PFNGLDELETETEXTURESPROC = void (*)(GLsizei, const GLuint*);

    PFNGLGENTEXTURESPROC gen_;
    PFNGLBINDTEXTUREPROC bind_;
    PFNGLTEXSTORAGE2DPROC storage_;
    PFNGLTEXSUBIMAGE2DPROC upload_;
    PFNGLGENERATEMIPMAPPROC generate_;
    PFNGLGETTEXIMAGEPROC read_;
    PFNGLFINISHPROC finish_;
    PFNGLDELETETEXTURESPROC destroy_;
};

/// The chain in double precision, as codes that are not rounded: straight alpha weighs colour.
std::vector<std::vector<double>> ideal_chain(const yl::Texture& texture) {
    const yl::TextureShape& shape = texture.shape();
    const bool srgb = yl::info(shape.format).transfer == yl::Transfer::srgb;
    std::vector<double> light;  // colour times alpha, and alpha
    for (std::size_t i = 0; i < texture.level(0).size(); i += 4) {
        const auto code = [&](std::size_t c) {
            return std::to_integer<int>(texture.level(0)[i + c]) / 255.0;
        };
        for (std::size_t c = 0; c < 3; ++c)
            light.push_back((srgb ? yl::srgb_decode(code(c)) : code(c)) * code(3));
        light.push_back(code(3));
    }
    std::vector<std::vector<double>> levels(1);
    for (std::uint32_t level = 1; level < shape.levels; ++level) {
        const std::uint32_t w = shape.width_at(level), h = shape.height_at(level);
        const std::uint32_t above_w = shape.width_at(level - 1),
                            above_h = shape.height_at(level - 1);
        std::vector<double> next(std::size_t{w} * h * 4);
        const auto overlap = [](double begin, double end, double texel) {
            return std::max(0.0, std::min(end, texel + 1) - std::max(begin, texel));
        };
        for (std::uint32_t y = 0; y < h; ++y)
            for (std::uint32_t x = 0; x < w; ++x) {
                const double x0 = double(x) * above_w / w, x1 = double(x + 1) * above_w / w;
                const double y0 = double(y) * above_h / h, y1 = double(y + 1) * above_h / h;
                for (auto j = static_cast<std::uint32_t>(y0); j < above_h && j < y1; ++j)
                    for (auto i = static_cast<std::uint32_t>(x0); i < above_w && i < x1; ++i) {
                        const double weight =
                            overlap(x0, x1, i) * overlap(y0, y1, j) / ((x1 - x0) * (y1 - y0));
                        for (std::size_t c = 0; c < 4; ++c)
                            next[(std::size_t{y} * w + x) * 4 + c] +=
                                weight * light[(std::size_t{j} * above_w + i) * 4 + c];
                    }
            }
        light = next;
        std::vector<double>& codes = levels.emplace_back();
        for (std::size_t i = 0; i < light.size(); i += 4) {
            for (std::size_t c = 0; c < 3; ++c) {
                const double value = light[i + 3] > 0 ? light[i + c] / light[i + 3] : -1;
                codes.push_back(value < 0 ? -1 : 255 * (srgb ? yl::srgb_encode(value) : value));
            }
            codes.push_back(255 * light[i + 3]);
        }
    }
    return levels;
}

struct Error {
    double mean = 0, max = 0;
};

Error error_of(const yl::Texture& texture, const std::vector<std::vector<double>>& ideal) {
    Error error;
    std::size_t count = 0;
    for (std::uint32_t level = 1; level < texture.shape().levels; ++level)
        for (std::size_t i = 0; i < texture.level(level).size(); ++i) {
            if (ideal[level][i] < 0)
                continue;  // the colour of nothing
            const double off =
                std::abs(std::to_integer<int>(texture.level(level)[i]) - ideal[level][i]);
            error.mean += off;
            error.max = std::max(error.max, off);
            ++count;
        }
    error.mean /= static_cast<double>(std::max<std::size_t>(count, 1));
    return error;
}

void compare_demo(const DriverChain& driver, const std::string& folder, const char* name,
                  yl::Role role) {
    const auto picture = yl::read_picture(folder + "/" + name + ".png", {.role = role});
    if (!picture)
        return static_cast<void>(std::printf("%s\n", picture.error().sentence().c_str()));
    const yl::Format format =
        role == yl::Role::color ? yl::Format::rgba8_srgb : yl::Format::rgba8_unorm;
    auto ours = *yl::bake(*picture, {.role = role, .format = format, .plain_chain = true});
    auto theirs = *yl::bake(*picture, {.role = role, .format = format, .plain_chain = true});
    const auto ideal = ideal_chain(ours.texture);
    driver.run(theirs.texture);
    const Error a = error_of(ours.texture, ideal), b = error_of(theirs.texture, ideal);
    std::printf("%-18s %8.3f %8.2f    %8.3f %8.2f\n", name, a.mean, a.max, b.mean, b.max);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2)
        return std::fprintf(stderr, "usage: driver_chain DEMO_DATA\n"), 2;
    const auto context = yl::gl::HeadlessContext::create();
    if (!context)
        return std::fprintf(stderr, "%s\n", context.error().sentence().c_str()), 5;
    const DriverChain driver(context->loader());

    const yl::Image photograph = bench::as_format(bench::photograph(4096), yl::Format::rgba8_srgb);
    yl::Texture texture = *yl::Texture::create(
        {.format = yl::Format::rgba8_srgb, .width = 4096, .height = 4096, .levels = 13});
    std::copy_n(photograph.view().data, texture.level(0).size(), texture.level(0).data());
    constexpr int rounds = 15;
    double own = 1e9, by_driver = 1e9;
    for (int round = 0; round < rounds; ++round) {
        by_driver = std::min(by_driver, driver.run(texture));
        const auto start = std::chrono::steady_clock::now();
        if (!yl::build_mips(texture))
            return 1;
        own = std::min(own, seconds_since(start));
    }
    std::printf("4096 x 4096 rgba8-srgb, least of %d: driver %.0f ms, ours %.0f ms: %.1f times\n\n",
                rounds, by_driver * 1e3, own * 1e3, by_driver / own);
    std::printf("%-18s %17s    %17s\n", "code values off", "ours", "the driver's");
    std::printf("%-18s %8s %8s    %8s %8s\n", "", "mean", "most", "mean", "most");
    for (const char* name : {"slate", "lattice", "label"})
        compare_demo(driver, argv[1], name, yl::Role::color);
    for (const char* name : {"slate_normal", "pond_normal", "slate_roughness", "moss"})
        compare_demo(driver, argv[1], name, yl::Role::data);
    return 0;
}
