#include <yl/algorithm_versions.hpp>

#include <libdeflate.h>
#include <zstd.h>

namespace yl {

// scripts/check-bytes finds the algorithm behind bytes that changed, and takes them over once its number
// here is another.
std::span<const AlgorithmVersion> algorithm_versions() {
    static const AlgorithmVersion versions[] = {
        // readers
        {"bmp", 1},
        {"exr", 1},
        {"gif", 1},
        {"hdr", 1},
        {"jpg", 1},
        {"png", 1},
        {"pnm", 1},
        {"psd", 1},
        {"qoi", 1},
        {"tga", 1},
        {"tiff", 1},
        {"webp", 1},
        {"textures", 1},  // KTX and DDS, read
        {"models", 1},
        // pixels to textures
        {"pixels", 1},  // conversions and edits
        {"levels", 1},
        {"cubes", 1},
        {"atlases", 1},
        // block encoders
        {"bc1", 1},  // BC1 to BC3
        {"bc4", 1},  // BC4 and BC5
        {"bc6h", 1},
        {"bc7", 1},
        {"etc2", 1},  // ETC2 and EAC
        {"astc", 1},
        // containers, written
        {"ktx2", 1},
        {"dds", 1},
        // what packs their levels, by the library that does it
        {"zstd", ZSTD_versionNumber()},
        {"zlib", 1000 * LIBDEFLATE_VERSION_MAJOR + LIBDEFLATE_VERSION_MINOR},
    };
    return versions;
}

}  // namespace yl
