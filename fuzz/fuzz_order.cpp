// The order of six faces: any six images give an error or an order that is one.
#include <yl/cube.hpp>

#include "images.hpp"

namespace {

using fuzz::check;

void check_order(fuzz::Input& input) {
    const yl::Format format = input.one_of(fuzz::image_formats);
    const std::uint32_t side = input.between(1, 6);
    const bool fits = input.take<std::uint8_t>() % 8 != 0;
    yl::OrderHints hints;
    if (input.take<std::uint8_t>() % 2 == 0)
        hints.top = input.between(0, 7);
    if (input.take<std::uint8_t>() % 2 == 0)
        hints.front = input.between(0, 7);
    // Noise would take all the tries there are, a tenth of a second here: what more of them would
    // do, some thousand do as well.
    const std::uint8_t effort = input.take<std::uint8_t>();
    hints.max_tries = effort == 255 ? 4096 : effort % 64;
    std::vector<yl::Image> images;
    std::array<yl::ConstImageView, 6> views;
    for (auto& view : views) {
        const std::uint32_t width = fits ? side : input.between(1, 6);
        auto image = fuzz::image_of(input, format, width, side);
        input.take<std::uint64_t>();
        images.push_back(std::move(image));
        view = images.back().view();
    }
    const auto order = yl::find_face_order(views, yl::Transfer::srgb, hints);
    if (!order)
        return check(!order.error().message.empty());
    std::array<bool, 6> used{};
    for (const yl::PlacedFace& face : order->faces) {
        check(face.image < 6 && !used[face.image]);
        used[face.image] = true;
    }
    check(order->confidence >= 0 && order->confidence <= 1);
    const auto cube = yl::arranged_cube(views, order->faces);
    check(cube.has_value());
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    fuzz::Input input(data, size);
    check_order(input);
    return 0;
}
