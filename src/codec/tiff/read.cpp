#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/progress.hpp"
#include "codec/tiff/page_reader.hpp"
#include "codec/tiff/tiff.hpp"

namespace yl::tiff {
namespace {

Result<Picture> read_page(const Directory& directory, const ReadOptions& options) {
    YL_TRY(PageReader reader, PageReader::open(directory, options));
    YL_CHECK(check_size(reader.page().width, reader.page().height, options.limits));
    YL_CHECK(reader.check_claims());
    YL_TRY(Picture picture, start_picture(reader.start(), options));
    reader.describe(picture, picture.image.format());
    ProgressCounter progress(options.progress, Phase::reading, reader.tiles());
    YL_CHECK(progress.status());
    YL_CHECK(reader.read(0, reader.page().tiles_down(), picture.image.view(), progress));
    YL_CHECK(reader.settle_colors(picture));
    YL_CHECK(turn_upright(picture, reader.orientation(), options));
    return picture;
}

}  // namespace

bool recognise(ByteSpan bytes) {
    const std::string_view start = as_text(bytes).substr(0, 4);
    using namespace std::string_view_literals;
    return start == "II\x2A\0"sv || start == "MM\0\x2A"sv || start == "II\x2B\0"sv ||
           start == "MM\0\x2B"sv;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    YL_TRY(const PageReader reader, PageReader::open(pages[0], {}));
    YL_TRY(PictureHeader header, header_of(reader.start(), reader.orientation()));
    header.frames = static_cast<std::uint32_t>(pages.size());
    return header;
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    YL_TRY(Picture picture, read_page(pages[0], options));
    if (pages.size() > 1)
        picture.info.remarks.push_back(
            fmt::format("this is the first of its {} pages", pages.size()));
    return picture;
}

Result<PictureFrames> read_pages(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    PictureFrames frames;
    std::uint64_t total = 0;
    for (const Directory& page : pages) {
        YL_TRY(Picture picture, read_page(page, options));
        total += picture.image.view().row(0).size() * std::uint64_t{picture.image.height()};
        if (total > options.limits.max_bytes)
            return fail(ErrorKind::limit, fmt::format("its {} pages take more than {} bytes",
                                                      pages.size(), options.limits.max_bytes));
        frames.pictures.push_back(std::move(picture));
    }
    return frames;
}

}  // namespace yl::tiff

namespace yl {

PictureFormat tiff_format() {
    return {
        .name = "TIFF",
        .endings = {"tif", "tiff"},
        .recognise = tiff::recognise,
        .read = tiff::read,
        .peek = tiff::peek,
        .write = tiff::write,
        .held = {.channels = "1234", .bytes = true, .words = true, .halves = true, .singles = true},
        .read_frames = tiff::read_pages,
        .open_rows = tiff::open_rows};
}

}  // namespace yl
