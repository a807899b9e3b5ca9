// A model with its own textures: each image is loaded once for each role by a keeper, and bound in
// every material with that material's sampler:
//     model planter.png planter.glb
#include <vector>
#include <yl/model_bake.hpp>

#include "stage.hpp"

using yl::model::Slot;

namespace {

constexpr const char* vertex_shader = R"(#version 330 core
    layout(location = 0) in vec3 position;
    layout(location = 1) in vec3 normal_in;
    layout(location = 2) in vec2 coordinate;
    uniform vec3 row_u, row_v;
    out vec2 uv;
    out vec3 normal;
    void main() {
        vec3 at = position - vec3(0.0, 1.3, 0.0);
        at = vec3(0.87 * at.x - 0.5 * at.z, at.y, 0.5 * at.x + 0.87 * at.z);
        at.yz = vec2(0.94 * at.y - 0.34 * at.z, 0.34 * at.y + 0.94 * at.z);
        normal = normal_in;
        uv = vec2(dot(row_u, vec3(coordinate, 1.0)), dot(row_v, vec3(coordinate, 1.0)));
        gl_Position = vec4(at.x / 1.6, -at.y / 1.6, -at.z / 8.0, 1.0);
    })";

constexpr const char* fragment_shader = R"(#version 330 core
    uniform sampler2D base_color;
    uniform vec4 factor;
    uniform float cutoff;
    in vec2 uv;
    in vec3 normal;
    out vec4 color;
    void main() {
        vec4 surface = texture(base_color, uv) * factor;
        if (surface.a < cutoff) discard;
        float light = 0.35 + 0.65 * abs(dot(normalize(normal), normalize(vec3(0.2, 0.6, 0.8))));
        color = vec4(surface.rgb * light, 1.0);
    })";

void send(const yl::Primitive& part) {
    GLuint buffers[2];
    glGenBuffers(2, buffers);
    glBindBuffer(GL_ARRAY_BUFFER, buffers[0]);
    glBufferData(GL_ARRAY_BUFFER,
                 static_cast<GLsizeiptr>(part.vertices.size() * sizeof(yl::Vertex)),
                 part.vertices.data(), GL_STATIC_DRAW);
    glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, buffers[1]);
    glBufferData(GL_ELEMENT_ARRAY_BUFFER, static_cast<GLsizeiptr>(part.indices.size() * 4),
                 part.indices.data(), GL_STATIC_DRAW);
    const auto attribute = [](GLuint index, GLint size, std::size_t offset) {
        glVertexAttribPointer(index, size, GL_FLOAT, GL_FALSE, sizeof(yl::Vertex),
                              reinterpret_cast<const void*>(offset));
        glEnableVertexAttribArray(index);
    };
    attribute(0, 3, offsetof(yl::Vertex, position));
    attribute(1, 3, offsetof(yl::Vertex, normal));
    attribute(2, 2, offsetof(yl::Vertex, coordinates));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: model OUT.png MODEL\n"), 2;
    const auto model = or_exit(yl::model::read_model(argv[2]));
    const auto bindings = yl::model::bindings_of(model);

    Stage stage(640, 640);
    yl::TextureKeeper keeper(stage.device());
    std::vector<yl::TextureTicket> tickets;
    for (const auto& texture : bindings.textures)
        tickets.push_back(keeper.request(request_for(model, texture)));
    const yl::KeeperTotals totals = keeper.pump_until_settled();

    const GLuint program = Stage::use_program(vertex_shader, fragment_shader);
    const auto place = [&](const char* name) { return glGetUniformLocation(program, name); };
    glEnable(GL_DEPTH_TEST);
    yl::Findings findings;
    for (const yl::Primitive& part : or_exit(yl::model::primitives_of(model, findings))) {
        if (part.surface >= model.materials.size())
            continue;
        const yl::Material& surface = model.materials[part.surface].surface;
        for (const auto& binding : bindings.materials[part.surface]) {
            if (binding.slot != Slot::base_color)
                continue;  // a renderer would bind them all, each to its unit
            if (const auto* texture =
                    keeper.texture_as<yl::gl::GpuTexture>(tickets[binding.texture]))
                texture->bind(0, binding.sampler);
            const auto m = yl::model::matrix_of(binding.transform);
            glUniform3f(place("row_u"), m[0], m[1], m[2]);
            glUniform3f(place("row_v"), m[3], m[4], m[5]);
        }
        glUniform4fv(place("factor"), 1, surface.base_color.data());
        glUniform1f(place("cutoff"), surface.alpha == yl::AlphaUse::opaque ? 0 : surface.cutoff);
        send(part);
        glDrawElements(GL_TRIANGLES, static_cast<GLsizei>(part.indices.size()), GL_UNSIGNED_INT,
                       nullptr);
    }
    stage.save(argv[1]);
    std::printf("%zu textures with %zu samplers, %zu missing\n", totals.textures, bindings.samplers,
                totals.failed);
}
