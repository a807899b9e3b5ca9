// Rows of a PNG as they come out of its image data.
#include <fmt/format.h>
#include <libdeflate.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/inflate_stream.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/colors.hpp"
#include "codec/png/filter.hpp"
#include "codec/png/parse.hpp"
#include "codec/png/png.hpp"

namespace yl::png {
namespace {

/// The bytes of all chunks IDAT, one after the other, with their checksums looked at.
class ImageData {
 public:
    ImageData(SharedFile file, std::uint64_t offset)
        : file_(std::move(file)), next_chunk_(offset), buffer_(piece_bytes) {}

    /// What is at hand; empty at the end of the last chunk.
    [[nodiscard]] Result<ByteSpan> bytes() {
        while (at_hand_.empty() && !has_ended_)
            YL_CHECK(left_ > 0 ? read_piece() : begin_chunk());
        return at_hand_;
    }
    void take(std::size_t count) { at_hand_ = at_hand_.subspan(count); }

    /// Where the chunk behind the image data begins.
    [[nodiscard]] std::uint64_t end() const { return next_chunk_; }

 private:
    static constexpr std::size_t piece_bytes = std::size_t{256} << 10U;
    static constexpr std::size_t head_bytes = 8, checksum_bytes = 4;

    [[nodiscard]] Status begin_chunk() {
        std::array<std::byte, head_bytes> head{};
        if (next_chunk_ + head_bytes > file_->size()) {
            has_ended_ = true;
            return {};
        }
        YL_CHECK(file_->read_at(next_chunk_, head));
        const auto length = load<std::uint32_t, std::endian::big>(head.data());
        const auto type = load<std::uint32_t, std::endian::big>(head.data() + 4);
        has_ended_ = type != chunk_type("IDAT");
        if (has_ended_)
            return {};
        chunk_ = next_chunk_;
        const std::uint64_t rest = file_->size() - next_chunk_ - head_bytes;
        if (length + std::uint64_t{checksum_bytes} > rest)
            return fail(ErrorKind::malformed,
                        fmt::format("chunk IDAT claims {} bytes, but the file has only {} more: it "
                                    "is truncated or damaged",
                                    length, rest),
                        chunk_);
        at_ = next_chunk_ + head_bytes;
        left_ = length;
        next_chunk_ = at_ + length + checksum_bytes;
        checksum_ = libdeflate_crc32(0, head.data() + 4, 4);
        return length == 0 ? check() : Status{};
    }

    [[nodiscard]] Status read_piece() {
        const auto count = std::min<std::size_t>(left_, buffer_.size());
        const auto piece = std::span(buffer_).first(count);
        YL_CHECK(file_->read_at(at_, piece));
        checksum_ = libdeflate_crc32(checksum_, piece.data(), piece.size());
        at_ += count;
        left_ -= static_cast<std::uint32_t>(count);
        at_hand_ = piece;
        return left_ == 0 ? check() : Status{};
    }

    [[nodiscard]] Status check() const {
        std::array<std::byte, checksum_bytes> stored{};
        YL_CHECK(file_->read_at(at_, stored));
        if (load<std::uint32_t, std::endian::big>(stored.data()) == checksum_)
            return {};
        return fail(ErrorKind::malformed,
                    "the checksum of chunk IDAT is wrong: the file is damaged", chunk_);
    }

    SharedFile file_;
    std::uint64_t chunk_ = 0, next_chunk_;
    std::uint64_t at_ = 0;    ///< of what is not read of this chunk
    std::uint32_t left_ = 0;  ///< bytes of that
    std::uint32_t checksum_ = 0;
    std::vector<std::byte> buffer_;
    ByteSpan at_hand_ = {};
    bool has_ended_ = false;
};

class PngRows final : public RowReader {
 public:
    PngRows(SharedFile file, std::shared_ptr<const Parsed> parsed, InflateStream stream)
        : file_(file),
          parsed_(std::move(parsed)),
          data_(std::move(file), parsed_->image_offset),
          stream_(std::move(stream)),
          expander_(parsed_->header, parsed_->meaning, false),
          filtered_(static_cast<std::size_t>(parsed_->header.row_bytes(parsed_->header.width)) + 1),
          rows_(2 * (filtered_.size() - 1)) {}

    [[nodiscard]] const RowExpander& expander() const { return expander_; }

    [[nodiscard]] Status read(ImageView band) override {
        const Header& header = parsed_->header;
        const std::size_t row_bytes = filtered_.size() - 1;
        for (std::uint32_t y = 0; y < band.height; ++y, ++row_) {
            YL_CHECK(unpack(filtered_));
            YL_TRY(const RowFilter filter, row_filter(filtered_[0], row_, parsed_->image_offset));
            std::byte* const row = rows_.data() + (row_ % 2 == 0 ? row_bytes : 0);
            const std::byte* const above = rows_.data() + (row_ % 2 == 0 ? 0 : row_bytes);
            undo_filter_simd(filter, ByteSpan(filtered_).subspan(1), above, row,
                             header.filter_distance());
            expander_.expand(row, band.row(y).data(), header.width);
        }
        return {};
    }

    [[nodiscard]] std::vector<std::string> last_remarks() override {
        std::vector<std::string> remarks;
        std::array<std::byte, 1> more{};
        const auto surplus = unpack_some(more);
        if (surplus && *surplus > 0)
            remarks.emplace_back(
                "the image data hold more bytes than the rows need, which were ignored");
        remark_on_chunks(remarks);
        return remarks;
    }

 private:
    /// As many bytes as there are, at most those of `target`.
    [[nodiscard]] Result<std::size_t> unpack_some(std::span<std::byte> target) {
        std::size_t done = 0;
        while (done < target.size() && !stream_.has_ended()) {
            YL_TRY(const ByteSpan packed, data_.bytes());
            if (packed.empty())
                break;
            const auto step = stream_.unpack(packed, target.subspan(done));
            if (!step)
                return fail(step.error().kind, "the image " + step.error().message,
                            parsed_->image_offset);
            data_.take(step->taken);
            done += step->given;
        }
        return done;
    }

    [[nodiscard]] Status unpack(std::span<std::byte> target) {
        YL_TRY(const std::size_t done, unpack_some(target));
        if (done == target.size())
            return {};
        const std::uint64_t row = target.size();
        return fail(ErrorKind::malformed,
                    fmt::format("the image data end early: they unpack to {} of {} bytes",
                                row_ * row + done, row * parsed_->header.height),
                    parsed_->image_offset);
    }

    /// What stands behind the image data came too late to be followed.
    void remark_on_chunks(std::vector<std::string>& remarks) const {
        std::uint64_t at = data_.end();
        std::array<std::byte, 8> head{};
        while (at + 12 <= file_->size() && file_->read_at(at, head)) {
            const auto type = load<std::uint32_t, std::endian::big>(head.data() + 4);
            at += 12 + std::uint64_t{load<std::uint32_t, std::endian::big>(head.data())};
            if (type == chunk_type("eXIf"))
                remarks.emplace_back(
                    "EXIF data behind the pixels were not looked at: a turn that they ask for was "
                    "not made");
            if (type != chunk_type("IEND"))
                continue;
            if (at < file_->size())
                remarks.push_back(
                    fmt::format("{} bytes follow the end of the picture", file_->size() - at));
            return;
        }
        remarks.emplace_back(no_end);
    }

    SharedFile file_;
    std::shared_ptr<const Parsed> parsed_;
    ImageData data_;
    InflateStream stream_;
    RowExpander expander_;
    std::vector<std::byte> filtered_;  ///< a stored row, with its filter type
    std::vector<std::byte> rows_;      ///< this one and the one above, unfiltered; zeros at first
    std::uint64_t row_ = 0;
};

/// All chunks before the image data, however long they are.
Result<Parsed> read_start_of(const File& file, std::vector<std::byte>& start) {
    constexpr std::size_t first_bytes = std::size_t{16} << 10U, growth = 16;
    for (std::size_t size = first_bytes;; size *= growth) {
        start.resize(static_cast<std::size_t>(std::min<std::uint64_t>(size, file.size())));
        YL_CHECK(file.read_at(0, start));
        auto parsed = parse_start(start);
        if (parsed || start.size() == file.size() || parsed.error().kind == ErrorKind::unsupported)
            return parsed;
    }
}

}  // namespace

Result<RowStart> open_rows(SharedFile file, const ReadOptions& options) {
    std::vector<std::byte> bytes;
    YL_TRY(Parsed found, read_start_of(*file, bytes));
    const auto parsed = std::make_shared<Parsed>(std::move(found));
    RowStart start{.width = parsed->header.width,
                   .height = parsed->header.height,
                   .orientation = parsed->orientation};
    if (parsed->header.interlaced) {
        start.needs_whole = "it is interlaced";
        return start;
    }
    YL_CHECK(check_expansion(*parsed, file->size()));
    YL_CHECK(check_row(parsed->header.row_bytes(parsed->header.width), options.limits));
    YL_TRY(InflateStream stream, InflateStream::create());
    auto reader = std::make_unique<PngRows>(std::move(file), parsed, std::move(stream));
    start.format = begin_picture(*parsed, reader->expander(), options, start.picture);
    start.reader = std::move(reader);
    start.settle = [parsed, options](Picture& band) {
        return settle_colors(*parsed, band, options);
    };
    return start;
}

}  // namespace yl::png
