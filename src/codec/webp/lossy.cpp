#include "codec/webp/lossy.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <optional>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/progress.hpp"
#include "codec/webp/bool_reader.hpp"
#include "codec/webp/loop_filter.hpp"
#include "codec/webp/lossy_tables.hpp"
#include "codec/webp/macroblock.hpp"

namespace yl::webp {
namespace {

constexpr std::size_t segments = 4;

/// What macroblocks may have of their own, by segment.
struct Segments {
    bool are_used = false, are_mapped = false, are_absolute = false;
    std::array<int, segments> quantizer{};
    std::array<int, segments> filter_level{};
    std::array<std::uint32_t, 3> probabilities{255, 255, 255};
};

struct FilterHeader {
    bool is_simple = false;
    int level = 0, sharpness = 0;
    bool has_deltas = false;
    int intra_delta = 0;   ///< of all macroblocks of a key frame
    int blocks_delta = 0;  ///< of those that are predicted block by block
};

/// Steps of the first coefficient and of the others.
using Steps = std::array<int, 2>;
struct Quantizer {
    Steps luma, means, chroma;
};

/// Positions of a block in the order of its coefficients, by what their probabilities have in common.
constexpr std::uint8_t bands[17] = {0, 1, 2, 3, 6, 4, 5, 6, 6, 6, 6, 6, 6, 6, 6, 7, 0};

/// By position, context and branch; there is a position behind the last.
using OfPosition = std::uint8_t[17][3][16];

enum class BlockKind : std::uint8_t { luma_without_mean, means, chroma, luma };

struct Macroblock {
    std::uint8_t segment = 0;
    bool is_skipped = false;  ///< has no coefficients
    bool has_blocks = false;  ///< luminance is predicted block by block
    Prediction luma = Prediction::dc, chroma = Prediction::dc;
    std::array<BlockPrediction, 16> blocks{};
};

/// Whether blocks had coefficients: 4 of luminance, 2 and 2 of the differences, and the means.
using Context = std::array<std::uint8_t, 9>;
constexpr std::size_t means_context = 8;

class Decoder {
 public:
    Decoder(ByteSpan stream, const LossyHeader& header)
        : stream_(stream), columns_((header.width + 15) / 16), rows_((header.height + 15) / 16) {
        planes_.width = header.width;
        planes_.height = header.height;
    }

    Result<Planes> run(std::uint32_t first_part, const Progress& progress);

 private:
    Status read_header(std::uint32_t first_part);
    void read_segments();
    void read_filter();
    void read_quantizers();
    void read_probabilities();
    Status find_parts(ByteSpan rest);
    void take_memory();
    void decode_row(std::uint32_t row, BoolReader& tokens);
    Macroblock read_macroblock(std::uint32_t column);
    void read_modes(Macroblock& block, std::uint32_t column);
    bool read_coefficients(const Macroblock& block, Context& above, BoolReader& tokens);
    void rebuild(const Macroblock& block, std::uint32_t column, std::uint32_t row);
    void rebuild_luma(const Macroblock& block, std::uint32_t column, std::uint32_t row);
    void keep_strength(const Macroblock& block, std::uint32_t column, bool has_coefficients);
    void filter_row(std::uint32_t row);

    ByteSpan stream_;
    std::uint32_t columns_, rows_;
    Planes planes_{};

    BoolReader first_{};  ///< the header and all modes
    std::vector<BoolReader> parts_{};
    Segments segments_{};
    FilterHeader filter_{};
    std::array<Quantizer, segments> quantizers_{};
    CoefficientProbabilities probabilities_ = default_probabilities;
    OfPosition positions_[4]{};
    std::optional<std::uint32_t> skip_probability_{};

    std::vector<BlockPrediction> modes_above_{};
    std::array<BlockPrediction, 4> modes_left_{};
    std::vector<Context> contexts_above_{};
    Context context_left_{};
    std::array<std::int16_t, 25 * 16> coefficients_{};
    std::array<int, 25> counts_{};
    Surrounded y_{}, u_{}, v_{};
    /// The last rows above, before they were filtered.
    std::vector<std::uint8_t> y_above_{}, u_above_{}, v_above_{};
    std::vector<FilterStrength> strengths_{};
};

void Decoder::read_segments() {
    segments_.are_used = first_.read_flag();
    if (!segments_.are_used)
        return;
    segments_.are_mapped = first_.read_flag();
    if (first_.read_flag()) {
        segments_.are_absolute = first_.read_flag();
        for (int& quantizer : segments_.quantizer)
            quantizer = first_.read_optional(7);
        for (int& level : segments_.filter_level)
            level = first_.read_optional(6);
    }
    if (segments_.are_mapped)
        for (std::uint32_t& probability : segments_.probabilities)
            probability = first_.read_flag() ? first_.read_bits(8) : 255;
}

void Decoder::read_filter() {
    filter_.is_simple = first_.read_flag();
    filter_.level = static_cast<int>(first_.read_bits(6));
    filter_.sharpness = static_cast<int>(first_.read_bits(3));
    filter_.has_deltas = first_.read_flag();
    if (!filter_.has_deltas || !first_.read_flag())
        return;
    std::array<int, 8> deltas{};  // by the frame that is referred to, and by mode
    for (int& delta : deltas)
        delta = first_.read_optional(6);
    filter_.intra_delta = deltas[0];
    filter_.blocks_delta = deltas[4];
}

void Decoder::read_quantizers() {
    const int base = static_cast<int>(first_.read_bits(7));
    std::array<int, 5>
        deltas{};  // luma's first; means' first and others; chroma's first and others
    for (int& delta : deltas)
        delta = first_.read_optional(4);
    const auto step = [](const std::uint16_t(&steps)[128], int index) {
        return static_cast<int>(steps[std::clamp(index, 0, 127)]);
    };
    for (std::size_t i = 0; i < segments; ++i) {
        int index = base;
        if (segments_.are_used)
            index = segments_.quantizer[i] + (segments_.are_absolute ? 0 : base);
        quantizers_[i] = {.luma = {step(dc_steps, index + deltas[0]), step(ac_steps, index)},
                          .means = {2 * step(dc_steps, index + deltas[1]),
                                    std::max(step(ac_steps, index + deltas[2]) * 155 / 100, 8)},
                          .chroma = {std::min(step(dc_steps, index + deltas[3]), 132),
                                     step(ac_steps, index + deltas[4])}};
    }
}

void Decoder::read_probabilities() {
    for (std::size_t kind = 0; kind < 4; ++kind)
        for (std::size_t band = 0; band < 8; ++band)
            for (std::size_t context = 0; context < 3; ++context)
                for (std::size_t branch = 0; branch < 11; ++branch)
                    if (first_.read(update_probabilities.of[kind][band][context][branch]))
                        probabilities_.of[kind][band][context][branch] =
                            static_cast<std::uint8_t>(first_.read_bits(8));
    for (std::size_t kind = 0; kind < 4; ++kind)
        for (std::size_t at = 0; at < 17; ++at)
            for (std::size_t context = 0; context < 3; ++context)
                std::copy_n(probabilities_.of[kind][bands[at]][context], 11,
                            positions_[kind][at][context]);
}

/// The parts with coefficients: their lengths but for the last one's, then they themselves.
Status Decoder::find_parts(ByteSpan rest) {
    const std::size_t count = std::size_t{1} << first_.read_bits(2);
    const std::size_t lengths = 3 * (count - 1);
    if (rest.size() < lengths)
        return fail(ErrorKind::malformed, "the file ends before its coefficients");
    ByteSpan left = rest.subspan(lengths);
    for (std::size_t i = 0; i < count; ++i) {
        const std::byte* at = rest.data() + 3 * i;
        const std::size_t size =
            i + 1 == count ? left.size()
                           : load<std::uint16_t>(at) | std::to_integer<std::size_t>(at[2]) << 16U;
        const ByteSpan part = left.first(std::min(size, left.size()));
        parts_.emplace_back(part);
        left = left.subspan(part.size());
    }
    return {};
}

Status Decoder::read_header(std::uint32_t first_part) {
    const ByteSpan rest = stream_.subspan(lossy_header_bytes);
    if (first_part > rest.size())
        return fail(
            ErrorKind::malformed,
            fmt::format("the file ends early: {} bytes of {} are there", rest.size(), first_part));
    first_ = BoolReader(rest.first(first_part));
    static_cast<void>(first_.read_flag());  // colour space: one is defined
    static_cast<void>(first_.read_flag());  // whether samples need no clamping, which does no harm
    read_segments();
    read_filter();
    YL_CHECK(find_parts(rest.subspan(first_part)));
    read_quantizers();
    static_cast<void>(first_.read_flag());  // whether probabilities are kept for a next frame
    read_probabilities();
    if (first_.read_flag())
        skip_probability_ = first_.read_bits(8);
    return {};
}

void Decoder::take_memory() {
    const auto sized = [&](std::uint32_t side) {
        Plane plane{.stride = columns_ * side};
        plane.samples = std::make_unique_for_overwrite<std::uint8_t[]>(std::size_t{plane.stride} *
                                                                       rows_ * side);
        return plane;
    };
    planes_.y = sized(16);
    planes_.u = sized(8);
    planes_.v = sized(8);
    constexpr std::uint8_t above_all = 127;
    constexpr std::size_t beyond = 4;  // at the right of the last macroblock
    y_above_.assign(std::size_t{columns_} * 16 + beyond, above_all);
    u_above_.assign(std::size_t{columns_} * 8, above_all);
    v_above_.assign(std::size_t{columns_} * 8, above_all);
    modes_above_.assign(std::size_t{columns_} * 4, BlockPrediction::dc);
    contexts_above_.assign(columns_, {});
    strengths_.assign(columns_, {});
}

BlockPrediction read_block_mode(BoolReader& bits, const std::uint8_t (&p)[9]) {
    using enum BlockPrediction;
    if (!bits.read(p[0]))
        return dc;
    if (!bits.read(p[1]))
        return true_motion;
    if (!bits.read(p[2]))
        return vertical;
    if (!bits.read(p[3])) {
        if (!bits.read(p[4]))
            return horizontal;
        return bits.read(p[5]) ? vertical_right : right_down;
    }
    if (!bits.read(p[6]))
        return left_down;
    if (!bits.read(p[7]))
        return vertical_left;
    return bits.read(p[8]) ? horizontal_up : horizontal_down;
}

/// The probabilities of key frames: sections 11.2 and 11.4.
void Decoder::read_modes(Macroblock& block, std::uint32_t column) {
    using enum Prediction;
    BlockPrediction* above = modes_above_.data() + std::size_t{column} * 4;
    block.has_blocks = !first_.read(145);
    if (block.has_blocks) {
        for (std::size_t i = 0; i < 16; ++i) {
            BlockPrediction &up = above[i % 4], &before = modes_left_[i / 4];
            block.blocks[i] =
                read_block_mode(first_, block_mode_probabilities[static_cast<std::size_t>(up)]
                                                                [static_cast<std::size_t>(before)]);
            up = before = block.blocks[i];
        }
    } else {
        if (first_.read(156))
            block.luma = first_.read(128) ? true_motion : horizontal;
        else
            block.luma = first_.read(163) ? vertical : dc;
        const auto alike = static_cast<BlockPrediction>(block.luma);
        std::fill_n(above, 4, alike);
        modes_left_.fill(alike);
    }
    if (!first_.read(142))
        block.chroma = dc;
    else if (!first_.read(114))
        block.chroma = vertical;
    else
        block.chroma = first_.read(183) ? true_motion : horizontal;
}

Macroblock Decoder::read_macroblock(std::uint32_t column) {
    Macroblock block;
    if (segments_.are_mapped) {
        const auto& p = segments_.probabilities;
        block.segment = static_cast<std::uint8_t>(first_.read(p[0]) ? 2 + first_.read(p[2])
                                                                    : 0 + first_.read(p[1]));
    }
    if (skip_probability_)
        block.is_skipped = first_.read(*skip_probability_);
    read_modes(block, column);
    return block;
}

constexpr std::uint8_t zigzag[16] = {0, 1, 4, 8, 5, 2, 3, 6, 9, 12, 13, 10, 7, 11, 14, 15};

/// Bits of numbers of 11 and more, from the highest.
constexpr std::uint8_t bits_of_category[4][12] = {
    {173, 148, 140, 0},
    {176, 155, 140, 135, 0},
    {180, 157, 141, 134, 130, 0},
    {254, 254, 243, 230, 196, 177, 153, 140, 133, 130, 129, 0}};

/// A number of two or more.
int read_large(BoolReader& tokens, const std::uint8_t (&p)[16]) {
    if (!tokens.read(p[3])) {
        if (!tokens.read(p[4]))
            return 2;
        return 3 + tokens.read(p[5]);
    }
    if (!tokens.read(p[6])) {
        if (!tokens.read(p[7]))
            return 5 + tokens.read(159);
        const int high = tokens.read(165);
        return 7 + 2 * high + tokens.read(145);
    }
    const std::size_t high = tokens.read(p[8]);
    const std::size_t category = 2 * high + static_cast<std::size_t>(tokens.read(p[9 + high]));
    int value = 0;
    for (const std::uint8_t* bit = bits_of_category[category]; *bit != 0; ++bit)
        value = 2 * value + tokens.read(*bit);
    return value + 3 + (8 << category);
}

/// Gives how many coefficients there are, zeros between them included.
int read_block(BoolReader& reader, const OfPosition& probabilities, int context, int first,
               const Steps& steps, std::int16_t* to) {
    BoolReader tokens = reader;  // which stays in registers
    int at = first;
    const auto* p = &probabilities[at][context];
    while (tokens.read((*p)[0])) {
        while (!tokens.read((*p)[1])) {
            if (++at == 16) {
                reader = tokens;
                return 16;
            }
            p = &probabilities[at][0];
        }
        int size = 1;
        const bool is_large = tokens.read((*p)[2]);
        if (is_large) {
            reader = tokens;
            size = read_large(reader, *p);
            tokens = reader;
        }
        const int value = tokens.read_sign_of(size);
        to[zigzag[at]] = static_cast<std::int16_t>(value * steps[at > 0 ? 1 : 0]);
        p = &probabilities[++at][is_large ? 2 : 1];
        if (at == 16)
            break;
    }
    reader = tokens;
    return at;
}

/// Whether there are any.
bool Decoder::read_coefficients(const Macroblock& block, Context& above, BoolReader& tokens) {
    const Quantizer& quantizer = quantizers_[block.segment];
    coefficients_.fill(0);
    counts_.fill(0);
    const auto of_kind = [&](BlockKind kind) -> const OfPosition& {
        return positions_[static_cast<std::size_t>(kind)];
    };
    bool any = false;
    int first = 0;
    BlockKind kind = BlockKind::luma;
    if (!block.has_blocks) {
        std::uint8_t &up = above[means_context], &before = context_left_[means_context];
        std::int16_t* own = coefficients_.data() + 24 * 16;
        const int count =
            read_block(tokens, of_kind(BlockKind::means), up + before, 0, quantizer.means, own);
        up = before = count > 0;
        any = count > 0;
        if (count > 0)
            spread_means(Coefficients(own, 16), coefficients_.data());
        first = 1;
        kind = BlockKind::luma_without_mean;
    }
    for (std::size_t i = 0; i < 24; ++i) {
        const bool is_luma = i < 16;
        const std::size_t chroma = (i - 16) / 4 * 2 + 4;
        std::uint8_t& up = above[is_luma ? i % 4 : chroma + i % 2];
        std::uint8_t& before = context_left_[is_luma ? i / 4 : chroma + i % 4 / 2];
        std::int16_t* to = coefficients_.data() + i * 16;
        const int count =
            is_luma ? read_block(tokens, of_kind(kind), up + before, first, quantizer.luma, to)
                    : read_block(tokens, of_kind(BlockKind::chroma), up + before, 0,
                                 quantizer.chroma, to);
        const bool has_own = count > (is_luma ? first : 0);
        up = before = has_own;
        any = any || has_own;
        counts_[i] = has_own ? count : to[0] != 0 ? 1 : 0;
    }
    return any;
}

/// The row above and the column to the left of the next macroblock.
template <int size, int above_count>
void surround(Surrounded& samples, const std::uint8_t* above, std::uint32_t column,
              std::uint32_t row) {
    constexpr std::uint8_t left_of_all = 129, above_all = 127;
    for (int y = 0; y < size; ++y)
        *samples.at(y, -1) = column == 0 ? left_of_all : *samples.at(y, size - 1);
    *samples.at(-1, -1) = row == 0      ? above_all
                          : column == 0 ? left_of_all
                                        : *samples.at(-1, size - 1);
    std::copy_n(above, above_count, samples.at(-1, 0));
}

/// Puts the samples where they belong, and keeps their last row.
template <int size>
void hand_over(Surrounded& samples, Plane& plane, std::uint8_t* above, std::uint32_t column,
               std::uint32_t row) {
    constexpr std::size_t side = size;
    std::uint8_t* to = plane.row(row * side) + column * side;
    for (int y = 0; y < size; ++y, to += plane.stride)
        std::copy_n(samples.at(y, 0), side, to);
    std::copy_n(samples.at(size - 1, 0), side, above);
}

void Decoder::rebuild_luma(const Macroblock& block, std::uint32_t column, std::uint32_t row) {
    const auto residue = [&](std::size_t i) {
        const int y = static_cast<int>(i / 4 * 4), x = static_cast<int>(i % 4 * 4);
        add_residue(y_, y, x, Coefficients(coefficients_.data() + i * 16, 16), counts_[i]);
    };
    if (!block.has_blocks) {
        predict(y_, 16, block.luma, row > 0, column > 0);
        for (std::size_t i = 0; i < 16; ++i)
            residue(i);
        return;
    }
    if (row > 0 && column + 1 == columns_)
        std::fill_n(y_.at(-1, 16), 4, *y_.at(-1, 15));
    for (const int y : {3, 7, 11})
        std::copy_n(y_.at(-1, 16), 4, y_.at(y, 16));
    for (std::size_t i = 0; i < 16; ++i) {
        predict_block(y_, static_cast<int>(i / 4 * 4), static_cast<int>(i % 4 * 4),
                      block.blocks[i]);
        residue(i);
    }
}

void Decoder::rebuild(const Macroblock& block, std::uint32_t column, std::uint32_t row) {
    std::uint8_t* y_above = y_above_.data() + std::size_t{column} * 16;
    surround<16, 20>(y_, y_above, column, row);
    rebuild_luma(block, column, row);
    hand_over<16>(y_, planes_.y, y_above, column, row);
    const auto rebuild_chroma = [&](Surrounded& samples, std::vector<std::uint8_t>& above_row,
                                    Plane& plane, std::size_t first) {
        std::uint8_t* above = above_row.data() + std::size_t{column} * 8;
        surround<8, 8>(samples, above, column, row);
        predict(samples, 8, block.chroma, row > 0, column > 0);
        for (std::size_t i = 0; i < 4; ++i)
            add_residue(samples, static_cast<int>(i / 2 * 4), static_cast<int>(i % 2 * 4),
                        Coefficients(coefficients_.data() + (first + i) * 16, 16),
                        counts_[first + i]);
        hand_over<8>(samples, plane, above, column, row);
    };
    rebuild_chroma(u_, u_above_, planes_.u, 16);
    rebuild_chroma(v_, v_above_, planes_.v, 20);
}

void Decoder::keep_strength(const Macroblock& block, std::uint32_t column, bool has_coefficients) {
    int level = filter_.level;
    if (segments_.are_used)
        level = segments_.filter_level[block.segment] + (segments_.are_absolute ? 0 : level);
    if (filter_.has_deltas)
        level += filter_.intra_delta + (block.has_blocks ? filter_.blocks_delta : 0);
    level = std::clamp(level, 0, 63);
    strengths_[column] = filter_strength(level, filter_.sharpness);
    strengths_[column].has_inner_edges = block.has_blocks || has_coefficients;
}

void Decoder::filter_row(std::uint32_t row) {
    if (filter_.level == 0)
        return;
    for (std::uint32_t column = 0; column < columns_; ++column)
        if (strengths_[column].level > 0)
            filter_edges(planes_, column, row, strengths_[column], filter_.is_simple);
}

void Decoder::decode_row(std::uint32_t row, BoolReader& tokens) {
    modes_left_.fill(BlockPrediction::dc);
    context_left_ = {};
    for (std::uint32_t column = 0; column < columns_; ++column) {
        const Macroblock block = read_macroblock(column);
        bool has_coefficients = false;
        Context& above = contexts_above_[column];
        if (!block.is_skipped) {
            has_coefficients = read_coefficients(block, above, tokens);
        } else {
            counts_.fill(0);
            // Without means of its own, a macroblock leaves those of its neighbours in force.
            const std::uint8_t up = above[means_context], before = context_left_[means_context];
            above = context_left_ = {};
            if (block.has_blocks) {
                above[means_context] = up;
                context_left_[means_context] = before;
            }
        }
        rebuild(block, column, row);
        keep_strength(block, column, has_coefficients);
    }
    filter_row(row);
}

Result<Planes> Decoder::run(std::uint32_t first_part, const Progress& progress) {
    YL_CHECK(read_header(first_part));
    take_memory();
    ProgressCounter counter(progress, Phase::reading, rows_);
    for (std::uint32_t row = 0; row < rows_; ++row) {
        BoolReader& tokens = parts_[row % parts_.size()];
        decode_row(row, tokens);
        if (first_.is_beyond_end() || tokens.is_beyond_end())
            return fail(ErrorKind::malformed,
                        fmt::format("the file ends early: {} of {} rows are there", 16 * row,
                                    planes_.height));
        counter.add(1);
        YL_CHECK(counter.status());
    }
    return std::move(planes_);
}

}  // namespace

Result<LossyHeader> lossy_header(ByteSpan stream) {
    constexpr std::uint32_t start_code = 0x2A019D;
    const bool is_there = stream.size() >= lossy_header_bytes;
    const std::uint32_t tag = is_there ? load<std::uint32_t>(stream.data()) & 0xFFFFFFU : 1;
    if ((tag & 1U) != 0 || (load<std::uint32_t>(stream.data() + 3) & 0xFFFFFFU) != start_code)
        return fail(ErrorKind::malformed, "lossy pixels without their header");
    if ((tag >> 1U & 7U) > 3)
        return fail(ErrorKind::unsupported,
                    fmt::format("lossy pixels of version {}", tag >> 1U & 7U));
    if ((tag >> 4U & 1U) == 0)
        return fail(ErrorKind::malformed, "a frame that is not shown");
    constexpr std::uint32_t size_mask = 0x3FFF;  // scales are for who shows it
    return LossyHeader{.width = load<std::uint16_t>(stream.data() + 6) & size_mask,
                       .height = load<std::uint16_t>(stream.data() + 8) & size_mask,
                       .first_part = tag >> 5U};
}

Result<Planes> read_lossy(ByteSpan stream, const Progress& progress) {
    YL_TRY(const LossyHeader header, lossy_header(stream));
    return Decoder(stream, header).run(header.first_part, progress);
}

}  // namespace yl::webp
