// The meshes of yl/scene.hpp by an OpenGL driver.
#include <cstddef>
#include <map>

#include <yl/gl_scene.hpp>
#include "render/gl/picture_target.hpp"
#include "render/model/material_uniforms.hpp"

namespace yl::gl {
namespace {

constexpr const char* model_vertex_source =
#include "model.vert.inc"
    ;
constexpr const char* model_fragment_source =
#include "model.frag.inc"
    ;

/// As shaders/model.vert takes it.
struct StreamVertex {
    std::array<float, 4> clip = {};
    Vertex vertex = {};
};

/// Restores what drawing a mesh switches.
class MeshState {
 public:
    explicit MeshState(const Functions& gl) : gl_(gl) {
        gl.DepthMask(GL_TRUE);
        gl.Clear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
        gl.BlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    }
    ~MeshState() {
        gl_.Disable(GL_DEPTH_TEST);
        gl_.Disable(GL_BLEND);
        gl_.DepthMask(GL_TRUE);
        gl_.BlendFunc(GL_ONE, GL_ZERO);
        gl_.UseProgram(0);
    }
    MeshState(const MeshState&) = delete;
    MeshState& operator=(const MeshState&) = delete;

    void blend(bool on) const {
        (on ? gl_.Enable : gl_.Disable)(GL_BLEND);
        gl_.DepthMask(on ? GL_FALSE : GL_TRUE);
    }

 private:
    const Functions& gl_;
};

class MeshPainter {
 public:
    MeshPainter(const Device& device, const ModelScene& scene, const ModelView& view)
        : device_(device),
          gl_(device.functions()),
          scene_(scene),
          view_(view),
          camera_(camera_of(scene, view)) {}

    Result<Image> paint() {
        YL_TRY(const auto draws, draws_of(scene_, camera_));
        for (const Material& surface : scene_.surfaces)
            for (const auto* use : textures_of(surface))
                if (*use)
                    YL_CHECK(upload(**use));
        const std::uint32_t width = view_.width * samples_across;
        const std::uint32_t height = view_.height * samples_across;
        YL_TRY(Image samples, Image::create(Format::rgba8_srgb, width, height));
        YL_TRY(const Program program,
               Program::link(gl_, model_fragment_source, model_vertex_source));
        const Target target(gl_, width, height, true);
        if (!target.is_ready())
            return fail(ErrorKind::device, "the driver has no sRGB colour target of this size");
        program.use();
        constexpr const char* names[] = {"base_map", "metallic_roughness_map", "normal_map",
                                         "occlusion_map", "emissive_map"};
        for (GLint unit = 0; unit < 5; ++unit)
            gl_.Uniform1i(program.uniform(names[unit]), unit);
        {
            const MeshState state(gl_);
            target.draw_and_read(samples.view(), [&] {
                draw_backdrop(program);
                gl_.Enable(GL_DEPTH_TEST);
                for (const MeshDraw& draw : draws)
                    draw_part(program, draw, state);
            });
        }
        YL_CHECK(gl_.check("draw the mesh"));
        return average_samples(samples.view());
    }

 private:
    Status upload(const SurfaceTexture& use) {
        if (use.texture >= scene_.textures.size() || use.coordinate_set > 1)
            return fail(ErrorKind::malformed, "a material names a texture that is not there");
        if (uploaded_.contains(use.texture))
            return {};
        YL_TRY(GpuTexture texture, device_.upload(scene_.textures[use.texture]));
        uploaded_.emplace(use.texture, std::move(texture));
        return {};
    }

    void draw(const Program& program, std::span<const StreamVertex> vertices,
              std::span<const std::uint32_t> indices, std::span<const float> numbers) const {
        const BoundBuffer vertex_buffer(gl_, GL_ARRAY_BUFFER, std::as_bytes(vertices));
        const BoundBuffer index_buffer(gl_, GL_ELEMENT_ARRAY_BUFFER, std::as_bytes(indices));
        constexpr std::size_t base = offsetof(StreamVertex, vertex);
        constexpr std::pair<GLint, std::size_t> attributes[] = {
            {4, 0},
            {3, base + offsetof(Vertex, position)},
            {3, base + offsetof(Vertex, normal)},
            {4, base + offsetof(Vertex, tangent)},
            {4, base + offsetof(Vertex, coordinates)},
            {4, base + offsetof(Vertex, color)}};
        for (GLuint i = 0; i < std::size(attributes); ++i) {
            gl_.VertexAttribPointer(i, attributes[i].first, GL_FLOAT, GL_FALSE,
                                    sizeof(StreamVertex),
                                    reinterpret_cast<const void*>(attributes[i].second));
            gl_.EnableVertexAttribArray(i);
        }
        const NumberBlock block(gl_, program, numbers);
        gl_.DrawElements(GL_TRIANGLES, static_cast<GLsizei>(indices.size()), GL_UNSIGNED_INT,
                         nullptr);
    }

    void draw_backdrop(const Program& program) const {
        std::array<StreamVertex, 4> corners{};
        for (std::size_t i = 0; i < corners.size(); ++i) {
            const bool is_bottom = i >= 2;
            corners[i].clip = {i % 2 == 0 ? -1.0F : 1.0F, is_bottom ? 1.0F : -1.0F, 0, 1};
            corners[i].vertex.color = is_bottom ? view_.backdrop_bottom : view_.backdrop_top;
        }
        constexpr std::uint32_t indices[] = {0, 1, 2, 2, 1, 3};
        draw(program, corners, indices, MaterialUniforms::of_backdrop());
    }

    void draw_part(const Program& program, const MeshDraw& mesh, const MeshState& state) const {
        std::vector<StreamVertex> vertices;
        vertices.reserve(mesh.part->vertices.size());
        for (const Vertex& vertex : mesh.part->vertices) {
            const ModelCamera::Clip at = camera_.project(vertex.position);
            vertices.push_back({{at.x, at.y, camera_.depth(at.w), at.w}, vertex});
        }
        const auto units = textures_of(*mesh.surface);
        for (std::uint32_t unit = 0; unit < units.size(); ++unit)
            if (const auto& use = *units[unit])
                uploaded_.at(use->texture).bind(unit, use->sampler);
        state.blend(mesh.surface->alpha == AlphaUse::blend);
        draw(program, vertices, mesh.indices,
             MaterialUniforms::of(scene_, *mesh.part, camera_, view_.show));
    }

    const Device& device_;
    const Functions& gl_;
    const ModelScene& scene_;
    const ModelView& view_;
    ModelCamera camera_;
    std::map<std::size_t, GpuTexture> uploaded_ = {};
};

}  // namespace

Result<Image> draw_model(const Device& device, const ModelScene& scene, const ModelView& view) {
    return MeshPainter(device, scene, view).paint();
}

}  // namespace yl::gl
