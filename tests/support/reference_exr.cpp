#include "support/reference_exr.hpp"

#include <ImfArray.h>
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfOutputFile.h>
#include <ImfRgbaFile.h>
#include <ImfTiledOutputFile.h>

#include <cmath>
#include <map>

#include "support/files.hpp"

namespace support {
namespace {

Imath::Box2i box_of(const std::array<int, 4>& sides) {
    return {{sides[0], sides[1]}, {sides[2], sides[3]}};
}

template <class Sample>
using Buffers = std::map<char, std::vector<Sample>>;

template <class Sample>
Imf::FrameBuffer fill(const ReferenceExr& kind, Imf::PixelType type, Buffers<Sample>& buffers) {
    const int width = kind.data[2] - kind.data[0] + 1;
    const int height = kind.data[3] - kind.data[1] + 1;
    Imf::FrameBuffer frame;
    for (const char channel : kind.channels) {
        std::vector<Sample>& samples = buffers[channel];
        for (int y = kind.data[1]; y <= kind.data[3]; ++y)
            for (int x = kind.data[0]; x <= kind.data[2]; ++x)
                samples.push_back(static_cast<Sample>(exr_value(channel, x, y, kind.many_values)));
        char* origin = reinterpret_cast<char*>(samples.data()) -
                       (static_cast<std::ptrdiff_t>(kind.data[0]) +
                        static_cast<std::ptrdiff_t>(kind.data[1]) * width) *
                           static_cast<std::ptrdiff_t>(sizeof(Sample));
        frame.insert(std::string(1, channel),
                     Imf::Slice(type, origin, sizeof(Sample),
                                sizeof(Sample) * static_cast<std::size_t>(width)));
    }
    static_cast<void>(height);
    return frame;
}

template <class Sample>
void write(const ReferenceExr& kind, Imf::Header header, Imf::PixelType type,
           const std::string& path) {
    for (const char channel : kind.channels)
        header.channels().insert(std::string(1, channel), Imf::Channel(type));
    Buffers<Sample> buffers;
    const Imf::FrameBuffer frame = fill(kind, type, buffers);
    if (kind.tile > 0) {
        header.setTileDescription(Imf::TileDescription(static_cast<unsigned>(kind.tile),
                                                       static_cast<unsigned>(kind.tile)));
        Imf::TiledOutputFile file(path.c_str(), header);
        file.setFrameBuffer(frame);
        file.writeTiles(0, file.numXTiles() - 1, 0, file.numYTiles() - 1);
    } else {
        Imf::OutputFile file(path.c_str(), header);
        file.setFrameBuffer(frame);
        file.writePixels(kind.data[3] - kind.data[1] + 1);
    }
}

}  // namespace

float exr_value(char channel, int x, int y, bool many_values) {
    if (many_values) {
        constexpr std::uint32_t finite =
            0x7C00;  // halves without a sign; those above are no numbers
        const std::uint32_t bits = static_cast<std::uint32_t>(y * 700 + x + channel * 9) % finite;
        Imath::half value;
        value.setBits(static_cast<std::uint16_t>(channel == 'B' ? bits | 0x8000U : bits));
        return value;
    }
    const int mixed = ((x + 40) * 7 + (y + 40) * 13 + channel * 3) % 61;
    return static_cast<float>(channel == 'A' ? mixed % 2 : x % 5 == 0 ? 4 : mixed);
}

std::vector<std::byte> write_reference_exr(const ReferenceExr& kind) {
    const TemporaryFolder folder;
    Imf::Header header(box_of(kind.display), box_of(kind.data));
    header.compression() = static_cast<Imf::Compression>(kind.compression);
    header.lineOrder() = kind.decreasing ? Imf::DECREASING_Y : Imf::INCREASING_Y;
    const std::string path = folder.path("reference.exr");
    if (kind.type == 0)
        write<std::uint32_t>(kind, header, Imf::UINT, path);
    if (kind.type == 1)
        write<Imath::half>(kind, header, Imf::HALF, path);
    if (kind.type == 2)
        write<float>(kind, header, Imf::FLOAT, path);
    return read_bytes(path);
}

float smooth_value(char channel, int x, int y) {
    const double phase = channel == 'R' ? 0 : channel == 'G' ? 1 : 2;
    return static_cast<float>(0.5 + 0.3 * std::sin(x * 0.05 + phase) * std::cos(y * 0.04));
}

std::vector<std::byte> write_luminance_chroma_exr(int width, int height) {
    const TemporaryFolder folder;
    std::vector<Imf::Rgba> pixels;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            pixels.emplace_back(smooth_value('R', x, y), smooth_value('G', x, y),
                                smooth_value('B', x, y), 1.0F);
    {
        Imf::RgbaOutputFile file(folder.path("yc.exr").c_str(), width, height, Imf::WRITE_YC, 1.0F,
                                 {0, 0}, 1.0F, Imf::INCREASING_Y, Imf::PIZ_COMPRESSION);
        file.setFrameBuffer(pixels.data(), 1, static_cast<std::size_t>(width));
        file.writePixels(height);
    }
    return read_bytes(folder.path("yc.exr"));
}

std::vector<float> read_reference_exr(std::span<const std::byte> bytes) {
    const TemporaryFolder folder;
    write_bytes(folder.path("ours.exr"), bytes);
    Imf::RgbaInputFile file(folder.path("ours.exr").c_str());
    const Imath::Box2i window = file.dataWindow();
    const int width = window.max.x - window.min.x + 1;
    const int height = window.max.y - window.min.y + 1;
    std::vector<Imf::Rgba> pixels(static_cast<std::size_t>(width * height));
    file.setFrameBuffer(pixels.data() - window.min.x - window.min.y * width, 1,
                        static_cast<std::size_t>(width));
    file.readPixels(window.min.y, window.max.y);
    std::vector<float> values;
    for (const Imf::Rgba& pixel : pixels)
        values.insert(values.end(), {pixel.r, pixel.g, pixel.b, pixel.a});
    return values;
}

}  // namespace support
