// How a model's textures keep the processors busy, and how fast a large model is read.
//     model_speed [TEXTURES [SIDE]]     50 and 1024 when left out
#include <fmt/format.h>
#include <sys/resource.h>

#include <chrono>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>
#include <yl/model_bake.hpp>
#include <yl/picture.hpp>

#include "or_quit.hpp"

namespace {

using Clock = std::chrono::steady_clock;
using Json = nlohmann::json;
using Bytes = std::vector<std::byte>;

double processor_seconds() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    const auto seconds = [](const timeval& time) {
        return static_cast<double>(time.tv_sec) + static_cast<double>(time.tv_usec) / 1e6;
    };
    return seconds(usage.ru_utime) + seconds(usage.ru_stime);
}

/// A soft pattern with some grain, another for each number.
Bytes picture(std::uint32_t side, std::uint32_t number) {
    yl::Image image = or_quit(yl::Image::create(yl::Format::rgb8_srgb, side, side));
    std::uint32_t random = number * 2654435761U + 1;
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            random = random * 1664525U + 1013904223U;
            auto* texel = &image.view().row(y)[std::size_t{3} * x];
            const float wave = std::sin(static_cast<float>(x * (1 + number % 5)) * 0.02F) +
                               std::cos(static_cast<float>(y) * 0.03F);
            for (std::uint32_t c = 0; c < 3; ++c)
                texel[c] = static_cast<std::byte>(static_cast<int>(120 + 50 * wave) +
                                                  static_cast<int>(random >> (28 - c) & 7));
        }
    return or_quit(yl::encode_picture("png", image.view(), {.effort = 2}));
}

void write_glb(const std::string& path, const Json& model, const Bytes& binary) {
    std::string text = model.dump();
    text.resize((text.size() + 3) / 4 * 4, ' ');
    std::ofstream file(path, std::ios::binary);
    const auto number = [&](std::size_t value) {
        const auto small = static_cast<std::uint32_t>(value);
        file.write(reinterpret_cast<const char*>(&small), sizeof small);
    };
    for (const std::size_t value :
         {std::size_t{0x46546C67}, std::size_t{2}, 28 + text.size() + binary.size(), text.size(),
          std::size_t{0x4E4F534A}})
        number(value);
    file << text;
    number(binary.size());
    number(0x004E4942);
    file.write(reinterpret_cast<const char*>(binary.data()),
               static_cast<std::streamsize>(binary.size()));
}

void measure_baking(const std::string& folder, std::uint32_t textures, std::uint32_t side) {
    Json model = {{"asset", {{"version", "2.0"}}}};
    Bytes binary;
    for (std::uint32_t i = 0; i < textures; ++i) {
        const Bytes png = picture(side, i);
        binary.resize((binary.size() + 3) / 4 * 4);
        model["bufferViews"].push_back(
            {{"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", png.size()}});
        binary.insert(binary.end(), png.begin(), png.end());
        model["images"].push_back({{"bufferView", i}, {"mimeType", "image/png"}});
        model["textures"].push_back({{"source", i}});
        const Json use = {{"index", i}};
        if (i % 3 == 0)
            model["materials"].push_back({{"normalTexture", use}});
        else
            model["materials"].push_back({{"pbrMetallicRoughness", {{"baseColorTexture", use}}}});
    }
    binary.resize((binary.size() + 3) / 4 * 4);
    model["buffers"].push_back({{"byteLength", binary.size()}});
    write_glb(folder + "/many.glb", model, binary);
    const auto begin = Clock::now();
    const double busy_before = processor_seconds();
    const auto read =
        or_quit(yl::model::read_model(folder + "/many.glb", {.look_into_images = false}));
    or_quit(yl::model::bake_model(read, folder + "/baked.glb"));
    const double seconds = std::chrono::duration<double>(Clock::now() - begin).count();
    const double busy = processor_seconds() - busy_before;
    const unsigned processors = std::thread::hardware_concurrency();
    fmt::print("{} textures of {} x {} baked in {:.1f} s; {} processors busy for {:.0f} %\n",
               textures, side, side, seconds, processors, 100 * busy / (seconds * processors));
}

/// One of 2,000 meshes: a strip with places, normals, tangents, coordinates, and indices.
struct Strip {
    static constexpr std::size_t vertices = 1900, triangles = vertices - 2;
    static constexpr std::size_t components[] = {3, 3, 4, 2};
    static constexpr std::size_t bytes = vertices * 12 * 4 + triangles * 3 * 4;

    static void add(Json& model, std::size_t material, std::size_t offset, Bytes& binary) {
        auto* numbers = reinterpret_cast<float*>(&binary[offset]);
        for (std::size_t i = 0; i < vertices * 12; ++i)
            numbers[i] = static_cast<float>(i % 97) * 0.125F + static_cast<float>(i % 7);
        auto* indices = reinterpret_cast<std::uint32_t*>(numbers + vertices * 12);
        for (std::size_t i = 0; i < triangles * 3; ++i)
            indices[i] = static_cast<std::uint32_t>(i / 3 + i % 3);
        const char* names[] = {"POSITION", "NORMAL", "TANGENT", "TEXCOORD_0"};
        Json primitive = {{"material", material}};
        for (std::size_t i = 0; i < 4; ++i) {
            const std::size_t size = vertices * components[i] * 4;
            primitive["attributes"][names[i]] =
                accessor(model, offset, size, vertices, 5126, fmt::format("VEC{}", components[i]));
            offset += size;
        }
        primitive["indices"] =
            accessor(model, offset, triangles * 12, triangles * 3, 5125, "SCALAR");
        model["meshes"].push_back({{"primitives", Json::array({primitive})}});
    }

 private:
    static std::size_t accessor(Json& model, std::size_t offset, std::size_t size,
                                std::size_t count, int component, const std::string& type) {
        model["bufferViews"].push_back(
            {{"buffer", 0}, {"byteOffset", offset}, {"byteLength", size}});
        model["accessors"].push_back({{"bufferView", model["bufferViews"].size() - 1},
                                      {"componentType", component},
                                      {"count", count},
                                      {"type", type}});
        return model["accessors"].size() - 1;
    }
};

template <class Work>
double min_seconds(const Work& work) {
    double min = 1e9;
    for (int i = 0; i < 7; ++i) {
        const auto begin = Clock::now();
        work();
        min = std::min(min, std::chrono::duration<double>(Clock::now() - begin).count());
    }
    return min;
}

/// 200 MB of vertices in one buffer, without images.
void measure_reading(const std::string& folder) {
    constexpr std::size_t meshes = (200U << 20) / Strip::bytes;
    Bytes binary(meshes * Strip::bytes);
    Json model = {{"asset", {{"version", "2.0"}}},
                  {"buffers", Json::array({{{"byteLength", binary.size()}}})}};
    for (std::size_t i = 0; i < meshes; ++i) {
        Strip::add(model, i, i * Strip::bytes, binary);
        model["materials"].push_back({{"name", fmt::format("material {}", i)}});
    }
    const std::string path = folder + "/large.glb";
    write_glb(path, model, binary);
    const double copying = min_seconds([&] { Bytes copy(binary.begin(), binary.end()); });
    const double reading = min_seconds([&] { or_quit(yl::model::read_model(path)); });
    const auto read = or_quit(yl::model::read_model(path));
    const double geometry = min_seconds([&] {
        yl::Findings findings;
        or_quit(yl::model::primitives_of(read, findings));
    });
    fmt::print("a .glb of {} MB read in {:.1f} ms, {:.2f} times a copy of its bytes ({:.1f} ms)\n",
               binary.size() >> 20, 1000 * reading, reading / copying, 1000 * copying);
    fmt::print("its {} meshes as triangles in {:.1f} ms, {:.2f} times\n", meshes, 1000 * geometry,
               geometry / copying);
}

}  // namespace

int main(int argc, char** argv) {
    const auto number = [&](int index, int otherwise) {
        return static_cast<std::uint32_t>(argc > index ? std::atoi(argv[index]) : otherwise);
    };
    const auto folder = std::filesystem::temp_directory_path() / "model_speed";
    std::filesystem::create_directories(folder);
    measure_reading(folder.string());
    measure_baking(folder.string(), number(1, 50), number(2, 1024));
    std::filesystem::remove_all(folder);
}
