#include "codec/exr/dwa.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <numbers>
#include <optional>

#include <yl/format.hpp>
#include <yl/status_macros.hpp>
#include "base/text.hpp"
#include "codec/exr/piz.hpp"
#include "codec/exr/unpack.hpp"

namespace yl::exr {
namespace {

constexpr std::size_t side = 8, block_samples = side * side;

tl::unexpected<Error> damaged(const char* what) {
    return fail(ErrorKind::malformed, std::string("a DWA chunk is damaged: ") + what);
}

/// How the samples of a channel are packed.
enum class Scheme : std::uint8_t { other, cosines, runs };

/// Which channels are packed how: by the end of their names and their type.
struct Rule {
    std::string suffix;
    Scheme scheme = Scheme::other;
    SampleType type = SampleType::half;
    int color = -1;  ///< 0 to 2: red, green, blue of a triple
    bool any_case = false;
};

/// Of chunks that list none.
std::vector<Rule> old_rules() {
    std::vector<Rule> rules;
    static constexpr std::pair<const char*, int> colors[] = {
        {"r", 0},   {"red", 0},  {"g", 1},  {"grn", 1}, {"green", 1}, {"b", 2},
        {"blu", 2}, {"blue", 2}, {"y", -1}, {"by", -1}, {"ry", -1}};
    for (const auto& [suffix, color] : colors)
        for (const SampleType type : {SampleType::half, SampleType::single})
            rules.push_back({suffix, Scheme::cosines, type, color, true});
    for (const SampleType type : {SampleType::uint, SampleType::half, SampleType::single})
        rules.push_back({"a", Scheme::runs, type, -1, true});
    return rules;
}

///     size of all (16)  rules: suffix 0  color + 1 (4) scheme (2) - (1) any case (1)  type (8)
Result<std::vector<Rule>> read_rules(ByteReader& reader) {
    YL_TRY(const auto size, reader.read<std::uint16_t>());
    if (size < 2)
        return damaged("its rules have no size");
    YL_TRY(const ByteSpan data, reader.take(size - 2U));
    ByteReader rules(data);
    std::vector<Rule> result;
    while (rules.left() > 0) {
        Rule rule;
        YL_TRY(rule.suffix, read_name(rules));
        YL_TRY(const auto bits, rules.read<std::uint8_t>());
        YL_TRY(const auto type, rules.read<std::uint8_t>());
        const unsigned scheme = bits >> 2U & 3U;
        if (scheme > 2 || type > 2)
            return damaged("a rule is unknown");
        rule.color = static_cast<int>(bits >> 4U) - 1;
        rule.scheme = static_cast<Scheme>(scheme);
        rule.any_case = (bits & 1U) != 0;
        rule.type = static_cast<SampleType>(type);
        result.push_back(rule);
    }
    return result;
}

/// The sizes at the beginning of a chunk, and what they are the sizes of.
struct Parts {
    std::vector<Rule> rules = {};
    std::vector<std::byte> others = {};     ///< as they are
    std::vector<std::uint16_t> waves = {};  ///< coefficients but the first of each block, in runs
    std::vector<std::uint16_t> means = {};  ///< the first of each block
    std::vector<std::byte> runs = {};       ///< the bytes of samples, in planes
};

std::vector<std::uint16_t> words_of(ByteSpan bytes) {
    std::vector<std::uint16_t> words(bytes.size() / 2);
    for (std::size_t i = 0; i < words.size(); ++i)
        words[i] = load<std::uint16_t>(bytes.data() + 2 * i);
    return words;
}

/// `samples` bounds what is unpacked: nothing is allocated for more than the chunk can hold.
Result<Parts> read_parts(ByteSpan packed, std::size_t samples) {
    ByteReader reader(packed);
    std::array<std::uint64_t, 11> numbers{};
    for (std::uint64_t& number : numbers) {
        YL_TRY(number, reader.read<std::uint64_t>());
    }
    const auto [version, others_size, others_packed, waves_packed, means_packed, runs_packed,
                runs_size, runs_raw, waves_count, means_count, waves_scheme] = numbers;
    if (version > 2)
        return fail(ErrorKind::unsupported, "a DWA chunk of a version that is not handled");
    const std::uint64_t most = 8 * std::uint64_t{samples} + 4096;
    for (const std::uint64_t count : {others_size, runs_size, runs_raw, waves_count, means_count})
        if (count > most)
            return damaged("it claims more than it can hold");
    Parts parts;
    parts.rules = old_rules();
    if (version == 2) {
        YL_TRY(parts.rules, read_rules(reader));
    }
    YL_TRY(const ByteSpan others, reader.take(others_packed));
    YL_TRY(const ByteSpan waves, reader.take(waves_packed));
    YL_TRY(const ByteSpan means, reader.take(means_packed));
    YL_TRY(const ByteSpan runs, reader.take(runs_packed));
    if (!others.empty()) {
        YL_TRY(parts.others, unpack_deflate(others, static_cast<std::size_t>(others_size)));
    }
    if (!waves.empty() && waves_scheme == 0) {
        YL_TRY(parts.waves, unpack_huffman(waves, static_cast<std::size_t>(waves_count)));
    } else if (!waves.empty()) {
        YL_TRY(const auto bytes, unpack_deflate(waves, static_cast<std::size_t>(2 * waves_count)));
        parts.waves = words_of(bytes);
    }
    if (!means.empty()) {
        YL_TRY(const auto bytes, unpack_zip(means, static_cast<std::size_t>(2 * means_count)));
        parts.means = words_of(bytes);
    }
    if (!runs.empty()) {
        YL_TRY(const auto bytes, unpack_deflate(runs, static_cast<std::size_t>(runs_size)));
        YL_TRY(parts.runs, unpack_runs(bytes, static_cast<std::size_t>(runs_raw)));
    }
    return parts;
}

using Block = std::array<float, block_samples>;

/// The places of coefficients in the order in which they are stored, as in JPEG.
std::array<std::size_t, block_samples> zigzag_places() {
    std::array<std::size_t, block_samples> places{};
    std::size_t x = 0, y = 0;
    for (std::size_t& place : places) {
        place = y * side + x;
        const bool rises = (x + y) % 2 == 0;
        if (rises && x + 1 == side)
            ++y;
        else if (rises && y == 0)
            ++x;
        else if (!rises && y + 1 == side)
            ++x;
        else if (!rises && x == 0)
            ++y;
        else {
            x += rises ? 1 : std::size_t(-1);
            y += rises ? std::size_t(-1) : 1;
        }
    }
    return places;
}

/// What a cosine of each order has at each place; of unit length.
Block cosines() {
    Block table{};
    for (std::size_t order = 0; order < side; ++order)
        for (std::size_t place = 0; place < side; ++place)
            table[order * side + place] =
                static_cast<float>((order == 0 ? std::sqrt(0.125) : 0.5) *
                                   std::cos((2.0 * static_cast<double>(place) + 1) *
                                            static_cast<double>(order) * std::numbers::pi / 16));
    return table;
}

void undo_cosines(Block& block, const Block& table) {
    Block half{};
    for (std::size_t y = 0; y < side; ++y)
        for (std::size_t order = 0; order < side; ++order) {
            const float wave = block[y * side + order];
            for (std::size_t x = 0; wave != 0 && x < side; ++x)
                half[y * side + x] += wave * table[order * side + x];
        }
    block.fill(0);
    for (std::size_t order = 0; order < side; ++order)
        for (std::size_t y = 0; y < side; ++y) {
            const float weight = table[order * side + y];
            for (std::size_t x = 0; x < side; ++x)
                block[y * side + x] += weight * half[order * side + x];
        }
}

/// Numbers were stored as roots up to 1 and as logarithms above.
std::uint16_t undo_curve(std::uint16_t half) {
    const float x = half_to_float(half);
    if (x == 0 || !std::isfinite(x))
        return 0;
    constexpr float power = 2.2F;
    const float size = std::abs(x);
    const float light = size <= 1 ? std::pow(size, power) : std::exp(power * (size - 1));
    return float_to_half(std::copysign(light, x));
}

/// Of every half, since there are fewer than samples.
const std::vector<std::uint16_t>& curve_table() {
    static const std::vector<std::uint16_t> table = [] {
        std::vector<std::uint16_t> values(65536);
        for (std::size_t i = 0; i < values.size(); ++i)
            values[i] = undo_curve(static_cast<std::uint16_t>(i));
        return values;
    }();
    return table;
}

/// A channel and where its samples go.
struct Output {
    const Channel* channel = nullptr;
    std::size_t columns = 0, rows = 0;
    std::span<std::byte> samples = {};
    Scheme scheme = Scheme::other;
    int color = -1;
    std::string layer = {};  ///< what stands before the last dot of the name
    bool is_done = false;
};

void classify(const std::vector<Rule>& rules, Output& output) {
    const std::string& name = output.channel->name;
    const std::size_t dot = name.rfind('.');
    const std::size_t begin = dot == std::string::npos ? 0 : dot + 1;
    output.layer = name.substr(0, begin);
    const std::string suffix = name.substr(begin);
    for (const Rule& rule : rules) {
        const bool matches =
            rule.any_case ? lower_case(suffix) == lower_case(rule.suffix) : suffix == rule.suffix;
        if (!matches || rule.type != output.channel->type)
            continue;
        output.scheme = rule.scheme;
        output.color = rule.color;
        return;
    }
}

class Unpacker {
 public:
    explicit Unpacker(const Parts& parts) : parts_(parts) {}

    [[nodiscard]] Status run(std::span<Output> outputs) {
        std::map<std::string, std::array<Output*, 3>> triples;
        for (Output& output : outputs)
            if (output.color >= 0 && output.color < 3)
                triples[output.layer][static_cast<std::size_t>(output.color)] = &output;
        for (auto& [layer, triple] : triples)
            if (is_whole(triple))
                YL_CHECK(unpack_blocks(triple));
        for (Output& output : outputs) {
            Output* const one[] = {&output};
            if (output.is_done)
                continue;
            YL_CHECK(output.scheme == Scheme::cosines ? unpack_blocks(one)
                     : output.scheme == Scheme::runs  ? join_planes(output)
                                                      : copy(output));
        }
        return {};
    }

 private:
    [[nodiscard]] static bool is_whole(const std::array<Output*, 3>& triple) {
        const auto same = [&](const Output* output) {
            return output != nullptr && output->channel->step_x == triple[0]->channel->step_x &&
                   output->channel->step_y == triple[0]->channel->step_y;
        };
        return triple[0] != nullptr && same(triple[1]) && same(triple[2]);
    }

    /// Coefficients in runs: FF00 ends the block, FFnn skips nn zeros, all else is a half.
    [[nodiscard]] Status read_block(std::size_t mean, Block& block) {
        block.fill(0);
        if (mean >= parts_.means.size())
            return damaged("it has too few blocks");
        block[0] = half_to_float(parts_.means[mean]);
        for (std::size_t i = 1; i < block_samples;) {
            if (wave_ == parts_.waves.size())
                return damaged("its blocks end early");
            const std::uint16_t word = parts_.waves[wave_++];
            if (word == 0xFF00)
                break;
            if (word >> 8U == 0xFF)
                i += word & 0xFFU;
            else
                block[places_[i++]] = half_to_float(word);
        }
        return {};
    }

    /// One channel, or three that are luminance and chroma of BT.709.
    template <class Outputs>
    [[nodiscard]] Status unpack_blocks(const Outputs& outputs) {
        const Output& first = *outputs[0];
        const std::size_t across = (first.columns + side - 1) / side;
        const std::size_t down = (first.rows + side - 1) / side;
        std::array<Block, 3> blocks{};
        const std::size_t count = std::size(outputs);
        for (std::size_t y = 0; y < down; ++y)
            for (std::size_t x = 0; x < across; ++x) {
                for (std::size_t c = 0; c < count; ++c) {
                    YL_CHECK(read_block(mean_ + c * across * down + y * across + x, blocks[c]));
                    undo_cosines(blocks[c], table_);
                }
                if (count == 3)
                    undo_luminance(blocks);
                for (std::size_t c = 0; c < count; ++c)
                    place(*outputs[c], count == 3 || !outputs[c]->channel->is_perceptual, x * side,
                          y * side, blocks[c]);
            }
        mean_ += count * across * down;
        for (Output* output : outputs)
            output->is_done = true;
        return {};
    }

    static void undo_luminance(std::array<Block, 3>& blocks) {
        for (std::size_t i = 0; i < block_samples; ++i) {
            const float y = blocks[0][i], blue = blocks[1][i], red = blocks[2][i];
            blocks[0][i] = y + 1.5747F * red;
            blocks[1][i] = y - 0.1873F * blue - 0.4682F * red;
            blocks[2][i] = y + 1.8556F * blue;
        }
    }

    /// Triples have the curve even where they are perceptual.
    static void place(const Output& output, bool has_curve, std::size_t left, std::size_t top,
                      const Block& block) {
        const auto& curve = curve_table();
        const bool is_half = output.channel->type == SampleType::half;
        for (std::size_t y = top; y < std::min(top + side, output.rows); ++y)
            for (std::size_t x = left; x < std::min(left + side, output.columns); ++x) {
                std::uint16_t half = float_to_half(block[(y - top) * side + x - left]);
                if (has_curve)
                    half = curve[half];
                const std::size_t at = y * output.columns + x;
                if (is_half)
                    store(output.samples.data() + 2 * at, half);
                else
                    store(output.samples.data() + 4 * at,
                          std::bit_cast<std::uint32_t>(half_to_float(half)));
            }
    }

    /// The lowest bytes of all samples, then the next ones.
    [[nodiscard]] Status join_planes(const Output& output) {
        const std::size_t size = output.channel->sample_bytes();
        const std::size_t count = output.samples.size() / size;
        if (output.samples.size() > parts_.runs.size() - run_)
            return damaged("its run lengths end early");
        for (std::size_t plane = 0; plane < size; ++plane)
            for (std::size_t i = 0; i < count; ++i)
                output.samples[i * size + plane] = parts_.runs[run_++];
        return {};
    }

    [[nodiscard]] Status copy(const Output& output) {
        if (output.samples.size() > parts_.others.size() - other_)
            return damaged("its other channels end early");
        std::copy_n(parts_.others.begin() + static_cast<std::ptrdiff_t>(other_),
                    output.samples.size(), output.samples.begin());
        other_ += output.samples.size();
        return {};
    }

    const Parts& parts_;
    const std::array<std::size_t, block_samples> places_ = zigzag_places();
    const Block table_ = cosines();
    std::size_t mean_ = 0, wave_ = 0, run_ = 0, other_ = 0;  ///< what was used up of the parts
};

}  // namespace

Result<std::vector<std::byte>> unpack_dwa(ByteSpan packed, const Header& h, const Area& area) {
    std::vector<std::byte> planes(area.bytes(h));
    YL_TRY(const Parts parts, read_parts(packed, planes.size()));
    std::vector<Output> outputs;
    std::span<std::byte> left = planes;
    for (const Channel& c : h.channels) {
        Output output{.channel = &c, .columns = area.columns(c), .rows = area.rows(c)};
        output.samples = left.first(area.bytes(c));
        left = left.subspan(output.samples.size());
        classify(parts.rules, output);
        outputs.push_back(std::move(output));
    }
    YL_CHECK(Unpacker(parts).run(outputs));
    return planes;
}

}  // namespace yl::exr
