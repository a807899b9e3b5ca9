#include <yl/convert.hpp>

#include <fmt/format.h>

#include <cstring>
#include <vector>

#include <yl/format.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"
#include "pixel/dither.hpp"
#include "pixel/rows.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 16;

bool says_transfer(Format format) {
    const FormatInfo& f = info(format);
    return f.kind != NumericKind::unorm || f.transfer == Transfer::srgb;
}

Transfer effective(Format format, Transfer transfer) {
    const FormatInfo& f = info(format);
    if (f.is_float())
        return Transfer::linear;
    return f.transfer == Transfer::srgb ? Transfer::srgb : transfer;
}

/// Loads a row and turns its channels into RGBA as they are seen.
class SeenRows {
 public:
    SeenRows(Format format, Transfer transfer, const Swizzle& swizzle) : swizzle_(swizzle) {
        // What is stored as a colour channel and seen as alpha must not be decoded with the
        // colours.
        const bool alpha_is_stored_as_color = swizzle[3] <= SwizzleSource::blue;
        decode_late_ = alpha_is_stored_as_color && transfer == Transfer::srgb &&
                       info(format).transfer == Transfer::linear;
        load_ = row_codec(format, decode_late_ ? Transfer::linear : transfer).load;
    }

    [[nodiscard]] bool possible() const { return load_ != nullptr; }

    void load(ByteSpan row, std::vector<float>& rgba) const {
        load_(row.data(), rgba.data(), rgba.size() / 4);
        apply_swizzle(swizzle_, rgba.data(), rgba.size() / 4);
        if (!decode_late_)
            return;
        for (std::size_t i = 0; i < rgba.size(); ++i)
            if (i % 4 != 3)
                rgba[i] = static_cast<float>(srgb_decode(static_cast<double>(rgba[i])));
    }

 private:
    Swizzle swizzle_;
    bool decode_late_ = false;
    void (*load_)(const std::byte*, float*, std::size_t) = nullptr;
};

/// Luminance of linear light in place of red (BT.709); what is gray stays exactly what it is.
void make_gray(std::vector<float>& rgba) {
    for (std::size_t i = 0; i < rgba.size(); i += 4)
        if (rgba[i] != rgba[i + 1] || rgba[i] != rgba[i + 2])
            rgba[i] = 0.2126F * rgba[i] + 0.7152F * rgba[i + 1] + 0.0722F * rgba[i + 2];
}

}  // namespace

Status convert(ConstImageView source, ImageView target, const ConvertOptions& options) try {
    YL_CHECK(check_view(source, "source"));
    YL_CHECK(check_view(target, "target"));
    if (source.width != target.width || source.height != target.height)
        return fail(ErrorKind::usage,
                    fmt::format("{} x {} pixels cannot be converted into {} x {}", source.width,
                                source.height, target.width, target.height));
    const Transfer to = effective(target.format, options.target_transfer);
    const bool is_copy = source.format == target.format && options.swizzle == identity_swizzle &&
                         effective(source.format, options.source_transfer.value_or(to)) == to;
    if (!is_copy && !options.source_transfer && !says_transfer(source.format))
        return fail(ErrorKind::usage,
                    fmt::format("nothing says how the colours of {} are encoded: give the source's "
                                "transfer function",
                                info(source.format).name));
    const Transfer from = effective(source.format, options.source_transfer.value_or(to));
    const bool same = is_copy;
    const bool meets_one = options.swizzle == identity_swizzle &&
                           info(source.format).channel_count >= 3 &&
                           info(target.format).channel_count == 1;
    if (meets_one && options.to_one_channel == ToOneChannel::refuse)
        return fail(
            ErrorKind::usage,
            fmt::format("{} has more channels than {}: say whether luminance or red is meant",
                        info(source.format).name, info(target.format).name));
    const bool to_luminance = meets_one && options.to_one_channel == ToOneChannel::luminance;
    const SeenRows input(source.format, from, options.swizzle);
    const RowCodec output = row_codec(target.format, to);
    if (!same && (!input.possible() || output.store == nullptr))
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be converted to {}", info(source.format).name,
                                info(target.format).name));
    parallel_ranges(source.row_count(), rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rgba(same ? 0 : std::size_t{source.width} * 4);
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            const auto row = source.row(y);
            if (same) {
                std::memcpy(target.row(y).data(), row.data(), row.size());
                continue;
            }
            input.load(row, rgba);
            if (to_luminance)
                make_gray(rgba);
            if (options.dither)
                dither_row(rgba.data(), source.width, options.first_row + y, target.format, to);
            output.store(rgba.data(), target.row(y).data(), source.width);
        }
    });
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> convert(ConstImageView source, Format format, const ConvertOptions& options) try {
    YL_CHECK(check_view(source, "source"));
    YL_TRY(Image target, Image::create(format, source.width, source.height, Limits::none()));
    YL_CHECK(convert(source, target.view(), options));
    return target;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
