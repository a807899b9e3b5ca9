#include "report/page/texels.hpp"

#include <algorithm>

#include <yl/picture.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "base/base64.hpp"
#include "base/zlib_stream.hpp"
#include "pixel/stored_rows.hpp"
#include "report/surface_picture.hpp"

namespace yl::report {
namespace {

constexpr int webp_effort = 2;  // 0 .. 10; more takes seconds and saves a few per cent
constexpr int zlib_level = 9;

/// Rows as stored numbers, through a swizzle, in another format.
Result<Image> seen(ConstImageView view, const Swizzle& swizzle, Format format) {
    YL_TRY(Image image, Image::create(format, view.width, view.height));
    const RowCodec from = number_codec(view.format), to = number_codec(format);
    std::vector<float> rgba(std::size_t{view.width} * 4);
    for (std::uint32_t y = 0; y < view.height; ++y) {
        from.load(view.row(y).data(), rgba.data(), view.width);
        apply_swizzle(swizzle, rgba.data(), view.width);
        to.store(rgba.data(), image.view().row(y).data(), view.width);
    }
    return image;
}

std::string base64(ByteSpan bytes) {
    std::string text;
    append_base64(text, bytes);
    return text;
}

Result<std::string> webp(ConstImageView image) {
    YL_TRY(const auto bytes,
           encode_picture("webp", image, {.transfer = {}, .effort = webp_effort}));
    return base64(bytes);
}

Result<std::string> zlib(ByteSpan bytes) {
    YL_TRY(const auto packed, pack_zlib(bytes, zlib_level));
    return base64(packed);
}

/// Numbers that eight bits do not hold as they are.
bool needs_halves(Format format) {
    const FormatInfo& f = info(format);
    return f.is_float() || f.kind == NumericKind::snorm ||
           std::ranges::any_of(f.channels, [](const ChannelLayout& c) { return c.bits > 8; });
}

/// The surfaces of a level one after the other: by layer, face and slice.
template <class Visit>
Status for_surfaces(const Texture& texture, std::uint32_t level, const Visit& visit) {
    const TextureShape& shape = texture.shape();
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face)
            for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                ConstImageView view = texture.image(level, layer, face);
                view.data += slice * shape.surface_bytes(level);
                YL_CHECK(visit(view));
            }
    return {};
}

class Packer {
 public:
    Packer(const TexelSubject& subject, bool is_light) : subject_(subject), is_light_(is_light) {}

    Result<Json> level(std::uint32_t level) const {
        Json packed = Json::object();
        YL_CHECK(add(packed, "", subject_.plain, level));
        if (subject_.source != nullptr)
            YL_CHECK(add(packed, "source", *subject_.source, level));
        const bool is_as_stored = subject_.stored.metadata.swizzle == identity_swizzle;
        if (info(subject_.stored.shape().format).is_block() && is_as_stored) {
            Json blocks = Json::array();
            YL_CHECK(for_surfaces(subject_.stored, level, [&](ConstImageView view) -> Status {
                YL_TRY(std::string text,
                       zlib({view.data, subject_.stored.shape().surface_bytes(level)}));
                blocks.push_back(std::move(text));
                return {};
            }));
            packed["blocks"] = std::move(blocks);
        }
        return packed;
    }

    /// The last level alone, halved until it fits.
    Result<Json> smaller(std::uint64_t max_bytes) const {
        const std::uint32_t last = subject_.plain.shape().levels - 1;
        ConstImageView view = subject_.plain.image(last);
        Image half;
        Json packed = Json::object();
        do {
            YL_TRY(half, resize(view, std::max(view.width / 2, 1U), std::max(view.height / 2, 1U),
                                {.transfer = Transfer::linear, .alpha = AlphaMode::data}));
            view = std::as_const(half).view();
            packed = Json::object();
            YL_CHECK(add_surface(packed, "", view, subject_.plain.metadata.swizzle));
        } while (text_of(packed).size() > max_bytes && std::max(view.width, view.height) > 1);
        packed["width"] = view.width;
        packed["height"] = view.height;
        return packed;
    }

 private:
    Status add(Json& packed, const std::string& whose, const Texture& texture,
               std::uint32_t level) const {
        return for_surfaces(texture, level, [&](ConstImageView view) {
            return add_surface(packed, whose, view, texture.metadata.swizzle);
        });
    }

    Status add_surface(Json& packed, const std::string& whose, ConstImageView view,
                       const Swizzle& swizzle) const {
        const std::string color = whose.empty() ? "color" : whose;
        const std::string alpha = whose.empty() ? "alpha" : whose + "_alpha";
        if (is_light_) {
            YL_TRY(const Image halves, seen(view, swizzle, Format::rgba16_float));
            const ConstImageView rows = halves.view();
            YL_TRY(std::string text, zlib({rows.data, rows.row_bytes() * rows.height}));
            packed[color].push_back(std::move(text));
            return {};
        }
        const Swizzle opaque = {swizzle[0], swizzle[1], swizzle[2], SwizzleSource::one};
        YL_TRY(const Image colors, seen(view, opaque, Format::rgba8_unorm));
        YL_TRY(std::string text, webp(colors.view()));
        packed[color].push_back(std::move(text));
        if (subject_.has_alpha) {
            const Swizzle gray = {swizzle[3], swizzle[3], swizzle[3], SwizzleSource::one};
            YL_TRY(const Image alphas, seen(view, gray, Format::rgba8_unorm));
            YL_TRY(std::string alpha_text, webp(alphas.view()));
            packed[alpha].push_back(std::move(alpha_text));
        }
        return {};
    }

    const TexelSubject& subject_;
    bool is_light_;
};

}  // namespace

Result<PackedTexels> pack_texels(const TexelSubject& subject, std::uint64_t max_bytes) {
    PackedTexels packed;
    packed.is_light = needs_halves(subject.plain.shape().format);
    const Packer packer(subject, packed.is_light);
    std::uint32_t level = subject.plain.shape().levels;
    std::uint64_t size = 0, last_size = 0;
    // A level takes at least twice what the next one does.
    while (level > 0 && size + 2 * last_size <= max_bytes) {
        YL_TRY(const Json next, packer.level(level - 1));
        std::string text = text_of(next);
        last_size = text.size();
        size += last_size;
        if (size > max_bytes)
            break;
        packed.levels.push_back(std::move(text));
        --level;
    }
    if (packed.levels.empty()) {
        YL_TRY(const Json smaller, packer.smaller(max_bytes));
        packed.levels.push_back(text_of(smaller));
        packed.is_scaled = true;
        --level;
    }
    packed.first_level = level;
    std::ranges::reverse(packed.levels);
    return packed;
}

Result<std::string> thumbnail(const Texture& plain) {
    constexpr std::uint32_t side = 64;  // pixels
    const std::uint32_t longest = plain.shape().faces == 6 ? side / 4 : side;
    YL_TRY(const Image picture, surface_picture(plain, {}, longest, false, 0));
    return webp(picture.view());
}

}  // namespace yl::report
