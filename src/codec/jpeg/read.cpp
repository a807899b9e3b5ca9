// Reading JPEG (ITU-T T.81 | ISO/IEC 10918-1): baseline, extended and progressive, Huffman-coded.
#include <fmt/format.h>

#include <algorithm>

#include "base/attempt.hpp"
#include "base/parallel.hpp"
#include "codec/exif.hpp"
#include "codec/jpeg/color.hpp"
#include "codec/jpeg/frame.hpp"
#include "codec/jpeg/scan.hpp"
#include "codec/picture_format.hpp"

namespace yl::jpeg {
namespace {

constexpr int most_scans = 200;  // real files have some ten; more are made to waste time
constexpr std::size_t rows_at_least = 16;

/// One component's samples, and its coefficients while the picture is progressive.
template <class Sample>
struct Plane {
    std::vector<Sample> samples;
    std::vector<Block> blocks;
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

 private:
    struct Segment {
        std::uint8_t marker = 0;
        std::size_t offset = 0;
        ByteSpan data;
    };

    /// The next marker with its segment; fill bytes before it are passed over.
    Result<Segment> next_segment() {
        Segment segment;
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

    template <class Sample>
    Result<Picture> decode() {
        PictureStart start{.width = frame_.width,
                           .height = frame_.height,
                           .channels = frame_.components.size() == 1 ? 1U : 3U,
                           .bits = frame_.bits == 8 ? 8U : 16U};
        YL_TRY(Picture picture, start_picture(start, options_));
        picture.info.file_bits = frame_.bits;
        picture.info.file_channels = static_cast<std::uint32_t>(frame_.components.size());
        picture.info.is_interlaced = frame_.progressive;
        std::vector<Plane<Sample>> planes(frame_.components.size());
        for (std::size_t i = 0; i < planes.size(); ++i) {
            const Component& component = frame_.components[i];
            const std::size_t blocks = std::size_t{component.blocks_x} * component.blocks_y;
            planes[i].samples.assign(blocks * block_size,
                                     static_cast<Sample>(1U << (frame_.bits - 1)));
            if (frame_.progressive)
                planes[i].blocks.resize(blocks);
        }
        auto decoded = decode_scans(planes);
        if (!decoded) {
            if (!options_.allow_partial)
                return tl::unexpected(decoded.error());
            picture.info.remarks.push_back("the picture is incomplete: " +
                                           decoded.error().sentence());
        }
        if (frame_.progressive)
            finish_progressive(planes);
        convert(planes, picture);
        YL_CHECK(turn_upright(picture, orientation_, options_));
        return picture;
    }

    template <class Sample>
    Status decode_scans(std::vector<Plane<Sample>>& planes) {
        Block scratch{};
        std::vector<Scales> scales(planes.size());
        BlockStore store;
        if (frame_.progressive) {
            store.block = [&](std::size_t c, std::uint32_t x, std::uint32_t y) -> Block& {
                return planes[c].blocks[std::size_t{y} * frame_.components[c].blocks_x + x];
            };
        } else {
            store.block = [&](std::size_t, std::uint32_t, std::uint32_t) -> Block& {
                scratch.fill(0);
                return scratch;
            };
            store.finished = [&](std::size_t c, std::uint32_t x, std::uint32_t y) {
                const std::size_t stride = frame_.components[c].stride();
                inverse_dct(scratch, scales[c], static_cast<int>(frame_.bits),
                            planes[c].samples.data() + (std::size_t{y} * stride + x) * block_side,
                            stride);
            };
        }
        int scans = 0;
        while (true) {
            YL_TRY(const Segment segment, next_segment());
            if (segment.marker == eoi)
                break;
            if (segment.marker != sos) {
                YL_CHECK(take_table(segment));
                continue;
            }
            if (++scans > most_scans)
                return fail(ErrorKind::limit,
                            fmt::format("the file has more than {} scans", most_scans),
                            segment.offset);
            YL_TRY(const Scan scan, parse_scan(segment));
            for (const ScanComponent& component : scan.components)
                scales[component.index] = scales_of(frame_.components[component.index].steps);
            const std::size_t coded = reader_.offset();
            auto length = decode_scan(frame_, scan, file_.subspan(coded), store);
            if (!length) {
                length.error().offset = coded + length.error().offset.value_or(0);
                return tl::unexpected(length.error());
            }
            YL_CHECK(reader_.skip(*length));
            skip_to_marker();
        }
        for (const Component& component : frame_.components)
            if (!component.is_quantized)
                return fail(ErrorKind::malformed,
                            fmt::format("component {} has no scan", component.id));
        return {};
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

    template <class Sample>
    void finish_progressive(std::vector<Plane<Sample>>& planes) {
        for (std::size_t c = 0; c < planes.size(); ++c) {
            const Component& component = frame_.components[c];
            const Scales scales = scales_of(component.steps);
            parallel_ranges(component.blocks_y, 4, [&](std::size_t begin, std::size_t end) {
                for (std::size_t y = begin; y < end; ++y)
                    for (std::size_t x = 0; x < component.blocks_x; ++x)
                        inverse_dct(
                            planes[c].blocks[y * component.blocks_x + x], scales,
                            static_cast<int>(frame_.bits),
                            planes[c].samples.data() + (y * component.stride() + x) * block_side,
                            component.stride());
            });
        }
    }

    [[nodiscard]] ColorModel color_model() const {
        const auto& components = frame_.components;
        if (components.size() == 1)
            return ColorModel::gray;
        if (components.size() == 4)
            return adobe_transform_ == 2 ? ColorModel::ycck : ColorModel::cmyk;
        if (adobe_transform_)
            return *adobe_transform_ == 0 ? ColorModel::rgb : ColorModel::ycc;
        const bool named_rgb =
            components[0].id == 'R' && components[1].id == 'G' && components[2].id == 'B';
        return named_rgb ? ColorModel::rgb : ColorModel::ycc;
    }

    template <class Sample>
    void convert(const std::vector<Plane<Sample>>& planes, Picture& picture) {
        const ColorModel model = color_model();
        if (model == ColorModel::cmyk || model == ColorModel::ycck)
            picture.info.remarks.emplace_back(
                "CMYK inks were converted to RGB without a colour profile");
        const ImageView view = picture.image.view();
        parallel_ranges(frame_.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
            std::vector<std::vector<int>> rows(planes.size(), std::vector<int>(frame_.width));
            for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
                const int* pointers[4] = {};
                for (std::size_t c = 0; c < planes.size(); ++c) {
                    upsample_row(frame_, frame_.components[c], planes[c].samples.data(), y,
                                 rows[c].data());
                    pointers[c] = rows[c].data();
                }
                convert_row(model, adobe_transform_.has_value(), static_cast<int>(frame_.bits),
                            pointers, frame_.width, reinterpret_cast<Sample*>(view.row(y).data()));
            }
        });
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
    std::optional<Turn> orientation_;
};

bool recognise(ByteSpan bytes) {
    return bytes.size() >= 3 && bytes[0] == std::byte{0xFF} && bytes[1] == std::byte{soi} &&
           bytes[2] == std::byte{0xFF};
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    return Reader(bytes, options).read();
}

}  // namespace
}  // namespace yl::jpeg

namespace yl {

PictureFormat jpeg_format() {
    return {"JPEG", {"jpg", "jpeg", "jpe", "jfif"}, jpeg::recognise, jpeg::read, nullptr};
}

}  // namespace yl
