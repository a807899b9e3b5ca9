// Reading JPEG (ITU-T T.81 | ISO/IEC 10918-1): baseline, extended and progressive, Huffman-coded.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <utility>

#include <yl/status_macros.hpp>
#include "base/progress.hpp"
#include "codec/color_conversion.hpp"
#include "codec/exif.hpp"
#include "codec/jpeg/assembler.hpp"
#include "codec/jpeg/coefficient_store.hpp"
#include "codec/jpeg/frame.hpp"
#include "codec/jpeg/jpeg.hpp"
#include "codec/jpeg/scan.hpp"
#include "codec/picture_format.hpp"
#include "codec/profile.hpp"

namespace yl::jpeg {
namespace {

constexpr int most_scans = 200;  // real files have some ten; more are made to waste time

/// How much of a file is decoded, and of its pixels made.
class ReadShare {
 public:
    ReadShare(const Progress& told, std::uint64_t total) : counter_(told, Phase::reading, total) {}

    /// False when the program wants no more.
    bool reach(std::uint64_t done) {
        if (done > done_)
            counter_.add(done - std::exchange(done_, done));
        return !counter_.cancelled();
    }
    [[nodiscard]] Status status() const { return counter_.status(); }
    [[nodiscard]] Status finish() { return counter_.finish(); }

 private:
    ProgressCounter counter_;
    std::uint64_t done_ = 0;
};

class Reader {
 public:
    Reader(ByteSpan file, const ReadOptions& options)
        : reader_(file), file_(file), options_(options) {}

    Result<Picture> read() {
        YL_CHECK(reader_.skip(2));
        YL_CHECK(find_frame());
        return frame_.bits == 8 ? decode<std::uint8_t>() : decode<std::uint16_t>();
    }

    Result<PictureHeader> peek() {
        YL_CHECK(reader_.skip(2));
        YL_CHECK(find_frame());
        return header_of({.width = frame_.width,
                          .height = frame_.height,
                          .channels = frame_.components.size() == 1 ? 1U : 3U,
                          .bits = frame_.bits == 8 ? 8U : 16U},
                         orientation_);
    }

 private:
    struct Segment {
        std::uint8_t marker = 0;
        std::size_t offset = 0;
        ByteSpan data;
    };

    /// The next marker with its segment; fill bytes before it are passed over.
    Result<Segment> next_segment() {
        Segment segment;
        pass_stray_bytes();
        segment.offset = reader_.offset();
        YL_TRY(auto byte, reader_.read<std::uint8_t>());
        if (byte != 0xFF)
            return fail(
                ErrorKind::malformed,
                fmt::format("a marker was expected and {:#04x} found: the file is damaged", byte),
                segment.offset);
        while (byte == 0xFF) {
            YL_TRY(byte, reader_.read<std::uint8_t>());
        }
        segment.marker = byte;
        const bool stands_alone =
            byte == eoi || byte == soi || byte == 0x01 || (byte >= rst0 && byte <= rst7);
        if (stands_alone)
            return segment;
        YL_TRY(const auto length, reader_.read_big<std::uint16_t>());
        if (length < 2)
            return fail(
                ErrorKind::malformed,
                fmt::format("a segment's length is {}; it counts its own two bytes", length),
                segment.offset);
        YL_TRY(segment.data, reader_.take(length - 2U));
        return segment;
    }

    /// Tables and settings that may stand before any scan.
    Status take_table(const Segment& segment) {
        ByteReader data(segment.data);
        const auto placed = [&](Error error) {
            error.offset = segment.offset + 4 + error.offset.value_or(0);
            return tl::unexpected(std::move(error));
        };
        auto status = segment.marker == dqt   ? read_quantization(data)
                      : segment.marker == dht ? read_huffman(data)
                      : segment.marker == dri ? read_interval(data)
                                              : Status{};
        if (!status)
            return placed(status.error());
        if (segment.marker == app0 &&
            as_text(segment.data).starts_with(std::string_view("JFIF\0", 5)))
            has_jfif_ = true;
        constexpr std::string_view profile_mark("ICC_PROFILE\0", 12);
        if (segment.marker == app2 && as_text(segment.data).starts_with(profile_mark) &&
            segment.data.size() > profile_mark.size() + 2)  // its number, and how many there are
            profile_pieces_.emplace(std::to_integer<int>(segment.data[profile_mark.size()]),
                                    segment.data.subspan(profile_mark.size() + 2));
        if (segment.marker == app14 && as_text(segment.data).starts_with("Adobe") &&
            segment.data.size() >= 12)
            adobe_transform_ = std::to_integer<int>(segment.data[11]);
        const std::string_view exif_mark("Exif\0\0", 6);
        if (segment.marker == app1 && !orientation_ && as_text(segment.data).starts_with(exif_mark))
            orientation_ = exif_orientation(segment.data.subspan(exif_mark.size()));
        return {};
    }

    Status read_quantization(ByteReader& data) {
        while (data.left() > 0) {
            YL_TRY(const auto kind, data.read<std::uint8_t>());
            if (kind >> 4 > 1 || (kind & 15) > 3)
                return fail(ErrorKind::malformed,
                            fmt::format("quantization table {:#04x} has an unknown kind", kind),
                            data.offset() - 1);
            auto& table = quantization_[kind & 15];
            for (std::uint16_t& step : table) {
                if (kind >> 4 != 0) {
                    YL_TRY(step, data.read_big<std::uint16_t>());
                } else {
                    YL_TRY(step, data.read<std::uint8_t>());
                }
            }
            quantization_defined_[kind & 15] = true;
        }
        return {};
    }

    Status read_huffman(ByteReader& data) {
        while (data.left() > 0) {
            YL_TRY(const auto kind, data.read<std::uint8_t>());
            if (kind >> 4 > 1 || (kind & 15) > 3)
                return fail(ErrorKind::malformed,
                            fmt::format("Huffman table {:#04x} has an unknown kind", kind),
                            data.offset() - 1);
            YL_TRY(huffman_[kind >> 4][kind & 15], HuffmanTable::read(data));
        }
        return {};
    }

    Status read_interval(ByteReader& data) {
        YL_TRY(restart_interval_, data.read_big<std::uint16_t>());
        return {};
    }

    Status find_frame() {
        while (true) {
            YL_TRY(const Segment segment, next_segment());
            if (const auto kind = unsupported_frame(segment.marker))
                return fail(ErrorKind::unsupported,
                            fmt::format("this is {}, which is not handled", *kind), segment.offset);
            if (segment.marker == sof_baseline || segment.marker == sof_extended ||
                segment.marker == sof_progressive) {
                YL_TRY(frame_, parse_frame(segment.marker, segment.data, segment.offset));
                return {};
            }
            if (segment.marker == eoi || segment.marker == sos)
                return fail(ErrorKind::malformed, "the file has no frame header", segment.offset);
            YL_CHECK(take_table(segment));
        }
    }

    Result<Scan> parse_scan(const Segment& segment) {
        const auto wrong = [&](std::string message) {
            return fail(ErrorKind::malformed, "scan header: " + std::move(message), segment.offset);
        };
        ByteReader data(segment.data);
        Scan scan;
        scan.restart_interval = restart_interval_;
        YL_TRY(const auto count, data.read<std::uint8_t>());
        if (count < 1 || count > frame_.components.size())
            return wrong(fmt::format("{} components", count));
        std::uint32_t blocks = 0;
        for (std::uint32_t i = 0; i < count; ++i) {
            YL_TRY(const auto id, data.read<std::uint8_t>());
            YL_TRY(const auto tables, data.read<std::uint8_t>());
            const auto found = std::find_if(frame_.components.begin(), frame_.components.end(),
                                            [&](const Component& c) { return c.id == id; });
            if (found == frame_.components.end() || tables >> 4 > 3 || (tables & 15) > 3)
                return wrong(
                    fmt::format("component {} with tables {:#04x} is unknown", id, tables));
            const auto index = static_cast<std::size_t>(found - frame_.components.begin());
            for (const ScanComponent& before : scan.components)
                if (before.index == index)
                    return wrong(fmt::format("component {} stands twice", id));
            scan.components.push_back(
                {index, &huffman_[0][tables >> 4], &huffman_[1][tables & 15]});
            blocks += found->h * found->v;
        }
        if (count > 1 && blocks > 10)
            return wrong(fmt::format("{} blocks in a unit; 10 are allowed", blocks));
        YL_TRY(scan.first, data.read<std::uint8_t>());
        YL_TRY(scan.last, data.read<std::uint8_t>());
        YL_TRY(const auto approximation, data.read<std::uint8_t>());
        scan.high = approximation >> 4;
        scan.low = approximation & 15;
        if (frame_.progressive) {
            const bool dc = scan.first == 0 && scan.last == 0;
            const bool ac =
                scan.first > 0 && scan.first <= scan.last && scan.last < 64 && count == 1;
            if ((!dc && !ac) || scan.low > 13 || (scan.high != 0 && scan.high != scan.low + 1))
                return wrong(
                    fmt::format("coefficients {} to {}, bits {} to {} are no progressive scan",
                                scan.first, scan.last, scan.high, scan.low));
        } else {
            scan.first = scan.low = scan.high = 0;
            scan.last = 63;
        }
        for (const ScanComponent& component : scan.components) {
            const bool needs_dc = scan.first == 0 && scan.high == 0;
            const bool needs_ac = scan.last > 0;
            if ((needs_dc && !component.dc->is_defined()) ||
                (needs_ac && !component.ac->is_defined()))
                return wrong("a Huffman table that it needs is missing");
            YL_CHECK(take_quantization(frame_.components[component.index], segment.offset));
        }
        return scan;
    }

    /// A component keeps the table that is valid when its first scan begins.
    Status take_quantization(Component& component, std::size_t offset) {
        if (component.is_quantized)
            return {};
        if (!quantization_defined_[component.quantization])
            return fail(ErrorKind::malformed,
                        fmt::format("quantization table {} is missing", component.quantization),
                        offset);
        component.steps = quantization_[component.quantization];
        component.is_quantized = true;
        return {};
    }

    /// The next scan; nothing at the picture's end.
    Result<std::optional<Scan>> next_scan() {
        while (true) {
            auto found = next_segment();
            if (!found && scans_ > 0 && reader_.left() == 0 && is_complete()) {
                remarks_.emplace_back("the file ends without its end marker; no pixel is missing");
                return std::nullopt;
            }
            if (!found)
                return tl::unexpected(found.error());
            const Segment segment = *found;
            if (segment.marker == eoi)
                return std::nullopt;
            if (segment.marker == sos) {
                if (++scans_ > most_scans)
                    return fail(ErrorKind::limit,
                                fmt::format("the file has more than {} scans", most_scans),
                                segment.offset);
                YL_TRY(Scan scan, parse_scan(segment));
                return scan;
            }
            YL_CHECK(take_table(segment));
        }
    }

    /// The coded data of a scan; afterwards the reader stands at the next marker.
    Status read_scan(const Scan& scan, const UnitRows& rows) {
        const std::size_t coded = reader_.offset();
        auto length = decode_scan(frame_, scan, file_.subspan(coded), rows);
        if (!length) {
            length.error().offset = coded + length.error().offset.value_or(0);
            return tl::unexpected(length.error());
        }
        YL_CHECK(reader_.skip(*length));
        skip_to_marker();
        for (const ScanComponent& component : scan.components)
            std::fill(coefficient_bits_[component.index].begin() + scan.first,
                      coefficient_bits_[component.index].begin() + scan.last + 1, scan.low);
        return {};
    }

    /// Whether every coefficient has been sent to its last bit.
    [[nodiscard]] bool is_complete() const {
        const auto all_sent = [](const auto& bits) {
            return std::all_of(bits.begin(), bits.end(), [](int low) { return low == 0; });
        };
        return std::all_of(
            coefficient_bits_.begin(),
            coefficient_bits_.begin() + static_cast<std::ptrdiff_t>(frame_.components.size()),
            all_sent);
    }

    /// Before memory is taken: every block has at least one bit in the file.
    Status check_claim() const {
        std::uint64_t blocks = 0;
        for (const Component& component : frame_.components)
            blocks += std::uint64_t{component.blocks_x} * component.blocks_y;
        if (blocks / 8 <= file_.size() || options_.allow_partial)
            return {};
        return fail(ErrorKind::malformed, fmt::format("{} bytes cannot hold {} x {} pixels",
                                                      file_.size(), frame_.width, frame_.height));
    }

    template <class Sample>
    Result<Picture> decode() {
        YL_TRY(const auto scan, next_scan());
        if (!scan)
            return fail(ErrorKind::malformed, "the file has no scan, and so no picture");
        YL_CHECK(check_claim());
        // Everything in one sequential scan: rows can be finished on the way.
        const bool flows =
            !frame_.progressive && scan->components.size() == frame_.components.size();
        const std::vector<std::byte> profile = joined_profile();
        const bool has_inks = frame_.components.size() == 4;
        const bool by_profile = has_inks && applies_ink_profile(profile, options_);
        const std::uint32_t own_channels = frame_.components.size() == 1 ? 1 : 3;
        PictureStart start{.width = frame_.width,
                           .height = frame_.height,
                           .channels = options_.widen_to_rgba && !by_profile ? 4 : own_channels,
                           .bits = frame_.bits == 8 ? 8U : 16U};
        CoefficientStore coefficients(frame_);
        if (!flows)
            start.memory = coefficients.shared_bytes(std::size_t{frame_.width} * start.channels *
                                                     sizeof(Sample));
        YL_TRY(Picture picture, start_picture(start, options_));
        describe(picture, profile, by_profile);
        const ImageView view = picture.image.view();
        if (!flows)
            coefficients.place({view.data, start.memory});
        CoefficientStore* kept = flows ? nullptr : &coefficients;
        if (by_profile)
            YL_CHECK(decode_inks<Sample>(*scan, kept, profile, picture));
        else
            YL_CHECK(decode_into<Sample>(*scan, kept, plan_of(start.channels), view, picture.info));
        YL_CHECK(turn_upright(picture, orientation_, options_));
        return picture;
    }

    /// A profile takes all four inks, so they have an image of their own.
    template <class Sample>
    Status decode_inks(const Scan& scan, CoefficientStore* kept, ByteSpan profile,
                       Picture& picture) {
        ColorPlan plan = plan_of(4);
        plan.keeps_inks = true;
        YL_TRY(Image inks,
               Image::create(plain_format({4, 8 * sizeof(Sample), false}), frame_.width,
                             frame_.height, {~std::uint32_t{0}, options_.limits.max_bytes}));
        YL_CHECK(decode_into<Sample>(scan, kept, plan, inks.view(), picture.info));
        return convert_inks(std::as_const(inks).view(), profile, picture.image.view());
    }

    [[nodiscard]] ColorPlan plan_of(std::uint32_t channels) const {
        return {.model = color_model(),
                .inverted = adobe_transform_.has_value(),
                .bits = static_cast<int>(frame_.bits),
                .channels = channels};
    }

    /// Coefficients that are kept become pixels in a second pass.
    template <class Sample>
    Status decode_into(const Scan& scan, CoefficientStore* kept, const ColorPlan& plan,
                       ImageView target, PictureInfo& info) {
        RowAssembler<Sample> assembler(frame_, plan, target);
        ReadShare share(options_.progress, file_.size() * (kept == nullptr ? 1U : 2U));
        auto decoded = kept == nullptr ? decode_flowing(scan, assembler, share)
                                       : decode_scans(scan, *kept, share);
        YL_CHECK(share.status());
        if (!decoded) {
            if (!options_.allow_partial)
                return tl::unexpected(decoded.error());
            info.remarks.push_back("the picture is incomplete: " + decoded.error().sentence());
        }
        info.remarks.insert(info.remarks.end(), remarks_.begin(), remarks_.end());
        if (kept != nullptr)
            assemble(*kept, assembler, share);
        return share.finish();
    }

    void describe(Picture& picture, std::vector<std::byte> profile, bool by_profile) const {
        PictureInfo& info = picture.info;
        info.file_bits = frame_.bits;
        info.file_channels = frame_.components.size() == 1 ? 1 : 3;
        info.is_interlaced = frame_.progressive;
        if (frame_.components.size() == 4) {
            describe_inks(info, profile, by_profile);
        } else if (!profile.empty()) {
            std::string name = profile_description(profile);
            take_profile(info, std::move(name), std::move(profile));
            settle_transfer(picture, options_);
        }
    }

    template <class Sample>
    Status decode_flowing(const Scan& scan, RowAssembler<Sample>& assembler, ReadShare& share) {
        set_steps(assembler);
        std::vector<Block> blocks(frame_.row_blocks);
        UnitRows rows;
        const std::size_t coded = reader_.offset();
        rows.begin = [&](std::uint32_t, std::size_t offset) {
            std::fill(blocks.begin(), blocks.end(), Block{});
            return share.reach(coded + offset) ? blocks.data() : nullptr;
        };
        rows.finished = [&] { assembler.take_row(blocks.data()); };
        auto decoded = read_scan(scan, rows);
        if (!decoded) {
            while (options_.allow_partial && share.status() &&
                   assembler.finished_rows() < frame_.units_y) {
                assembler.take_row(blocks.data());  // what there is of the first of them
                std::fill(blocks.begin(), blocks.end(), Block{});
            }
            return decoded;
        }
        YL_TRY(const auto further, next_scan());
        if (further)
            return fail(ErrorKind::malformed,
                        "the file has a second scan of components that are complete");
        return {};
    }

    Status decode_scans(const Scan& first, CoefficientStore& coefficients, ReadShare& share) {
        const UnitRows rows{.begin = [&](std::uint32_t unit_y, std::size_t offset) {
            return share.reach(reader_.offset() + offset) ? coefficients.row(unit_y) : nullptr;
        }};
        for (std::optional<Scan> scan = first; scan;) {
            YL_CHECK(read_scan(*scan, rows));
            YL_TRY(scan, next_scan());
        }
        for (const Component& component : frame_.components)
            if (!component.is_quantized)
                return fail(ErrorKind::malformed,
                            fmt::format("component {} has no scan", component.id));
        return {};
    }

    template <class Sample>
    void assemble(CoefficientStore& coefficients, RowAssembler<Sample>& assembler,
                  ReadShare& share) {
        set_steps(assembler);
        for (std::uint32_t unit_y = 0; unit_y < frame_.units_y; ++unit_y)
            if (share.reach(file_.size() + file_.size() * unit_y / frame_.units_y))
                assembler.take_row(coefficients.row(unit_y));
    }

    template <class Sample>
    void set_steps(RowAssembler<Sample>& assembler) const {
        for (std::size_t c = 0; c < frame_.components.size(); ++c)
            assembler.set_steps(c, frame_.components[c].steps);
    }

    [[nodiscard]] std::vector<std::byte> joined_profile() const {
        std::vector<std::byte> profile;
        for (const auto& [number, piece] : profile_pieces_)
            profile.insert(profile.end(), piece.begin(), piece.end());
        return profile;
    }

    /// Some writers leave bytes between the coded data and the next marker.
    void skip_to_marker() {
        std::size_t at = reader_.offset();
        const auto is_marker = [&](std::size_t i) {
            const auto next = std::to_integer<int>(file_[i + 1]);
            return file_[i] == std::byte{0xFF} && next != 0 && (next < rst0 || next > rst7);
        };
        while (at + 1 < file_.size() && !is_marker(at))
            ++at;
        static_cast<void>(reader_.seek(at + 1 < file_.size() ? at : file_.size()));
    }

    /// Bytes between two segments that belong to neither; where no marker follows they are left.
    void pass_stray_bytes() {
        const std::size_t begin = reader_.offset();
        if (begin >= file_.size() || file_[begin] == std::byte{0xFF})
            return;
        skip_to_marker();
        if (reader_.left() == 0) {
            static_cast<void>(reader_.seek(begin));
            return;
        }
        const std::size_t count = reader_.offset() - begin;
        remarks_.push_back(fmt::format("{} stray byte{} before a marker {} passed over", count,
                                       count == 1 ? "" : "s", count == 1 ? "was" : "were"));
    }

    [[nodiscard]] ColorModel color_model() const {
        const auto& components = frame_.components;
        if (components.size() == 1)
            return ColorModel::gray;
        if (components.size() == 4)
            return adobe_transform_ == 2 ? ColorModel::ycck : ColorModel::cmyk;
        // JFIF knows no other colours than these, whatever a second marker says.
        if (has_jfif_)
            return ColorModel::ycc;
        if (adobe_transform_)
            return *adobe_transform_ == 0 ? ColorModel::rgb : ColorModel::ycc;
        const bool named_rgb =
            components[0].id == 'R' && components[1].id == 'G' && components[2].id == 'B';
        return named_rgb ? ColorModel::rgb : ColorModel::ycc;
    }

    ByteReader reader_;
    ByteSpan file_;
    const ReadOptions& options_;
    Frame frame_;
    std::array<std::array<std::uint16_t, block_size>, 4> quantization_{};
    std::array<bool, 4> quantization_defined_{};
    std::array<std::array<HuffmanTable, 4>, 2> huffman_{};  // DC, AC
    std::uint32_t restart_interval_ = 0;
    std::optional<int> adobe_transform_;
    std::optional<Orientation> orientation_;
    bool has_jfif_ = false;
    std::map<int, ByteSpan> profile_pieces_;  ///< by number (ICC.1, annex B.4)
    /// Of each component and coefficient: bits that are still to be sent, or that none was.
    std::array<std::array<int, block_size>, 4> coefficient_bits_ = none_sent();
    std::vector<std::string> remarks_;
    int scans_ = 0;

    static std::array<std::array<int, block_size>, 4> none_sent() {
        std::array<std::array<int, block_size>, 4> bits{};
        for (auto& component : bits)
            component.fill(-1);
        return bits;
    }
};

bool recognise(ByteSpan bytes) {
    return bytes.size() >= 3 && bytes[0] == std::byte{0xFF} && bytes[1] == std::byte{soi} &&
           bytes[2] == std::byte{0xFF};
}

Result<PictureHeader> peek(ByteSpan bytes) {
    const ReadOptions options;
    return Reader(bytes, options).peek();
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    return Reader(bytes, options).read();
}

}  // namespace
}  // namespace yl::jpeg

namespace yl {

PictureFormat jpeg_format() {
    return {.name = "JPEG",
            .endings = {"jpg", "jpeg", "jpe", "jfif"},
            .recognise = jpeg::recognise,
            .read = jpeg::read,
            .peek = jpeg::peek,
            .write = jpeg::write,
            .held = {.channels = "13", .bytes = true}};
}

}  // namespace yl
