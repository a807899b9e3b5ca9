#include "support/reference_gif.hpp"

#include <doctest/doctest.h>
#include <gif_lib.h>

#include <cstdlib>
#include <cstring>

namespace support {
namespace {

using Bytes = std::vector<std::byte>;

int append(GifFileType* gif, const GifByteType* bytes, int count) {
    auto& file = *static_cast<Bytes*>(gif->UserData);
    for (int i = 0; i < count; ++i)
        file.push_back(std::byte(bytes[i]));
    return count;
}

ColorMapObject* map_of(int bits, bool own) {
    ColorMapObject* map = GifMakeMapObject(1 << bits, nullptr);
    for (int i = 0; i < 1 << bits; ++i) {
        const auto color = color_of(i, own);
        map->Colors[i] = {static_cast<GifByteType>(color[0]), static_cast<GifByteType>(color[1]),
                          static_cast<GifByteType>(color[2])};
    }
    return map;
}

}  // namespace

std::array<int, 3> color_of(int index, bool own) {
    return {(index * 7 + (own ? 100 : 0)) % 256, (index * 13 + 40) % 256, (255 - index) % 256};
}

Bytes reference_gif(const GifKind& kind) {
    Bytes file;
    int error = 0;
    GifFileType* gif = EGifOpen(&file, append, &error);
    REQUIRE(gif != nullptr);
    gif->SWidth = kind.width;
    gif->SHeight = kind.height;
    gif->SColorResolution = kind.bits;
    gif->SColorMap = map_of(kind.bits, false);
    for (const GifFrame& frame : kind.frames) {
        SavedImage* image = GifMakeSavedImage(gif, nullptr);
        image->ImageDesc = {frame.x,
                            frame.y,
                            frame.width,
                            frame.height,
                            frame.is_interlaced,
                            frame.has_own_colors ? map_of(kind.bits, true) : nullptr};
        image->RasterBits = static_cast<GifByteType*>(malloc(frame.indices.size()));
        std::memcpy(image->RasterBits, frame.indices.data(), frame.indices.size());
        const GraphicsControlBlock control = {frame.disposal, false, frame.delay,
                                              frame.transparent};
        GifByteType packed[4];
        EGifGCBToExtension(&control, packed);
        REQUIRE(GifAddExtensionBlock(&image->ExtensionBlockCount, &image->ExtensionBlocks,
                                     GRAPHICS_EXT_FUNC_CODE, 4, packed) == GIF_OK);
        if (kind.repeats_for_ever && image == gif->SavedImages) {
            GifByteType name[] = {'N', 'E', 'T', 'S', 'C', 'A', 'P', 'E', '2', '.', '0'};
            GifByteType loops[] = {1, 0, 0};
            GifAddExtensionBlock(&image->ExtensionBlockCount, &image->ExtensionBlocks,
                                 APPLICATION_EXT_FUNC_CODE, sizeof name, name);
            GifAddExtensionBlock(&image->ExtensionBlockCount, &image->ExtensionBlocks,
                                 CONTINUE_EXT_FUNC_CODE, sizeof loops, loops);
        }
    }
    REQUIRE(EGifSpew(gif) == GIF_OK);
    return file;
}

}  // namespace support
