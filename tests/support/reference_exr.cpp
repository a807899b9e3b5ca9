#include "support/reference_exr.hpp"

#include <ImfArray.h>
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfMultiPartOutputFile.h>
#include <ImfOutputFile.h>
#include <ImfOutputPart.h>
#include <ImfPartType.h>
#include <ImfRgbaFile.h>
#include <ImfStandardAttributes.h>
#include <ImfTiledOutputFile.h>
#include <ImfTiledOutputPart.h>

#include <cmath>
#include <cstring>
#include <map>
#include <random>

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

void write_frame(const std::string& path, Imf::Header& header, const Imf::FrameBuffer& frame,
                 int tile) {
    if (tile > 0) {
        header.setTileDescription(
            Imf::TileDescription(static_cast<unsigned>(tile), static_cast<unsigned>(tile)));
        Imf::TiledOutputFile file(path.c_str(), header);
        file.setFrameBuffer(frame);
        file.writeTiles(0, file.numXTiles() - 1, 0, file.numYTiles() - 1);
    } else {
        Imf::OutputFile file(path.c_str(), header);
        file.setFrameBuffer(frame);
        file.writePixels(header.dataWindow().max.y - header.dataWindow().min.y + 1);
    }
}

template <class Sample>
void write(const ReferenceExr& kind, Imf::Header header, Imf::PixelType type,
           const std::string& path) {
    for (const char channel : kind.channels)
        header.channels().insert(std::string(1, channel), Imf::Channel(type));
    Buffers<Sample> buffers;
    const Imf::FrameBuffer frame = fill(kind, type, buffers);
    write_frame(path, header, frame, kind.tile);
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
    if (const auto& c = kind.chromaticities; !c.empty())
        Imf::addChromaticities(header, {{c[0], c[1]}, {c[2], c[3]}, {c[4], c[5]}, {c[6], c[7]}});
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

std::vector<std::byte> write_reference_parts(const std::vector<ReferencePart>& parts) {
    const TemporaryFolder folder;
    const std::string path = folder.path("parts.exr");
    std::vector<Imf::Header> headers;
    for (const ReferencePart& part : parts) {
        Imf::Header header(box_of(part.kind.display), box_of(part.kind.data));
        header.compression() = static_cast<Imf::Compression>(part.kind.compression);
        header.setName(part.name);
        header.setType(part.kind.tile > 0 ? Imf::TILEDIMAGE : Imf::SCANLINEIMAGE);
        for (const char channel : part.kind.channels)
            header.channels().insert(std::string(1, channel), Imf::Channel(Imf::HALF));
        if (part.kind.tile > 0)
            header.setTileDescription(Imf::TileDescription(static_cast<unsigned>(part.kind.tile),
                                                           static_cast<unsigned>(part.kind.tile),
                                                           Imf::MIPMAP_LEVELS));
        headers.push_back(header);
    }
    {
        Imf::MultiPartOutputFile file(path.c_str(), headers.data(),
                                      static_cast<int>(headers.size()));
        for (std::size_t i = 0; i < parts.size(); ++i) {
            Buffers<Imath::half> buffers;
            const Imf::FrameBuffer frame = fill(parts[i].kind, Imf::HALF, buffers);
            const int number = static_cast<int>(i);
            if (parts[i].kind.tile > 0) {
                Imf::TiledOutputPart part(file, number);
                part.setFrameBuffer(frame);
                for (int level = 0; level < part.numLevels(); ++level)
                    part.writeTiles(0, part.numXTiles(level) - 1, 0, part.numYTiles(level) - 1,
                                    level);
            } else {
                Imf::OutputPart part(file, number);
                part.setFrameBuffer(frame);
                part.writePixels(parts[i].kind.data[3] - parts[i].kind.data[1] + 1);
            }
        }
    }
    return read_bytes(path);
}

std::vector<std::byte> write_reference_levels(int width, int height, bool each_axis,
                                              bool rounds_up) {
    const TemporaryFolder folder;
    const std::string path = folder.path("levels.exr");
    Imf::Header header(width, height);
    header.channels().insert("Y", Imf::Channel(Imf::FLOAT));
    header.setTileDescription(
        Imf::TileDescription(16, 16, each_axis ? Imf::RIPMAP_LEVELS : Imf::MIPMAP_LEVELS,
                             rounds_up ? Imf::ROUND_UP : Imf::ROUND_DOWN));
    {
        Imf::TiledOutputFile file(path.c_str(), header);
        for (int y = 0; y < file.numYLevels(); ++y)
            for (int x = 0; x < file.numXLevels(); ++x) {
                if (!each_axis && x != y)
                    continue;
                const int across = file.levelWidth(x), down = file.levelHeight(y);
                std::vector<float> samples;
                for (int row = 0; row < down; ++row)
                    for (int column = 0; column < across; ++column)
                        samples.push_back(exr_value('Y', column, row) +
                                          64.0F * static_cast<float>(x == y ? x : 100));
                Imf::FrameBuffer frame;
                frame.insert("Y", Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(samples.data()), 4,
                                             4 * static_cast<std::size_t>(across)));
                file.setFrameBuffer(frame);
                file.writeTiles(0, file.numXTiles(x) - 1, 0, file.numYTiles(y) - 1, x, y);
            }
    }
    return read_bytes(path);
}

namespace {

struct Samples {
    std::vector<std::byte> bytes;
    std::size_t size = 2;
    int columns = 0;
};

/// A frame buffer over samples of each channel.
Imf::FrameBuffer frame_of(const std::vector<LossyChannel>& channels, std::vector<Samples>& all) {
    Imf::FrameBuffer frame;
    for (std::size_t i = 0; i < channels.size(); ++i)
        frame.insert(channels[i].name,
                     Imf::Slice(static_cast<Imf::PixelType>(channels[i].type),
                                reinterpret_cast<char*>(all[i].bytes.data()), all[i].size,
                                all[i].size * static_cast<std::size_t>(all[i].columns),
                                channels[i].step, channels[i].step));
    return frame;
}

/// A value as a channel of this type keeps it, and back: unsigned, half or float.
void add_value(Samples& samples, int type, float value) {
    std::byte bytes[4] = {};
    if (type == 1) {
        const Imath::half half(value);
        std::memcpy(bytes, &half, 2);
    } else if (type == 2) {
        std::memcpy(bytes, &value, 4);
    } else {
        const auto whole = static_cast<std::uint32_t>(std::abs(value) * 1000);
        std::memcpy(bytes, &whole, 4);
    }
    samples.bytes.insert(samples.bytes.end(), bytes, bytes + samples.size);
}

float value_at(const std::byte* bytes, int type) {
    if (type == 1) {
        Imath::half half;
        std::memcpy(&half, bytes, 2);
        return half;
    }
    if (type == 2) {
        float value = 0;
        std::memcpy(&value, bytes, 4);
        return value;
    }
    std::uint32_t whole = 0;
    std::memcpy(&whole, bytes, 4);
    return static_cast<float>(whole);
}

/// Waves with noise, and flat patches.
Samples samples_of(const LossyChannel& channel, int width, int height, std::mt19937& random,
                   std::normal_distribution<float>& noise) {
    Samples samples;
    samples.size = channel.type == 1 ? 2 : 4;
    samples.columns = (width + channel.step - 1) / channel.step;
    const int rows = (height + channel.step - 1) / channel.step;
    const auto phase = static_cast<float>(random() % 7);
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < samples.columns; ++x) {
            const float wave = std::sin(static_cast<float>(x) * 0.11F + phase) *
                               std::cos(static_cast<float>(y) * 0.07F);
            add_value(samples, channel.type,
                      (x / 20 + y / 20) % 3 == 0 ? 0.25F : 1.2F + 1.1F * wave + noise(random));
        }
    return samples;
}

}  // namespace

LossyExr write_lossy_exr(int compression, int width, int height,
                         const std::vector<LossyChannel>& channels, std::uint32_t seed, int tile) {
    const TemporaryFolder folder;
    const std::string path = folder.path("lossy.exr");
    Imf::Header header(width, height);
    header.compression() = static_cast<Imf::Compression>(compression);
    std::vector<Samples> all;
    std::mt19937 random(seed);
    std::normal_distribution<float> noise(0, 0.03F);
    for (const LossyChannel& channel : channels) {
        header.channels().insert(
            channel.name, Imf::Channel(static_cast<Imf::PixelType>(channel.type), channel.step,
                                       channel.step, channel.is_perceptual));
        all.push_back(samples_of(channel, width, height, random, noise));
    }
    write_frame(path, header, frame_of(channels, all), tile);
    LossyExr result{.file = read_bytes(path), .channels = {}};
    Imf::InputFile file(path.c_str());
    file.setFrameBuffer(frame_of(channels, all));
    file.readPixels(0, height - 1);
    for (std::size_t i = 0; i < channels.size(); ++i) {
        std::vector<float>& values = result.channels.emplace_back();
        for (std::size_t at = 0; at < all[i].bytes.size(); at += all[i].size)
            values.push_back(value_at(&all[i].bytes[at], channels[i].type));
    }
    return result;
}

}  // namespace support
