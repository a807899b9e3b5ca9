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
#include <yl/codec.hpp>
#include <yl/mesh_bake.hpp>

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
        or_quit(yl::mesh::read_model(folder + "/many.glb", {.look_into_images = false}));
    or_quit(yl::mesh::bake_model(read, folder + "/baked.glb"));
    const double seconds = std::chrono::duration<double>(Clock::now() - begin).count();
    const double busy = processor_seconds() - busy_before;
    const unsigned processors = std::thread::hardware_concurrency();
    fmt::print("{} textures of {} x {} baked in {:.1f} s; {} processors busy for {:.0f} %\n",
               textures, side, side, seconds, processors, 100 * busy / (seconds * processors));
}

/// 200 MB of vertices in one buffer, without images.
void measure_reading(const std::string& folder) {
    constexpr std::size_t size = 200U << 20;
    Bytes binary(size, std::byte{1});
    Json model = {{"asset", {{"version", "2.0"}}},
                  {"buffers", Json::array({{{"byteLength", size}}})},
                  {"bufferViews", Json::array()},
                  {"materials", Json::array()}};
    for (std::size_t i = 0; i < 2000; ++i) {
        model["bufferViews"].push_back(
            {{"buffer", 0}, {"byteOffset", i * 100000}, {"byteLength", 100000}});
        model["accessors"].push_back(
            {{"bufferView", i}, {"componentType", 5126}, {"count", 8000}, {"type", "VEC3"}});
        model["materials"].push_back({{"name", fmt::format("material {}", i)}});
    }
    write_glb(folder + "/large.glb", model, binary);
    double copying = 1e9, reading = 1e9;
    for (int i = 0; i < 5; ++i) {
        auto begin = Clock::now();
        Bytes copy(binary.begin(), binary.end());
        copying = std::min(copying, std::chrono::duration<double>(Clock::now() - begin).count());
        begin = Clock::now();
        const auto read = or_quit(yl::mesh::read_model(folder + "/large.glb"));
        reading = std::min(reading, std::chrono::duration<double>(Clock::now() - begin).count());
    }
    fmt::print("a .glb of 200 MB read in {:.1f} ms, {:.2f} times a copy of its bytes\n",
               1000 * reading, reading / copying);
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
