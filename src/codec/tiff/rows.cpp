// Rows of a TIFF, by rows of its strips or tiles.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "codec/tiff/page_reader.hpp"
#include "codec/tiff/tiff.hpp"

namespace yl::tiff {
namespace {

constexpr std::uint32_t rows_at_once = 64;  // at least, for all processors to have work

class TiffRows final : public RowReader {
 public:
    TiffRows(std::shared_ptr<const File> file, PageReader reader, Image rows)
        : file_(std::move(file)), reader_(std::move(reader)), rows_(std::move(rows)) {}

    [[nodiscard]] Status read(ImageView band) override {
        for (std::uint32_t y = 0; y < band.height; ++y) {
            if (next_ == in_rows_)
                YL_CHECK(read_more());
            std::ranges::copy(std::as_const(rows_).view().row(next_++), band.row(y).begin());
        }
        return {};
    }

 private:
    [[nodiscard]] Status read_more() {
        const Page& page = reader_.page();
        const std::uint32_t begin = tile_row_;
        tile_row_ = std::min(begin + rows_.height() / page.tile_height, page.tiles_down());
        ImageView target = rows_.view();
        in_rows_ = std::min(tile_row_ * page.tile_height, page.height) - begin * page.tile_height;
        target.height = in_rows_;
        next_ = 0;
        const Progress nobody;
        ProgressCounter progress(nobody, Phase::reading, 1);
        return reader_.read(begin, tile_row_, target, progress);
    }

    std::shared_ptr<const File> file_;
    PageReader reader_;
    Image rows_;  ///< of some rows of tiles
    std::uint32_t in_rows_ = 0, next_ = 0;
    std::uint32_t tile_row_ = 0;  ///< to be read next
};

}  // namespace

Result<RowStart> open_rows(SharedFile stored, const ReadOptions& options) {
    YL_TRY(File opened, File::open(ByteSource(std::move(stored))));
    const auto file = std::make_shared<const File>(std::move(opened));
    YL_TRY(const auto pages, pages_of(*file));
    YL_TRY(PageReader reader, PageReader::open(pages[0], options));
    const Page& page = reader.page();
    RowStart start;
    start.width = page.width;
    start.height = page.height;
    start.orientation = reader.orientation();
    reader.cut_strips(rows_at_once);
    start.format = describe_start(reader.start(), options, start.picture);
    const std::uint64_t row_bytes = std::uint64_t{page.width} * info(start.format).block_bytes;
    YL_CHECK(check_row(row_bytes, options.limits));
    const std::uint64_t height = round_up(rows_at_once, page.tile_height);
    constexpr std::uint64_t share_of_memory = 16;
    if (height > options.limits.max_bytes / share_of_memory / row_bytes) {
        start.needs_whole = fmt::format("its strips or tiles are {} rows high", page.tile_height);
        return start;
    }
    YL_CHECK(reader.check_claims());
    reader.describe(start.picture, start.format);
    if (pages.size() > 1)
        start.picture.info.remarks.push_back(
            fmt::format("this is the first of its {} pages", pages.size()));
    YL_TRY(Image rows, Image::create(start.format, page.width, static_cast<std::uint32_t>(height),
                                     Limits::none()));
    start.settle = [file, reader](Picture& band) { return reader.settle_colors(band); };
    start.reader = std::make_unique<TiffRows>(file, std::move(reader), std::move(rows));
    return start;
}

}  // namespace yl::tiff
