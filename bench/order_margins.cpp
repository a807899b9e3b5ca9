// What the finding of a cube's order decides by, measured: how badly right edges meet and how much
// better the right order is than any other, for skies of several sizes and for pictures that are no
// cube. The thresholds of src/cube/order.cpp rest on this.
#include <fmt/format.h>

#include <cmath>
#include <random>
#include <yl/yl.hpp>

#include "cube/edge_strips.hpp"
#include "dawn.hpp"
#include "or_quit.hpp"
#include "support/skies.hpp"

namespace {

using Faces = std::array<yl::ConstImageView, 6>;

yl::FaceArrangement as_they_are() {
    yl::FaceArrangement faces;
    for (std::size_t i = 0; i < 6; ++i)
        faces[i] = {i, yl::Orientation::none};
    return faces;
}

void report(const std::string& name, const Faces& faces) {
    const yl::FaceOrder own =
        or_quit(yl::check_face_order(faces, yl::Transfer::linear, as_they_are()));
    const yl::FaceOrder best = or_quit(yl::find_face_order(faces, yl::Transfer::linear));
    const auto strips = or_quit(yl::EdgeStrips::of(faces, yl::Transfer::linear));
    fmt::print("{:<28} {:>10.4f} {:>13.1f} {:>11.2f}  {}\n", name, own.worst.misfit,
               own.worst.misfit / std::sqrt(strips.usual_step()), best.confidence,
               best.is_sure ? "sure" : "unsure");
}

Faces views_of(const std::vector<yl::Image>& images) {
    Faces views;
    for (std::size_t i = 0; i < 6; ++i)
        views[i] = images[i].view();
    return views;
}

/// Six pictures that have nothing to do with each other.
std::vector<yl::Image> noise(std::uint32_t size, unsigned seed) {
    std::mt19937 random(seed);
    std::vector<yl::Image> images;
    for (int i = 0; i < 6; ++i) {
        yl::Image image = or_quit(yl::Image::create(yl::Format::rgba8_unorm, size, size));
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::byte& code : image.view().row(y))
                code = static_cast<std::byte>(random() & 255U);
        images.push_back(std::move(image));
    }
    return images;
}

}  // namespace

int main() {
    fmt::print("{:<28} {:>10} {:>13} {:>11}\n", "six faces", "worst edge", "usual steps",
               "confidence");
    for (const std::uint32_t size : {8U, 16U, 32U, 64U, 128U, 256U}) {
        const auto name = [&](const char* sky) { return fmt::format("{}, {} texels", sky, size); };
        std::vector<yl::Image> dawn;
        for (yl::Image& face : or_quit(glasshouse::dawn_faces(size)))
            dawn.push_back(std::move(face));
        report(name("dawn"), views_of(dawn));
        for (const auto& [sky, light] : {std::pair{"waves", support::Sky(support::wavy_sky)},
                                         {"clear evening", support::Sky(support::clear_sky)}}) {
            const yl::Texture cube = support::cube_of(light, size, yl::Format::rgba8_srgb);
            report(name(sky), support::faces_of(cube));
        }
        for (unsigned seed = 1; seed <= 3; ++seed)
            report(name("no cube: noise"), views_of(noise(size, seed)));
    }
    return 0;
}
