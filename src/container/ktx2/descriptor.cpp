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

#include <bit>

#include <yl/status_macros.hpp>
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

constexpr std::uint32_t descriptor_version = 2;  // of the Khronos Data Format Specification 1.3
constexpr std::uint32_t model_rgbsda = 1;
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

// Colour models of the block formats, in the order of their numbers.
constexpr std::uint32_t model_bc1 = 128, model_bc2 = 129, model_bc3 = 130, model_bc4 = 131,
                        model_bc5 = 132, model_bc6h = 133, model_bc7 = 134;
constexpr std::uint32_t channel_color = 0;
constexpr std::uint32_t channel_color_with_cut_out = 1;  // of BC1

std::uint32_t color_model(Format format) {
    switch (format) {
        case Format::bc1_unorm:
        case Format::bc1_srgb:
        case Format::bc1a_unorm:
        case Format::bc1a_srgb:
            return model_bc1;
        case Format::bc2_unorm:
        case Format::bc2_srgb:
            return model_bc2;
        case Format::bc3_unorm:
        case Format::bc3_srgb:
            return model_bc3;
        case Format::bc4_unorm:
        case Format::bc4_snorm:
            return model_bc4;
        case Format::bc5_unorm:
        case Format::bc5_snorm:
            return model_bc5;
        case Format::bc6h_ufloat:
        case Format::bc6h_sfloat:
            return model_bc6h;
        case Format::bc7_unorm:
        case Format::bc7_srgb:
            return model_bc7;
        default:
            return model_rgbsda;
    }
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

std::vector<Sample> block_samples(const FormatInfo& f, bool srgb) {
    switch (color_model(f.format)) {
        case model_bc1:
            return {block_sample(
                f, 0, 64, f.has(Channel::alpha) ? channel_color_with_cut_out : channel_color)};
        case model_bc2:
        case model_bc3:
            return {block_sample(f, 0, 64, channel_alpha | (srgb ? qualifier_linear : 0)),
                    block_sample(f, 64, 64, channel_color)};
        case model_bc4:
            return {block_sample(f, 0, 64, 0)};
        case model_bc5:
            return {block_sample(f, 0, 64, 0), block_sample(f, 64, 64, 1)};
        default:
            return {block_sample(f, 0, 128, channel_color)};
    }
}

std::vector<Sample> samples_of(const FormatInfo& f, bool srgb) {
    if (f.is_block())
        return block_samples(f, srgb);
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
