// Files in ZIP archives. Needs YellowLattice::archive.
//
//     auto files = yl::or_exit(yl::open_archive("pots.zip"));
//     yl::Picture slate = yl::or_exit(yl::read_picture("maps/slate.png", {.files = files}));
#pragma once

#include <filesystem>
#include <memory>
#include <yl/api.hpp>
#include <yl/files.hpp>

namespace yl {

/// The files of a ZIP archive, by libzip: stored and deflated ones, and what else libzip unpacks. A
/// file is unpacked when it is first read, and held until it is closed. Names are those of the
/// archive, with slashes between folders. Fails with `ErrorKind::malformed` if it is not an archive;
/// files that are encrypted fail with `ErrorKind::unsupported` when they are opened.
[[nodiscard]] YL_API Result<std::shared_ptr<const Files>> open_archive(
    const std::filesystem::path& path);
/// The same of an archive in memory.
[[nodiscard]] YL_API Result<std::shared_ptr<const Files>> open_archive(SharedBytes bytes);

/// Regular files of the disk, and those in archives, into which paths lead as into folders:
/// "maps.zip/slate.png". An archive is opened again for each file. `list` gives those of the disk.
[[nodiscard]] YL_API std::shared_ptr<const Files> files_with_archives();

}  // namespace yl
