// A model of lines and words, and one of glTF, by the installed libraries.
#include <string>
#include <yl/mesh_bindings.hpp>
#include <yl/model_formats.hpp>

int read_models(const char* obj) {
    const auto triangle = yl::mesh::read_any_model(obj);
    if (!triangle)
        return 6;
    yl::Findings findings;
    const auto parts = yl::mesh::parts_of(*triangle, findings);
    if (!parts || parts->size() != 1 || parts->front().indices.size() != 3)
        return 7;
    const std::string text = R"({"asset": {"version": "2.0"}, "materials": [{"name": "glass"}]})";
    const auto model = yl::mesh::read_model(std::as_bytes(std::span(text)), ".");
    if (!model || yl::mesh::bindings_of(*model).materials.size() != 1)
        return 8;
    return 0;
}
