// A model of lines and words, and one of glTF, by the installed libraries.
#include <string>
#include <yl/model_bake.hpp>
#include <yl/model_import.hpp>

int read_models(const char* obj) {
    const auto triangle = yl::model::read_any_model(obj);
    if (!triangle)
        return 6;
    yl::Findings findings;
    const auto parts = yl::model::primitives_of(*triangle, findings);
    if (!parts || parts->size() != 1 || parts->front().indices.size() != 3)
        return 7;
    const std::string text = R"({"asset": {"version": "2.0"}, "materials": [{"name": "glass"}]})";
    const auto model = yl::model::read_model(std::as_bytes(std::span(text)), ".");
    if (!model || yl::model::bindings_of(*model).materials.size() != 1)
        return 8;
    return 0;
}
