#include "support/reference_webp.hpp"

#include <webp/decode.h>
#include <webp/demux.h>
#include <webp/encode.h>
#include <webp/mux.h>

#include <memory>

#include "support/check.hpp"

namespace support {
namespace {

/// The library's word that a call went well; the call is made in a program without tests as well.
void ensure([[maybe_unused]] bool holds) {
    REQUIRE(holds);
}

const std::uint8_t* data_of(std::span<const std::byte> bytes) {
    return reinterpret_cast<const std::uint8_t*>(bytes.data());
}

std::vector<std::byte> taken(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    return {bytes.begin(), bytes.end()};
}

WebPConfig config_of(const WebpKind& kind) {
    WebPConfig config;
    ensure(WebPConfigInit(&config) != 0);
    config.lossless = kind.is_lossless ? 1 : 0;
    config.method = kind.method;
    config.quality = kind.quality;
    config.exact = kind.is_exact ? 1 : 0;
    config.near_lossless = kind.near_lossless;
    config.segments = kind.segments;
    config.partitions = kind.partitions;
    config.filter_strength = kind.filter_strength;
    config.filter_sharpness = kind.filter_sharpness;
    config.filter_type = kind.has_strong_filter ? 1 : 0;
    config.alpha_quality = kind.alpha_quality;
    config.alpha_compression = kind.alpha_compression;
    config.alpha_filtering = kind.alpha_filtering;
    ensure(WebPValidateConfig(&config) != 0);
    return config;
}

using Mux = std::unique_ptr<WebPMux, decltype(&WebPMuxDelete)>;

std::vector<std::byte> assembled(WebPMux* mux) {
    WebPData data;
    WebPDataInit(&data);
    ensure(WebPMuxAssemble(mux, &data) == WEBP_MUX_OK);
    auto bytes = taken(data.bytes, data.size);
    WebPDataClear(&data);
    return bytes;
}

WebPData view_of(std::span<const std::byte> bytes) {
    return {data_of(bytes), bytes.size()};
}

}  // namespace

std::vector<std::byte> reference_webp(const WebpKind& kind, std::span<const std::byte> pixels) {
    const WebPConfig config = config_of(kind);
    WebPPicture picture;
    ensure(WebPPictureInit(&picture) != 0);
    picture.width = kind.width;
    picture.height = kind.height;
    picture.use_argb = 1;
    const int stride = 4 * kind.width;
    ensure((kind.has_alpha ? WebPPictureImportRGBA(&picture, data_of(pixels), stride)
                           : WebPPictureImportRGBX(&picture, data_of(pixels), stride)) != 0);
    WebPMemoryWriter writer;
    WebPMemoryWriterInit(&writer);
    picture.writer = WebPMemoryWrite;
    picture.custom_ptr = &writer;
    ensure(WebPEncode(&config, &picture) != 0);
    auto bytes = taken(writer.mem, writer.size);
    WebPMemoryWriterClear(&writer);
    WebPPictureFree(&picture);
    return bytes;
}

std::vector<std::byte> read_reference_webp(std::span<const std::byte> file) {
    int width = 0, height = 0;
    std::uint8_t* pixels = WebPDecodeRGBA(data_of(file), file.size(), &width, &height);
    if (pixels == nullptr)
        return {};
    auto bytes = taken(pixels, std::size_t{4} * static_cast<std::size_t>(width) *
                                   static_cast<std::size_t>(height));
    WebPFree(pixels);
    return bytes;
}

std::vector<std::byte> reference_webp_animation(int width, int height,
                                                std::span<const WebpFrame> frames, int plays) {
    const Mux mux(WebPMuxNew(), WebPMuxDelete);
    ensure(WebPMuxSetCanvasSize(mux.get(), width, height) == WEBP_MUX_OK);
    for (const WebpFrame& frame : frames) {
        WebPMuxFrameInfo info{};
        info.bitstream = view_of(frame.file);
        info.x_offset = frame.x;
        info.y_offset = frame.y;
        info.duration = frame.milliseconds;
        info.id = WEBP_CHUNK_ANMF;
        info.dispose_method =
            frame.is_cleared ? WEBP_MUX_DISPOSE_BACKGROUND : WEBP_MUX_DISPOSE_NONE;
        info.blend_method = frame.replaces ? WEBP_MUX_NO_BLEND : WEBP_MUX_BLEND;
        ensure(WebPMuxPushFrame(mux.get(), &info, 1) == WEBP_MUX_OK);
    }
    const WebPMuxAnimParams params{0, plays};
    ensure(WebPMuxSetAnimationParams(mux.get(), &params) == WEBP_MUX_OK);
    return assembled(mux.get());
}

std::vector<std::vector<std::byte>> read_reference_animation(std::span<const std::byte> file) {
    const WebPData data = view_of(file);
    const std::unique_ptr<WebPAnimDecoder, decltype(&WebPAnimDecoderDelete)> decoder(
        WebPAnimDecoderNew(&data, nullptr), WebPAnimDecoderDelete);
    ensure(decoder != nullptr);
    WebPAnimInfo info;
    ensure(WebPAnimDecoderGetInfo(decoder.get(), &info) != 0);
    std::vector<std::vector<std::byte>> canvases;
    while (WebPAnimDecoderHasMoreFrames(decoder.get()) != 0) {
        std::uint8_t* pixels = nullptr;
        int time = 0;
        ensure(WebPAnimDecoderGetNext(decoder.get(), &pixels, &time) != 0);
        canvases.push_back(taken(pixels, std::size_t{4} * info.canvas_width * info.canvas_height));
    }
    return canvases;
}

std::vector<std::byte> with_webp_chunk(std::span<const std::byte> file, const char* name,
                                       std::span<const std::byte> content) {
    const WebPData data = view_of(file), chunk = view_of(content);
    const Mux mux(WebPMuxCreate(&data, 1), WebPMuxDelete);
    ensure(mux != nullptr);
    ensure(WebPMuxSetChunk(mux.get(), name, &chunk, 1) == WEBP_MUX_OK);
    return assembled(mux.get());
}

}  // namespace support
