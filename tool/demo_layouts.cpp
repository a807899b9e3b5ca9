#include "demo_layouts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <vector>

#include <yl/status_macros.hpp>
#include <yl/yl.hpp>

#include "describe.hpp"

namespace ylat {
namespace {

constexpr std::uint32_t panel_width = 400, panel_height = 300;

/// A warm evening: shadows turn blue, lights yellow.
std::string evening_table(std::uint32_t side) {
    std::string text = fmt::format("TITLE \"Evening in the Glasshouse\"\nLUT_3D_SIZE {}\n", side);
    const auto part = [&](std::uint32_t i) { return i / (side - 1.0); };
    for (std::uint32_t b = 0; b < side; ++b)
        for (std::uint32_t g = 0; g < side; ++g)
            for (std::uint32_t r = 0; r < side; ++r) {
                const double light = 0.3 * part(r) + 0.6 * part(g) + 0.1 * part(b);
                text += fmt::format("{:.5f} {:.5f} {:.5f}\n",
                                    std::min(std::pow(part(r), 0.85) * (0.75 + 0.4 * light), 1.0),
                                    part(g) * (0.75 + 0.25 * light),
                                    part(b) * (0.8 - 0.35 * light) + 0.07 * (1 - light));
            }
    return text;
}

/// Slices of a volume, each with a sampler of its own; between two of them it is blended.
class Grade {
 public:
    static yl::Result<Grade> of(const yl::Texture& volume) {
        Grade grade;
        for (std::uint32_t slice = 0; slice < volume.shape().depth; ++slice) {
            YL_TRY(auto one, yl::single_slice(volume, slice));
            grade.slices_.push_back(std::make_unique<yl::Texture>(std::move(one)));
            YL_TRY(const auto sampler,
                   yl::parse_sampler("mag=linear min=linear wrap=clamp-to-edge"));
            YL_TRY(auto unit,
                   yl::TextureSampler::create(*grade.slices_.back(), sampler,
                                              yl::LevelRange::of(grade.slices_.back()->shape())));
            grade.units_.push_back(std::move(unit));
        }
        return grade;
    }

    /// A colour of 8 bits; the first and last colours lie in the middles of the outermost texels.
    void look_up(std::byte* color) const {
        const auto last = static_cast<float>(units_.size() - 1);
        float place[3] = {};
        for (int c = 0; c < 3; ++c)
            place[c] = static_cast<float>(std::to_integer<int>(color[c])) / 255 * last;
        const auto below = static_cast<std::size_t>(place[2]);
        const std::size_t above = std::min(below + 1, units_.size() - 1);
        const float share = place[2] - static_cast<float>(below);
        const float u = (place[0] + 0.5F) / (last + 1), v = (place[1] + 0.5F) / (last + 1);
        const auto a = units_[below].sample_level(u, v, 0), b = units_[above].sample_level(u, v, 0);
        for (std::size_t c = 0; c < 3; ++c)
            color[c] = code_of(a[c] + (b[c] - a[c]) * share);
    }

    [[nodiscard]] std::size_t slices() const { return units_.size(); }

    /// The colour at a place of a slice, opaque.
    void show(std::size_t slice, const std::array<float, 2>& place, std::byte* color) const {
        const auto looked_up = units_[slice].sample_level(place[0], place[1], 0);
        for (std::size_t c = 0; c < 3; ++c)
            color[c] = code_of(looked_up[c]);
        color[3] = std::byte{255};
    }

 private:
    static std::byte code_of(float value) {
        return static_cast<std::byte>(std::lround(255 * std::clamp(value, 0.0F, 1.0F)));
    }

    std::vector<std::unique_ptr<yl::Texture>> slices_;
    std::vector<yl::TextureSampler> units_;
};

yl::Result<yl::Texture> layers_of(const std::string& folder) {
    std::vector<yl::Picture> pictures;
    std::vector<const yl::Picture*> pointers;
    for (const char* name : {"slate.png", "moss.png", "lattice.png"}) {
        YL_TRY(auto picture, yl::read_picture(folder + "/" + name));
        pictures.push_back(std::move(picture));
    }
    for (const yl::Picture& picture : pictures)
        pointers.push_back(&picture);
    yl::StackOptions options;
    options.sizes = yl::UnequalSizes::resize;
    options.bake.max_side = 256;
    YL_TRY(auto baked, yl::bake_array(pointers, options));
    return std::move(baked.texture);
}

yl::Status add_layer(const yl::Texture& layers, std::uint32_t layer,
                     std::vector<yl::LabelledPicture>& panels) {
    YL_TRY(const auto one, yl::single_layer(layers, layer));
    YL_TRY(const auto unit, yl::TextureSampler::create(one, {}, yl::LevelRange::of(one.shape())));
    YL_TRY(auto picture,
           yl::draw_scene(yl::panel_scene({.width = panel_width, .height = panel_height}), unit));
    panels.push_back(
        {std::move(picture), fmt::format("layer {}", layer),
         fmt::format("{}, one of {} layers", size_text(one.shape().width, one.shape().height),
                     layers.shape().layers)});
    return {};
}

/// All slices of the table, enlarged.
yl::Result<yl::Image> slices_of(const Grade& grade) {
    constexpr std::uint32_t columns = 5, side = 68, step_x = 80, step_y = 75;
    YL_TRY(auto picture, yl::Image::create(yl::Format::rgba8_srgb, panel_width, panel_height));
    for (std::uint32_t y = 0; y < panel_height; ++y)
        for (std::uint32_t x = 0; x < panel_width; ++x) {
            std::byte* const color = picture.view().row(y).data() + std::size_t{x} * 4;
            std::fill_n(color, 4, std::byte{0});
            const std::size_t slice = y / step_y * columns + x / step_x;
            if (x % step_x >= side || y % step_y >= side || slice >= grade.slices())
                continue;
            grade.show(
                slice,
                {static_cast<float>(x % step_x) / side, static_cast<float>(y % step_y) / side},
                color);
        }
    return picture;
}

/// The floor, its colours looked up, and the table's own slices.
yl::Status add_grade(const std::string& folder, const yl::Texture& volume, const DemoReport& report,
                     std::vector<yl::LabelledPicture>& panels) {
    YL_TRY(const auto slate, yl::read_texture(folder + "/slate.ktx2"));
    YL_TRY(const auto unit, yl::TextureSampler::create(slate.texture, {},
                                                       yl::LevelRange::of(slate.texture.shape())));
    YL_TRY(auto before,
           yl::draw_scene(yl::floor_scene({.width = panel_width, .height = panel_height}), unit));
    YL_TRY(auto after, before.clone());
    YL_TRY(const Grade grade, Grade::of(volume));
    bool is_changed = false;
    for (std::uint32_t y = 0; y < after.height(); ++y)
        for (std::uint32_t x = 0; x < after.width(); ++x) {
            std::byte* const color = after.view().row(y).data() + std::size_t{x} * 4;
            const std::byte red = color[0];
            grade.look_up(color);
            is_changed = is_changed || color[0] != red;
        }
    report.check(is_changed);
    panels.push_back({std::move(before), "before", "a floor of slate"});
    YL_TRY(auto slices, slices_of(grade));
    panels.push_back(
        {std::move(after), "after",
         fmt::format("its colours looked up in {0} x {0} x {0} texels", volume.shape().depth)});
    panels.push_back({std::move(slices), "the table", "its slices, blue from front to back"});
    return {};
}

}  // namespace

yl::Status write_evening(const std::string& folder) {
    const std::string text = evening_table(17);
    return yl::write_whole_file(folder + "/evening.cube", std::as_bytes(std::span(text)));
}

yl::Status show_layouts(const std::string& folder, Driver& gpu, const DemoReport& report) {
    report.say("\nAn array of layers, and a colour lookup table as a volume:\n");
    YL_TRY(const auto layers, layers_of(folder));
    YL_CHECK(yl::write_texture(folder + "/layers.ktx2", layers));
    YL_TRY(const auto evening, yl::read_texture(folder + "/evening.ktx2"));
    for (const auto& [name, texture] :
         {std::pair("layers.ktx2", &layers), std::pair("evening.ktx2", &evening.texture)}) {
        YL_TRY(const bool identical, returns_identical(gpu, *texture));
        report.check(identical);
        report.say(fmt::format("  {:<22} {:<44} {}", name, shape_text(texture->shape()),
                               identical ? "identical" : "DIFFERENT"));
    }
    std::vector<yl::LabelledPicture> panels;
    for (std::uint32_t layer = 0; layer < layers.shape().layers; ++layer)
        YL_CHECK(add_layer(layers, layer, panels));
    YL_CHECK(add_grade(folder, evening.texture, report, panels));
    YL_TRY(const auto picture, yl::arrange_panels(panels, 3, "Layers, and a lookup volume"));
    return yl::write_picture(folder + "/layouts.png", picture.view());
}

}  // namespace ylat
