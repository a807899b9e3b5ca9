// Prints a hash of everything that has to be the same on every processor: conversions, readers,
// writers, block formats, mip chains, cubes, containers, samplers.
//
//     probe FOLDER SEEDS           # with the demo data, and the seeds of the fuzz targets
#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <random>
#include <set>
#include <string>
#include <yl/yl.hpp>

namespace {

/// FNV-1a.
class Hash {
 public:
    void add(std::span<const std::byte> bytes) {
        for (const std::byte byte : bytes)
            value_ = (value_ ^ std::to_integer<std::uint64_t>(byte)) * 0x100000001B3U;
    }
    void add(yl::ConstImageView view) {
        for (std::uint32_t y = 0; y < view.row_count(); ++y)
            add(view.row(y));
    }
    void add(const yl::Image& image) { add(image.view()); }
    void add(const yl::Texture& texture) {
        for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
            add(texture.level(level));
    }
    [[nodiscard]] std::uint64_t value() const { return value_; }

 private:
    std::uint64_t value_ = 0xCBF29CE484222325U;
};

template <class... Parts>
void print(const std::string& name, const Parts&... parts) {
    Hash hash;
    (hash.add(parts), ...);
    std::printf("%-56s %016llx\n", name.c_str(), static_cast<unsigned long long>(hash.value()));
}

std::string text(std::string_view view) {
    return std::string(view);
}

/// The result, or a line that says why there is none.
template <class T>
bool is_there(const std::string& name, const yl::Result<T>& result) {
    if (!result)
        std::printf("%-56s %s\n", name.c_str(), text(yl::name(result.error().kind)).c_str());
    return result.has_value();
}

/// Soft waves with noise on them, in linear light: every bit is settled by whole numbers.
yl::Image waves(std::uint32_t width, std::uint32_t height) {
    yl::Image image = yl::or_exit(yl::Image::create(yl::Format::rgba16_unorm, width, height));
    std::mt19937 random(width * 7919 + height);
    for (std::uint32_t y = 0; y < height; ++y) {
        std::byte* row = image.view().row(y).data();
        for (std::uint32_t x = 0; x < 4 * width; ++x) {
            const std::uint32_t wave = (x * 523 + y * 2311) % 65536;
            const std::uint32_t even = wave < 32768 ? 2 * wave : 2 * (65535 - wave);
            const auto code = static_cast<std::uint16_t>((even * 15 + (random() & 0xFFFFU)) / 16);
            row[2 * x] = static_cast<std::byte>(code & 0xFF);
            row[2 * x + 1] = static_cast<std::byte>(code >> 8);
        }
    }
    return image;
}

yl::Image waves_in(yl::Format format, std::uint32_t width, std::uint32_t height) {
    const yl::Image wide = waves(width, height);
    return yl::or_exit(yl::convert(
        wide.view(), format,
        {.source_transfer = yl::Transfer::linear, .to_one_channel = yl::ToOneChannel::luminance}));
}

void conversions() {
    for (const yl::FormatInfo& from : yl::all_formats()) {
        if (from.is_block())
            continue;
        const yl::Image image = waves_in(from.format, 37, 5);
        print("waves in " + text(from.name), image.view());
        for (const yl::FormatInfo& to : yl::all_formats()) {
            if (to.is_block())
                continue;
            const auto converted = yl::convert(image.view(), to.format,
                                               {.source_transfer = yl::Transfer::srgb,
                                                .target_transfer = yl::Transfer::srgb,
                                                .dither = true,
                                                .to_one_channel = yl::ToOneChannel::luminance});
            const std::string name = text(from.name) + " to " + text(to.name);
            if (is_there(name, converted))
                print(name, converted->view());
        }
    }
}

void readers(const std::filesystem::path& folder) {
    std::set<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        files.insert(entry.path());
    for (const auto& file : files)
        if (const auto picture = yl::read_picture(file))
            print("read " + file.filename().string(), picture->image.view());
}

void writers() {
    constexpr std::string_view endings[] = {"png", "bmp", "tga", "qoi", "ppm", "pgm",
                                            "pam", "pfm", "exr", "hdr", "tif"};
    for (const std::string_view ending : endings)
        for (const yl::FormatInfo& f : yl::all_formats()) {
            if (f.is_block())
                continue;
            const yl::Image image = waves_in(f.format, 29, 23);
            const auto file = yl::encode_picture(ending, image.view());
            if (!file)
                continue;
            const std::string name = text(ending) + " of " + text(f.name);
            print("write " + name, std::span<const std::byte>(*file));
            const auto back = yl::read_picture(*file);
            if (is_there("read " + name, back))
                print("read " + name, back->image.view());
        }
}

/// TIFF in its depths, and every seed of the formats with frames and pages.
void pages(const std::filesystem::path& seeds) {
    for (const char* folder : {"tiff", "gif", "webp", "psd"}) {
        std::set<std::filesystem::path> files;
        for (const auto& entry : std::filesystem::directory_iterator(seeds / folder))
            files.insert(entry.path());
        for (const auto& file : files) {
            const std::string name = text(folder) + " " + file.filename().string();
            const auto frames = yl::read_frames(file, {.role = yl::Role::data});
            if (is_there(name, frames))
                for (const yl::Picture& picture : frames->pictures)
                    print(name, picture.image);
        }
    }
}

/// Atlases in texels and blocks, and their tables.
void atlases() {
    std::vector<yl::Picture> pictures(9);
    std::vector<yl::AtlasPicture> list;
    for (std::uint32_t i = 0; i < 9; ++i) {
        pictures[i].image = waves(9 + 5 * i, 40 - 3 * i);
        list.push_back({.name = std::to_string(i), .picture = &pictures[i], .repeats = i == 4});
    }
    for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::bc1_srgb}) {
        yl::AtlasOptions options = {.last_clean_level = 2, .turn = true};
        options.bake.format = format;
        options.bake.blocks.effort = 1;
        const auto atlas = yl::make_atlas(list, options);
        const std::string name = "atlas " + text(yl::info(format).name);
        if (!is_there(name, atlas))
            continue;
        const std::string table = yl::atlas_table_text(atlas->table);
        print(name, atlas->baked.texture, std::as_bytes(std::span(table)));
    }
}

void blocks() {
    std::mt19937 random(5);
    for (const yl::FormatInfo& f : yl::all_formats()) {
        if (!f.is_block())
            continue;
        yl::Image noise = yl::or_exit(yl::Image::create(f.format, 64, 64));
        for (std::uint32_t y = 0; y < noise.view().row_count(); ++y)
            for (std::byte& byte : noise.view().row(y))
                byte = static_cast<std::byte>(random() & 0xFFU);
        print("decode noise of " + text(f.name), yl::or_exit(yl::decode_blocks(noise.view())));
        for (const int effort : {0, 3, 6}) {
            const yl::Format source =
                f.is_float() ? yl::Format::rgba16_float : yl::Format::rgba8_srgb;
            const yl::Image image = waves_in(source, 45, 38);
            const auto encoded =
                yl::encode_blocks(image.view(), f.format,
                                  {.effort = effort, .rate_distortion = effort == 3 ? 2.0F : 0.0F});
            const std::string name = text(f.name) + " at effort " + std::to_string(effort);
            if (!is_there(name, encoded))
                continue;
            print("encode " + name, encoded->view());
            print("decode " + name, yl::or_exit(yl::decode_blocks(encoded->view())));
        }
    }
}

yl::Texture chain_of(yl::Format format, std::uint32_t width, std::uint32_t height) {
    yl::Texture texture =
        yl::or_exit(yl::Texture::create({.format = format,
                                         .width = width,
                                         .height = height,
                                         .levels = yl::full_level_count(width, height)}));
    const yl::Image image = waves_in(format, width, height);
    std::ranges::copy(std::span(image.view().data, texture.level(0).size()),
                      texture.level(0).begin());
    return texture;
}

void chains() {
    constexpr yl::Format formats[] = {yl::Format::rgba8_srgb,   yl::Format::rgba8_unorm,
                                      yl::Format::r8_unorm,     yl::Format::rg16_unorm,
                                      yl::Format::rgba16_float, yl::Format::rgba32_float};
    for (const yl::Format format : formats)
        for (const char* kernel : {"box", "triangle", "mitchell", "lanczos:3", "kaiser:3,4"})
            for (const auto& [width, height] : {std::pair{64U, 64U}, std::pair{53U, 31U}}) {
                yl::Texture texture = chain_of(format, width, height);
                yl::or_exit(
                    yl::build_mips(texture, {.kernel = yl::or_exit(yl::parse_kernel(kernel)),
                                             .edges = {yl::Edge::repeat, yl::Edge::mirror},
                                             .limit_ringing = true,
                                             .sharpen = width == 64 ? 0.0F : 0.7F}));
                print("mips of " + text(yl::info(format).name) + " by " + kernel + " from " +
                          std::to_string(width),
                      texture);
            }
    yl::Texture cut_out = chain_of(yl::Format::rgba8_srgb, 64, 64);
    yl::or_exit(yl::build_mips(cut_out));
    yl::or_exit(yl::preserve_coverage(cut_out, 0.5F));
    print("coverage", cut_out);
    const yl::Image heights = waves_in(yl::Format::r16_unorm, 64, 64);
    const yl::Image normals = yl::or_exit(yl::normals_from_height(heights.view()));
    print("normals of heights", normals.view());
    yl::Texture rough = chain_of(yl::Format::r8_unorm, 64, 64);
    yl::or_exit(yl::build_mips(rough));
    const yl::Image codes = yl::or_exit(yl::convert(normals.view(), yl::Format::rgba8_unorm,
                                                    {.source_transfer = yl::Transfer::linear}));
    yl::or_exit(yl::widen_roughness(rough, codes.view()));
    print("roughness", rough);
}

void roles() {
    for (const yl::RoleInfo& role : yl::all_roles())
        for (const bool compressed : {false, true}) {
            yl::Picture picture;
            picture.image = waves_in(
                role.role == yl::Role::hdr ? yl::Format::rgba16_float : yl::Format::rgba8_srgb, 60,
                44);
            const auto baked = yl::bake(picture, {.role = role.role, .compressed = compressed});
            const std::string name =
                "bake " + text(role.name) + (compressed ? " in blocks" : " in texels");
            if (is_there(name, baked))
                print(name, baked->texture);
        }
}

void cubes() {
    yl::Picture sky;
    sky.image = waves_in(yl::Format::rgba32_float, 128, 64);
    const yl::Texture cube =
        yl::or_exit(yl::cube_of_picture(sky, {.layout = yl::CubeLayout::panorama}));
    print("cube of a panorama", cube);
    print("specular", yl::or_exit(yl::prefilter_specular(cube, {.face_size = 16, .samples = 64})));
    print("diffuse", yl::or_exit(yl::prefilter_diffuse(cube, 8)));
    print("split sums", yl::or_exit(yl::split_sum_table(16)));
    const std::string light = yl::harmonics_text(yl::or_exit(yl::project_to_harmonics(cube)));
    print("harmonics", std::as_bytes(std::span(light)));
}

void containers() {
    for (const yl::FormatInfo& f : yl::all_formats()) {
        yl::Texture texture = yl::or_exit(yl::Texture::create({.format = f.format,
                                                               .width = 20,
                                                               .height = 12,
                                                               .levels = 3,
                                                               .layers = 2,
                                                               .is_array = true}));
        std::mt19937 random(11);
        for (std::uint32_t level = 0; level < 3; ++level)
            for (std::byte& byte : texture.level(level))
                byte = static_cast<std::byte>(random() & 0xFFU);
        for (const yl::Supercompression scheme :
             {yl::Supercompression::none, yl::Supercompression::zstd, yl::Supercompression::zlib}) {
            const auto file = yl::texture_file_bytes("ktx2", texture, {.supercompression = scheme});
            const std::string name = text(f.name) + " with " + text(yl::name(scheme));
            if (!is_there("ktx2 " + name, file))
                continue;
            print("write ktx2 " + name, std::span<const std::byte>(*file));
            print("read ktx2 " + name, yl::or_exit(yl::read_texture(*file)).texture);
        }
        const auto file = yl::texture_file_bytes("dds", texture);
        if (!file)
            continue;
        print("write dds " + text(f.name), std::span<const std::byte>(*file));
        print("read dds " + text(f.name), yl::or_exit(yl::read_texture(*file)).texture);
    }
}

void samplers() {
    yl::Texture texture = chain_of(yl::Format::rgba8_srgb, 64, 64);
    texture.metadata.transfer = yl::Transfer::srgb;
    yl::or_exit(yl::build_mips(texture));
    for (const char* words : {"", "mag=nearest min=nearest mip=nearest", "aniso=8 wrap=mirror",
                              "wrap=clamp-to-border border=1,0,0,1 bias=1"}) {
        const auto unit = yl::or_exit(yl::TextureSampler::create(
            texture, yl::or_exit(yl::parse_sampler(words)), yl::LevelRange::of(texture.shape())));
        print("floor, " + std::string(words),
              yl::or_exit(yl::draw_scene(yl::floor_scene({.width = 96, .height = 64}), unit)));
    }
    print("sheet", yl::or_exit(yl::level_sheet(texture, "probe")));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: probe FOLDER SEEDS\n"), 2;
    conversions();
    readers(argv[1]);
    pages(argv[2]);
    atlases();
    writers();
    blocks();
    chains();
    roles();
    cubes();
    containers();
    samplers();
    return 0;
}
