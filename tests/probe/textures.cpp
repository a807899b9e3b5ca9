// Block formats, mip chains, pictures baked in their roles, arrays, volumes, atlases, containers.
#include <random>

#include "hash.hpp"

namespace probe {
namespace {

/// Random bytes.
void fill(std::span<std::byte> bytes, std::mt19937& random) {
    for (std::byte& byte : bytes)
        byte = static_cast<std::byte>(random() & 0xFFU);
}

void blocks() {
    std::mt19937 random(5);
    for (const yl::FormatInfo& f : yl::all_formats()) {
        if (!f.is_block())
            continue;
        yl::Image noise = yl::or_exit(yl::Image::create(f.format, 64, 64));
        for (std::uint32_t y = 0; y < noise.view().row_count(); ++y)
            fill(noise.view().row(y), random);
        print("decode noise of " + text(f.name), yl::or_exit(yl::decode_blocks(noise.view())));
        for (const int effort : {0, 3, 6}) {
            const yl::Format source =
                f.is_float() ? yl::Format::rgba16_float : yl::Format::rgba8_srgb;
            const yl::Image image = waves_in(source, 45, 38);
            const auto encoded =
                yl::encode_blocks(image.view(), f.format,
                                  {.role = effort == 3 ? yl::Role::normal : yl::Role::color,
                                   .effort = effort,
                                   .rate_distortion = effort == 3 ? 2.0F : 0.0F});
            const std::string name = fmt::format("{} at effort {}", f.name, effort);
            if (!is_there("encode " + name, encoded))
                continue;
            print("encode " + name, *encoded);
            print("decode " + name, yl::or_exit(yl::decode_blocks(encoded->view())));
        }
    }
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
                print(fmt::format("mips of {} by {} from {}", yl::info(format).name, kernel, width),
                      texture);
            }
    yl::Texture cut_out = chain_of(yl::Format::rgba8_srgb, 64, 64);
    yl::or_exit(yl::build_mips(cut_out));
    yl::or_exit(yl::preserve_coverage(cut_out, 0.5F));
    print("coverage", cut_out);
    const yl::Image heights = waves_in(yl::Format::r16_unorm, 64, 64);
    const yl::Image normals = yl::or_exit(yl::normals_from_height(heights.view()));
    yl::Texture rough = chain_of(yl::Format::r8_unorm, 64, 64);
    yl::or_exit(yl::build_mips(rough));
    const yl::Image codes = yl::or_exit(yl::convert(normals.view(), yl::Format::rgba8_unorm,
                                                    {.source_transfer = yl::Transfer::linear}));
    yl::or_exit(yl::widen_roughness(rough, codes.view()));
    print("roughness", rough);
}

yl::Picture picture_of(yl::Format format, std::uint32_t width, std::uint32_t height) {
    yl::Picture picture;
    picture.image = waves_in(format, width, height);
    picture.transfer = yl::info(format).transfer;
    return picture;
}

void print_baked(const std::string& name, const yl::Result<yl::Baked>& baked) {
    if (is_there(name, baked))
        print(name, baked->texture, baked->findings, baked->role, baked->is_opaque,
              baked->mean_normal_length);
}

void roles() {
    for (const yl::RoleInfo& role : yl::all_roles())
        for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::rgb16_unorm,
                                        yl::Format::r8_unorm, yl::Format::rgba16_float}) {
            const yl::Picture picture = picture_of(format, 60, 44);
            const std::string name = fmt::format("bake {} of {}", role.name, yl::info(format).name);
            print_baked(name, yl::bake(picture, {.role = role.role}));
            print_baked(name + ", in blocks",
                        yl::bake(picture, {.role = role.role, .compressed = yl::BlockFamily::bc}));
            print_baked(name + ", upside down, smaller",
                        yl::bake(picture, {.role = role.role,
                                           .origin = yl::Origin::bottom,
                                           .mips = {.dither = true},
                                           .max_side = 37,
                                           .power_of_two = yl::PowerOfTwo::nearest,
                                           .first_level = 1}));
            print_baked(name + ", plain chain",
                        yl::bake(picture, {.role = role.role, .levels = 3, .plain_chain = true}));
        }
    const yl::Picture color = picture_of(yl::Format::rgba8_srgb, 60, 44);
    print_baked("bake with coverage", yl::bake(color, {.coverage = 0.4F}));
    const yl::RoleGuess guess = yl::guess_role(color);
    print("guessed role", guess.role, guess.reason);
}

void rebakes() {
    for (const yl::Format format :
         {yl::Format::rgba8_srgb, yl::Format::bc7_srgb, yl::Format::r16_unorm}) {
        const yl::Picture picture =
            picture_of(format == yl::Format::r16_unorm ? format : yl::Format::rgba8_srgb, 60, 44);
        const auto baked = yl::or_exit(yl::bake(picture, {.format = format}));
        const std::string name = "bake again " + text(yl::info(format).name);
        print_baked(name, yl::rebake(baked.texture, {}));
        print_baked(name + ", new levels",
                    yl::rebake(baked.texture, {.origin = yl::Origin::bottom, .new_levels = true}));
        print_baked(
            name + " as bc1",
            yl::rebake(baked.texture, {.bake = {.format = yl::Format::bc1_unorm, .max_side = 32}}));
        const auto surface = yl::picture_of_surface(baked.texture, {.level = 1});
        if (is_there(name + ", unpacked", surface))
            print(name + ", unpacked", surface->image, surface->transfer, surface->alpha);
    }
}

/// Pictures of several sizes, as the layers of an array and as the slices of a volume.
void stacks() {
    std::vector<yl::Picture> pictures;
    for (std::uint32_t i = 0; i < 3; ++i)
        pictures.push_back(picture_of(yl::Format::rgba8_srgb, 24 + 4 * i, 20 - 3 * i));
    std::vector<const yl::Picture*> list;
    for (const yl::Picture& picture : pictures)
        list.push_back(&picture);
    for (const yl::UnequalSizes sizes :
         {yl::UnequalSizes::refuse, yl::UnequalSizes::resize, yl::UnequalSizes::pad}) {
        const std::string how = fmt::format(", sizes {}", static_cast<int>(sizes));
        print_baked("array" + how, yl::bake_array(list, {.sizes = sizes}));
        print_baked("volume" + how, yl::bake_volume(list, {.sizes = sizes}));
        print_baked(
            "array in blocks" + how,
            yl::bake_array(list, {.bake = {.compressed = yl::BlockFamily::bc}, .sizes = sizes}));
    }
    const auto array =
        yl::or_exit(yl::bake_array(list, {.sizes = yl::UnequalSizes::resize})).texture;
    print("one layer", yl::or_exit(yl::single_layer(array, 2)));
    const auto volume =
        yl::or_exit(yl::bake_volume(list, {.sizes = yl::UnequalSizes::resize})).texture;
    print("one slice", yl::or_exit(yl::single_slice(volume, 1)));
    const auto slices = yl::or_exit(yl::slices_of_strip(pictures[0], 6));
    for (const yl::Picture& slice : slices)
        print("slice of a strip", slice.image);
    const auto table = yl::parse_lookup_table(
        "TITLE \"probe\"\nLUT_3D_SIZE 2\nDOMAIN_MAX 2 1 1\n0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n"
        "1 0 1\n0 1 1\n0.5 0.25 1\n");
    if (is_there("lookup table", table))
        print("lookup table", table->texture, table->title, table->input_min, table->input_max);
}

/// Atlases in texels and blocks, and their tables.
void atlases() {
    std::vector<yl::Picture> pictures(9);
    std::vector<yl::AtlasPicture> list;
    for (std::uint32_t i = 0; i < 9; ++i) {
        pictures[i].image = waves(9 + 5 * i, 40 - 3 * i);
        list.push_back({.name = std::to_string(i), .picture = &pictures[i], .repeats = i == 4});
    }
    std::optional<yl::AtlasTable> before;
    for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::bc1_srgb})
        for (const bool turn : {true, false}) {
            yl::AtlasOptions options = {.last_clean_level = 2, .turn = turn, .layers = !turn};
            options.bake.format = format;
            options.bake.blocks.effort = 1;
            if (!turn)
                options.bake.max_side = 96;
            const auto atlas = yl::make_atlas(list, options);
            const std::string name =
                fmt::format("atlas {}{}", yl::info(format).name, turn ? ", turned" : ", layers");
            if (!is_there(name, atlas))
                continue;
            print(name, atlas->baked.texture, atlas->baked.findings, atlas->unused,
                  yl::atlas_table_text(atlas->table, "atlas.ktx2"));
            before = atlas->table;
        }
    if (!before)
        return;
    pictures[3].image = waves(70, 11);
    yl::AtlasOptions options = {.last_clean_level = 2, .keep = &*before};
    const auto kept = yl::make_atlas(list, options);
    if (is_there("atlas kept", kept))
        print("atlas kept", kept->kept, kept->bordered, yl::atlas_table_text(kept->table),
              kept->baked.findings);
}

void print_file(const std::string& name, std::string_view ending, const yl::Texture& texture,
                const yl::TextureWriteOptions& options) {
    const auto file = yl::texture_file_bytes(ending, texture, options);
    if (!is_there("write " + name, file))
        return;
    const std::span<const std::byte> bytes(*file);
    if (options.supercompression == yl::Supercompression::none)
        print("write " + name, bytes);
    else
        print_packed("write " + name, bytes);
    const auto read = yl::read_texture(bytes);
    if (is_there("read " + name, read))
        print("read " + name, read->texture, read->info.remarks, read->info.file_format);
}

/// Alpha, rows and channels as each kind of file says them.
void print_meanings(const yl::FormatInfo& f, const yl::Texture& texture) {
    yl::Texture one = yl::or_exit(texture.clone());
    Hash hash;
    for (const yl::AlphaMode alpha :
         {yl::AlphaMode::straight, yl::AlphaMode::premultiplied, yl::AlphaMode::data})
        for (const char* swizzle : {"rgba", "rrr1", "rrrg", "000r", "bgra"}) {
            one.metadata.alpha = alpha;
            one.metadata.swizzle = *yl::parse_swizzle(swizzle);
            one.metadata.origin =
                alpha == yl::AlphaMode::data ? yl::Origin::bottom : yl::Origin::top;
            for (const auto& [ending, is_old] :
                 {std::pair{"ktx2", false}, {"dds", false}, {"dds", true}}) {
                const yl::TextureWriteOptions options = {.legacy_header = is_old};
                const auto file = yl::texture_file_bytes(ending, one, options);
                if (file)
                    hash.add(std::span<const std::byte>(*file));
                else
                    hash.add(file.error().message);
                hash.add(yl::losses_in_file(std::string("a.") + ending, one.metadata, f.format,
                                            options));
            }
        }
    print(fmt::format("meanings in files of {}", f.name), hash.value());
}

void containers() {
    std::mt19937 random(11);
    for (const yl::FormatInfo& f : yl::all_formats()) {
        yl::Texture texture = yl::or_exit(yl::Texture::create({.format = f.format,
                                                               .width = 20,
                                                               .height = 12,
                                                               .levels = 3,
                                                               .layers = 2,
                                                               .is_array = true}));
        for (std::uint32_t level = 0; level < 3; ++level)
            fill(texture.level(level), random);
        texture.metadata.key_values["YLprobe"] = "1";
        for (const yl::Supercompression scheme :
             {yl::Supercompression::none, yl::Supercompression::zstd, yl::Supercompression::zlib})
            print_file(fmt::format("ktx2 {} with {}", f.name, yl::name(scheme)), "ktx2", texture,
                       {.supercompression = scheme});
        print_file(fmt::format("dds {}", f.name), "dds", texture, {});
        const yl::Texture layer = yl::or_exit(yl::single_layer(texture, 1));
        print_file(fmt::format("dds with the old header {}", f.name), "dds", layer,
                   {.legacy_header = true});
        print_meanings(f, layer);
    }
}

/// Files that are sound and files that are not, with what is said of them.
void texture_files(const Places& places) {
    for (const auto& file : files_in(places.seeds / "texture")) {
        print_damaged(
            "texture " + file.filename().string(), file,
            [](Hash& hash, std::span<const std::byte> bytes) {
                const auto read = yl::read_texture(bytes, {.limits = {.max_bytes = 1 << 18}});
                if (read)
                    hash.add_all(read->texture, read->info.remarks);
                else
                    hash.add_all(read.error().kind, read.error().message, read.error().offset);
            });
        for (const bool forgiving : {false, true}) {
            const std::string name = fmt::format("texture {}{}", file.filename().string(),
                                                 forgiving ? ", forgiving" : "");
            const auto read = yl::read_texture(file, {.forgiving = forgiving});
            if (!is_there(name, read))
                continue;
            const yl::TextureShape& shape = read->texture.shape();
            print(name, read->texture, read->info.remarks, read->info.file_format, shape.format,
                  shape.width, shape.height, shape.depth, shape.levels, shape.layers, shape.faces,
                  shape.is_array);
        }
    }
}

}  // namespace

void textures(const Places& places) {
    blocks();
    chains();
    roles();
    rebakes();
    stacks();
    atlases();
    containers();
    texture_files(places);
}

}  // namespace probe
