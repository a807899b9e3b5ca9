#include <yl/picture_rows.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include <yl/status_macros.hpp>
#include "base/files.hpp"
#include "base/out_of_memory.hpp"
#include "codec/color_conversion.hpp"
#include "codec/formats.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// Rows of a picture that is in memory.
class WholePicture final : public RowReader {
 public:
    explicit WholePicture(Image image) : image_(std::move(image)) {}

    [[nodiscard]] Status read(ImageView band) override {
        for (std::uint32_t y = 0; y < band.height; ++y)
            std::ranges::copy(std::as_const(image_).view().row(next_++), band.row(y).begin());
        return {};
    }
    [[nodiscard]] bool rewind() override {
        next_ = 0;
        return true;
    }

 private:
    Image image_;
    std::uint32_t next_ = 0;
};

Result<RowStart> open_whole(const std::filesystem::path& path, const ReadOptions& options) {
    RowStart start;
    YL_TRY(start.picture, read_picture(path, options));
    start.format = start.picture.image.format();
    start.width = start.picture.image.width();
    start.height = start.picture.image.height();
    start.reader = std::make_unique<WholePicture>(std::move(start.picture.image));
    return start;
}

/// Nothing where no reader of rows is for such a file.
Result<std::optional<RowStart>> open_flowing(const SharedFile& file, const ReadOptions& options) {
    constexpr std::size_t longest_start = 64;
    std::array<std::byte, longest_start> space{};
    const auto count =
        static_cast<std::size_t>(std::min<std::uint64_t>(file->size(), longest_start));
    YL_CHECK(file->read_at(0, std::span(space).first(count)));
    const ByteSpan bytes = ByteSpan(space).first(count);
    const PictureFormat* const format = find_picture_format(bytes);
    const bool is_own = std::ranges::any_of(
        options.further_readers, [&](const auto& reader) { return reader.recognise(bytes); });
    if (is_own || !options.part.empty() || format == nullptr || format->open_rows == nullptr)
        return std::nullopt;
    YL_TRY(RowStart start, format->open_rows(file, options));
    start.picture.info.file_format = format->name;
    return std::optional(std::move(start));
}

/// What is done with stored pixels after they are read, as `read_picture` does it.
Status finish_band(const RowStart& start, const ReadOptions& options, Picture& band) {
    if (start.settle)
        YL_CHECK(start.settle(band));
    band.alpha = alpha_mode(options.role, band.alpha);
    return settle_profile(band, options);
}

/// A pixel tells what becomes of all of them.
Status settle_start(const ReadOptions& options, RowStart& start, bool& changes_pixels) {
    if (options.transfer == Transfer::srgb && info(start.format).is_float())
        return fail(ErrorKind::usage,
                    "the picture is in floating point, which is linear: its transfer function "
                    "cannot be sRGB");
    YL_TRY(start.picture.image, Image::create(start.format, 1, 1));
    std::ranges::fill(start.picture.image.view().row(0), std::byte{0});
    Picture& picture = start.picture;
    YL_CHECK(finish_band(start, options, picture));
    changes_pixels = !picture.info.applied_profile.empty();
    if (start.orientation && *start.orientation != Orientation::none) {
        picture.info.remarks.push_back(fmt::format(
            "EXIF asks for the picture to be turned {}; it was not", name(*start.orientation)));
    }
    picture.image = {};
    return {};
}

}  // namespace

struct PictureRows::State {
    RowStart start = {};
    Picture stored = {};  ///< what the reader says of a band before it is finished
    ReadOptions options = {};
    std::filesystem::path path = {};
    std::uint32_t left = 0;
    bool flows = false, changes_pixels = false, has_failed = false;

    [[nodiscard]] Status read(ImageView band) {
        if (!changes_pixels)
            return start.reader->read(band);
        Picture own{.transfer = stored.transfer,
                    .alpha = stored.alpha,
                    .swizzle = stored.swizzle,
                    .info = stored.info};
        YL_TRY(own.image, Image::create(band.format, band.width, band.height, Limits::none()));
        YL_CHECK(start.reader->read(own.image.view()));
        YL_CHECK(finish_band(start, options, own));
        for (std::uint32_t y = 0; y < band.height; ++y)
            std::ranges::copy(std::as_const(own.image).view().row(y), band.row(y).begin());
        return {};
    }
};

PictureRows::PictureRows(std::unique_ptr<State> state) : state_(std::move(state)) {}
PictureRows::PictureRows(PictureRows&&) noexcept = default;
PictureRows& PictureRows::operator=(PictureRows&&) noexcept = default;
PictureRows::~PictureRows() = default;

Result<PictureRows> PictureRows::open(const std::filesystem::path& path,
                                      const ReadOptions& options) try {
    if (options.widen_to_rgba)
        return fail_at({ErrorKind::usage, "rows come with the file's own channels"},
                       "widen_to_rgba");
    const auto files = options.files ? options.files : disk_files();
    auto opened = files->open(path);
    if (!opened)
        return no_such_file(opened.error(), path, &looks_like_picture);
    auto found = open_flowing(SharedFile(std::move(*opened)), options);
    if (!found)
        return fail_at(found.error(), path.string());
    auto state = std::make_unique<State>();
    state->options = options;
    state->path = path;
    const bool turns = *found && options.apply_orientation && (*found)->orientation &&
                       *(*found)->orientation != Orientation::none;
    const std::string why = turns    ? "EXIF asks for it to be turned"
                            : *found ? (*found)->needs_whole
                                     : "this format is read whole";
    if (why.empty()) {
        state->flows = true;
        state->start = std::move(**found);
        const Picture& picture = state->start.picture;
        state->stored.transfer = picture.transfer;
        state->stored.alpha = picture.alpha;
        state->stored.swizzle = picture.swizzle;
        state->stored.info = picture.info;
        const Status status = settle_start(options, state->start, state->changes_pixels);
        if (!status)
            return fail_at(status.error(), path.string());
        remark_on_name(path, state->start.picture.info);
    } else {
        auto whole = open_whole(path, options);
        if (!whole && whole.error().kind == ErrorKind::limit)
            whole.error().message += fmt::format(", and {}", why);
        if (!whole)
            return tl::unexpected(whole.error());
        state->start = std::move(*whole);
    }
    state->left = state->start.height;
    return PictureRows(std::move(state));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::uint32_t PictureRows::width() const {
    return state_->start.width;
}
std::uint32_t PictureRows::height() const {
    return state_->start.height;
}
Format PictureRows::format() const {
    return state_->start.format;
}
const Picture& PictureRows::picture() const {
    return state_->start.picture;
}
bool PictureRows::flows() const {
    return state_->flows;
}
std::uint32_t PictureRows::rows_left() const {
    return state_->left;
}

Status PictureRows::read(ImageView band) try {
    YL_CHECK(check_view(band, "band"));
    State& state = *state_;
    if (state.has_failed)
        return fail(ErrorKind::usage, "an earlier row could not be read");
    if (band.format != format() || band.width != width() || band.height > state.left)
        return fail_at(
            {ErrorKind::usage,
             fmt::format("{} rows of {} texels in {} were asked for; {} rows of {} in {} "
                         "are left",
                         band.height, band.width, info(band.format).name, state.left, width(),
                         info(format()).name)},
            "band");
    const Status status = state.read(band);
    state.has_failed = !status;
    if (!status)
        return fail_at(status.error(), state.path.string());
    state.left -= band.height;
    if (state.left == 0)
        for (std::string& remark : state.start.reader->last_remarks())
            state.start.picture.info.remarks.push_back(std::move(remark));
    return {};
} catch (const std::bad_alloc&) {
    state_->has_failed = true;
    return out_of_memory();
}

Status PictureRows::rewind() try {
    State& state = *state_;
    if (state.start.reader->rewind()) {
        state.left = height();
        return {};
    }
    YL_TRY(PictureRows again, open(state.path, state.options));
    if (again.width() != width() || again.height() != height() || again.format() != format())
        return fail_at({ErrorKind::io, "the picture was changed while it was read"},
                       state.path.string());
    // What is known of the picture stays where it is: callers may refer to it.
    state.start.reader = std::move(again.state_->start.reader);
    state.start.settle = std::move(again.state_->start.settle);
    state.left = height();
    state.has_failed = false;
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

/// The rows of a view from the bottom up, one by one.
ImageView row_of(ImageView image, std::uint32_t y, Origin origin) {
    const std::uint32_t place = origin == Origin::top ? y : image.height - 1 - y;
    return {image.row(place).data(), image.format, image.width, 1, image.row_stride};
}

/// Bands that are converted on their way.
Status read_converted(PictureRows& rows, ImageView target, Origin origin) {
    constexpr std::uint32_t rows_in_band = 64;
    const Picture& picture = rows.picture();
    YL_TRY(Image band, Image::create(rows.format(), rows.width(),
                                     std::min(rows_in_band, rows.height()), Limits::none()));
    YL_TRY(Image converted,
           Image::create(target.format, rows.width(), band.height(), Limits::none()));
    const bool is_color = picture.transfer == Transfer::srgb || info(rows.format()).is_float();
    for (std::uint32_t y = 0; y < target.height;) {
        ImageView from = band.view(), to = converted.view();
        from.height = to.height = std::min(from.height, target.height - y);
        YL_CHECK(rows.read(from));
        YL_CHECK(
            convert(from, to,
                    {.source_transfer = picture.transfer,
                     .target_transfer = info(target.format).transfer,
                     .swizzle = picture.swizzle,
                     .to_one_channel = is_color ? ToOneChannel::luminance : ToOneChannel::red}));
        for (std::uint32_t i = 0; i < to.height; ++i, ++y)
            std::ranges::copy(to.row(i), row_of(target, y, origin).row(0).begin());
    }
    return {};
}

}  // namespace

Status read_picture_into(const std::filesystem::path& path, ImageView target,
                         const ReadOptions& options, Origin origin) try {
    YL_CHECK(check_view(target, "target"));
    YL_TRY(PictureRows rows, PictureRows::open(path, options));
    if (target.width != rows.width() || target.height != rows.height())
        return fail_at({ErrorKind::usage,
                        fmt::format("the picture has {} x {} pixels, and the target {} x {}",
                                    rows.width(), rows.height(), target.width, target.height)},
                       path.string());
    if (target.format != rows.format()) {
        const Status status = read_converted(rows, target, origin);
        return status ? status : fail_at(status.error(), path.string());
    }
    if (origin == Origin::top)
        return rows.read(target);
    for (std::uint32_t y = 0; y < target.height; ++y)
        YL_CHECK(rows.read(row_of(target, y, origin)));
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
