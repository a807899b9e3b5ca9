// How wide a lamp's highlight on the pond is at each distance: with a plain chain of normals, with
// one that widens the roughness, and in truth, by very many samples of the finest level.
//     highlight_width DEMO_DATA PLOT.png
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <functional>
#include <yl/yl.hpp>

#include "base/parallel.hpp"
#include "report/canvas.hpp"

namespace {

using Light = std::function<float(std::uint32_t column, std::uint32_t row)>;

constexpr std::uint32_t width = 640, height = 480;

/// The stretch of a row in whose middle half of all its light lies, in pixels; of a few rows
/// together, since single waves stand out.
double highlight_width(const Light& light, std::uint32_t row) {
    constexpr std::uint32_t rows_together = 9;
    std::vector<double> sums = {0};
    for (std::uint32_t x = 0; x < width; ++x) {
        double column = 0;
        for (std::uint32_t i = 0; i < rows_together; ++i)
            column += static_cast<double>(light(x, row + i));
        sums.push_back(sums.back() + column);
    }
    const auto place_of = [&](double share) {
        const double wanted = share * sums.back();
        const auto after = std::lower_bound(sums.begin() + 1, sums.end(), wanted);
        const double before = *(after - 1);
        return static_cast<double>(after - sums.begin()) - 1 +
               (wanted - before) / (*after - before);
    };
    return place_of(0.75) - place_of(0.25);
}

yl::Texture texture_of(const yl::Picture& picture, const yl::BakeOptions& options) {
    return std::move(yl::bake(picture, options)->texture);
}

struct Row {
    double distance = 0, truth = 0, plain = 0, aware = 0, by_variance = 0;
};

constexpr float roughness = 0.15F;

/// One roughness everywhere, widened on smaller levels by what the normals lose.
yl::Texture widened(const yl::TextureShape& shape, const yl::Picture& normals,
                    yl::SpreadMeasure by) {
    yl::Texture rough = *yl::Texture::create(shape);
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        std::fill_n(reinterpret_cast<float*>(rough.level(level).data()),
                    rough.level(level).size() / 4, roughness);
    if (!yl::widen_roughness(rough, normals.image.view(), yl::Channel::red, by))
        std::abort();
    return rough;
}

std::vector<Row> measure(const yl::Picture& pond) {
    const yl::Texture plain = texture_of(pond, {.role = yl::Role::normal, .plain_chain = true});
    const yl::Texture aware = texture_of(pond, {.role = yl::Role::normal});
    const yl::TextureShape shape{.format = yl::Format::r32_float,
                                 .width = plain.shape().width,
                                 .height = plain.shape().height,
                                 .levels = plain.shape().levels};
    const yl::Texture by_length = widened(shape, pond, yl::SpreadMeasure::length),
                      by_variance = widened(shape, pond, yl::SpreadMeasure::variance);
    const yl::Scene scene = yl::floor_scene({.width = width, .height = height, .repeats = 0.8F});
    constexpr std::uint32_t fine = 24;  // samples of a pixel, across and down
    const yl::Scene fine_scene =
        yl::floor_scene({.width = width * fine, .height = height * fine, .repeats = 0.8F});
    const yl::Sampler smooth{};
    yl::Sampler finest;
    finest.mip = yl::MipFilter::none;
    const auto unit = [](const yl::Texture& texture, const yl::Sampler& sampler) {
        return *yl::TextureSampler::create(texture, sampler, yl::LevelRange::of(texture.shape()));
    };
    const auto plain_unit = unit(plain, smooth), aware_unit = unit(aware, smooth),
               finest_unit = unit(plain, finest);
    const auto map0 = unit(by_length, smooth), map1 = unit(by_variance, smooth);
    yl::Lamp lamp{.towards = {0, 0.9F, 0.3F}, .roughness = roughness, .surface = {0, 0, 0, 1}};
    const auto light_of = [&](const yl::Scene& s, const yl::TextureSampler& normals,
                              const yl::TextureSampler* map) -> Light {
        yl::Lamp lit = lamp;
        lit.roughness_map = map;
        return [&s, &normals, lit](std::uint32_t x, std::uint32_t y) {
            return yl::lit_color(s, normals, lit, x, y)[0];
        };
    };
    const Light exact = [&](std::uint32_t x, std::uint32_t y) {
        float sum = 0;
        for (std::uint32_t i = 0; i < fine * fine; ++i)
            sum += yl::lit_color(fine_scene, finest_unit, lamp, x * fine + i % fine,
                                 y * fine + i / fine)[0];
        return sum / (fine * fine);
    };
    std::vector<Row> rows;
    for (std::uint32_t y = 180; y < height; y = y + std::max((y - 165) / 5, 3U))
        rows.push_back({.distance = static_cast<double>(y)});
    yl::parallel_each(rows.size(), [&](std::size_t i) {
        const auto y = static_cast<std::uint32_t>(rows[i].distance);
        const auto& m = scene.texture_from_pixel;
        const float q = m[7] * (static_cast<float>(y) + 0.5F) + m[8] + m[6] * width / 2;
        rows[i] = {1.0 / static_cast<double>(q), highlight_width(exact, y),
                   highlight_width(light_of(scene, plain_unit, nullptr), y),
                   highlight_width(light_of(scene, aware_unit, &map0), y),
                   highlight_width(light_of(scene, aware_unit, &map1), y)};
    });
    return rows;
}

/// A dot for each row: distance to the right on a scale of powers of two, width upwards.
yl::Image plot(const std::vector<Row>& rows) {
    constexpr std::uint32_t w = 760, h = 420, left = 70, bottom = 360, span = 640, rise = 290;
    yl::Canvas canvas = *yl::Canvas::create(w, h, yl::paper);
    const yl::Color8 ink = yl::title_ink, faint = {0x4A, 0x50, 0x4A};
    canvas.text(left, 14, "Where half of the lamp's highlight on the pond lies, in pixels of 640",
                yl::TextSize::large, yl::heading_ink);
    const auto x_of = [&](double distance) {
        return left + static_cast<std::uint32_t>(span * std::log2(distance) / 3.6);
    };
    const auto y_of = [&](double value) {
        return bottom - static_cast<std::uint32_t>(rise * std::min(value / 150, 1.0));
    };
    for (int value = 0; value <= 150; value += 50) {
        canvas.fill(left, y_of(value), span, 1, faint);
        canvas.text(24, y_of(value) - 8, std::to_string(value), yl::TextSize::small, ink);
    }
    for (int power = 0; power <= 3; ++power)
        canvas.text(x_of(1 << power), bottom + 8, std::to_string(1 << power), yl::TextSize::small,
                    ink);
    canvas.text(left + 200, bottom + 30, "distance, in heights of the eye", yl::TextSize::small,
                ink);
    const yl::Color8 colors[] = {ink, {0xE0, 0x6C, 0x4F}, {0x6F, 0xC2, 0x8E}};
    const char* names[] = {"truth: 576 samples a pixel", "plain chain", "role-aware chain"};
    for (int i = 0; i < 3; ++i) {
        canvas.fill(left + 20, 56 + 20 * static_cast<std::uint32_t>(i), 10, 10, colors[i]);
        canvas.text(left + 38, 52 + 20 * static_cast<std::uint32_t>(i), names[i],
                    yl::TextSize::small, colors[i]);
        for (const Row& row : rows) {
            const double value = i == 0 ? row.truth : i == 1 ? row.plain : row.aware;
            canvas.fill(x_of(row.distance) - 3, y_of(value) - 3, i == 0 ? 9 : 6, i == 0 ? 9 : 6,
                        colors[i]);
        }
    }
    return std::move(canvas).take();
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: highlight_width DEMO_DATA PLOT.png\n"), 2;
    const auto pond =
        yl::read_picture(std::string(argv[1]) + "/pond_normal.png", {.role = yl::Role::normal});
    if (!pond)
        return std::fprintf(stderr, "%s\n", pond.error().sentence().c_str()), 4;
    const auto rows = measure(*pond);
    std::printf("%9s %8s %8s %8s %8s\n", "distance", "truth", "plain", "aware", "variance");
    for (const Row& row : rows)
        std::printf("%9.1f %8.1f %8.1f %8.1f %8.1f\n", row.distance, row.truth, row.plain,
                    row.aware, row.by_variance);
    const yl::Image picture = plot(rows);
    return yl::write_picture(argv[2], picture.view()) ? 0 : 4;
}
