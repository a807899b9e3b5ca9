// Models of other formats, behind their guard: whatever a file holds, this process lives.
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <string>
#include <yl/model_import.hpp>

#include "input.hpp"

namespace {

/// The first byte chooses the ending, since it is one of the ways that tell the format.
constexpr const char* endings[] = {"obj", "ply",  "stl", "fbx", "dae", "3ds", "ase", "x",
                                   "lwo", "ms3d", "off", "md2", "md3", "mdl", "bvh", "blend"};

const std::filesystem::path& folder() {
    static const std::filesystem::path path = [] {
        auto made =
            std::filesystem::temp_directory_path() / ("yl-fuzz-import-" + std::to_string(getpid()));
        std::filesystem::create_directories(made);
        return made;
    }();
    return path;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    const auto file = folder() / (std::string("model.") + input.one_of(endings));
    const auto bytes = input.rest();
    std::ofstream(file, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()),
               static_cast<std::streamsize>(bytes.size()));
    const auto model = yl::model::read_untrusted_model(
        file, {}, {.time = std::chrono::seconds(5), .bytes = std::uint64_t{1} << 45});
    if (!model)
        fuzz::check(!model.error().message.empty());
    else
        for (const auto& material : model->materials)
            for (const auto& texture : material.textures)
                fuzz::check(!texture.image || *texture.image < model->images.size());
    std::filesystem::remove(file);
    return 0;
}
