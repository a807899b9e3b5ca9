// Upload throughput as a ratio to a memory copy of the same bytes, and the keeper's long run.
//     upload_speed          ratios: staging, reading back
//     upload_speed keeper   10,000 loads and drops, with the memory of the process
//     upload_speed memory   2,000 to 20,000 textures with ample memory and with a quarter of it
#include <fmt/format.h>

#include <chrono>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <yl/d3d12.hpp>
#include <yl/gl.hpp>
#include <yl/vulkan.hpp>
#include <yl/yl.hpp>

#include "or_quit.hpp"

namespace {

using Clock = std::chrono::steady_clock;

template <class Work>
double best_seconds(int runs, const Work& work) {
    double best = 1e9;
    for (int i = 0; i < runs; ++i) {
        const auto begin = Clock::now();
        work();
        best = std::min(best, std::chrono::duration<double>(Clock::now() - begin).count());
    }
    return best;
}

/// Into staging memory and onto the device; the texture is there already.
void measure(const char* name, yl::TextureDevice& device, const yl::Texture& texture,
             const std::function<void()>& wait) {
    const auto prepared =
        or_quit(yl::prepare_upload(texture, device.profile(), {.staging_budget = 8U << 20}));
    const auto target = or_quit(device.reserve(prepared.desc));
    std::vector<std::byte> copy(texture.shape().total_bytes());
    const double copying = best_seconds(9, [&] {
        std::size_t at = 0;
        for (std::uint32_t level = 0; level < texture.shape().levels; ++level) {
            const auto bytes = texture.level(level);
            std::memcpy(copy.data() + at, bytes.data(), bytes.size());
            at += bytes.size();
        }
    });
    const double uploading = best_seconds(9, [&] {
        for (std::size_t batch = 0; batch < prepared.plan.batches.size(); ++batch)
            if (auto status = target->write(prepared.plan, batch, texture); !status)
                quit(status.error());
        wait();
    });
    const double staging = best_seconds(9, [&] {
        std::vector<std::byte>& memory = copy;
        for (const yl::UploadBatch& batch : prepared.plan.batches)
            static_cast<void>(yl::fill_staging(prepared.plan, batch, texture, memory));
    });
    const double megabytes = static_cast<double>(texture.shape().total_bytes()) / 1e6;
    fmt::print(
        "{:<22} {:>8.0f} MB/s copy {:>8.0f} MB/s staging ({:.2f}) {:>8.0f} MB/s uploaded "
        "and done ({:.2f})\n",
        name, megabytes / copying, megabytes / staging, copying / staging, megabytes / uploading,
        copying / uploading);
}

std::uint64_t resident_bytes() {
    std::ifstream file("/proc/self/statm");
    std::uint64_t pages = 0;
    file >> pages >> pages;
    return pages * 4096;
}

void run_keeper() {
    const std::string path = std::filesystem::temp_directory_path() / "upload_speed_keeper.png";
    yl::Image image = or_quit(yl::Image::create(yl::Format::rgba8_srgb, 64, 64));
    std::memset(image.view().data, 90, 64 * 64 * 4);
    if (auto status = yl::write_picture(path, image.view()); !status)
        quit(status.error());
    yl::RecordingDevice device(or_quit(yl::find_profile("vulkan-desktop")));
    yl::TextureKeeper keeper(device);
    for (int round = 0; round < 100; ++round) {
        std::vector<yl::TextureTicket> tickets;
        for (int i = 0; i < 100; ++i) {
            yl::TextureRequest request = {.file = path};
            request.sampler = yl::Sampler{.level_bias = static_cast<float>(i) / 100};
            tickets.push_back(keeper.request(request));
        }
        const yl::KeeperTotals totals = keeper.pump_until_settled();
        if (totals.ready != 100)
            fmt::print("round {}: {} ready\n", round, totals.ready);
        for (const yl::TextureTicket ticket : tickets)
            keeper.release(ticket);
        device.forget_records();
        if (round % 20 == 19)
            fmt::print("{:>6} loads and drops: {:.1f} MB resident, {} textures alive\n",
                       100 * (round + 1), static_cast<double>(resident_bytes()) / 1e6,
                       device.textures_alive());
    }
    std::filesystem::remove(path);
}

struct KeeperRun {
    double seconds = 0;       ///< in calls of pump
    double longest_pump = 0;  ///< seconds
    std::size_t frames = 0, ready = 0, reduced = 0;
};

/// Small textures that are all used in every frame, until all is settled.
KeeperRun keep_all(int count, std::uint64_t budget) {
    yl::RecordingDevice device(or_quit(yl::find_profile("vulkan-desktop")));
    yl::TextureKeeper keeper(device, {.memory_budget = budget});
    std::vector<yl::TextureTicket> tickets;
    for (int i = 0; i < count; ++i) {
        yl::Image image = or_quit(yl::Image::create(yl::Format::rgba8_srgb, 16, 16));
        std::memset(image.view().data, i & 255, 16 * 16 * 4);
        std::memcpy(image.view().data, &i, sizeof(i));
        tickets.push_back(
            keeper.request({.bytes = or_quit(yl::encode_picture("tga", image.view()))}));
    }
    KeeperRun run;
    for (bool is_settled = false; !is_settled;) {
        for (const yl::TextureTicket ticket : tickets)
            static_cast<void>(keeper.texture(ticket));
        const auto before = Clock::now();
        is_settled = keeper.pump(std::chrono::milliseconds(2)).is_settled;
        const double seconds = std::chrono::duration<double>(Clock::now() - before).count();
        run.longest_pump = std::max(run.longest_pump, seconds);
        run.seconds += seconds;
        ++run.frames;
        device.forget_records();
    }
    run.ready = keeper.totals().ready;
    for (const yl::TextureTicket ticket : tickets)
        run.reduced += keeper.status(ticket).dropped_levels > 0 ? 1 : 0;
    return run;
}

void run_memory() {
    constexpr std::uint64_t whole = 1364;  // 16 x 16 texels with all levels
    for (const int count : {2000, 5000, 10000, 20000}) {
        const auto all = static_cast<std::uint64_t>(count) * whole;
        const KeeperRun ample = keep_all(count, 2 * all), scarce = keep_all(count, all / 4);
        fmt::print(
            "{:>6} textures: {:.2f} s in {} frames with ample memory, longest pump {:.1f} ms; with "
            "a quarter "
            "{:.2f} s in {} frames, longest pump {:.1f} ms, {} ready, {} of them smaller\n",
            count, ample.seconds, ample.frames, 1e3 * ample.longest_pump, scarce.seconds,
            scarce.frames, 1e3 * scarce.longest_pump, scarce.ready, scarce.reduced);
    }
}

}  // namespace

int main(int argc, char** argv) {
    if (argc > 1 && std::string(argv[1]) == "keeper") {
        run_keeper();
        return 0;
    }
    if (argc > 1 && std::string(argv[1]) == "memory") {
        run_memory();
        return 0;
    }
    yl::Texture texture = or_quit(yl::Texture::create(
        {.format = yl::Format::rgba8_srgb, .width = 2048, .height = 2048, .levels = 12}));
    for (std::uint32_t level = 0; level < 12; ++level) {
        const auto bytes = texture.level(level);
        for (std::size_t i = 0; i < bytes.size(); ++i)
            bytes[i] = static_cast<std::byte>(i * 7);
    }
    const auto context = or_quit(yl::gl::HeadlessContext::create());
    for (const bool streaming : {false, true}) {
        auto device = or_quit(yl::gl::Device::open(context.loader(), {.streaming = streaming}));
        measure(streaming ? "OpenGL, streamed" : "OpenGL", device, texture, [] {});
    }
    for (const char* name : {"llvmpipe", "SwiftShader"}) {
        const auto headless = or_quit(yl::vulkan::HeadlessDevice::create({.device = name}));
        auto device = or_quit(yl::vulkan::Device::open(headless.handles()));
        measure(fmt::format("Vulkan, {}", name).c_str(), device, texture,
                [&] { static_cast<void>(device.wait()); });
    }
    for (const bool has_copy_queue : {false, true}) {
        const auto headless = or_quit(yl::d3d12::HeadlessDevice::create(
            {.device = "llvmpipe", .has_copy_queue = has_copy_queue}));
        auto device = or_quit(yl::d3d12::Device::open(headless.handles()));
        measure(has_copy_queue ? "Direct3D 12, two queues" : "Direct3D 12", device, texture,
                [&] { static_cast<void>(device.wait()); });
    }
}
