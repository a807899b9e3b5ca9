// Chains with kernels, edges, roles and given levels.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

Texture copy_of(const Texture& texture) {
    Texture copy = must(Texture::create(texture.shape()));
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        std::copy(texture.level(level).begin(), texture.level(level).end(),
                  copy.level(level).begin());
    copy.metadata = texture.metadata;
    return copy;
}

Texture chain_of(const Texture& texture, const MipOptions& options) {
    Texture chain = copy_of(texture);
    must(build_mips(chain, options));
    return chain;
}

Texture noise(Format format, std::uint32_t width, std::uint32_t height, std::uint32_t seed = 1) {
    return support::random_texture({.format = format,
                                    .width = width,
                                    .height = height,
                                    .levels = full_level_count(width, height)},
                                   seed);
}

/// Every other sixteen columns.
void make_partly_opaque(ImageView image) {
    const FormatInfo& f = info(image.format);
    const std::size_t alpha_bytes = f.block_bytes / 4;
    if (f.is_float())
        return;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::size_t x = 0; x < image.width; ++x)
            if (x / 16 % 2 == 0)
                std::fill_n(image.row(y).data() + (x + 1) * f.block_bytes - alpha_bytes,
                            alpha_bytes, std::byte{255});
}

std::vector<std::byte> all_bytes(const Texture& texture) {
    std::vector<std::byte> bytes;
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        bytes.insert(bytes.end(), texture.level(level).begin(), texture.level(level).end());
    return bytes;
}

float float_at(ConstImageView image, std::size_t x, std::uint32_t y, std::size_t c = 0) {
    const FormatInfo& f = info(image.format);
    return std::bit_cast<float>(
        load<std::uint32_t>(image.row(y).data() + x * f.block_bytes + c * f.type_size));
}

void set_float(ImageView image, std::size_t x, std::uint32_t y, float value, std::size_t c = 0) {
    const FormatInfo& f = info(image.format);
    store(image.row(y).data() + x * f.block_bytes + c * f.type_size,
          std::bit_cast<std::uint32_t>(value));
}

int code_at(ConstImageView image, std::size_t x, std::uint32_t y, std::size_t c = 0) {
    return std::to_integer<int>(image.row(y)[x * info(image.format).block_bytes + c]);
}

const char* const kernel_texts[] = {"box",         "triangle",  "mitchell",
                                    "catmull-rom", "lanczos:3", "kaiser:3"};

}  // namespace

TEST_CASE("a constant image stays constant to the last code value, with every kernel and edge") {
    for (const char* kernel : kernel_texts)
        for (const Edge edge : {Edge::clamp, Edge::repeat, Edge::mirror})
            for (const int code : {1, 77, 128, 254}) {
                Texture texture = must(Texture::create(
                    {.format = Format::rgba8_srgb, .width = 33, .height = 12, .levels = 6}));
                for (std::uint32_t i = 0; i < texture.level(0).size(); ++i)
                    texture.level(0)[i] = static_cast<std::byte>(code);
                must(build_mips(texture,
                                {.kernel = must(parse_kernel(kernel)), .edges = {edge, edge}}));
                for (const std::byte byte : all_bytes(texture))
                    if (std::to_integer<int>(byte) != code)
                        FAIL_CHECK(kernel << " makes " << std::to_integer<int>(byte) << " of "
                                          << code);
            }
}

TEST_CASE("box keeps the mean in linear light within 0.1 % at every level") {
    const Texture texture = chain_of(noise(Format::r32_float, 128, 64), {});
    const auto mean = [&](std::uint32_t level) {
        double sum = 0;
        const ConstImageView image = texture.image(level);
        for (std::uint32_t y = 0; y < image.height; ++y)
            for (std::uint32_t x = 0; x < image.width; ++x)
                sum += static_cast<double>(float_at(image, x, y));
        return sum / (image.width * image.height);
    };
    for (std::uint32_t level = 1; level < texture.shape().levels; ++level)
        CHECK(mean(level) == doctest::Approx(mean(level - 1)).epsilon(0.001));
}

TEST_CASE(
    "a tiling image's chain tiles: shifted by half its width, it has the same chain, shifted") {
    constexpr std::uint32_t side = 64;
    const Texture texture = noise(Format::rgba8_srgb, side, side);
    Texture shifted = noise(Format::rgba8_srgb, side, side);
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x)
            std::copy_n(
                texture.image(0).row((y + side / 2) % side).data() + (x + side / 2) % side * 4, 4,
                shifted.image(0).row(y).data() + std::size_t{x} * 4);
    for (const char* kernel : kernel_texts) {
        const MipOptions options{.kernel = must(parse_kernel(kernel)),
                                 .edges = {Edge::repeat, Edge::repeat}};
        const Texture a = chain_of(texture, options), b = chain_of(shifted, options);
        for (std::uint32_t level = 1; level < 6; ++level) {
            const std::uint32_t n = side >> level;
            int most = 0;
            for (std::uint32_t y = 0; y < n; ++y)
                for (std::uint32_t x = 0; x < n * 4; ++x)
                    most = std::max(most, std::abs(code_at(a.image(level), 0, (y + n / 2) % n,
                                                           (x + n * 2) % (n * 4)) -
                                                   code_at(b.image(level), 0, y, x)));
            CAPTURE(kernel);
            CAPTURE(level);
            CHECK(most == 0);
        }
    }
}

TEST_CASE("the bytes are the same for every instruction set, kernel and number of levels") {
    for (const char* kernel : {"box", "kaiser:3"})
        for (const Format format :
             {Format::rgba8_srgb, Format::rgba8_unorm, Format::rgba16_float}) {
            std::vector<std::byte> first;
            int sets = 0;
            support::for_each_instruction_set([&](const char* name) {
                CAPTURE(name);
                std::vector<std::byte> bytes;
                for (const std::uint32_t height : {77U, 76U}) {
                    Texture texture = noise(format, 126 + height, height);
                    make_partly_opaque(texture.image(0));
                    const auto chain =
                        all_bytes(chain_of(texture, {.kernel = must(parse_kernel(kernel)),
                                                     .edges = {Edge::repeat, Edge::clamp}}));
                    bytes.insert(bytes.end(), chain.begin(), chain.end());
                }
                if (sets++ == 0)
                    first = bytes;
                CHECK(bytes == first);
            });
            CHECK(sets >= 2);
        }
}

TEST_CASE("levels from the top are those of a single resize") {
    const Texture texture =
        chain_of(noise(Format::rgba8_srgb, 60, 44),
                 {.kernel = Kernel{.kind = Kernel::Kind::kaiser}, .from_top = true});
    for (std::uint32_t level = 1; level < texture.shape().levels; ++level) {
        const ConstImageView image = texture.image(level);
        const Image direct = must(resize(texture.image(0), image.width, image.height,
                                         {.kernel = {.kind = Kernel::Kind::kaiser}}));
        CHECK(support::equal_pixels(image, direct.view()));
    }
}

TEST_CASE("given levels stay, and the next are made of them") {
    Texture texture = noise(Format::r8_unorm, 16, 16);
    std::fill(texture.level(2).begin(), texture.level(2).end(), std::byte{200});
    must(build_mips(texture, {.given_levels = 0b101}));
    for (const std::uint32_t level : {2U, 3U, 4U})
        for (const std::byte byte : texture.level(level))
            CHECK(byte == std::byte{200});
    CHECK(texture.level(1)[0] != std::byte{200});
    CHECK(must_fail(build_mips(texture, {.given_levels = 0b10})).kind == ErrorKind::usage);
}

TEST_CASE("normals are averaged as directions, and come out one long") {
    // Left and right, leaning by the same angle: their mean is straight up.
    Texture texture = must(
        Texture::create({.format = Format::rgba8_unorm, .width = 2, .height = 1, .levels = 2}));
    const int lean = 255 * 9 / 10, up = 204;  // about (0.8, 0, 0.6)
    int place = 0;
    for (const int byte : {lean, 128, up, 255, 255 - lean, 128, up, 255})
        texture.level(0)[static_cast<std::size_t>(place++)] = static_cast<std::byte>(byte);
    const Texture plain = chain_of(texture, {});
    CHECK(code_at(plain.image(1), 0, 0, 2) == up);
    const Texture aware = chain_of(texture, {.are_normals = true});
    CHECK(std::abs(code_at(aware.image(1), 0, 0, 0) - 128) <= 1);
    CHECK(code_at(aware.image(1), 0, 0, 2) == 255);

    const Texture two = chain_of(noise(Format::rg16_snorm, 32, 32), {.are_normals = true});
    for (std::uint32_t level = 1; level < 6; ++level)
        for (std::size_t i = 0; i < two.level(level).size(); i += 4) {
            const auto part = [&](std::size_t c) {
                return static_cast<std::int16_t>(
                           load<std::uint16_t>(two.level(level).data() + i + c)) /
                       32767.0;
            };
            CHECK(part(0) * part(0) + part(2) * part(2) <= 1.0001);
        }
}

TEST_CASE("minimum and maximum chains bound every texel below them") {
    const Texture min =
        chain_of(noise(Format::r16_unorm, 37, 21), {.reduction = Reduction::minimum});
    const Texture most =
        chain_of(noise(Format::r16_unorm, 37, 21), {.reduction = Reduction::maximum});
    const auto value = [](ConstImageView image, std::uint32_t x, std::uint32_t y) {
        return load<std::uint16_t>(image.row(y).data() + 2 * x);
    };
    for (std::uint32_t level = 1; level < min.shape().levels; ++level) {
        const ConstImageView above = min.image(level - 1), image = min.image(level);
        const ConstImageView above_most = most.image(level - 1), image_most = most.image(level);
        for (std::uint32_t y = 0; y < image.height; ++y)
            for (std::uint32_t x = 0; x < image.width; ++x) {
                std::uint16_t low = 65535, high = 0;
                for (std::uint32_t j = y * above.height / image.height;
                     j * image.height < (y + 1) * above.height; ++j)
                    for (std::uint32_t i = x * above.width / image.width;
                         i * image.width < (x + 1) * above.width; ++i) {
                        low = std::min(low, value(above, i, j));
                        high = std::max(high, value(above_most, i, j));
                    }
                CHECK(value(image, x, y) == low);
                CHECK(value(image_most, x, y) == high);
            }
    }
}

TEST_CASE("limited ringing keeps every texel within what it covers") {
    Texture step = must(
        Texture::create({.format = Format::r32_float, .width = 64, .height = 64, .levels = 2}));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x)
            set_float(step.image(0), x, y, x < 31 ? 0.2F : 0.8F);
    const MipOptions ringing{.kernel = Kernel{.kind = Kernel::Kind::lanczos}};
    MipOptions limited = ringing;
    limited.limit_ringing = true;
    const auto extremes = [&](const MipOptions& options) {
        const Texture texture = chain_of(step, options);
        float min = 1, most = 0;
        for (std::uint32_t x = 0; x < 32; ++x) {
            min = std::min(min, float_at(texture.image(1), x, 16));
            most = std::max(most, float_at(texture.image(1), x, 16));
        }
        return std::array{min, most};
    };
    CHECK(extremes(ringing)[0] < 0.19F);
    CHECK(extremes(ringing)[1] > 0.81F);
    CHECK(extremes(limited)[0] >= 0.2F);
    CHECK(extremes(limited)[1] <= 0.8F);
}

TEST_CASE("a single firefly is dimmed to four times its neighbours, a group of them is light") {
    Texture sky = must(
        Texture::create({.format = Format::rgb32_float, .width = 16, .height = 16, .levels = 5}));
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 16; ++x)
            for (std::size_t c = 0; c < 3; ++c) {
                const bool lamp = x >= 10 && x < 12 && y >= 10 && y < 12;
                set_float(sky.image(0), x, y,
                          x == 4 && y == 4 ? 50000.0F
                          : lamp           ? 900.0F
                                           : 1.0F,
                          c);
            }
    const Texture guarded = chain_of(sky, {.guard_fireflies = true});
    CHECK(float_at(guarded.image(1), 2, 2) == doctest::Approx((4 + 3) / 4.0));
    CHECK(float_at(guarded.image(1), 5, 5) == doctest::Approx(900));
    CHECK(float_at(guarded.image(0), 4, 4) == 50000.0F);
    const Texture plain = chain_of(sky, {});
    CHECK(float_at(plain.image(1), 2, 2) == doctest::Approx(50003 / 4.0));
}

TEST_CASE("dithered chains keep means that rounding loses") {
    Texture texture = must(
        Texture::create({.format = Format::r8_unorm, .width = 256, .height = 256, .levels = 2}));
    for (std::uint32_t y = 0; y < 256; ++y)
        for (std::uint32_t x = 0; x < 256; ++x)
            texture.image(0).row(y)[x] = static_cast<std::byte>(100 + (x % 2 + y % 2 == 0 ? 1 : 0));
    const auto mean = [](const Texture& chain) {
        double sum = 0;
        for (const std::byte byte : chain.level(1))
            sum += std::to_integer<int>(byte);
        return sum / static_cast<double>(chain.level(1).size());
    };
    CHECK(mean(chain_of(texture, {})) == 100);
    CHECK(mean(chain_of(texture, {.dither = true})) == doctest::Approx(100.25).epsilon(0.0003));
}

TEST_CASE("a fading chain ends in the mean, a sharpened one has more contrast") {
    const Texture texture = noise(Format::r32_float, 32, 32);
    const auto spread = [](const Texture& chain, std::uint32_t level) {
        double sum = 0, square = 0;
        const ConstImageView image = chain.image(level);
        for (std::uint32_t y = 0; y < image.height; ++y)
            for (std::uint32_t x = 0; x < image.width; ++x) {
                const auto value = static_cast<double>(float_at(image, x, y));
                sum += value;
                square += value * value;
            }
        const double count = image.width * image.height;
        return std::sqrt(std::max(square / count - sum * sum / count / count, 0.0));
    };
    const Texture plain = chain_of(texture, {});
    const Texture faded = chain_of(texture, {.fade = Fade{1, 3}});
    CHECK(spread(faded, 1) == doctest::Approx(spread(plain, 1)));
    CHECK(spread(faded, 2) == doctest::Approx(spread(plain, 2) / 2));
    CHECK(spread(faded, 3) < 1e-5);
    CHECK(float_at(faded.image(4), 0, 0) == doctest::Approx(float_at(plain.image(5), 0, 0)));
    const Texture sharp = chain_of(texture, {.sharpen = 0.5F});
    CHECK(spread(sharp, 1) > 1.2 * spread(plain, 1));
    Texture refused = copy_of(texture);
    CHECK_FALSE(build_mips(refused, {.fade = Fade{3, 3}}));
    CHECK_FALSE(build_mips(refused, {.sharpen = 3}));
}

TEST_CASE("volumes are halved in depth as well") {
    Texture volume = support::random_texture(
        {.format = Format::r32_float, .width = 8, .height = 6, .depth = 5, .levels = 4}, 9);
    must(build_mips(volume));
    const auto at = [&](std::uint32_t level, std::uint32_t x, std::uint32_t y, std::uint32_t z) {
        const TextureShape& s = volume.shape();
        const std::size_t texel = (std::size_t{z} * s.height_at(level) + y) * s.width_at(level) + x;
        return static_cast<double>(
            std::bit_cast<float>(load<std::uint32_t>(volume.level(level).data() + 4 * texel)));
    };
    // Five slices become two of two and a half each.
    for (std::uint32_t y = 0; y < 3; ++y)
        for (std::uint32_t x = 0; x < 4; ++x) {
            double sum = 0;
            for (std::uint32_t z = 0; z < 3; ++z)
                for (std::uint32_t j = 0; j < 2; ++j)
                    for (std::uint32_t i = 0; i < 2; ++i)
                        sum += at(0, 2 * x + i, 2 * y + j, z) * (z == 2 ? 0.5 : 1);
            CHECK(at(1, x, y, 0) == doctest::Approx(sum / 10).epsilon(1e-5));
        }
    double sum = 0;
    for (std::uint32_t i = 0; i < 8 * 6 * 5; ++i)
        sum += at(0, i % 8, i / 8 % 6, i / 48);
    CHECK(at(3, 0, 0, 0) == doctest::Approx(sum / 240).epsilon(1e-4));
    Texture min = support::random_texture(volume.shape(), 9);
    must(build_mips(min, {.reduction = Reduction::minimum}));
    const auto values = min.level(0);
    float smallest = 1e30F;
    for (std::size_t i = 0; i < values.size(); i += 4)
        smallest = std::min(smallest, std::bit_cast<float>(load<std::uint32_t>(values.data() + i)));
    CHECK(std::bit_cast<float>(load<std::uint32_t>(min.level(3).data())) == smallest);
}

TEST_CASE("block formats have no chain of their own") {
    CHECK_FALSE(resize(ConstImageView{}, 4, 4));
    const Texture texture = noise(Format::r8_unorm, 4, 4);
    CHECK(must_fail(resize(texture.image(0), 0, 4)).kind == ErrorKind::usage);
}

TEST_CASE("coverage is counted on alpha between texels") {
    Image image = must(Image::create(Format::rgba8_unorm, 2, 1));
    for (std::size_t i = 0; i < 8; ++i)
        image.view().row(0)[i] = std::byte{i == 7 ? std::uint8_t{255} : std::uint8_t{0}};
    // At 0, 0, 1/8, 3/8 in the first texel, and 5/8, 7/8, 1, 1 in the second.
    CHECK(coverage(image.view(), 0.5F) == doctest::Approx(0.5));
    CHECK(coverage(image.view(), 0.25F) == doctest::Approx(5.0 / 8));
    CHECK(coverage(image.view(), 0.1F) == doctest::Approx(6.0 / 8));
    CHECK(coverage(image.view(), 0.9F) == doctest::Approx(2.0 / 8));
}

TEST_CASE("coverage of a cut-out is kept at every level, layer by layer") {
    const Picture lattice = must(read_picture(std::string(DEMO_DATA) + "/lattice.png"));
    for (const float threshold : {0.25F, 0.5F, 0.8F}) {
        Texture texture = must(Texture::create({.format = Format::rgba8_srgb,
                                                .width = 512,
                                                .height = 512,
                                                .levels = 10,
                                                .layers = 2,
                                                .is_array = true}));
        for (const std::uint32_t layer : {0U, 1U})
            must(convert(
                lattice.image.view(), texture.image(0, layer),
                {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        // The second layer is half as opaque.
        for (std::uint32_t y = 0; y < 512; ++y)
            for (std::uint32_t x = 0; x < 512; ++x) {
                std::byte& alpha = texture.image(0, 1).row(y)[x * 4 + 3];
                alpha = static_cast<std::byte>(std::to_integer<int>(alpha) * 7 / 8);
            }
        must(build_mips(texture));
        must(preserve_coverage(texture, threshold));
        for (const std::uint32_t layer : {0U, 1U}) {
            const double top = coverage(texture.image(0, layer), threshold);
            CHECK(top > 0.05);
            for (std::uint32_t level = 1; level < 10; ++level) {
                const ConstImageView image = texture.image(level, layer);
                const double one_texel = 1.0 / (image.width * image.height);
                if (one_texel >= 0.01)
                    continue;
                CAPTURE(threshold);
                CAPTURE(level);
                CHECK(std::abs(coverage(image, threshold) - top) <= 0.01);
            }
        }
    }
    Texture opaque = noise(Format::r8_unorm, 4, 4);
    CHECK(must_fail(preserve_coverage(opaque, 0)).kind == ErrorKind::usage);
    must(build_mips(opaque));
    must(preserve_coverage(opaque, 0.5F));
}

TEST_CASE("roughness grows by what the normals hide, alike by both measures") {
    // Half of the normals lean by a slope of 0.2 to one side, half to the other.
    Texture roughness = must(
        Texture::create({.format = Format::r32_float, .width = 16, .height = 16, .levels = 5}));
    for (std::uint32_t level = 0; level < 5; ++level)
        for (std::size_t i = 0; i < roughness.level(level).size(); i += 4)
            store(roughness.level(level).data() + i, std::bit_cast<std::uint32_t>(0.3F));
    Image normals = must(Image::create(Format::rgba32_float, 16, 16));
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 16; ++x) {
            const float slope = x % 2 == 0 ? 0.2F : -0.2F;
            const float length = std::sqrt(1 + slope * slope);
            set_float(normals.view(), x, y, -slope / length, 0);
            set_float(normals.view(), x, y, 0, 1);
            set_float(normals.view(), x, y, 1 / length, 2);
        }
    for (const SpreadMeasure measure : {SpreadMeasure::variance, SpreadMeasure::length}) {
        Texture widened = copy_of(roughness);
        must(widen_roughness(widened, normals.view(), Channel::red, measure));
        CHECK(float_at(widened.image(0), 3, 3) == 0.3F);
        // The slopes' variance is 0.04 along one axis and 0 along the other: 0.02 on average.
        const double expected = std::pow(std::pow(0.3, 4) + 2 * 0.02, 0.25);
        for (std::uint32_t level = 1; level < 5; ++level)
            CHECK(static_cast<double>(float_at(widened.image(level), 0, 0)) ==
                  doctest::Approx(expected).epsilon(0.02));
    }
    Texture small = must(Texture::create({.format = Format::r8_unorm, .width = 4, .height = 4}));
    CHECK(contains(must_fail(widen_roughness(small, normals.view())).message, "do not fit"));
}

TEST_CASE("what holds across holds down: a transposed image has the transposed chain") {
    const auto transposed = [](const Texture& texture) {
        TextureShape shape = texture.shape();
        std::swap(shape.width, shape.height);
        Texture result = must(Texture::create(shape));
        for (std::uint32_t level = 0; level < shape.levels; ++level) {
            const Image turned =
                must(with_orientation(texture.image(level), Orientation::transpose));
            std::copy_n(turned.view().data, result.level(level).size(),
                        result.level(level).begin());
        }
        result.metadata = texture.metadata;
        return result;
    };
    constexpr Edge all_edges[] = {Edge::clamp, Edge::repeat, Edge::mirror};
    for (const char* kernel : {"box", "triangle", "mitchell", "lanczos:3", "kaiser:3,4"})
        for (const Edge across : all_edges)
            for (const Edge down : all_edges)
                for (const bool sharpens : {false, true}) {
                    CAPTURE(kernel);
                    MipOptions options{.kernel = must(parse_kernel(kernel)),
                                       .edges = {across, down},
                                       .sharpen = sharpens ? 0.8F : 0.0F};
                    const Texture source = noise(Format::rgba32_float, 22, 15);
                    const Texture expected = transposed(chain_of(source, options));
                    std::swap(options.edges[0], options.edges[1]);
                    const Texture chain = chain_of(transposed(source), options);
                    double off = 0;
                    for (std::uint32_t level = 0; level < chain.shape().levels; ++level)
                        for (std::size_t i = 0; i < chain.level(level).size(); i += 4) {
                            const auto value = [&](const Texture& texture) {
                                return std::bit_cast<float>(
                                    load<std::uint32_t>(texture.level(level).data() + i));
                            };
                            const float a = value(expected), b = value(chain);
                            if (std::isfinite(a) && std::isfinite(b))
                                off = std::max(off,
                                               std::abs(static_cast<double>(a) - b) /
                                                   std::max(1.0, std::abs(static_cast<double>(a))));
                        }
                    CHECK(off < 1e-4);
                }
}
