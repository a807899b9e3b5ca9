#include <yl/bake_cube.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/convert.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/formats.hpp"
#include "bake/same_alpha.hpp"
#include "base/out_of_memory.hpp"
#include "base/progress.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::array<CubeFace, 6> in_order = all_cube_faces;

bool is_light(const Picture& picture) {
    return info(picture.image.format()).is_float();
}

/// A picture in the texture's format.
Result<Picture> prepared(const Picture& picture, Format format) {
    Picture result;
    result.transfer = info(format).transfer;
    result.alpha = picture.alpha;
    YL_TRY(result.image, convert(picture.image.view(), format,
                                 {.source_transfer = picture.transfer,
                                  .target_transfer = result.transfer,
                                  .swizzle = picture.swizzle,
                                  .to_one_channel = ToOneChannel::luminance}));
    return result;
}

std::string joined(const std::vector<std::string>& parts) {
    std::string text;
    for (const std::string& part : parts)
        text += (text.empty() ? "" : "; ") + part;
    return text;
}

Format plain_for(Role role) {
    return role == Role::hdr     ? Format::rgba16_float
           : role == Role::color ? Format::rgba8_srgb
                                 : Format::rgba8_unorm;
}

/// A sky has no alpha; four channels of data may be in use.
Format blocks_for(Role role, BlockFamily family) {
    return block_format_for({.is_opaque = role == Role::color}, role, family);
}

class CubeBaker {
 public:
    CubeBaker(std::span<const Picture* const> pictures, std::span<const std::string> names,
              const CubeBakeOptions& options)
        : sources_(pictures), names_(names), options_(options) {}

    Result<BakedCube> run() {
        if (sources_.size() != 1 && sources_.size() != 6)
            return fail(
                ErrorKind::usage,
                fmt::format("a cube is made of one picture or of six, not of {}", sources_.size()));
        const Role role = options_.role.value_or(is_light(*sources_[0]) ? Role::hdr : Role::color);
        if (role == Role::normal || role == Role::height)
            return fail_at({ErrorKind::usage,
                            fmt::format("a cube map holds color, light or data, not {}: what is "
                                        "seen in all directions lies on no surface",
                                        info(role).name)},
                           "role");
        const Format wanted = wanted_format(options_, plain_for(role), [&](BlockFamily family) {
            return blocks_for(role, family);
        });
        format_ = format_of_chain(wanted);
        SameAlpha same{.pictures = {sources_.begin(), sources_.end()}};
        if (info(role).alpha_is_coverage) {
            YL_TRY(same, with_same_alpha(sources_));
        }
        for (const Picture* source : same.pictures) {
            YL_TRY(Picture picture, prepared(*source, format_));
            picture.alpha = alpha_mode(role, same.alpha);
            pictures_.push_back(std::move(picture));
            report_info(source->info, role);
        }
        YL_TRY(Texture top, sources_.size() == 1 ? from_one() : from_six());
        YL_TRY(top, in_standard_order(std::move(top)));
        report_seams(top);
        for (const std::size_t i : same.copied)
            result_.findings.push_back(premultiplied_copy(named(i)));
        YL_CHECK(finish(std::move(top)));
        result_.texture.metadata.sampler = options_.sampler;
        YL_CHECK(encode_chain(result_.texture, wanted, block_options(options_, role),
                              wanted_family(options_), result_.findings));
        return std::move(result_);
    }

 private:
    /// Of six pictures that say the same, once.
    void report_info(const PictureInfo& info, Role role) {
        for (Finding& finding : check_picture_info(info, role)) {
            const auto is_said = std::ranges::any_of(
                result_.findings, [&](const Finding& f) { return f.problem == finding.problem; });
            if (!is_said)
                result_.findings.push_back(std::move(finding));
        }
    }

    [[nodiscard]] OrderHints hints(std::optional<std::array<CubeFace, 6>> claimed) const {
        return {claimed, options_.top, options_.front};
    }

    Result<Texture> from_one() {
        const Picture& picture = pictures_[0];
        const auto possible = possible_cube_layouts(picture.image.width(), picture.image.height());
        ProgressCounter progress(options_.progress, Phase::assembling, 1);
        YL_CHECK(progress.status());
        YL_TRY(Texture cube, cube_of_picture(picture, options_.source));
        YL_CHECK(progress.finish());
        const CubeLayout layout =
            options_.source.layout ? *options_.source.layout : possible.front();
        const bool has_vowel =
            layout == CubeLayout::angular_map || layout == CubeLayout::octahedral;
        result_.source = fmt::format("{} {}{}", has_vowel ? "an" : "a", name(layout),
                                     options_.source.layout ? "" : ", by its sides");
        report_guess(layout);
        if (!is_cut_layout(layout))
            return cube;
        std::array<ConstImageView, 6> faces;
        for (std::uint32_t i = 0; i < 6; ++i)
            faces[i] = std::as_const(cube).image(0, 0, i);
        YL_TRY(const FaceArrangement arrangement, settled(faces, in_order, true));
        return arranged_cube(faces, arrangement, cube.metadata);
    }

    /// What nobody has said is said here; and what the content contradicts.
    void report_guess(CubeLayout layout) {
        if (layout == CubeLayout::half_panorama)
            result_.findings.push_back(
                {"half-panorama",
                 "half a panorama has nothing below the horizon: its last row goes on down there",
                 "use a full panorama if the ground is visible", FindingLevel::hint});
        if (options_.source.layout)
            return;
        const auto guess = guess_cube_layout(*sources_[0]);
        if (is_cut_layout(layout) || (guess && guess->layout == layout && guess->agrees))
            return;
        result_.findings.push_back(
            {"cube-layout-doubtful",
             fmt::format("the picture was taken for a {} because of its sides, but its content "
                         "contradicts that",
                         name(layout)),
             "say its layout, or use a picture of the whole sky"});
    }

    Result<Texture> from_six() {
        std::array<ConstImageView, 6> images;
        if (options_.source.face_size && options_.prefilter == CubePrefilter::none)
            YL_CHECK(resize_faces(*options_.source.face_size));
        for (std::size_t i = 0; i < 6; ++i)
            images[i] = std::as_const(pictures_[i]).image.view();
        YL_CHECK(check_alike(images));
        report_kinds();
        std::array<std::string, 6> file_names;
        std::copy_n(names_.begin(), std::min<std::size_t>(names_.size(), 6), file_names.begin());
        const auto claimed = faces_by_name(file_names);
        result_.source =
            claimed ? "six pictures, identified by their names" : "six pictures without names";
        TextureMetadata metadata;
        metadata.transfer = pictures_[0].transfer;
        metadata.alpha = pictures_[0].alpha;
        if (claimed && are_game_names(file_names)) {
            YL_TRY(const auto arranged, as_games_name(images, *claimed));
            if (arranged)
                return arranged_cube(images, *arranged, metadata);
        }
        YL_TRY(const FaceArrangement arrangement,
               settled(images, claimed.value_or(in_order), claimed.has_value()));
        return arranged_cube(images, arrangement, metadata);
    }

    /// Square pictures in one size.
    Status resize_faces(std::uint32_t size) {
        for (std::size_t i = 0; i < 6; ++i) {
            Picture& picture = pictures_[i];
            const std::uint32_t width = picture.image.width(), height = picture.image.height();
            if (width == size && height == size)
                continue;
            if (width != height)
                result_.findings.push_back({"face-not-square",
                                            fmt::format("{} is {} x {}: it is resized to a square",
                                                        named(i), width, height),
                                            "check that nothing is cut off",
                                            FindingLevel::warning});
            YL_TRY(picture.image, resize(std::as_const(picture).image.view(), size, size,
                                         {.transfer = picture.transfer, .alpha = picture.alpha}));
        }
        return {};
    }

    /// The way in which a game's names are meant, if one joins and the names by themselves do not.
    Result<std::optional<FaceArrangement>> as_games_name(std::span<const ConstImageView, 6> images,
                                                         const std::array<CubeFace, 6>& claimed) {
        const Transfer transfer = pictures_[0].transfer;
        if (images[0].width < 2)
            return std::nullopt;
        YL_TRY(const FaceOrder as_named, check_face_order(images, transfer, as_claimed(claimed)));
        if (as_named.joins)
            return std::nullopt;
        std::optional<FaceOrder> best;
        for (const FaceArrangement& faces : game_arrangements(claimed)) {
            YL_TRY(const FaceOrder order, check_face_order(images, transfer, faces));
            if (!best || order.misfit < best->misfit)
                best = order;
        }
        constexpr double much_better = 0.5;
        if (!best->joins && best->misfit > much_better * as_named.misfit)
            return std::nullopt;
        result_.source = "six pictures, named as games do";
        result_.order = best;
        result_.changes = differences_in_words(claimed, best->faces);
        result_.followed_edges = true;
        report_joints(*best);
        return best->faces;
    }

    /// A best order whose worst joint shows.
    void report_joints(const FaceOrder& order) {
        if (!order.joins)
            result_.findings.push_back(
                {"cube-seam",
                 fmt::format("the faces nearly join: {} differ by {:.3f} along their edge, in cube "
                             "roots of light",
                             joint_text(order.worst), order.worst.misfit),
                 "look at that edge; a seam may show there"});
    }

    /// The names tell better than numbers which picture is unlike the others.
    Status check_alike(std::span<const ConstImageView, 6> images) const {
        for (std::size_t i = 0; i < 6; ++i) {
            const ConstImageView &image = images[i], &first = images[0];
            if (image.width != image.height)
                return fail(
                    ErrorKind::usage,
                    fmt::format("{} is {} x {}; faces are square, unless a size is asked for",
                                named(i), image.width, image.height));
            if (image.width != first.width)
                return fail(
                    ErrorKind::usage,
                    fmt::format("{} is {} x {} and {} is {} x {}; all six need one size, which can "
                                "be asked for",
                                named(i), image.width, image.height, named(0), first.width,
                                first.height));
        }
        return {};
    }

    /// Pictures of six kinds become one format all the same; but do they belong together?
    void report_kinds() {
        const FormatInfo& first = info(sources_[0]->image.format());
        for (std::size_t i = 1; i < sources_.size(); ++i) {
            const FormatInfo& other = info(sources_[i]->image.format());
            if (other.format == first.format)
                continue;
            const auto has_color = [](const FormatInfo& f) { return f.channel_count > 2; };
            const bool is_alike = has_color(first) == has_color(other) &&
                                  sources_[0]->transfer == sources_[i]->transfer;
            result_.findings.push_back(
                {"face-formats-differ",
                 fmt::format("{} holds {} and {} holds {}: all become {}", named(i), other.name,
                             named(0), first.name, info(format_).name),
                 "check that they belong together",
                 is_alike ? FindingLevel::hint : FindingLevel::warning});
            return;
        }
    }

    [[nodiscard]] std::string named(std::size_t image) const {
        return sources_.size() == 6 && image < names_.size()
                   ? names_[image]
                   : fmt::format("the {} part", name(in_order[image]));
    }

    static FaceArrangement as_claimed(const std::array<CubeFace, 6>& claimed) {
        FaceArrangement faces;
        for (std::size_t image = 0; image < 6; ++image)
            faces[static_cast<std::size_t>(claimed[image])] = {image, Orientation::none};
        return faces;
    }

    [[nodiscard]] std::string joint_text(const FaceJoint& joint) const {
        if (sources_.size() == 1)
            return fmt::format("{} and {}", name(joint.a), name(joint.b));
        return fmt::format("{} as {} and {} as {}", named(joint.image_a), name(joint.a),
                           named(joint.image_b), name(joint.b));
    }

    /// Which image becomes which face: by what is claimed, or by the edges.
    Result<FaceArrangement> settled(std::span<const ConstImageView, 6> images,
                                    const std::array<CubeFace, 6>& claimed, bool is_claimed) {
        const bool must_follow = !is_claimed || options_.reorder;
        if (images[0].width < 2 && !must_follow)
            return as_claimed(claimed);
        const Transfer transfer = pictures_[0].transfer;
        ProgressCounter progress(options_.progress, Phase::ordering, 1);
        YL_CHECK(progress.status());
        YL_TRY(const FaceOrder order, find_face_order(images, transfer, hints(claimed)));
        YL_CHECK(progress.finish());
        YL_TRY(const FaceOrder as_named, check_face_order(images, transfer, as_claimed(claimed)));
        result_.order = order;
        // What nothing names and no edge decides is not a cube.
        if (!is_claimed && !order.joins && !order.is_sure)
            return fail(ErrorKind::usage,
                        fmt::format("the six pictures do not join: even in the best order, {} "
                                    "differ along their edge",
                                    joint_text(order.worst)));
        if (!is_claimed && !order.is_sure)
            return fail(ErrorKind::usage,
                        fmt::format("the edges do not tell the order of the pictures (confidence "
                                    "{:.2f}); name them right, left, top, bottom, front and back",
                                    order.confidence));
        const bool knows_up = is_claimed || (options_.top && options_.front);
        if (!knows_up)
            result_.findings.push_back(
                {"cube-up-unknown",
                 "the pictures join, but nothing tells which of them is above and which ahead",
                 "say which, by their names or by `top` and `front`"});
        // The names may join as well as anything else does.
        constexpr double margin = 1.02, rounding = 1e-4;  // a 40th of a code of 8 bits
        const bool names_will_do = as_named.misfit <= margin * order.misfit + rounding;
        if (is_claimed && names_will_do && !options_.top && !options_.front)
            return as_claimed(claimed);
        const auto words = differences_in_words(claimed, order.faces);
        const bool decides = order.is_sure && (order.joins || must_follow);
        if (is_claimed && !decides) {
            report_unsure(as_named, order);
            return as_claimed(claimed);
        }
        result_.changes = is_claimed ? words : std::vector<std::string>{};
        if (must_follow) {
            result_.followed_edges = true;
            report_joints(order);
            return order.faces;
        }
        result_.findings.push_back(
            {"cube-order-contradicts-names",
             fmt::format("names and edges disagree; by the edges, {} (confidence {:.2f})",
                         joined(words), order.confidence),
             "follow the edges with `reorder`, or rename the pictures"});
        return as_claimed(claimed);
    }

    void report_unsure(const FaceOrder& as_named, const FaceOrder& order) {
        if (options_.reorder)
            result_.findings.push_back(
                {"cube-order-unsure",
                 fmt::format("the edges do not tell a better order (confidence {:.2f}): the names "
                             "are followed",
                             order.confidence),
                 "lay the faces out and look", FindingLevel::hint});
        else if (!as_named.joins)
            result_.findings.push_back(
                {"cube-faces-apart",
                 fmt::format("the faces do not join: {} differ most along their edge",
                             joint_text(as_named.worst)),
                 "lay the faces out and look"});
    }

    Result<Texture> in_standard_order(Texture cube) const {
        const auto is_reoriented = [](Orientation orientation) {
            return orientation != Orientation::none;
        };
        if (std::any_of(options_.orientations.begin(), options_.orientations.end(),
                        is_reoriented)) {
            std::array<ConstImageView, 6> faces;
            FaceArrangement arrangement;
            for (std::uint32_t i = 0; i < 6; ++i) {
                faces[i] = std::as_const(cube).image(0, 0, i);
                arrangement[i] = {i, options_.orientations[i]};
            }
            YL_TRY(cube, arranged_cube(faces, arrangement, cube.metadata));
        }
        if (options_.convention.faces == standard_cube_convention().faces &&
            options_.convention.right_up_ahead == standard_cube_convention().right_up_ahead)
            return cube;
        return with_convention(cube, options_.convention, standard_cube_convention());
    }

    void report_seams(const Texture& cube) {
        if (!result_.findings.empty() || cube.shape().width < 2)
            return;
        std::array<ConstImageView, 6> faces;
        for (std::uint32_t i = 0; i < 6; ++i)
            faces[i] = cube.image(0, 0, i);
        const auto order = check_face_order(faces, cube.metadata.transfer, as_claimed(in_order));
        if (order && !order->joins)
            result_.findings.push_back(
                {"cube-order-doubtful",
                 fmt::format("the faces do not join well: {} and {} differ most along their edge",
                             name(order->worst.a), name(order->worst.b)),
                 "lay the faces out and look; `reorder` finds another order if there is one"});
    }

    Status finish(Texture top) {
        if (options_.prefilter != CubePrefilter::none && !options_.given.empty())
            return fail(ErrorKind::usage, "levels that are given are not prefiltered as well");
        if (options_.prefilter == CubePrefilter::specular) {
            SpecularOptions specular = options_.specular;
            if (options_.progress)
                specular.progress = options_.progress;
            if (options_.levels)
                specular.levels = options_.levels;
            YL_TRY(result_.texture, prefilter_specular(top, specular));
            return {};
        }
        if (options_.prefilter == CubePrefilter::diffuse) {
            YL_TRY(const SphericalHarmonics harmonics, project_to_harmonics(top));
            YL_TRY(result_.texture, prefilter_diffuse(top, options_.specular.face_size.value_or(32),
                                                      options_.progress));
            result_.texture.metadata.key_values[irradiance_note] = harmonics_text(harmonics);
            result_.harmonics = harmonics;
            return {};
        }
        return build_chain(top);
    }

    Status build_chain(const Texture& top) {
        TextureShape shape = top.shape();
        const std::uint32_t most = full_level_count(shape.width, shape.height);
        shape.levels = options_.levels.value_or(most);
        if (shape.levels == 0 || shape.levels > most)
            return fail(ErrorKind::usage, fmt::format("faces of {} texels have 1 to {} levels, not "
                                                      "{}",
                                                      shape.width, most, shape.levels));
        YL_TRY(Texture chain, Texture::create(shape));
        chain.metadata = top.metadata;
        std::copy(top.level(0).begin(), top.level(0).end(), chain.level(0).begin());
        CubeMipOptions mips = options_.mips;
        for (const GivenCubeLevel& given : options_.given) {
            YL_CHECK(place_given(given, chain));
            mips.given_levels |= 1U << given.level;
        }
        if (options_.progress)
            mips.progress = options_.progress;
        YL_CHECK(build_cube_mips(chain, mips));
        result_.texture = std::move(chain);
        return {};
    }

    /// Made like level 0, by the same names, layout and turns.
    Status place_given(const GivenCubeLevel& given, Texture& chain) const {
        const TextureShape& shape = chain.shape();
        if (given.level == 0 || given.level >= shape.levels)
            return fail(ErrorKind::usage,
                        fmt::format("level {} is given, but the chain has levels 1 to {} beside "
                                    "its first",
                                    given.level, shape.levels - 1));
        std::vector<const Picture*> pictures;
        for (const auto& picture : given.pictures)
            pictures.push_back(picture.get());
        CubeBakeOptions options = options_;
        options.levels = 1;
        options.format = format_;
        options.given.clear();
        options.prefilter = CubePrefilter::none;
        options.source.face_size.reset();
        options.progress = {};
        YL_TRY(const BakedCube baked, bake_cube(pictures, names_, options));
        const Texture& level = baked.texture;
        const std::uint32_t side = shape.width_at(given.level);
        if (level.shape().width != side)
            return fail(ErrorKind::usage,
                        fmt::format("level {} has faces of {} texels; it should have {}",
                                    given.level, level.shape().width, side));
        std::copy(level.level(0).begin(), level.level(0).end(), chain.level(given.level).begin());
        return {};
    }

    std::span<const Picture* const> sources_;
    std::span<const std::string> names_;
    const CubeBakeOptions& options_;
    Format format_ = Format::undefined;
    std::vector<Picture> pictures_;
    BakedCube result_;
};

}  // namespace

Result<BakedCube> bake_cube(std::span<const Picture* const> pictures,
                            std::span<const std::string> names,
                            const CubeBakeOptions& options) try {
    for (const Picture* picture : pictures) {
        if (picture == nullptr)
            return fail_at({ErrorKind::usage, "a picture is null"}, "pictures");
        YL_CHECK(check_view(picture->image.view(), "pictures"));
    }
    return CubeBaker(pictures, names, options).run();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
