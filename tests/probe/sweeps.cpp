// What is found and measured as one thing about a texture changes step by step, past every limit; the rules of
// uploads; texts that are nearly right.
#include <algorithm>
#include <cmath>

#include <yl/atlas.hpp>
#include <yl/environment.hpp>
#include <yl/lookup_table.hpp>
#include <yl/names.hpp>
#include <yl/upload_stand_ins.hpp>

#include "hash.hpp"

namespace probe {
namespace {

using yl::Role;

void add_found(Hash& hash, const yl::Texture& texture, const yl::LintOptions& options) {
    const auto report = yl::lint(texture, options);
    if (!report)
        return hash.add(report.error().message);
    for (const yl::Evidence& one : report->found)
        hash.add_all(one.finding, one.place, one.measured, one.limit);
}

/// A texture with levels, whose texels `change` makes out of their place and the waves there.
template <class Change>
yl::Texture changed(yl::Format format, std::uint32_t width, std::uint32_t height,
                    const Change& change) {
    yl::Texture texture = chain_of(format, width, height);
    texture.metadata.transfer = yl::info(format).transfer;
    const yl::ImageView view = texture.image(0);
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x)
            change(x, y, view.row(y).subspan(4 * std::size_t{x}, 4));
    yl::or_exit(yl::build_mips(texture));
    return texture;
}

std::byte code(double value) {
    return static_cast<std::byte>(static_cast<int>(std::clamp(value, 0.0, 1.0) * 255 + 0.5));
}

constexpr int steps = 12;

/// Alpha: how many texels are clear, half clear or of other colours than their neighbours.
void lint_alpha() {
    for (const yl::AlphaUse use : {yl::AlphaUse::opaque, yl::AlphaUse::mask, yl::AlphaUse::blend}) {
        Hash hash;
        for (int step = 0; step <= steps; ++step)
            for (const int kind : {0, 1, 2}) {
                const yl::Texture texture = changed(
                    yl::Format::rgba8_srgb, 64, 48,
                    [&](std::uint32_t x, std::uint32_t y, auto texel) {
                        const std::uint32_t place = (x / 3 + y / 2 * 7) % steps;
                        const bool is_chosen = static_cast<int>(place) < step;
                        texel[3] =
                            is_chosen
                                ? code(std::array{0.0, 0.5, 0.03}[static_cast<std::size_t>(kind)])
                                : std::byte{255};
                        if (is_chosen && kind == 2)
                            std::ranges::fill(texel.first(3), std::byte{0});
                    });
                add_found(hash, texture, {.role = Role::color, .alpha_use = use});
                yl::Texture premultiplied = yl::or_exit(texture.clone());
                premultiplied.metadata.alpha = yl::AlphaMode::premultiplied;
                add_found(hash, premultiplied, {.role = Role::color, .alpha_use = use});
            }
        print(fmt::format("alpha step by step, {}", static_cast<int>(use)), hash.value());
    }
}

/// Normals: longer and shorter ones, steeper ones, some that are none, green the other way.
void lint_normals() {
    Hash hash;
    for (int step = 0; step <= steps; ++step)
        for (const int kind : {0, 1, 2, 3}) {
            const double amount = static_cast<double>(step) / steps;
            const yl::Texture texture = changed(
                yl::Format::rgba8_unorm, 64, 64, [&](std::uint32_t x, std::uint32_t y, auto texel) {
                    const double u = std::abs(static_cast<double>(x % 16) - 8) / 8 - 0.5;
                    const double v = std::abs(static_cast<double>(y % 32) - 16) / 16 - 0.5;
                    const double tilt = kind == 1 ? 2.5 * amount : 0.6;
                    const double p = (x % 16 < 8 ? tilt : -tilt) * (u > 0 ? 1 : 0.7);
                    const double q = (y % 32 < 16 ? tilt : -tilt) * (v > 0 ? 1 : 0.7);
                    const double one = std::sqrt(p * p + q * q + 1);
                    const double length = kind == 0 ? 0.7 + 0.6 * amount : 1;
                    const double green = kind == 3 && amount > 0.5 ? -q : q;
                    texel[0] = code(0.5 + 0.5 * length * p / one);
                    texel[1] = code(0.5 + 0.5 * length * green / one);
                    texel[2] = code(0.5 + 0.5 * length / one);
                    if (kind == 2 && (x * 5 + y * 3) % steps < static_cast<std::uint32_t>(step))
                        std::ranges::fill(texel.first(3), std::byte{30});
                    texel[3] = std::byte{255};
                });
            for (const Role role : {Role::normal, Role::color})
                add_found(hash, texture, {.role = role});
        }
    print("normals step by step", hash.value());
}

/// Colours: seams, spots that repetition shows, few tones, contrast, small sides.
void lint_colors() {
    const yl::Sampler repeated = yl::or_exit(yl::parse_sampler("wrap=repeat"));
    const yl::Sampler sharp = yl::or_exit(yl::parse_sampler("mag=nearest"));
    for (const int kind : {0, 1, 2, 3, 4}) {
        Hash hash;
        for (int step = 0; step <= steps; ++step) {
            const double amount = static_cast<double>(step) / steps;
            const yl::Texture texture = changed(
                yl::Format::rgba8_srgb, 72, 56, [&](std::uint32_t x, std::uint32_t y, auto texel) {
                    for (std::size_t c = 0; c < 3; ++c) {
                        double value = std::to_integer<int>(texel[c]) / 255.0;
                        const double across = x / 71.0, down = y / 55.0;
                        if (kind == 0)
                            value = 0.3 + 0.1 * value + amount * 0.5 * across;
                        else if (kind == 1)
                            value = 0.3 + 0.1 * value + amount * 0.5 * down;
                        else if (kind == 2)
                            value =
                                0.4 + 0.05 * value +
                                (std::hypot(across - 0.5, down - 0.4) < 0.15 ? 0.5 * amount : 0);
                        else if (kind == 3)
                            value = std::floor(value * (1 + step)) / (1 + step);
                        else
                            value = 0.5 + (value - 0.5) * amount;
                        texel[c] = code(value);
                    }
                    texel[3] = std::byte{255};
                });
            add_found(hash, texture, {.role = Role::color, .sampler = repeated});
            add_found(hash, texture, {.role = Role::color, .sampler = sharp});
            add_found(hash, texture, {.role = Role::data});
        }
        print(fmt::format("colours step by step, {}", kind), hash.value());
    }
    Hash sizes;
    for (std::uint32_t side = 1; side <= 66; side += side < 10 ? 1 : 7)
        for (const auto& [width, height] : {std::pair{side, side}, {side, 40U}, {40U, side}}) {
            const yl::Texture texture = changed(yl::Format::rgba8_srgb, width, height,
                                                [](std::uint32_t, std::uint32_t, auto) {});
            for (const yl::RoleInfo& role : yl::all_roles())
                add_found(sizes, texture, {.role = role.role, .sampler = repeated});
        }
    print("findings side by side", sizes.value());
}

/// Packed channels: what is between 0 and 1 in one and in two of them.
void lint_packed() {
    using yl::Channel;
    for (const std::pair<Channel, Channel>& pair :
         {std::pair{Channel::blue, Channel::green}, {Channel::red, Channel::blue}}) {
        const Channel metalness = pair.first, other = pair.second;
        Hash hash;
        constexpr std::uint32_t all = 20;
        for (std::uint32_t step = 0; step <= all; ++step)
            for (std::uint32_t rest = 0; rest < 3; ++rest) {
                const yl::Texture texture =
                    changed(yl::Format::rgba8_unorm, 40, 20,
                            [&](std::uint32_t x, std::uint32_t y, auto texel) {
                                const std::uint32_t place = (x + 7 * y) % all;
                                texel[static_cast<std::size_t>(metalness)] =
                                    place < step ? std::byte{128} : std::byte{255};
                                texel[static_cast<std::size_t>(other)] =
                                    place < rest ? std::byte{90} : std::byte{0};
                                texel[3] = std::byte{255};
                            });
                add_found(
                    hash, texture,
                    {.role = Role::data, .packed = {.roughness = other, .metalness = metalness}});
            }
        print(fmt::format("packed channels step by step, {}", static_cast<int>(metalness)),
              hash.value());
    }
}

void measures() {
    constexpr yl::Format formats[] = {yl::Format::rgba8_srgb,   yl::Format::rgb8_unorm,
                                      yl::Format::r8_unorm,     yl::Format::rg16_unorm,
                                      yl::Format::rgba16_float, yl::Format::rgba8_snorm};
    Hash small, pairs;
    for (const yl::Format format : formats)
        for (std::uint32_t width = 1; width < 12; width += 2)
            for (std::uint32_t height = 1; height < 9; height += 3) {
                const yl::Image a = waves_in(format, width, height);
                yl::Image b = waves_in(format, width, height);
                b.view().row(height - 1)[b.view().row(0).size() - 1] ^= std::byte{9};
                const yl::ChannelUse use = yl::analyse_channels(a.view());
                small.add_all(use.is_gray, use.is_opaque);
                if (const auto off = yl::measure_difference(a.view(), b.view()))
                    small.add_all(off->psnr, off->max);
                if (const auto found = yl::compare_pictures(a.view(), b.view(), 1))
                    small.add_all(found->pixels_beyond, found->worst_x, found->worst_y,
                                  found->mean);
            }
    for (const yl::Format one : formats)
        for (const yl::Format other : formats) {
            const yl::Image a = waves_in(one, 24, 16);
            yl::Image b = waves_in(other, 24, 16);
            b.view().row(3)[5] ^= std::byte{0x20};
            for (const yl::AlphaMode alpha : {yl::AlphaMode::straight, yl::AlphaMode::data}) {
                const auto off = yl::measure_difference(a.view(), b.view(), {.alpha = alpha});
                if (off)
                    pairs.add_all(off->channels, std::isnan(off->psnr) ? -1.0 : off->psnr, off->max,
                                  off->ssim, off->worst_x, off->worst_y, off->hidden_texels);
                else
                    pairs.add(off.error().message);
            }
        }
    print("measures of small pictures", small.value());
    print("measures of pairs of formats", pairs.value());
}

/// Boxes of updates, in and beside a texture, for each device.
void updates() {
    for (const yl::DeviceProfile& profile : yl::built_in_profiles()) {
        Hash hash;
        for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::bc1_srgb})
            for (const yl::TextureShape& shape :
                 {yl::TextureShape{.format = format, .width = 40, .height = 24, .levels = 4},
                  yl::TextureShape{.format = format,
                  .width = 16,
                  .height = 16,
                  .levels = 3,
                  .layers = 2,
                  .faces = 6,
                  .is_array = true},
                  yl::TextureShape{
                      .format = format, .width = 16, .height = 8, .depth = 4, .levels = 2}}) {
                const auto whole = yl::plan_upload(shape, profile);
                if (!whole)
                    continue;
                for (std::uint32_t at : {0U, 4U, 8U, 15U, 16U, 40U})
                    for (std::uint32_t size : {0U, 1U, 4U, 8U, 24U, 40U})
                        for (const yl::TextureBox& box :
                             {yl::TextureBox{.x = at, .width = size, .height = 4},
                              yl::TextureBox{.y = at, .width = 4, .height = size},
                              yl::TextureBox{.z = at, .width = 4, .height = 4, .depth = size},
                              yl::TextureBox{.level = at / 4,
                              .layer = at / 8,
                              .face = at / 3,
                              .width = size,
                              .height = 4}}) {
                            const auto plan = yl::plan_update(*whole, box, profile, 64);
                            if (plan)
                                hash.add_all(plan->regions.size(), plan->batches.size(),
                                             plan->staging_bytes);
                            else
                                hash.add_all(plan.error().message, plan.error().place);
                        }
            }
        for (const std::size_t count :
             {0UL, 15UL, 16UL, 17UL, 31UL, 32UL, 33UL, 2048UL, 4000UL, 4001UL})
            hash.add_all(yl::check_counts(count, 1, profile), yl::check_counts(1, count, profile));
        print("updates for " + profile.name, hash.value());
    }
}

/// What samplers mean for textures of few texels and levels.
void small_shapes() {
    Hash hash;
    for (const char* words : {"", "mip=none", "mip=none mag=nearest min=nearest", "aniso=8",
                              "lod=1..2", "lod=5..9", "bias=3", "compare=less"})
        for (const std::uint32_t width : {1U, 2U, 3U, 16U})
            for (const std::uint32_t height : {1U, 2U, 5U, 16U})
                for (std::uint32_t levels = 1; levels <= yl::full_level_count(width, height);
                     ++levels)
                    for (const yl::LevelRange range :
                         {yl::LevelRange{}, {0, 1}, {0, 2}, {1, 1}, {levels, 1}, {0, 1001}}) {
                        const yl::TextureShape shape{.format = yl::Format::rgba8_srgb,
                                                     .width = width,
                                                     .height = height,
                                                     .levels = levels};
                        const yl::Sampler sampler = yl::or_exit(yl::parse_sampler(words));
                        hash.add_all(yl::is_complete(shape, sampler, range),
                                     yl::check_sampler(shape, sampler, range));
                    }
    print("samplers of small shapes", hash.value());
}

/// A plan carried out to its end on textures without a device, and calls that break a rule.
void stand_ins() {
    yl::Texture texture = chain_of(yl::Format::rgba8_srgb, 20, 12);
    yl::or_exit(yl::build_mips(texture));
    const yl::UploadPlan plan =
        yl::or_exit(yl::plan_upload(texture, yl::or_exit(yl::find_profile("metal"))));
    for (const yl::MetalStorage storage :
         {yl::MetalStorage::shared, yl::MetalStorage::device_private}) {
        yl::MetalStandIn stand_in = yl::or_exit(yl::MetalStandIn::create(plan.shape, storage));
        Hash hash;
        const std::span<const std::byte> bytes = texture.level(0);
        const auto said = [&](const yl::Status& status) {
            hash.add(status ? std::string("taken") : status.error().message);
        };
        for (const std::uint32_t at : {0U, 1U, 19U, 20U})
            for (const std::uint32_t size : {0U, 1U, 12U, 20U})
                for (const std::uint64_t pitch : {0ULL, 4ULL, 80ULL, 84ULL, 81ULL})
                    for (const std::uint32_t level : {0U, 1U, 4U, 5U}) {
                        said(stand_in.replace_region({.x = at, .width = size, .height = 2}, level,
                                                     0, bytes, pitch, 0));
                        said(stand_in.copy_from_buffer(bytes, at * 4, pitch, 0,
                                                       {.y = at, .width = size, .height = 1},
                                                       level / 5, level));
                    }
        hash.add_all(stand_in.is_complete(), stand_in.contents());
        print(fmt::format("a stand-in of Metal, {}", static_cast<int>(storage)), hash.value());
    }
    for (const yl::Direct3d11Usage usage :
         {yl::Direct3d11Usage::standard, yl::Direct3d11Usage::staging}) {
        yl::Direct3d11StandIn stand_in =
            yl::or_exit(yl::Direct3d11StandIn::create(plan.shape, usage));
        Hash hash;
        for (const std::uint32_t subresource : {0U, 2U, 4U, 5U})
            for (const std::uint32_t left : {0U, 1U, 19U})
                for (const std::uint32_t right : {0U, 2U, 20U, 21U})
                    for (const std::uint32_t pitch : {0U, 8U, 80U, 100U}) {
                        const yl::Status status =
                            stand_in.update_subresource(subresource,
                                                        yl::Direct3d11Box{.left = left,
                                                                          .top = left / 2,
                                                                          .right = right,
                                                                          .bottom = right / 2,
                                                                          .back = 1},
                                                        {texture.level(0), pitch, 0});
                        hash.add(status ? std::string("taken") : status.error().message);
                    }
        for (std::uint32_t subresource = 0; subresource < 6; ++subresource) {
            auto mapped = stand_in.map(subresource);
            if (mapped)
                hash.add_all(mapped->row_pitch, mapped->depth_pitch, mapped->memory.size());
            else
                hash.add(mapped.error().message);
            const yl::Status again = stand_in.map(0) ? yl::Status{} : stand_in.unmap(subresource);
            hash.add(again ? std::string("unmapped") : again.error().message);
        }
        hash.add_all(stand_in.is_complete(), stand_in.contents());
        print(fmt::format("a stand-in of Direct3D 11, {}", static_cast<int>(usage)), hash.value());
    }
}

/// Levels, layers, faces and slices: the last ones, and those behind them.
void ends() {
    Hash hash;
    const auto add = [&](const auto& result) {
        hash.add(result ? std::string("there") : result.error().message);
    };
    using yl::Format;
    for (const yl::TextureShape& shape :
         {yl::TextureShape{.format = Format::rgba8_srgb, .width = 16, .height = 8, .levels = 3},
          yl::TextureShape{.format = Format::rgba8_srgb,
          .width = 8,
          .height = 8,
          .levels = 2,
          .layers = 3,
          .faces = 6,
          .is_array = true},
          yl::TextureShape{
              .format = Format::rgba8_srgb, .width = 8, .height = 16, .depth = 5, .levels = 4}}) {
        yl::Texture texture = yl::or_exit(yl::Texture::create(shape));
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            std::ranges::fill(texture.level(level), std::byte{40});
        const auto bytes = yl::or_exit(yl::texture_file_bytes("ktx2", texture));
        const auto stream = yl::or_exit(yl::TextureStream::open(bytes));
        for (std::uint32_t at = 0; at < 8; ++at) {
            add(yl::single_layer(texture, at));
            add(yl::single_slice(texture, at));
            add(yl::without_top_levels(texture, at));
            add(yl::measure_cube_seams(texture, at));
            add(yl::measure_cube_seams(texture, 0, at));
            add(yl::project_to_harmonics(texture, at));
            add(yl::picture_of_cube(texture, yl::CubeLayout::row, at, 0));
            add(yl::picture_of_cube(texture, yl::CubeLayout::octahedral, 0, at));
            for (const yl::SubresourceIndex& place :
                 {yl::SubresourceIndex{.level = at}, yl::SubresourceIndex{.layer = at},
                  yl::SubresourceIndex{.face = at}, yl::SubresourceIndex{.slice = at},
                  yl::SubresourceIndex{.level = 1, .slice = at}}) {
                add(yl::picture_of_surface(texture, place));
                add(yl::shape_of_part(shape, place.level, place.layer, place.face));
                add(stream.surface(place.level, place.layer, place.face, place.slice));
            }
            std::vector<std::byte> target(at < shape.levels ? shape.level_bytes(at) : 0);
            add(stream.read_level(at, target));
        }
    }
    print("levels, layers, faces and slices to their ends", hash.value());
}

/// Texts with each character left out, doubled or another.
template <class Parse>
void nearly(const std::string& name, std::string_view text, const Parse& parse) {
    Hash hash;
    const auto add = [&](const std::string& other) { parse(hash, other); };
    add(std::string(text));
    for (std::size_t i = 0; i <= text.size(); ++i) {
        add(std::string(text.substr(0, i)));
        if (i == text.size())
            break;
        for (const char other : {'0', '9', '-', '.', ' ', '\n', 'a', '='}) {
            std::string changed(text);
            changed[i] = other;
            add(changed);
        }
        std::string without(text), doubled(text);
        without.erase(i, 1);
        doubled.insert(i, 1, text[i]);
        add(without);
        add(doubled);
    }
    print("nearly: " + name, hash.value());
}

void texts() {
    const auto add_error = [](Hash& hash, const yl::Error& error) {
        hash.add_all(error.kind, error.message, error.place);
    };
    nearly("sampler",
           "mag=nearest wrap=repeat,mirror lod=0.5..3 aniso=8 bias=-1 border=1,0,0,1 compare=less",
           [&](Hash& hash, const std::string& text) {
               const auto parsed = yl::parse_sampler(text);
               parsed ? hash.add(yl::sampler_text(*parsed)) : add_error(hash, parsed.error());
           });
    nearly("kernel", "kaiser:3,4.5", [&](Hash& hash, const std::string& text) {
        const auto parsed = yl::parse_kernel(text);
        parsed ? hash.add(yl::kernel_text(*parsed)) : add_error(hash, parsed.error());
    });
    nearly("edges", "repeat,clamp", [&](Hash& hash, const std::string& text) {
        const auto parsed = yl::parse_edges(text);
        parsed ? hash.add(yl::edges_text(*parsed)) : add_error(hash, parsed.error());
    });
    nearly("swizzle", "rg01", [](Hash& hash, const std::string& text) {
        const auto parsed = yl::parse_swizzle(text);
        hash.add(parsed ? yl::swizzle_text(*parsed) : std::string());
    });
    nearly("convention", "+x-z-y -x+z-y +y+x+z -y+x-z +z+x-y -z-x-y ahead +x+y+z",
           [&](Hash& hash, const std::string& text) {
               const auto parsed = yl::parse_cube_convention(text);
               parsed ? hash.add(yl::cube_convention_text(*parsed))
                      : add_error(hash, parsed.error());
           });
    nearly("lookup table",
           "TITLE \"a\"\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 2 1\nLUT_1D_SIZE 2\n0 0 0\n1 0.5 1\n",
           [&](Hash& hash, const std::string& text) {
               const auto parsed = yl::parse_lookup_table(text);
               parsed ? hash.add_all(parsed->texture, parsed->input_max)
                      : add_error(hash, parsed.error());
           });
}

/// Names of six faces, and names that are like others.
void names() {
    constexpr std::array<std::array<const char*, 6>, 8> families = {{
        {"right", "left", "top", "bottom", "front", "back"},
        {"posx", "negx", "posy", "negy", "posz", "negz"},
        {"px", "nx", "py", "ny", "pz", "nz"},
        {"sky_rt", "sky_lf", "sky_up", "sky_dn", "sky_ft", "sky_bk"},
        {"0", "1", "2", "3", "4", "5"},
        {"east.1", "west.1", "up.1", "down.1", "north.1", "south.1"},
        {"a+x", "a-x", "a+y", "a-y", "a+z", "a-z"},
        {"right", "left", "top", "bottom", "front", "front"},
    }};
    Hash hash;
    for (const auto& family : families)
        for (std::size_t shift = 0; shift < 6; ++shift) {
            std::array<std::string, 6> list;
            for (std::size_t i = 0; i < 6; ++i)
                list[i] = fmt::format("{}.png", family[(i + shift) % 6]);
            const auto faces = yl::faces_by_name(list);
            hash.add_all(faces.has_value(), yl::are_game_names(list));
            if (faces)
                hash.add(*faces);
        }
    const std::string known[] = {"mirror", "repeat", "clamp-to-edge", "clamp-to-border"};
    for (const char* word : {"", "m", "miror", "Mirror", "repaet", "clamp", "clamp-to-edges", "zzz",
                             "*r*", "m?rror", "clamp-*-edge"}) {
        for (const std::string& one : known)
            hash.add_all(yl::letters_apart(word, one), yl::matches_pattern(one, word));
        hash.add(yl::nearest_name(word, known));
    }
    print("names of faces and names alike", hash.value());
}

}  // namespace

void sweeps(const Places&) {
    lint_alpha();
    lint_normals();
    lint_colors();
    lint_packed();
    measures();
    updates();
    small_shapes();
    stand_ins();
    ends();
    texts();
    names();
}

}  // namespace probe
