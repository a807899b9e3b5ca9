// What stands in for a window in these examples: an OpenGL context without one, and a picture to
// draw to, which is saved as a PNG file.
#pragma once

#include <epoxy/gl.h>

#include <cstdio>
#include <cstdlib>
#include <string>
#include <yl/gl.hpp>
#include <yl/result.hpp>
#include <yl/yl.hpp>

class Stage {
 public:
    Stage(int width, int height, const yl::gl::DeviceOptions& options = {})
        : window_(or_exit(yl::gl::HeadlessContext::create())),
          device_(or_exit(yl::gl::Device::open(window_.loader(), options))),
          width_(width),
          height_(height) {
        GLuint buffers[2];
        glGenRenderbuffers(2, buffers);
        glBindRenderbuffer(GL_RENDERBUFFER, buffers[0]);
        glRenderbufferStorage(GL_RENDERBUFFER, GL_SRGB8_ALPHA8, width, height);
        glBindRenderbuffer(GL_RENDERBUFFER, buffers[1]);
        glRenderbufferStorage(GL_RENDERBUFFER, GL_DEPTH_COMPONENT24, width, height);
        GLuint framebuffer = 0, vertices = 0;
        glGenFramebuffers(1, &framebuffer);
        glBindFramebuffer(GL_FRAMEBUFFER, framebuffer);
        glFramebufferRenderbuffer(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_RENDERBUFFER,
                                  buffers[0]);
        glFramebufferRenderbuffer(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_RENDERBUFFER, buffers[1]);
        glGenVertexArrays(1, &vertices);
        glBindVertexArray(vertices);
        glEnable(GL_FRAMEBUFFER_SRGB);
        glViewport(0, 0, width, height);
        glClearColor(0.02F, 0.025F, 0.03F, 1);
        glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    }

    yl::gl::Device& device() { return device_; }

    /// A program of a vertex and a fragment shader, in use from now on.
    static GLuint use_program(const char* vertex, const char* fragment) {
        const GLuint program = glCreateProgram();
        for (const auto& [kind, source] :
             {std::pair{GL_VERTEX_SHADER, vertex}, {GL_FRAGMENT_SHADER, fragment}}) {
            const GLuint shader = glCreateShader(static_cast<GLenum>(kind));
            glShaderSource(shader, 1, &source, nullptr);
            glCompileShader(shader);
            glAttachShader(program, shader);
            glDeleteShader(shader);
        }
        glLinkProgram(program);
        GLint linked = 0;
        glGetProgramiv(program, GL_LINK_STATUS, &linked);
        if (linked == 0) {
            char log[1024] = "";
            glGetProgramInfoLog(program, sizeof log, nullptr, log);
            std::fprintf(stderr, "%s\n", log);
            std::exit(1);
        }
        glUseProgram(program);
        return program;
    }

    /// For rectangles: `place` is left, top, right and bottom, from 0 to 1 of the picture; the
    /// fragment shader gets `uv`, with 0, 0 at the top left.
    static constexpr const char* rectangle = R"(#version 330 core
        uniform vec4 place;
        out vec2 uv;
        void main() {
            uv = vec2(gl_VertexID % 2, gl_VertexID / 2);
            vec2 corner = mix(place.xy, place.zw, uv);
            gl_Position = vec4(2.0 * corner - 1.0, 0.0, 1.0);
        })";

    static void draw_rectangle(GLuint program, float left, float top, float right, float bottom) {
        glUniform4f(glGetUniformLocation(program, "place"), left, top, right, bottom);
        glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    }

    /// Row 0 of the framebuffer is the picture's top row.
    void save(const std::string& path) const {
        yl::Image picture =
            or_exit(yl::Image::create(yl::Format::rgba8_srgb, static_cast<std::uint32_t>(width_),
                                      static_cast<std::uint32_t>(height_)));
        glReadPixels(0, 0, width_, height_, GL_RGBA, GL_UNSIGNED_BYTE, picture.view().data);
        if (const GLenum error = glGetError(); error != GL_NO_ERROR) {
            std::fprintf(stderr, "OpenGL error %#06x\n", error);
            std::exit(1);
        }
        or_exit(yl::write_picture(path, picture.view()));
    }

 private:
    yl::gl::HeadlessContext window_;
    yl::gl::Device device_;
    int width_, height_;
};
