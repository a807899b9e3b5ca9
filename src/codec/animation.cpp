#include "codec/animation.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/checked.hpp"

namespace yl {
namespace {

template <class Code>
void composite(const std::byte* above, std::byte* below) {
    constexpr double last = static_cast<double>(static_cast<Code>(~Code{0}));
    const auto at = [](const std::byte* pixel, std::size_t c) {
        return static_cast<double>(load<Code>(pixel + c * sizeof(Code)));
    };
    const double alpha = at(above, 3) / last, rest = at(below, 3) / last * (1 - alpha);
    const double sum = alpha + rest;
    if (alpha == 0)
        return;
    for (std::size_t c = 0; c < 3; ++c)
        store(below + c * sizeof(Code),
              static_cast<Code>((at(above, c) * alpha + at(below, c) * rest) / sum + 0.5));
    store(below + 3 * sizeof(Code), static_cast<Code>(sum * last + 0.5));
}

void draw(const Frame& frame, ImageView canvas) {
    const std::size_t bytes = info(canvas.format).block_bytes;
    for (std::uint32_t y = 0; y < frame.image.height; ++y) {
        const auto from = frame.image.row(y);
        const auto to = canvas.row(frame.y + y).subspan(frame.x * bytes);
        if (frame.replaces) {
            std::ranges::copy(from, to.begin());
            continue;
        }
        for (std::size_t at = 0; at < from.size(); at += bytes)
            if (bytes == 4)
                composite<std::uint8_t>(&from[at], &to[at]);
            else
                composite<std::uint16_t>(&from[at], &to[at]);
    }
}

void clear(const Frame& frame, ImageView canvas) {
    const std::size_t bytes = info(canvas.format).block_bytes;
    for (std::uint32_t y = 0; y < frame.image.height; ++y)
        std::ranges::fill(
            canvas.row(frame.y + y).subspan(frame.x * bytes, frame.image.width * bytes),
            std::byte{0});
}

}  // namespace

Result<Canvas> Canvas::create(std::uint32_t width, std::uint32_t height, Format format,
                              std::size_t count, const Limits& limits) {
    const CheckedSize all =
        CheckedSize(width) * height * info(format).block_bytes * (std::uint64_t{count} + 1);
    if (!all.fits(limits.max_bytes))
        return fail(ErrorKind::limit,
                    fmt::format("{} frames of {} x {} pixels take more than {} bytes", count, width,
                                height, limits.max_bytes));
    Canvas canvas;
    YL_TRY(canvas.canvas_, Image::create(format, width, height, limits));
    for (std::uint32_t y = 0; y < height; ++y)
        std::ranges::fill(canvas.canvas_.view().row(y), std::byte{0});
    return canvas;
}

Status Canvas::show(const Frame& frame, PictureFrames& frames) {
    if (frame.x > canvas_.width() || frame.image.width > canvas_.width() - frame.x ||
        frame.y > canvas_.height() || frame.image.height > canvas_.height() - frame.y)
        return fail(ErrorKind::malformed,
                    fmt::format("frame {} reaches beyond the picture", frames.pictures.size()));
    if (last_.disposal == Disposal::clear)
        clear(last_, canvas_.view());
    else if (last_.disposal == Disposal::previous)
        std::swap(canvas_, before_);
    if (frame.disposal == Disposal::previous) {
        YL_TRY(before_, std::as_const(canvas_).clone());
    }
    draw(frame, canvas_.view());
    last_ = frame;
    last_.image.data = nullptr;  // its size and place matter alone
    Picture& picture = frames.pictures.emplace_back();
    YL_TRY(picture.image, std::as_const(canvas_).clone());
    frames.seconds.push_back(frame.seconds);
    return {};
}

}  // namespace yl
