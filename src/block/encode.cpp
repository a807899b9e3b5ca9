// Images and textures encoded, several rows of blocks at a time.
#include <fmt/format.h>

#include <algorithm>

#include <yl/convert.hpp>
#include <yl/normals.hpp>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "block/block_codec.hpp"
#include "block/rate_distortion.hpp"
#include "block/source_blocks.hpp"
#include "block/surfaces.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::size_t blocks_at_least = 256;  // in one piece of work, so that lanes are full

ColorSettings color_settings(const BlockOptions& options) {
    ColorSettings settings{.effort = options.effort};
    // Half by what a channel adds to the luminance of Rec. 709, half alike.
    if (options.weights == ErrorWeights::perceptual)
        settings.channel_weights = {0.82F, 1.57F, 0.61F, 1.0F};
    settings.weigh_by_alpha = weighs_by_alpha(options);
    settings.are_normals = options.role == Role::normal;
    settings.black_of_three = options.black_of_three;
    settings.etc1_only = options.etc1_only;
    return settings;
}

/// Encodes whole rows of blocks, one after the other in memory.
class RowEncoder {
 public:
    RowEncoder(ConstImageView pixels, Format format, const BlockOptions& options)
        : f_(info(format)),
          codec_(*find_block_codec(format)),
          source_(pixels, options.source_transfer, f_, options.role == Role::normal),
          options_(options),
          color_(color_settings(options)) {}

    [[nodiscard]] bool possible() const { return source_.possible(); }
    [[nodiscard]] std::size_t across() const { return source_.across(); }

    void encode(std::uint32_t first_row, std::uint32_t rows, std::byte* blocks) const {
        if (f_.channel_count <= 2)
            for (std::uint32_t row = 0; row < rows; ++row)
                encode_channels(first_row + row, blocks + row * across() * f_.block_bytes);
        else
            encode_texels(first_row, rows, blocks);
    }

    /// Blocks of texels as the decoder gives them, for those who compare.
    [[nodiscard]] const SourceBlocks& source() const { return source_; }

 private:
    void encode_channels(std::uint32_t row, std::byte* blocks) const {
        const std::size_t count = across();
        const std::size_t values = count * texels_of_block;
        std::vector<float> codes(values * f_.channel_count);
        source_.read_codes(row, codes.data());
        const bool is_signed = f_.kind == NumericKind::snorm;
        const float most = codec_.greatest_code;
        const ChannelSettings settings{.effort = options_.effort,
                                       .min = is_signed ? -most : 0.0F,
                                       .max = most,
                                       .block_words = f_.block_bytes / 4U};
        std::vector<float> weights;
        const bool are_normals = options_.role == Role::normal && f_.channel_count == 2;
        if (are_normals)
            weights = normal_weights(codes, is_signed, most);
        for (std::size_t channel = 0; channel < f_.channel_count; ++channel)
            codec_.encode_channel(codes.data() + channel * values,
                                  are_normals ? weights.data() + channel * values : nullptr, count,
                                  settings, blocks + channel * 8);
    }

    /// How much an error of x or y turns the vector (x, y, z) whose z follows from its length: for
    /// small errors that are independent of each other, 1 + x^2 / z^2 and 1 + y^2 / z^2.
    [[nodiscard]] static std::vector<float> normal_weights(const std::vector<float>& codes,
                                                           bool is_signed, float most) {
        constexpr float min_z_squared = 1.0F / 64;
        const std::size_t count = codes.size() / 2;
        const auto unit = [&](float code) {
            return is_signed ? code / most : code / (0.5F * most) - 1.0F;
        };
        std::vector<float> weights(codes.size());
        for (std::size_t i = 0; i < count; ++i) {
            const float x = unit(codes[i]);
            const float y = unit(codes[count + i]);
            const float z_squared = std::max(1.0F - x * x - y * y, min_z_squared);
            weights[i] = 1.0F + x * x / z_squared;
            weights[count + i] = 1.0F + y * y / z_squared;
        }
        return weights;
    }

    void encode_texels(std::uint32_t first_row, std::uint32_t rows, std::byte* blocks) const {
        const std::size_t texel_bytes = f_.is_float() ? 8 : 4;
        const std::size_t row_bytes = across() * source_.texels() * texel_bytes;
        const std::size_t count = across() * rows;
        std::vector<std::byte> texels(row_bytes * rows);
        for (std::uint32_t row = 0; row < rows; ++row)
            source_.read(first_row + row, texels.data() + row * row_bytes);
        codec_.encode_texels(texels.data(), count, color_, blocks);
    }

    const FormatInfo& f_;
    const BlockCodec& codec_;
    SourceBlocks source_;
    const BlockOptions& options_;
    ColorSettings color_;
};

Status encode(ConstImageView pixels, ImageView blocks, const BlockOptions& options,
              ProgressCounter& progress) {
    const RowEncoder encoder(pixels, blocks.format, options);
    if (!encoder.possible())
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be encoded as {}: decode it first",
                                info(pixels.format).name, info(blocks.format).name));
    const std::size_t row_bytes = blocks.row_bytes();
    const std::uint32_t total = blocks.row_count();
    const auto rows_at_once = static_cast<std::uint32_t>(
        options.rate_distortion > 0 ? rate_distortion_rows
                                    : (blocks_at_least + encoder.across() - 1) / encoder.across());
    parallel_each((total + rows_at_once - 1) / rows_at_once, [&](std::size_t piece) {
        if (progress.cancelled())
            return;
        const auto first = static_cast<std::uint32_t>(piece) * rows_at_once;
        const std::uint32_t rows = std::min(rows_at_once, total - first);
        std::vector<std::byte> encoded(row_bytes * rows);
        encoder.encode(first, rows, encoded.data());
        if (options.rate_distortion > 0)
            optimise_rate_distortion(encoder.source(), {first, rows}, info(blocks.format), options,
                                     encoded.data());
        for (std::uint32_t row = 0; row < rows; ++row)
            std::copy_n(encoded.data() + row * row_bytes, row_bytes,
                        blocks.row(first + row).data());
        progress.add(rows * encoder.across());
    });
    return progress.status();
}

Status check(Format format, const BlockOptions& options) {
    if (!decoded_format(format))
        return fail_at(
            {ErrorKind::usage, fmt::format("{} is not a block format", info(format).name)},
            "format");
    if (options.effort < 0 || options.effort > 10)
        return fail_at({ErrorKind::usage,
                        fmt::format("the effort is {}; it goes from 0 to 10", options.effort)},
                       "effort");
    if (!(options.rate_distortion >= 0))
        return fail_at({ErrorKind::usage, "the rate-distortion has to be 0 or more"},
                       "rate_distortion");
    return {};
}

std::uint64_t block_count(const TextureShape& shape) {
    return shape.total_bytes() / info(shape.format).block_bytes;
}

}  // namespace

Status encode_blocks(ConstImageView pixels, ImageView blocks, const BlockOptions& options) try {
    YL_CHECK(check_view(pixels, "pixels"));
    YL_CHECK(check_view(blocks, "blocks"));
    YL_CHECK(check(blocks.format, options));
    if (pixels.width != blocks.width || pixels.height != blocks.height)
        return fail(ErrorKind::usage,
                    fmt::format("{} x {} texels do not become {} x {}", pixels.width, pixels.height,
                                blocks.width, blocks.height));
    ProgressCounter progress(
        options.progress, Phase::encoding,
        std::uint64_t{blocks.row_count()} * (blocks.row_bytes() / info(blocks.format).block_bytes));
    return encode(pixels, blocks, options, progress);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> encode_blocks(ConstImageView pixels, Format format, const BlockOptions& options) try {
    YL_CHECK(check_view(pixels, "pixels"));
    YL_CHECK(check(format, options));
    YL_TRY(Image blocks, Image::create(format, pixels.width, pixels.height));
    YL_CHECK(encode_blocks(pixels, blocks.view(), options));
    return blocks;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> encode_texture(const Texture& texture, Format format,
                               const BlockOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check(format, options));
    TextureShape shape = texture.shape();
    shape.format = format;
    ProgressCounter progress(options.progress, Phase::encoding, block_count(shape));
    BlockOptions each = options;
    each.source_transfer = texture.metadata.transfer;
    each.alpha = texture.metadata.alpha;
    YL_TRY(Texture result,
           with_each_surface(texture, format, [&](ConstImageView from, ImageView to) -> Status {
               return encode(from, to, each, progress);
           }));
    result.metadata.transfer = info(format).transfer;
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> texture_in_format(const Texture& texture, Format format, Role role,
                                  const BlockOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    if (texture.shape().format == format)
        return with_each_surface(texture, format, copy_rows);
    if (info(texture.shape().format).is_block()) {
        YL_TRY(const Texture texels, decode_texture(texture));
        return texture_in_format(texels, format, role, options);
    }
    if (info(format).is_block()) {
        BlockOptions blocks = options;
        blocks.role = role;
        // Two components are taken of unit vectors.
        const bool drops_third = role == Role::normal && info(format).channel_count == 2 &&
                                 info(texture.shape().format).channel_count > 2;
        if (drops_third) {
            const bool is_signed = info(format).kind == NumericKind::snorm;
            YL_TRY(const Texture pairs,
                   texture_in_format(texture, is_signed ? Format::rg16_snorm : Format::rg16_unorm,
                                     role));
            return encode_texture(pairs, format, blocks);
        }
        return encode_texture(texture, format, blocks);
    }
    const bool are_normals = role == Role::normal && info(format).channel_count > 1 &&
                             info(texture.shape().format).channel_count > 1;
    const ConvertOptions conversion{.source_transfer = texture.metadata.transfer,
                                    .target_transfer = info(format).transfer,
                                    .to_one_channel = info(role).transfer == Transfer::srgb
                                                          ? ToOneChannel::luminance
                                                          : ToOneChannel::red};
    const NormalConversion directions{.source_encoding = normal_encoding(texture.shape().format)};
    YL_TRY(Texture result,
           with_each_surface(texture, format, [&](ConstImageView from, ImageView to) -> Status {
               if (!are_normals)
                   return convert(from, to, conversion);
               YL_CHECK(convert_normals(from, to, directions));
               return {};
           }));
    result.metadata.transfer = info(format).transfer;
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
