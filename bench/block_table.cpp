// Block formats on pictures: quality by effort, beside the software OpenGL driver's own compression
// of the same pictures, beside searches of everything, and what rate-distortion saves; with speeds
// of one thread.
//     block_table quality|search|rate-distortion|speed PICTURE...
#include <GL/gl.h>
#include <GL/glext.h>
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <zstd.h>

#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <random>
#include <string>
#include <yl/gl.hpp>
#include <yl/yl.hpp>

#include "block_search.hpp"
#include "etc_search.hpp"

namespace {

constexpr std::uint32_t side = 512;

struct Subject {
    yl::Image bytes, light;
};

std::vector<Subject> load(int count, char** paths) {
    std::vector<Subject> subjects;
    for (int i = 0; i < count; ++i) {
        const auto picture = yl::read_picture(std::filesystem::path(paths[i]));
        if (!picture) {
            std::fprintf(stderr, "%s\n", picture.error().sentence().c_str());
            continue;
        }
        const yl::ConstImageView view = picture->image.view();
        const std::uint32_t width = std::min(view.width, side),
                            height = std::min(view.height, side);
        const auto part = *yl::cropped(
            view, {(view.width - width) / 2, (view.height - height) / 2, width, height});
        Subject subject;
        subject.light =
            *yl::convert(part, yl::Format::rgba16_float, {.source_transfer = picture->transfer});
        const yl::Transfer transfer = picture->transfer;
        subject.bytes = *yl::convert(part, yl::Format::rgba8_unorm,
                                     {.source_transfer = transfer,
                                      .target_transfer = yl::Transfer::srgb,
                                      .swizzle = picture->swizzle});
        subjects.push_back(std::move(subject));
    }
    return subjects;
}

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// Squared errors, summed over pictures: of codes, or of stops.
struct Sum {
    double squares = 0, numbers = 0, decibels = 0, pictures = 0, seconds = 0, pixels = 0;

    void add(const Subject& subject, yl::ConstImageView blocks, double time) {
        const yl::Image texels = *yl::decode_blocks(blocks);
        const yl::FormatInfo& f = yl::info(blocks.format);
        const std::uint32_t channels = std::min<std::uint32_t>(f.channel_count, 3);
        double own = 0;
        const yl::Image plain = f.is_float()
                                    ? *yl::convert(texels.view(), yl::Format::rgba32_float,
                                                   {.source_transfer = yl::Transfer::linear})
                                    : *yl::convert(texels.view(), yl::Format::rgba8_unorm,
                                                   {.source_transfer = yl::Transfer::linear});
        const yl::Image source = f.is_float()
                                     ? *yl::convert(subject.light.view(), yl::Format::rgba32_float,
                                                    {.source_transfer = yl::Transfer::linear})
                                     : *yl::convert(subject.bytes.view(), yl::Format::rgba8_unorm,
                                                    {.source_transfer = yl::Transfer::linear});
        for (std::uint32_t y = 0; y < source.height(); ++y)
            for (std::size_t x = 0; x < source.width(); ++x)
                for (std::size_t c = 0; c < channels; ++c)
                    own += f.is_float() ? squared_stops(source, plain, y, x * 4 + c)
                                        : squared_codes(source, plain, y, x * 4 + c);
        const double count = double(source.width()) * source.height();
        squares += own;
        numbers += count * channels;
        decibels += 10 * std::log10(count * channels / std::max(own, 1e-9));
        ++pictures;
        seconds += time;
        pixels += count;
    }
    static double squared_codes(const yl::Image& a, const yl::Image& b, std::uint32_t y,
                                std::size_t i) {
        const double off =
            (std::to_integer<int>(a.view().row(y)[i]) - std::to_integer<int>(b.view().row(y)[i])) /
            255.0;
        return off * off;
    }
    static double squared_stops(const yl::Image& a, const yl::Image& b, std::uint32_t y,
                                std::size_t i) {
        const auto stops = [&](const yl::Image& image) {
            return std::log2(std::max(
                double(reinterpret_cast<const float*>(image.view().row(y).data())[i]), 1e-4));
        };
        const double off = (stops(a) - stops(b)) / 16;  // 16 stops are the whole range
        return off * off;
    }
    [[nodiscard]] double mean() const { return decibels / pictures; }
    [[nodiscard]] double together() const { return 10 * std::log10(numbers / squares); }
    [[nodiscard]] double megapixels_a_second() const { return pixels / 1e6 / seconds; }
};

Sum ours(const std::vector<Subject>& subjects, yl::Format format, const yl::BlockOptions& options) {
    Sum sum;
    for (const Subject& subject : subjects) {
        const yl::ConstImageView source =
            yl::info(format).is_float() ? subject.light.view() : subject.bytes.view();
        const auto start = std::chrono::steady_clock::now();
        const yl::Image blocks = *yl::encode_blocks(source, format, options);
        sum.add(subject, blocks.view(), seconds_since(start));
    }
    return sum;
}

/// OpenGL compresses what is handed over as plain texels for a block format.
class DriverEncoder {
 public:
    DriverEncoder()
        : context_(*yl::gl::HeadlessContext::create()),
          image_(load<void (*)(GLenum, GLint, GLint, GLsizei, GLsizei, GLint, GLenum, GLenum,
                               const void*)>("glTexImage2D")),
          read_(load<PFNGLGETCOMPRESSEDTEXIMAGEPROC>("glGetCompressedTexImage")),
          finish_(load<void (*)()>("glFinish")),
          bind_(load<void (*)(GLenum, GLuint)>("glBindTexture")),
          create_(load<void (*)(GLsizei, GLuint*)>("glGenTextures")),
          destroy_(load<void (*)(GLsizei, const GLuint*)>("glDeleteTextures")) {}

    Sum run(const std::vector<Subject>& subjects, yl::Format format) {
        Sum sum;
        const bool is_light = yl::info(format).is_float();
        for (const Subject& subject : subjects) {
            const yl::ConstImageView source =
                is_light ? subject.light.view() : subject.bytes.view();
            yl::Image blocks = *yl::Image::create(format, source.width, source.height);
            GLuint name = 0;
            create_(1, &name);
            bind_(GL_TEXTURE_2D, name);
            const auto start = std::chrono::steady_clock::now();
            image_(GL_TEXTURE_2D, 0, static_cast<GLint>(yl::info(format).gl.internal_format),
                   static_cast<GLsizei>(source.width), static_cast<GLsizei>(source.height), 0,
                   GL_RGBA, is_light ? GL_HALF_FLOAT : GL_UNSIGNED_BYTE, source.data);
            finish_();
            const double seconds = seconds_since(start);
            read_(GL_TEXTURE_2D, 0, blocks.view().data);
            destroy_(1, &name);
            sum.add(subject, blocks.view(), seconds);
        }
        return sum;
    }

 private:
    template <class Function>
    Function load(const char* name) {
        return reinterpret_cast<Function>(context_.loader()(name));
    }

    yl::gl::HeadlessContext context_;
    void (*image_)(GLenum, GLint, GLint, GLsizei, GLsizei, GLint, GLenum, GLenum, const void*);
    PFNGLGETCOMPRESSEDTEXIMAGEPROC read_;
    void (*finish_)();
    void (*bind_)(GLenum, GLuint);
    void (*create_)(GLsizei, GLuint*);
    void (*destroy_)(GLsizei, const GLuint*);
};

constexpr yl::Format formats[] = {
    yl::Format::bc1_unorm,       yl::Format::bc3_unorm,        yl::Format::bc4_unorm,
    yl::Format::bc5_unorm,       yl::Format::bc6h_ufloat,      yl::Format::bc7_unorm,
    yl::Format::etc2_rgb8_unorm, yl::Format::etc2_rgba8_unorm, yl::Format::eac_r11_unorm,
    yl::Format::eac_rg11_unorm,  yl::Format::astc_4x4_unorm,   yl::Format::astc_5x5_unorm,
    yl::Format::astc_6x6_unorm,  yl::Format::astc_8x8_unorm};

void print_row(const std::string& what, const Sum& sum) {
    std::printf("| %-24s | %7.3f | %7.3f | %8.3f | %8.2f |\n", what.c_str(), sum.mean(),
                sum.together(), 1 / sum.megapixels_a_second(), sum.megapixels_a_second());
    std::fflush(stdout);
}

void quality(const std::vector<Subject>& subjects) {
    std::printf("| %-24s | %7s | %7s | %8s | %8s |\n|---|---|---|---|---|\n", "format, effort",
                "mean dB", "all dB", "s/MP", "MP/s");
    DriverEncoder driver;
    for (const yl::Format format : formats) {
        const std::string name(yl::info(format).name);
        for (const int effort : {0, 3, 5, 7, 10})
            print_row(name + ", " + std::to_string(effort),
                      ours(subjects, format, {.role = yl::Role::data, .effort = effort}));
        if (yl::info(format).family == yl::BlockFamily::bc)
            print_row(name + ", the driver", driver.run(subjects, format));
    }
}

void rate_distortion(const std::vector<Subject>& subjects) {
    std::printf("| %-12s | %6s | %7s | %7s | %8s |\n|---|---|---|---|---|\n", "format",
                "rate-distortion", "mean dB", "all dB", "packed");
    for (const yl::Format format : {yl::Format::bc1_unorm, yl::Format::bc7_unorm}) {
        double plain = 0;
        for (const float amount : {0.0F, 0.5F, 1.0F, 2.0F, 3.0F, 5.0F, 10.0F}) {
            const yl::BlockOptions options{.role = yl::Role::data, .rate_distortion = amount};
            double packed = 0;
            Sum sum;
            for (const Subject& subject : subjects) {
                const yl::Image blocks = *yl::encode_blocks(subject.bytes.view(), format, options);
                sum.add(subject, blocks.view(), 1);
                const std::size_t bytes = blocks.row_stride() * blocks.view().row_count();
                std::vector<char> target(ZSTD_compressBound(bytes));
                packed += double(
                    ZSTD_compress(target.data(), target.size(), blocks.view().data, bytes, 19));
            }
            plain = amount == 0 ? packed : plain;
            std::printf("| %-12s | %6.1f | %7.3f | %7.3f | %6.1f %% |\n",
                        std::string(yl::info(format).name).c_str(), double(amount), sum.mean(),
                        sum.together(), 100 * packed / plain);
            std::fflush(stdout);
        }
    }
}

/// Blocks from all over the pictures, side by side.
yl::Image sample_of(const std::vector<Subject>& subjects, std::size_t count) {
    std::mt19937 random(1);
    yl::Image sample =
        *yl::Image::create(yl::Format::rgba8_unorm, static_cast<std::uint32_t>(4 * count), 4);
    for (std::size_t i = 0; i < count; ++i) {
        const yl::ConstImageView from = subjects[i % subjects.size()].bytes.view();
        const std::size_t x = random() % (from.width / 4) * 4;
        const auto y = static_cast<std::uint32_t>(random() % (from.height / 4) * 4);
        for (std::uint32_t row = 0; row < 4; ++row)
            std::memcpy(sample.view().row(row).data() + i * 16, from.row(y + row).data() + x * 4,
                        16);
    }
    return sample;
}

void search(const std::vector<Subject>& subjects) {
    constexpr std::size_t count = 2000;
    const yl::Image sample = sample_of(subjects, count);
    std::vector<double> bc1(count), bc4(count);
    std::vector<std::array<double, 16>> values(count);
    tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
        std::array<bench::Rgb, 16> colors;
        for (std::size_t t = 0; t < 16; ++t) {
            const std::byte* texel =
                sample.view().row(static_cast<std::uint32_t>(t / 4)).data() + i * 16 + t % 4 * 4;
            for (std::size_t c = 0; c < 3; ++c)
                colors[t][c] = std::to_integer<int>(texel[c]);
            values[i][t] = colors[t][0];
        }
        bc1[i] = bench::Bc1Search(colors).run();
        bc4[i] = bench::best_bc4_error(values[i]);
    });
    const auto decibels = [&](const std::vector<double>& errors, double channels) {
        double sum = 0;
        for (const double error : errors)
            sum += error;
        return 10 * std::log10(65025 * 16.0 * count * channels / sum);
    };
    // The best that is known of each block of BC1: by the search or by the highest effort.
    const auto errors_of_bc1 = [&](int effort) {
        const yl::Image blocks = *yl::encode_blocks(sample.view(), yl::Format::bc1_unorm,
                                                    {.role = yl::Role::data, .effort = effort});
        const yl::Image texels = *yl::decode_blocks(blocks.view());
        std::vector<double> errors(count);
        for (std::size_t i = 0; i < count * 64; ++i)
            if (i % 4 != 3) {
                const std::size_t row = i / (16 * count), at = i % (16 * count);
                const double off =
                    std::to_integer<int>(sample.view().row(static_cast<std::uint32_t>(row))[at]) -
                    std::to_integer<int>(texels.view().row(static_cast<std::uint32_t>(row))[at]);
                errors[at / 16] += off * off;
            }
        return errors;
    };
    const auto errors_of_bc4 = [&](int effort) {
        const yl::Image blocks = *yl::encode_blocks(sample.view(), yl::Format::bc4_unorm,
                                                    {.role = yl::Role::data, .effort = effort});
        std::vector<double> errors(count);
        for (std::size_t i = 0; i < count; ++i)
            errors[i] = bench::bc4_error(values[i], std::to_integer<int>(blocks.view().data[8 * i]),
                                         std::to_integer<int>(blocks.view().data[8 * i + 1]));
        return errors;
    };
    const std::vector<double> highest = errors_of_bc1(10);
    for (std::size_t i = 0; i < count; ++i)
        bc1[i] = std::min(bc1[i], highest[i]);
    std::printf("best known: bc1 %.3f dB, bc4 %.3f dB\n", decibels(bc1, 3), decibels(bc4, 1));
    for (const int effort : {0, 3, 5, 7, 10})
        std::printf("effort %2d: bc1 %.3f dB, bc4 %.3f dB\n", effort,
                    decibels(errors_of_bc1(effort), 3), decibels(errors_of_bc4(effort), 1));
}

/// ETC2 of colours and EAC of one channel, beside searches of all halves and of all channels: colours
/// between those of the forms T and H and the plane are searched by the highest effort.
void search_etc(const std::vector<Subject>& subjects) {
    constexpr std::size_t count = 2000;
    const yl::Image sample = sample_of(subjects, count);
    const auto code = [](const yl::Image& image, std::size_t block, std::size_t texel,
                         std::size_t channel) {
        return std::to_integer<int>(image.view().row(
            static_cast<std::uint32_t>(texel / 4))[(block * 4 + texel % 4) * 4 + channel]);
    };
    std::vector<double> halves(count), eac(count);
    tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
        std::array<yl::etc::Color, 16> colors;
        std::array<double, 16> reds;
        for (std::size_t t = 0; t < 16; ++t) {
            for (std::size_t c = 0; c < 3; ++c)
                colors[t][c] = code(sample, i, t, c);
            reds[t] = colors[t][0];
        }
        halves[i] = bench::best_halves_error(colors);
        eac[i] = bench::best_eac_error(reds);
    });
    const auto decibels = [&](const std::vector<double>& errors, double channels) {
        double sum = 0;
        for (const double error : errors)
            sum += error;
        return 10 * std::log10(65025 * 16.0 * count * channels / sum);
    };
    const auto errors_of = [&](yl::Format format, int effort) {
        const yl::Image texels = *yl::decode_blocks(
            yl::encode_blocks(sample.view(), format, {.role = yl::Role::data, .effort = effort})
                ->view());
        std::vector<double> errors(count);
        for (std::size_t i = 0; i < count; ++i)
            for (std::size_t t = 0; t < 16; ++t)
                if (format == yl::Format::eac_r11_unorm) {
                    std::uint16_t value;
                    std::memcpy(&value,
                                texels.view().row(static_cast<std::uint32_t>(t / 4)).data() +
                                    (i * 4 + t % 4) * 2,
                                2);
                    errors[i] += std::pow(value / 257.0 - code(sample, i, t, 0), 2);
                } else {
                    for (std::size_t c = 0; c < 3; ++c)
                        errors[i] += std::pow(code(texels, i, t, c) - code(sample, i, t, c), 2);
                }
        return errors;
    };
    const std::vector<double> highest = errors_of(yl::Format::etc2_rgb8_unorm, 10);
    std::vector<double> best = halves;
    for (std::size_t i = 0; i < count; ++i)
        best[i] = std::min(best[i], highest[i]);
    std::printf("all halves: %.3f dB; best known: etc2-rgb8 %.3f dB, eac-r11 %.3f dB\n",
                decibels(halves, 3), decibels(best, 3), decibels(eac, 1));
    for (const int effort : {0, 3, 5, 7, 10})
        std::printf("effort %2d: etc2-rgb8 %.3f dB, eac-r11 %.3f dB\n", effort,
                    decibels(errors_of(yl::Format::etc2_rgb8_unorm, effort), 3),
                    decibels(errors_of(yl::Format::eac_r11_unorm, effort), 1));
}

/// The best of several runs, since other programs share the processors; megapixels a second.
template <class Work>
double best_speed(double pixels, const Work& work) {
    double best = 1e30;
    for (int i = 0; i < 7; ++i) {
        const auto start = std::chrono::steady_clock::now();
        work();
        best = std::min(best, seconds_since(start));
    }
    return pixels / 1e6 / best;
}

void speed(const std::vector<Subject>& subjects) {
    // One picture of 1024 x 1024, of four.
    const auto tiled = [&](bool light) {
        const yl::Format format = light ? yl::Format::rgba16_float : yl::Format::rgba8_unorm;
        yl::Image image = *yl::Image::create(format, 2 * side, 2 * side);
        const std::size_t texel = yl::info(format).block_bytes;
        for (std::uint32_t y = 0; y < 2 * side; ++y)
            for (std::uint32_t tile = 0; tile < 2; ++tile) {
                const Subject& s = subjects[(y / side * 2 + tile) % subjects.size()];
                const yl::ConstImageView from = light ? s.light.view() : s.bytes.view();
                for (std::uint32_t x = 0; x < side; ++x)
                    std::memcpy(image.view().row(y).data() + (tile * side + x) * texel,
                                from.row(y % side % from.height).data() + x % from.width * texel,
                                texel);
            }
        return image;
    };
    const yl::Image bytes = tiled(false), light = tiled(true);
    std::printf("| %-12s | %8s | %8s | %8s | %8s | (MP/s)\n|---|---|---|---|---|\n", "format",
                "effort 0", "effort 5", "2 cores", "decode");
    for (const yl::Format format : formats) {
        const yl::Image& source = yl::info(format).is_float() ? light : bytes;
        yl::Image blocks = *yl::Image::create(format, 2 * side, 2 * side);
        const double pixels = 4.0 * side * side;
        const auto encode = [&](int effort, int threads) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism,
                                            static_cast<std::size_t>(threads));
            return best_speed(pixels, [&] {
                (void)yl::encode_blocks(source.view(), blocks.view(),
                                        {.role = yl::Role::data, .effort = effort});
            });
        };
        const double fast = encode(0, 1), one = encode(5, 1), two = encode(5, 2);
        yl::Image texels = *yl::Image::create(*yl::decoded_format(format), 2 * side, 2 * side);
        const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, 1);
        const double decoded = best_speed(
            pixels, [&] { (void)yl::decode_blocks(std::as_const(blocks).view(), texels.view()); });
        std::printf("| %-12s | %8.1f | %8.1f | %7.2fx | %8.1f |\n",
                    std::string(yl::info(format).name).c_str(), fast, one, two / one, decoded);
        std::fflush(stdout);
    }
}

}  // namespace

int main(int argc, char** argv) {
    const auto subjects = load(argc - 2, argv + 2);
    const std::string table = argc > 1 ? argv[1] : "";
    if (subjects.empty())
        return std::fprintf(stderr,
                            "usage: block_table quality|search|rate-distortion|speed PICTURE...\n"),
               2;
    if (table == "quality") {
        const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, 1);
        quality(subjects);
    } else if (table == "search") {
        search(subjects);
        search_etc(subjects);
    } else if (table == "rate-distortion") {
        rate_distortion(subjects);
    } else {
        speed(subjects);
    }
    return 0;
}
