// The data format descriptor of each format.
//
// Words of the basic descriptor block, after the total length:
//   0  vendor id (17), descriptor type (15)
//   1  version (16), block length (16)
//   2  colour model (8), primaries (8), transfer function (8), flags (8)
//   3  texel block width - 1, height - 1, depth - 1, 4th - 1 (8 each)
//   4  bytes of planes 0 to 3 (8 each)
//   5  bytes of planes 4 to 7 (8 each)
// and of each sample:
//   0  bit offset (16), bit length - 1 (8), channel (4) and qualifiers (4)
//   1  position (8 each)
//   2  lower   3  upper
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>

#include <yl/status_macros.hpp>
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

constexpr std::uint32_t descriptor_version = 2;  // of the Khronos Data Format Specification 1.3
constexpr std::uint32_t model_rgbsda = 1;
constexpr std::uint32_t model_etc1 = 160;
constexpr std::uint32_t primaries_bt709 = 1;
constexpr std::uint32_t transfer_linear = 1;
constexpr std::uint32_t transfer_srgb = 2;
constexpr std::uint32_t flag_premultiplied = 1;
constexpr std::uint32_t channel_alpha = 15;
constexpr std::uint32_t qualifier_linear = 0x10;
constexpr std::uint32_t qualifier_exponent = 0x20;
constexpr std::uint32_t qualifier_signed = 0x40;
constexpr std::uint32_t qualifier_float = 0x80;
constexpr std::size_t block_words = 6;
constexpr std::size_t sample_words = 4;

struct Sample {
    std::uint32_t offset, bits, channel, lower, upper;  // `channel` with its qualifiers
};

std::uint32_t channel_number(Channel channel) {
    return channel == Channel::alpha ? channel_alpha : static_cast<std::uint32_t>(channel);
}

Sample plain_sample(const FormatInfo& f, const ChannelLayout& layout, bool srgb) {
    Sample sample{layout.offset, layout.bits, channel_number(layout.channel), 0, 0};
    switch (f.kind) {
        case NumericKind::unorm:
            sample.upper = ~0U >> (32 - layout.bits);
            if (srgb && layout.channel == Channel::alpha)
                sample.channel |= qualifier_linear;
            break;
        case NumericKind::snorm:
            sample.channel |= qualifier_signed;
            sample.upper = ~0U >> (33 - layout.bits);
            sample.lower = 0U - sample.upper;
            break;
        case NumericKind::signed_float:
            sample.channel |= qualifier_signed | qualifier_float;
            sample.lower = std::bit_cast<std::uint32_t>(-1.0F);
            sample.upper = std::bit_cast<std::uint32_t>(1.0F);
            break;
        case NumericKind::unsigned_float:
            sample.channel |= qualifier_float;
            sample.upper = std::bit_cast<std::uint32_t>(1.0F);
            break;
        case NumericKind::shared_exponent:
            break;
    }
    return sample;
}

/// Mantissa and exponent of each colour; 1.0 is mantissa 256 with exponent 16, bias 15.
std::vector<Sample> shared_exponent_samples(const FormatInfo& f) {
    constexpr std::uint32_t one = 16U << 9 | 256U;
    std::vector<Sample> samples;
    for (std::size_t i = 0; i < f.channel_count; ++i) {
        const std::uint32_t channel = channel_number(f.channels[i].channel);
        samples.push_back({f.channels[i].offset, f.channels[i].bits, channel, 0, one});
        samples.push_back({27, 5, channel | qualifier_exponent, 15, 31});
    }
    return samples;
}

/// Bits of a block that one sample describes: where they begin, and what they hold.
struct BlockBits {
    std::uint32_t offset = 0, channel = 0;
};

constexpr std::uint32_t bc_color = 0, bc1_color_with_cut_out = 1, etc2_color = 2;

/// The colour model of block formats, and their samples (Khronos Data Format Specification 1.3,
/// sections 5.6 and 5.10).
struct BlockModel {
    Format first, last;
    std::uint32_t model;
    std::uint32_t bits;  ///< of a sample
    std::uint32_t samples;
    std::array<BlockBits, 2> of_samples;
};

constexpr BlockModel block_models[] = {
    {Format::bc1_unorm, Format::bc1_srgb, 128, 64, 1, {{{0, bc_color}}}},
    {Format::bc1a_unorm, Format::bc1a_srgb, 128, 64, 1, {{{0, bc1_color_with_cut_out}}}},
    {Format::bc2_unorm, Format::bc2_srgb, 129, 64, 2, {{{0, channel_alpha}, {64, bc_color}}}},
    {Format::bc3_unorm, Format::bc3_srgb, 130, 64, 2, {{{0, channel_alpha}, {64, bc_color}}}},
    {Format::bc4_unorm, Format::bc4_snorm, 131, 64, 1, {{{0, 0}}}},
    {Format::bc5_unorm, Format::bc5_snorm, 132, 64, 2, {{{0, 0}, {64, 1}}}},
    {Format::bc6h_ufloat, Format::bc6h_sfloat, 133, 128, 1, {{{0, bc_color}}}},
    {Format::bc7_unorm, Format::bc7_srgb, 134, 128, 1, {{{0, bc_color}}}},
    {Format::etc2_rgb8_unorm, Format::etc2_rgb8_srgb, 161, 64, 1, {{{0, etc2_color}}}},
    {Format::etc2_rgb8a1_unorm,
     Format::etc2_rgb8a1_srgb,
     161,
     64,
     2,
     {{{0, etc2_color}, {0, channel_alpha}}}},
    {Format::etc2_rgba8_unorm,
     Format::etc2_rgba8_srgb,
     161,
     64,
     2,
     {{{0, channel_alpha}, {64, etc2_color}}}},
    {Format::eac_r11_unorm, Format::eac_r11_snorm, 161, 64, 1, {{{0, 0}}}},
    {Format::eac_rg11_unorm, Format::eac_rg11_snorm, 161, 64, 2, {{{0, 0}, {64, 1}}}},
    {Format::astc_4x4_unorm, Format::astc_12x12_srgb, 162, 128, 1, {{{0, 0}}}},
    {Format::astc_4x4_sfloat, Format::astc_12x12_sfloat, 162, 128, 1, {{{0, 0}}}},
};

/// Null for formats that have no blocks.
const BlockModel* block_model(Format format) {
    const auto found = std::ranges::find_if(block_models, [&](const BlockModel& model) {
        return format >= model.first && format <= model.last;
    });
    return found == std::end(block_models) ? nullptr : found;
}

std::uint32_t color_model(Format format) {
    const BlockModel* model = block_model(format);
    return model == nullptr ? model_rgbsda : model->model;
}

/// A block's bits that no further field describes.
Sample block_sample(const FormatInfo& f, std::uint32_t offset, std::uint32_t bits,
                    std::uint32_t channel) {
    Sample sample{offset, bits, channel, 0, ~0U};
    if (f.is_float()) {
        sample.channel |= qualifier_float;
        sample.upper = std::bit_cast<std::uint32_t>(1.0F);
        if (f.kind == NumericKind::signed_float)
            sample.lower = std::bit_cast<std::uint32_t>(-1.0F);
    }
    if (f.kind == NumericKind::snorm) {
        sample.lower = 0x80000000U;
        sample.upper = 0x7FFFFFFFU;
    }
    if (f.kind == NumericKind::snorm || f.kind == NumericKind::signed_float)
        sample.channel |= qualifier_signed;
    return sample;
}

std::vector<Sample> block_samples(const FormatInfo& f, const BlockModel& model, bool srgb) {
    std::vector<Sample> samples;
    for (const BlockBits& bits : std::span(model.of_samples).first(model.samples)) {
        const bool is_linear = srgb && bits.channel == channel_alpha;
        samples.push_back(block_sample(f, bits.offset, model.bits,
                                       bits.channel | (is_linear ? qualifier_linear : 0)));
    }
    return samples;
}

std::vector<Sample> samples_of(const FormatInfo& f, bool srgb) {
    if (const BlockModel* model = block_model(f.format))
        return block_samples(f, *model, srgb);
    if (f.kind == NumericKind::shared_exponent)
        return shared_exponent_samples(f);
    std::vector<Sample> samples;
    for (std::size_t i = 0; i < f.channel_count; ++i)
        samples.push_back(plain_sample(f, f.channels[i], srgb));
    return samples;
}

std::uint32_t word(ByteSpan descriptor, std::size_t index) {
    return load<std::uint32_t>(descriptor.data() + 4 * (1 + index));
}

}  // namespace

std::vector<std::byte> data_format_descriptor(Format format, Transfer transfer, AlphaMode alpha) {
    const FormatInfo& f = info(format);
    const bool srgb = transfer == Transfer::srgb;
    const auto samples = samples_of(f, srgb);
    const auto length =
        static_cast<std::uint32_t>(4 * (block_words + sample_words * samples.size()));
    ByteWriter writer;
    writer.write(length + 4);
    writer.write(std::uint32_t{0});
    writer.write(descriptor_version | length << 16);
    writer.write(color_model(format) | primaries_bt709 << 8 |
                 (srgb ? transfer_srgb : transfer_linear) << 16 |
                 (alpha == AlphaMode::premultiplied ? flag_premultiplied : 0U) << 24);
    writer.write((f.block_width - 1U) | (f.block_height - 1U) << 8);
    writer.write(std::uint32_t{f.block_bytes});
    writer.write(std::uint32_t{0});
    for (const Sample& sample : samples) {
        writer.write(sample.offset | (sample.bits - 1) << 16 | sample.channel << 24);
        writer.write(std::uint32_t{0});
        writer.write(sample.lower);
        writer.write(sample.upper);
    }
    return writer.release();
}

const FormatInfo* format_of_etc1(ByteSpan descriptor) {
    const std::uint32_t colors = word(descriptor, 2);
    if ((colors & 0xFF) != model_etc1)
        return nullptr;
    const bool is_srgb = (colors >> 16 & 0xFF) == transfer_srgb;
    return find_format(is_srgb ? Format::etc2_rgb8_srgb : Format::etc2_rgb8_unorm);
}

Result<DescriptorTraits> check_descriptor(ByteSpan descriptor, std::size_t offset, Format format,
                                          Supercompression scheme) {
    const auto wrong = [&](std::string message, std::size_t index) {
        return fail(ErrorKind::malformed, "data format descriptor: " + std::move(message),
                    offset + 4 * (1 + index));
    };
    if (descriptor.size() < 4 * (1 + block_words) || descriptor.size() % 4 != 0)
        return fail(ErrorKind::malformed,
                    fmt::format("dfdByteLength is {}; a descriptor has at least {} bytes, in fours",
                                descriptor.size(), 4 * (1 + block_words)),
                    offset);
    const std::uint32_t total = load<std::uint32_t>(descriptor.data());
    if (total != descriptor.size())
        return fail(ErrorKind::malformed,
                    fmt::format("dfdTotalSize is {} and dfdByteLength {}; they have to be equal",
                                total, descriptor.size()),
                    offset);
    const std::uint32_t transfer = word(descriptor, 2) >> 16 & 0xFF;
    const bool may_differ = info(format).kind == NumericKind::unorm && !info(format).is_block() &&
                            !with_transfer(format, Transfer::srgb);
    DescriptorTraits metadata;
    metadata.transfer =
        may_differ && transfer == transfer_srgb ? Transfer::srgb : info(format).transfer;
    metadata.alpha = (word(descriptor, 2) >> 24 & flag_premultiplied) != 0
                         ? AlphaMode::premultiplied
                         : AlphaMode::straight;
    const auto expected = data_format_descriptor(format, metadata.transfer, metadata.alpha);
    if (expected.size() != descriptor.size())
        return wrong(fmt::format("its length is {} bytes; {} needs {}", descriptor.size(),
                                 info(format).name, expected.size()),
                     0);
    const FormatInfo* as_etc1 = format_of_etc1(descriptor);
    const bool is_etc1 = as_etc1 != nullptr && as_etc1->format == format;
    for (std::size_t i = 0; i + 1 < descriptor.size() / 4; ++i) {
        std::uint32_t found = word(descriptor, i);
        std::uint32_t wanted = word(expected, i);
        const bool color_word = i == 2;
        const bool plane_word = i == 4;
        if (color_word) {  // other primaries are fine, and an unspecified transfer counts as linear
            found &= ~0xFF00U;
            wanted &= ~0xFF00U;
            if (transfer == 0 && metadata.transfer == Transfer::linear)
                found |= transfer_linear << 16;
        }
        if (is_etc1 && i == 2)
            wanted = (wanted & ~0xFFU) | model_etc1;
        if (is_etc1 && i == block_words)  // the only channel of ETC1, where ETC2 has four
            wanted &= 0x00FFFFFFU;
        if (plane_word && scheme != Supercompression::none && found == 0)
            continue;
        if (found != wanted)
            return wrong(fmt::format("word {} is {:#010x}; {} needs {:#010x}", i, found,
                                     info(format).name, wanted),
                         i);
    }
    return metadata;
}

}  // namespace yl::ktx2
