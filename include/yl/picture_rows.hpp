// Pictures larger than memory: rows as they come out of a file.
//
//     yl::PictureRows rows = yl::or_exit(yl::PictureRows::open("continent.png"));
//     yl::Image band = yl::or_exit(
//         yl::Image::create(rows.format(), rows.width(), 64, yl::Limits::none()));
//     while (const std::uint32_t count = std::min(rows.rows_left(), 64U)) {
//         yl::ImageView view = band.view();
//         view.height = count;
//         yl::or_exit(rows.read(view));
//     }
#pragma once

#include <filesystem>
#include <memory>
#include <yl/api.hpp>
#include <yl/picture.hpp>

namespace yl {

/// A picture file of which only the header has been read, and whose rows follow in order. PNG without
/// interlacing and TIFF need memory for some rows alone, whatever their size; all other pictures are
/// read whole when they are opened. To be used by one thread at a time.
class YL_API PictureRows {
 public:
    /// Of `options.limits`, `max_bytes` holds for a thousand rows, and `max_side` only for pictures
    /// that have to be read whole. Pixels come as the file has them: `widen_to_rgba` is refused with
    /// `ErrorKind::usage`. Fails as `read_picture` does.
    [[nodiscard]] static Result<PictureRows> open(const std::filesystem::path& path,
                                                  const ReadOptions& options = {});

    PictureRows(PictureRows&&) noexcept;
    PictureRows& operator=(PictureRows&&) noexcept;
    ~PictureRows();

    /// Of the whole picture.
    [[nodiscard]] std::uint32_t width() const;
    [[nodiscard]] std::uint32_t height() const;
    /// In which rows are read.
    [[nodiscard]] Format format() const;
    /// All that `read_picture` would say, without the image. Remarks on what stands behind the pixels
    /// are added by the last `read`.
    [[nodiscard]] const Picture& picture() const;
    /// Whether memory is needed for some rows alone.
    [[nodiscard]] bool flows() const;

    /// Those that have not been read.
    [[nodiscard]] std::uint32_t rows_left() const;

    /// The next `band.height` rows into memory of the caller's, with any stride; `band` has the format
    /// and width above. Fails with `ErrorKind::usage` for other bands and for more rows than are left,
    /// and with `malformed` where the file is damaged; after a failure, nothing more can be read.
    [[nodiscard]] Status read(ImageView band);

    /// Begins again with the first row. Fails as `open` does.
    [[nodiscard]] Status rewind();

 private:
    struct State;
    explicit PictureRows(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

/// Reads a picture straight into memory of the caller's. `target` has the picture's size
/// (`peek_picture` tells), any format that the picture can be converted to, and any stride; `origin`
/// says which of its rows comes first. Where the format is the file's own and its rows flow, nothing
/// is copied. Fails as `read_picture` and `convert` do, and with `ErrorKind::usage` for another size.
[[nodiscard]] YL_API Status read_picture_into(const std::filesystem::path& path, ImageView target,
                                              const ReadOptions& options = {},
                                              Origin origin = Origin::top);

}  // namespace yl
