// Texture files of pictures that are larger than memory.
//
//     yl::BakedFile baked = yl::or_exit(
//         yl::bake_by_rows("continent.png", "continent.ktx2", {.compressed = yl::BlockFamily::bc}));
//     for (const yl::Finding& finding : baked.findings)
//         std::fprintf(stderr, "%s\n", finding.problem.c_str());
#pragma once

#include <filesystem>
#include <optional>
#include <yl/api.hpp>
#include <yl/bake.hpp>
#include <yl/picture_rows.hpp>
#include <yl/texture_file.hpp>

namespace yl {

/// A texture that was written without ever having been in memory, and what was noticed.
struct BakedFile {
    TextureShape shape = {};
    TextureMetadata metadata = {};
    Findings findings = {};
    Role role = Role::color;
    bool is_opaque = false;
    std::optional<double> mean_normal_length = {};  ///< as in `Baked`
    std::uint64_t file_bytes = 0;
    bool flowed = false;  ///< no: such a picture has to be read whole, as `PictureRows::flows` says
};

/// Makes a texture file of a picture row by row, in memory for some hundred rows: the file is the one
/// that `bake_file` and `write_texture` would give, to the byte. The picture is read twice, first to
/// measure it. What needs the whole picture fails with `ErrorKind::usage`: another size or origin,
/// coverage, given levels, normals for roughness, `from_top`, sharpening, fading, fireflies,
/// supercompression, and edges that repeat downwards under a kernel wider than the box. Fails
/// otherwise as these do.
[[nodiscard]] YL_API Result<BakedFile> bake_by_rows(const std::filesystem::path& picture,
                                                    const std::filesystem::path& texture,
                                                    const BakeOptions& options = {},
                                                    const ReadOptions& reading = {},
                                                    const TextureWriteOptions& writing = {});

}  // namespace yl
