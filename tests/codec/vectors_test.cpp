// The loops in vectors give the bytes of their plain twins.
#include "codec/jpeg/jpeg_simd.hpp"
#include "codec/png/filter.hpp"
#include "codec/webp/loop_filter.hpp"
#include "codec/webp/macroblock.hpp"
#include "codec/webp/yuv_rows.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;

namespace {

/// A block as pictures have them, as damaged files have them, or flat.
jpeg::Block random_block(support::Random& random, int kind) {
    jpeg::Block block{};
    if (kind == 0)
        for (std::size_t i = 0; i < 12; ++i)
            block[random() % 64] = static_cast<std::int16_t>(static_cast<int>(random() % 64) - 32);
    if (kind == 1)
        for (std::int16_t& value : block)
            value = static_cast<std::int16_t>(random());
    if (kind == 2)
        block[0] = static_cast<std::int16_t>(random());
    return block;
}

std::vector<std::byte> random_bytes(std::size_t count, support::Random& random) {
    std::vector<std::byte> bytes(count);
    for (std::byte& byte : bytes)
        byte = static_cast<std::byte>(random());
    return bytes;
}

}  // namespace

TEST_CASE("blocks are transformed alike, alone and side by side, sound and damaged") {
    support::Random random(1);
    for (int round = 0; round < 300; ++round) {
        std::array<std::uint16_t, 64> steps{};
        for (auto& step : steps)
            step = static_cast<std::uint16_t>(round % 3 == 0 ? random() : 1 + random() % 40);
        const jpeg::Scales scales = jpeg::scales_of(steps);
        const std::size_t count = 1 + random() % 9;
        std::vector<jpeg::Block> blocks;
        for (std::size_t i = 0; i < count; ++i)
            blocks.push_back(
                random_block(random, round % 4 == 0 ? 1 : static_cast<int>(random() % 3)));
        std::vector<std::uint8_t> plain(count * 64), vectors(count * 64);
        for (std::size_t i = 0; i < count; ++i)
            jpeg::inverse_dct(blocks[i], scales, 8, plain.data() + i * 8, count * 8);
        jpeg::inverse_dct_simd(blocks.data(), count, scales, vectors.data(), count * 8);
        REQUIRE(plain == vectors);
    }
}

TEST_CASE("rows of chroma are doubled alike") {
    support::Random random(2);
    for (std::uint32_t count : {3U, 8U, 31U, 32U, 33U, 500U})
        for (const int scale : {1, 4}) {
            std::vector<std::uint16_t> samples(count + 2);
            for (auto& sample : samples)
                sample = static_cast<std::uint16_t>(random() %
                                                    (255U * static_cast<unsigned>(scale) + 1));
            std::vector<std::uint8_t> plain(2 * count), vectors(2 * count);
            jpeg::double_row(samples.data() + 1, count, scale, plain.data());
            jpeg::double_row_simd(samples.data() + 1, count, scale, vectors.data());
            CHECK(plain == vectors);
        }
}

TEST_CASE("colours are converted alike, every chroma with dark, middle and light") {
    using jpeg::ColorModel;
    std::vector<std::uint8_t> rows[4];
    for (int light : {0, 1, 77, 128, 254, 255})
        for (int blue = 0; blue < 256; ++blue)
            for (int red = 0; red < 256; ++red) {
                rows[0].push_back(static_cast<std::uint8_t>(light));
                rows[1].push_back(static_cast<std::uint8_t>(blue));
                rows[2].push_back(static_cast<std::uint8_t>(red));
                rows[3].push_back(static_cast<std::uint8_t>(red ^ blue));
            }
    const std::uint8_t* pointers[4] = {rows[0].data(), rows[1].data(), rows[2].data(),
                                       rows[3].data()};
    const auto width = static_cast<std::uint32_t>(rows[0].size() - 5);
    for (const ColorModel model :
         {ColorModel::gray, ColorModel::rgb, ColorModel::ycc, ColorModel::cmyk, ColorModel::ycck})
        for (const std::uint32_t channels : {3U, 4U}) {
            const jpeg::ColorPlan plan{.model = model, .channels = channels};
            std::vector<std::uint8_t> plain(width * channels), vectors(width * channels);
            jpeg::convert_row(plan, pointers, width, plain.data());
            jpeg::convert_row_simd(plan, pointers, width, vectors.data());
            CHECK(plain == vectors);
        }
}

TEST_CASE("row filters are applied, undone and rated alike, at every distance") {
    support::Random random(3);
    for (const std::size_t distance : {1U, 2U, 3U, 4U, 6U, 8U})
        for (const std::size_t pixels : {1U, 2U, 5U, 40U, 200U}) {
            const std::size_t bytes = pixels * distance;
            const auto row = random_bytes(bytes, random);
            auto above = random_bytes(bytes, random);
            if (pixels == 40)  // ties between the neighbours
                above = row;
            CHECK(png::rate_filters(row, above.data(), distance, 0, bytes) ==
                  png::rate_filters_simd(row, above.data(), distance));
            for (int i = 0; i < 5; ++i) {
                const auto filter = static_cast<png::RowFilter>(i);
                std::vector<std::byte> plain(bytes), vectors(bytes), back(bytes);
                png::apply_filter(filter, row, above.data(), plain.data(), distance, 0, bytes);
                png::apply_filter_simd(filter, row, above.data(), vectors.data(), distance);
                CHECK(plain == vectors);
                png::undo_filter(filter, plain, above.data(), back.data(), distance);
                CHECK(back == row);
                // In place, a byte behind, as decoding does it.
                std::vector<std::byte> shared(bytes + 1);
                std::copy(plain.begin(), plain.end(), shared.begin() + 1);
                png::undo_filter_simd(filter, std::span(shared).subspan(1), above.data(),
                                      shared.data(), distance);
                shared.pop_back();
                CHECK(shared == row);
            }
        }
}

namespace {

webp::Plane random_plane(std::uint32_t side, int noise, support::Random& random) {
    webp::Plane plane{.stride = 3 * side};
    const std::size_t count = std::size_t{plane.stride} * 3 * side;
    plane.samples = std::make_unique<std::uint8_t[]>(count);
    int value = 128;
    for (std::size_t i = 0; i < count; ++i) {
        value += static_cast<int>(random() % static_cast<unsigned>(2 * noise + 1)) - noise;
        plane.samples[i] = static_cast<std::uint8_t>(std::clamp(value, 0, 255));
    }
    return plane;
}

webp::Plane copy_of(const webp::Plane& plane, std::uint32_t side) {
    webp::Plane copy{.stride = plane.stride};
    const std::size_t count = std::size_t{plane.stride} * 3 * side;
    copy.samples = std::make_unique<std::uint8_t[]>(count);
    std::copy_n(plane.samples.get(), count, copy.samples.get());
    return copy;
}

bool are_equal(const webp::Plane& a, const webp::Plane& b, std::uint32_t side) {
    return std::equal(a.samples.get(), a.samples.get() + std::size_t{a.stride} * 3 * side,
                      b.samples.get());
}

}  // namespace

TEST_CASE("edges between blocks are smoothed alike, at every strength") {
    support::Random random(21);
    int changed = 0;
    for (int round = 0; round < 600; ++round) {
        const int noise = 1 + round % 40;
        webp::Planes plain;
        plain.y = random_plane(16, noise, random);
        plain.u = random_plane(8, noise, random);
        plain.v = random_plane(8, noise, random);
        webp::Planes vectors;
        vectors.y = copy_of(plain.y, 16);
        vectors.u = copy_of(plain.u, 8);
        vectors.v = copy_of(plain.v, 8);
        const webp::Plane before = copy_of(plain.y, 16);
        webp::FilterStrength strength = webp::filter_strength(1 + static_cast<int>(random() % 63),
                                                              static_cast<int>(random() % 8));
        strength.has_inner_edges = round % 2 == 0;
        for (const std::uint32_t row : {0U, 1U, 2U})
            for (const std::uint32_t column : {0U, 1U, 2U}) {
                webp::filter_edges_plain(plain, column, row, strength, round % 5 == 0);
                webp::filter_edges(vectors, column, row, strength, round % 5 == 0);
            }
        REQUIRE(are_equal(plain.y, vectors.y, 16));
        REQUIRE(are_equal(plain.u, vectors.u, 8));
        REQUIRE(are_equal(plain.v, vectors.v, 8));
        changed += are_equal(plain.y, before, 16) ? 0 : 1;
    }
    CHECK(changed > 300);
}

TEST_CASE("residues are added alike, sound and damaged") {
    support::Random random(22);
    for (int round = 0; round < 2000; ++round) {
        webp::Surrounded plain;
        for (std::uint8_t& sample : plain.samples)
            sample = static_cast<std::uint8_t>(random());
        webp::Surrounded vectors = plain;
        std::array<std::int16_t, 16> coefficients{};
        for (std::int16_t& value : coefficients)
            value = round % 3 == 0 ? static_cast<std::int16_t>(random())
                                   : static_cast<std::int16_t>(random() % 400 - 200);
        webp::add_transformed_plain(coefficients.data(), plain.at(4, 8));
        webp::add_transformed(coefficients.data(), vectors.at(4, 8));
        const int number = static_cast<int>(random() % 1200) - 600;
        webp::add_constant_plain(number, plain.at(8, 0));
        webp::add_constant(number, vectors.at(8, 0));
        REQUIRE(plain.samples == vectors.samples);
    }
}

TEST_CASE("rows of differences are mixed, spread and converted alike") {
    support::Random random(23);
    for (const std::size_t count : {1U, 7U, 8U, 9U, 16U, 17U, 333U}) {
        const auto samples = [&](std::size_t size) {
            std::vector<std::uint8_t> all(size);
            for (std::uint8_t& sample : all)
                sample =
                    static_cast<std::uint8_t>(random() % 3 == 0 ? random() % 2 * 255 : random());
            return all;
        };
        const auto near = samples(count), far = samples(count);
        std::vector<std::uint16_t> mixed(count + 2), mixed_plain(count + 2);
        webp::mix(near.data(), far.data(), count, mixed.data() + 1);
        webp::mix_plain(near.data(), far.data(), count, mixed_plain.data() + 1);
        REQUIRE(mixed == mixed_plain);
        std::vector<std::uint8_t> spread(2 * count), spread_plain(2 * count);
        webp::spread(mixed.data(), count, spread.data());
        webp::spread_plain(mixed.data(), count, spread_plain.data());
        REQUIRE(spread == spread_plain);
        const auto y = samples(count), u = samples(count), v = samples(count);
        for (const std::size_t channels : {3U, 4U}) {
            std::vector<std::byte> vectors(count * channels), plain(count * channels);
            webp::to_colors(y.data(), u.data(), v.data(), count, vectors.data(), channels);
            webp::to_colors_plain(y.data(), u.data(), v.data(), count, plain.data(), channels);
            REQUIRE(vectors == plain);
        }
    }
}
