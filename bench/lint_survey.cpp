// What the limits of lint rest on: how often sound textures get a warning, and how many of those that
// were spoilt on purpose get the right one.
//
//     lint_survey FOLDER ...
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <map>
#include <yl/yl.hpp>

namespace {

namespace fs = std::filesystem;
using namespace yl;

using Bytes = std::span<std::byte>;

/// A texture that has been spoilt, and what is to be found; nothing where it cannot be spoilt so.
struct Spoilt {
    Texture texture;
    LintOptions options = {};
};
using Spoil = std::function<std::optional<Spoilt>(const Picture& picture)>;

std::uint8_t code(std::byte byte) {
    return std::to_integer<std::uint8_t>(byte);
}

std::optional<Picture> as_rgba(const Picture& picture) {
    if (info(picture.image.format()).is_float())
        return std::nullopt;
    auto converted = convert(picture, Format::rgba8_srgb);
    if (!converted)
        return std::nullopt;
    return std::move(*converted);
}

std::optional<Texture> chain_of(const Picture& picture, Role role = Role::color) {
    BakeOptions options;
    options.role = role;
    options.format = role == Role::color ? Format::rgba8_srgb : Format::rgba8_unorm;
    auto baked = bake(picture, options);
    if (!baked)
        return std::nullopt;
    return std::move(baked->texture);
}

std::optional<Texture> one_level(const Picture& picture, Format format) {
    auto texture = Texture::create(
        {.format = format, .width = picture.image.width(), .height = picture.image.height()});
    if (!texture)
        return std::nullopt;
    Bytes to = texture->level(0);
    for (std::uint32_t y = 0; y < picture.image.height(); ++y) {
        const auto row = picture.image.view().row(y);
        std::ranges::copy(row, to.begin());
        to = to.subspan(row.size());
    }
    texture->metadata.transfer = info(format).transfer;
    texture->metadata.alpha = picture.alpha;
    return std::move(*texture);
}

/// How much the texels vary, in codes: what is nearly flat cannot be spoilt.
double contrast(const Picture& picture) {
    double sum = 0, squares = 0, count = 0;
    for (std::uint32_t y = 0; y < picture.image.height(); ++y)
        for (const std::byte byte : picture.image.view().row(y)) {
            sum += code(byte);
            squares += code(byte) * code(byte);
            ++count;
        }
    return std::sqrt(std::max(0.0, squares / count - sum / count * (sum / count)));
}

std::optional<Spoilt> gamma_levels(const Picture& picture) {
    auto codes = chain_of(picture), numbers = chain_of(picture, Role::data);
    if (!codes || !numbers || contrast(picture) < 25)
        return std::nullopt;
    double shift = 0;
    for (std::uint32_t level = 1; level < std::min(codes->shape().levels, 4U); ++level)
        for (std::size_t i = 0; i < codes->level(level).size(); ++i)
            shift += std::abs(code(codes->level(level)[i]) - code(numbers->level(level)[i]));
    // Where no texel differs by a code on average, nobody sees it either.
    if (shift < static_cast<double>(codes->level(1).size()))
        return std::nullopt;
    for (std::uint32_t level = 1; level < codes->shape().levels; ++level)
        std::ranges::copy(numbers->level(level), codes->level(level).begin());
    return Spoilt{std::move(*codes)};
}

std::optional<Spoilt> black_level(const Picture& picture) {
    auto texture = chain_of(picture);
    if (!texture || texture->shape().levels < 4 || contrast(picture) < 15)
        return std::nullopt;
    for (std::byte& byte : texture->level(2))
        byte = std::byte{0};
    return Spoilt{std::move(*texture)};
}

std::optional<Spoilt> flipped_level(const Picture& picture) {
    auto texture = chain_of(picture);
    if (!texture || texture->shape().levels < 4 || contrast(picture) < 25)
        return std::nullopt;
    const Bytes level = texture->level(1);
    std::ranges::reverse(level);
    for (std::size_t i = 0; i + 3 < level.size(); i += 4)
        std::reverse(level.begin() + static_cast<std::ptrdiff_t>(i),
                     level.begin() + static_cast<std::ptrdiff_t>(i + 4));
    return Spoilt{std::move(*texture)};
}

std::optional<Texture> normals_of(const Picture& picture) {
    auto height =
        convert(picture.image.view(), Format::r8_unorm,
                {.source_transfer = Transfer::srgb, .to_one_channel = ToOneChannel::luminance});
    if (!height || contrast(picture) < 15)
        return std::nullopt;
    auto normals = normals_from_height(height->view(), {});
    if (!normals)
        return std::nullopt;
    auto image =
        convert(normals->view(), Format::rgba8_unorm, {.source_transfer = Transfer::linear});
    if (!image)
        return std::nullopt;
    Picture made;
    made.image = std::move(*image);
    return one_level(made, Format::rgba8_unorm);
}

std::optional<Spoilt> green_down(const Picture& picture) {
    auto texture = normals_of(picture);
    if (!texture)
        return std::nullopt;
    for (std::size_t i = 1; i < texture->level(0).size(); i += 4)
        texture->level(0)[i] = static_cast<std::byte>(255 - code(texture->level(0)[i]));
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

std::optional<Spoilt> normals_as_color(const Picture& picture) {
    auto texture = normals_of(picture);
    if (!texture)
        return std::nullopt;
    TextureShape shape = texture->shape();
    shape.format = Format::rgba8_srgb;
    auto other = Texture::create(shape);
    if (!other)
        return std::nullopt;
    std::ranges::copy(texture->level(0), other->level(0).begin());
    return Spoilt{std::move(*other)};
}

std::optional<Spoilt> shortened(const Picture& picture) {
    auto texture = normals_of(picture);
    if (!texture)
        return std::nullopt;
    for (std::size_t i = 0; i < texture->level(0).size(); ++i)
        if (i % 4 != 3)
            texture->level(0)[i] = static_cast<std::byte>(
                std::lround(127.5 + 0.9 * (code(texture->level(0)[i]) - 127.5)));
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

std::optional<Spoilt> color_as_normals(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_unorm);
    if (!texture || contrast(picture) < 10)
        return std::nullopt;
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

/// A soft round hole in the middle, as alpha.
std::optional<Spoilt> with_alpha(const Picture& picture, bool multiplied, AlphaMode marked) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    const std::uint32_t width = picture.image.width(), height = picture.image.height();
    if (!texture || contrast(picture) < 10 || std::min(width, height) < 32)
        return std::nullopt;
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const double u = (x + 0.5) / width - 0.5, v = (y + 0.5) / height - 0.5;
            const double alpha = std::clamp(6 * (0.45 - std::hypot(u, v)), 0.0, 1.0);
            std::byte* texel = &texture->level(0)[(std::size_t{y} * width + x) * 4];
            texel[3] = static_cast<std::byte>(std::lround(255 * alpha));
            for (std::size_t c = 0; c < 3 && multiplied; ++c)
                texel[c] = static_cast<std::byte>(std::lround(code(texel[c]) * alpha));
        }
    texture->metadata.alpha = marked;
    return Spoilt{std::move(*texture)};
}

std::optional<Spoilt> numbers_as_colors(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture)
        return std::nullopt;
    return Spoilt{std::move(*texture), {.role = Role::data}};
}

std::optional<Spoilt> enlarged(const Picture& picture) {
    if (std::min(picture.image.width(), picture.image.height()) < 128 || contrast(picture) < 10)
        return std::nullopt;
    auto large = resize(picture.image.view(), picture.image.width() * 4, picture.image.height() * 4,
                        {.kernel = {.kind = Kernel::Kind::cubic}});
    if (!large)
        return std::nullopt;
    Picture made;
    made.image = std::move(*large);
    auto texture = one_level(made, Format::rgba8_srgb);
    return texture ? std::optional(Spoilt{std::move(*texture)}) : std::nullopt;
}

std::optional<Spoilt> grayed(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture || contrast(picture) < 3)
        return std::nullopt;
    for (std::size_t i = 0; i < texture->level(0).size(); i += 4)
        texture->level(0)[i + 1] = texture->level(0)[i + 2] = texture->level(0)[i];
    return Spoilt{std::move(*texture)};
}

struct Kind {
    const char* code;
    const char* how;
    Spoil spoil;
};

const Kind kinds[] = {
    {"mips-in-gamma-space", "levels averaged as codes", gamma_levels},
    {"level-uniform", "a black level", black_level},
    {"level-unrelated", "a level turned by half", flipped_level},
    {"green-inverted", "green turned over", green_down},
    {"normal-as-srgb", "normals in an sRGB format", normals_as_color},
    {"normals-not-unit", "normals of 90 % length", shortened},
    {"no-normals", "colours as normals", color_as_normals},
    {"looks-premultiplied", "premultiplied, marked straight",
     [](const Picture& p) { return with_alpha(p, true, AlphaMode::straight); }},
    {"not-premultiplied", "straight, marked premultiplied",
     [](const Picture& p) { return with_alpha(p, false, AlphaMode::premultiplied); }},
    {"numbers-as-srgb", "numbers in an sRGB format", numbers_as_colors},
    {"no-detail", "enlarged four times", enlarged},
    {"channels-unused", "gray in three channels", grayed},
};

struct Count {
    std::size_t made = 0, found = 0;
};

bool has(const LintReport& report, std::string_view code) {
    return std::ranges::any_of(report.found, [&](const Evidence& one) {
        return one.finding.code == code ||
               (code == "no-normals" && one.finding.code == "height-as-normal");
    });
}

void survey(const fs::path& path, std::size_t& sound, std::vector<std::string>& warned,
            std::map<std::string, Count>& counts) {
    constexpr std::size_t enough = 200;
    const auto read = read_picture(path);
    if (!read || std::min(read->image.width(), read->image.height()) < 16 ||
        read->image.width() > 1024 || read->image.height() > 1024)
        return;
    const auto picture = as_rgba(*read);
    const auto texture = picture ? chain_of(*picture) : std::nullopt;
    if (!texture)
        return;
    ++sound;
    for (const auto& report : {lint(*read), lint(*texture)}) {
        if (!report)
            continue;
        for (const Evidence& one : report->found)
            if (one.finding.level != FindingLevel::hint)
                warned.push_back(fmt::format("{}: {}: {}", path.string(),
                                             std::string_view(one.finding.code),
                                             one.finding.problem));
    }
    for (const Kind& kind : kinds) {
        Count& count = counts[kind.code];
        if (count.made >= enough)
            continue;
        const auto spoilt = kind.spoil(*picture);
        if (!spoilt)
            continue;
        ++count.made;
        const auto report = lint(spoilt->texture, spoilt->options);
        count.found += report && has(*report, kind.code) ? 1 : 0;
    }
}

}  // namespace

int main(int argc, char** argv) {
    std::size_t sound = 0;
    std::vector<std::string> warned;
    std::map<std::string, Count> counts;
    for (int i = 1; i < argc; ++i)
        for (const auto& entry : fs::recursive_directory_iterator(argv[i]))
            if (entry.is_regular_file())
                survey(entry.path(), sound, warned, counts);
    for (const std::string& line : warned)
        fmt::print("{}\n", line);
    fmt::print("{} sound textures and the pictures they were made of: {} warnings\n", sound,
               warned.size());
    for (const Kind& kind : kinds) {
        const Count count = counts[kind.code];
        fmt::print("{:22} {:34} {:4} made, {:4} found: {:5.1f} %\n", kind.code, kind.how,
                   count.made, count.found,
                   count.made > 0
                       ? 100.0 * static_cast<double>(count.found) / static_cast<double>(count.made)
                       : 0.0);
    }
}
