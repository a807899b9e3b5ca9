// Rate and distortion weighed against each other: general-purpose compressors write what occurred
// shortly before as a short reference, so that a block, or half of it, which repeats costs little.
#include "block/rate_distortion.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <memory>
#include <span>
#include <vector>

#include "base/bytes.hpp"
#include "block/block_codec.hpp"

namespace yl {
namespace {

constexpr std::size_t whole_window = 256;  // blocks back, that are tried as a whole
constexpr std::size_t part_window = 64;    // and of which parts are tried
// What compressors spend, roughly: on a byte that is like none before, and on a reference.
constexpr float bits_of_byte = 7.0F;
constexpr float bits_of_reference = 14.0F;
// At rate-distortion 1, a bit is worth this much of the root of a block's usual squared error:
// between a fixed worth, which spoils good textures, and one in proportion, which gains little.
constexpr float share_of_error = 0.1F;
constexpr float min_error = 1.0F;  // of a block: exact ones would not be worth any bit

enum class Numbers { bytes, signed_bytes, words, signed_words, halves };

Numbers numbers_in(const FormatInfo& decoded) {
    if (decoded.is_float())
        return Numbers::halves;
    if (decoded.type_size == 2)
        return decoded.kind == NumericKind::snorm ? Numbers::signed_words : Numbers::words;
    return decoded.kind == NumericKind::snorm ? Numbers::signed_bytes : Numbers::bytes;
}

/// Decoded texels of one block.
struct Texels {
    alignas(64) std::array<std::byte, most_texels_of_block * 8> bytes;
};

struct Block {
    std::array<std::byte, 16> bytes{};
    Texels texels;
};

class RateDistortion {
 public:
    RateDistortion(const FormatInfo& format, const BlockOptions& options)
        : format_(format),
          codec_(*find_block_codec(format.format)),
          texel_bytes_(info(codec_.decoded).block_bytes),
          texels_(std::size_t{format.block_width} * format.block_height),
          numbers_(numbers_in(info(codec_.decoded))),
          weighs_alpha_(weighs_by_alpha(options) && format.channel_count == 4),
          lambda_(options.rate_distortion) {}

    /// What a bit is worth beside the error that `encoded` has anyway: good textures, or good parts
    /// of one, shall not lose much more than others.
    void settle_worth(const std::vector<Texels>& sources, const std::byte* encoded) {
        float sum = 0;
        for (const Texels& source : sources) {
            Block own;
            std::memcpy(own.bytes.data(), encoded, format_.block_bytes);
            encoded += format_.block_bytes;
            decode(own);
            sum += difference(source, own.texels);
        }
        const float mean = sum / static_cast<float>(sources.size());
        worth_ = lambda_ * std::sqrt(std::max(mean, min_error)) * share_of_error;
    }

    /// The best block for `source`, whose own encoding is `encoded`.
    void choose(const Texels& source, std::byte* encoded) {
        Block own;
        std::memcpy(own.bytes.data(), encoded, format_.block_bytes);
        decode(own);
        Block best = own;
        const float whole_bits = static_cast<float>(format_.block_bytes) * bits_of_byte;
        float min = difference(source, own.texels) + worth_ * whole_bits;
        Taken taken;
        try_parts(source, own, {}, best, min, taken);
        if (taken.bytes > 0) {  // and another part, from another block
            const Block first = best;
            Taken second;
            try_parts(source, first, taken, best, min, second);
        }
        try_whole_blocks(source, best, min);
        std::memcpy(encoded, best.bytes.data(), format_.block_bytes);
        remember(best);
    }

    [[nodiscard]] const BlockCodec& codec() const { return codec_; }

 private:
    void decode(Block& block) const {
        codec_.decode(block.bytes.data(), 1, block.texels.bytes.data(),
                      format_.block_width * texel_bytes_);
    }

    /// Farther references take a few more bits.
    static float reference_bits(std::size_t back) {
        return bits_of_reference + 0.5F * static_cast<float>(std::bit_width(back));
    }

    void try_whole_blocks(const Texels& source, Block& best, float& min) const {
        for (std::size_t back = 1; back <= std::min(count_, whole_window); ++back) {
            const Block& earlier = recent_[(count_ - back) % whole_window];
            const float cost = difference(source, earlier.texels) + worth_ * reference_bits(back);
            if (cost >= min)
                continue;
            min = cost;
            best = earlier;
        }
    }

    /// What of a block comes from earlier ones already.
    struct Taken {
        BlockPart part = {0, 0};
        std::size_t bytes = 0;
        float reference_bits = 0;
    };

    void try_parts(const Texels& source, const Block& base, const Taken& before, Block& best,
                   float& min, Taken& taken) const {
        for (std::size_t back = 1; back <= std::min(count_, part_window); ++back) {
            const Block& earlier = recent_[(count_ - back) % whole_window];
            for (const BlockPart& part : codec_.parts) {
                if (before.bytes > 0 && part.begin < before.part.end &&
                    before.part.begin < part.end)
                    continue;
                const std::size_t size = part.end - part.begin;
                const float rest = static_cast<float>(format_.block_bytes - size - before.bytes);
                const float references = before.reference_bits + reference_bits(back);
                const float bits = references + rest * bits_of_byte;
                if (worth_ * bits >= min)
                    continue;
                Block mixed;
                mixed.bytes = base.bytes;
                std::memcpy(&mixed.bytes[part.begin], &earlier.bytes[part.begin], size);
                decode(mixed);
                const float cost = difference(source, mixed.texels) + worth_ * bits;
                if (cost >= min)
                    continue;
                min = cost;
                best = mixed;
                taken = {part, size, references};
            }
        }
    }

    void remember(const Block& block) { recent_[count_++ % whole_window] = block; }

    /// The squared error: of codes, or of 128ths of a stop.
    [[nodiscard]] float difference(const Texels& a, const Texels& b) const {
        const std::size_t bytes = texels_ * texel_bytes_;
        if (numbers_ == Numbers::halves)
            return difference_of_halves(a, b);
        if (numbers_ == Numbers::words || numbers_ == Numbers::signed_words)
            return difference_of_words(a, b);
        if (weighs_alpha_)
            return difference_by_alpha(a, b);
        int sum = 0;
        for (std::size_t i = 0; i < bytes; ++i) {
            const int p = std::to_integer<int>(a.bytes[i]);
            const int q = std::to_integer<int>(b.bytes[i]);
            const int off = numbers_ == Numbers::bytes
                                ? p - q
                                : static_cast<std::int8_t>(p) - static_cast<std::int8_t>(q);
            sum += off * off;
        }
        return static_cast<float>(sum);
    }

    /// Of one or two channels, in codes of 8 bits.
    [[nodiscard]] float difference_of_words(const Texels& a, const Texels& b) const {
        const bool is_signed = numbers_ == Numbers::signed_words;
        const float code = is_signed ? 1.0F / 258 : 1.0F / 257;
        float sum = 0;
        for (std::size_t i = 0; i < texels_ * texel_bytes_; i += 2) {
            const auto p = load<std::uint16_t>(&a.bytes[i]), q = load<std::uint16_t>(&b.bytes[i]);
            const int off = is_signed ? static_cast<std::int16_t>(p) - static_cast<std::int16_t>(q)
                                      : int{p} - int{q};
            sum += static_cast<float>(off) * code * static_cast<float>(off) * code;
        }
        return sum;
    }

    [[nodiscard]] float difference_of_halves(const Texels& a, const Texels& b) const {
        float sum = 0;
        for (std::size_t i = 0; i < texels_ * 4; ++i) {
            const auto p = static_cast<std::int16_t>(load<std::uint16_t>(&a.bytes[2 * i]));
            const auto q = static_cast<std::int16_t>(load<std::uint16_t>(&b.bytes[2 * i]));
            const float off = static_cast<float>(p - q) * (1.0F / 8);
            sum += off * off;
        }
        return sum;
    }

    [[nodiscard]] float difference_by_alpha(const Texels& a, const Texels& b) const {
        float sum = 0;
        for (std::size_t i = 0; i < texels_; ++i) {
            int color = 0;
            for (std::size_t c = 0; c < 3; ++c) {
                const int off = std::to_integer<int>(a.bytes[4 * i + c]) -
                                std::to_integer<int>(b.bytes[4 * i + c]);
                color += off * off;
            }
            const int alpha = std::to_integer<int>(a.bytes[4 * i + 3]);
            const int off = alpha - std::to_integer<int>(b.bytes[4 * i + 3]);
            sum += static_cast<float>(color * alpha) * (1.0F / 255) + static_cast<float>(off * off);
        }
        return sum;
    }

    const FormatInfo& format_;
    const BlockCodec& codec_;
    std::size_t texel_bytes_;
    std::size_t texels_;  ///< of a block
    Numbers numbers_;
    bool weighs_alpha_;
    float lambda_;
    float worth_ = 0;
    std::array<Block, whole_window> recent_{};
    std::size_t count_ = 0;
};

/// The source's texels as the decoder would give them, block by block.
std::vector<Texels> source_texels(const SourceBlocks& source, std::uint32_t row,
                                  const BlockCodec& codec) {
    const FormatInfo& decoded = info(codec.decoded);
    std::vector<Texels> blocks(source.across());
    if (decoded.channel_count > 2) {
        const std::size_t bytes = source.texels() * decoded.block_bytes;
        std::vector<std::byte> all(blocks.size() * bytes);
        source.read(row, all.data());
        for (std::size_t i = 0; i < blocks.size(); ++i)
            std::memcpy(blocks[i].bytes.data(), all.data() + i * bytes, bytes);
        return blocks;
    }
    const std::size_t values = blocks.size() * source.texels();
    const std::size_t channels = decoded.channel_count;
    std::vector<float> codes(values * channels);
    source.read_codes(row, codes.data());
    const bool has_words = decoded.type_size == 2;
    const float most = decoded.kind == NumericKind::snorm ? 32767.0F : 65535.0F;
    const float scale = has_words ? most / codec.greatest_code : 1;
    for (std::size_t channel = 0; channel < channels; ++channel)
        for (std::size_t i = 0; i < values; ++i) {
            std::byte* texel = blocks[i / source.texels()].bytes.data() +
                               (i % source.texels() * channels + channel) * decoded.type_size;
            const long code = std::lround(codes[channel * values + i] * scale);
            if (has_words)
                store(texel, static_cast<std::uint16_t>(code));
            else
                *texel = static_cast<std::byte>(code);
        }
    return blocks;
}

}  // namespace

void optimise_rate_distortion(const SourceBlocks& source, const BlockRows& rows,
                              const FormatInfo& format, const BlockOptions& options,
                              std::byte* blocks) {
    const auto rate_distortion = std::make_unique<RateDistortion>(format, options);
    std::vector<Texels> sources;
    for (std::uint32_t row = 0; row < rows.count; ++row) {
        const auto more = source_texels(source, rows.first + row, rate_distortion->codec());
        sources.insert(sources.end(), more.begin(), more.end());
    }
    rate_distortion->settle_worth(sources, blocks);
    for (const Texels& texels : sources) {
        rate_distortion->choose(texels, blocks);
        blocks += format.block_bytes;
    }
}

}  // namespace yl
