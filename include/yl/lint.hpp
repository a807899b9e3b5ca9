// What will look wrong about a texture, measured on its texels, before anything is drawn.
//
//     yl::TextureFile wall = yl::or_exit(yl::read_texture("wall.ktx2"));
//     for (const yl::Evidence& found : yl::or_exit(yl::lint(wall.texture)).found)
//         std::printf("%s\n", found.finding.problem.c_str());
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/device_profile.hpp>
#include <yl/finding.hpp>
#include <yl/format.hpp>
#include <yl/picture.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>
#include <yl/texture.hpp>

namespace yl {

/// What a kind of finding means, wherever it was made.
struct FindingInfo {
    FindingCode code;
    FindingLevel level = FindingLevel::warning;  ///< as a rule; a mild case may be a hint
    std::string_view seen;                       ///< what will be seen, as a sentence
    std::string_view basis;                      ///< what it is judged by, as a sentence
    std::string_view remedy;                     ///< what to do, as a sentence
};

/// Every kind of finding of the library, in the order of their codes.
[[nodiscard]] YL_API std::span<const FindingInfo> all_findings();
/// The kind with this code; null if there is none.
[[nodiscard]] YL_API const FindingInfo* find_finding(std::string_view code);

/// What the channels of a packed texture hold: of glTF's occlusion, roughness and metalness those are
/// red, green and blue.
struct PackedChannels {
    std::optional<Channel> occlusion = {}, roughness = {}, metalness = {};

    friend bool operator==(const PackedChannels&, const PackedChannels&) = default;
};

/// What is known about a texture and its use. All members are optional.
struct LintOptions {
    /// What it is for; by default what its texels and format suggest.
    std::optional<Role> role = {};
    /// How it is sampled; by default as its metadata says. Without either nothing is said about
    /// sampling.
    std::optional<Sampler> sampler = {};
    /// The device that has to take it.
    std::optional<DeviceProfile> profile = {};
    /// What each channel holds, of a texture that packs several values.
    PackedChannels packed = {};
    /// The block format that it is to be stored in: a sample is encoded, to see whether that is
    /// enough for it.
    std::optional<Format> format = {};
    /// What the material makes of alpha.
    std::optional<AlphaUse> alpha_use = {};
    /// For a roughness map: the normal map of the same surface, whose grain its levels have to make
    /// up for. Only used during the call.
    const Texture* normals = nullptr;
};

/// A finding with the number behind it.
struct Evidence {
    Finding finding = {};
    std::string place = {};  ///< "level 3", "face -X"; empty: the texture as a whole
    double measured = 0;     ///< what was measured; its unit is in the problem's sentence
    double limit = 0;        ///< beyond which there is a finding
};

/// What was found, the worst first.
struct LintReport {
    Role role = Role::color;  ///< that it was looked at in: as given, or as its content suggests
    std::vector<Evidence> found = {};
};

/// Measures a texture. Levels are compared with those above, layer by layer and face by face; other
/// checks look at the first level. Fails if blocks cannot be decoded, or without memory.
[[nodiscard]] YL_API Result<LintReport> lint(const Texture& texture,
                                             const LintOptions& options = {});

/// Measures a picture before it becomes a texture.
[[nodiscard]] YL_API Result<LintReport> lint(const Picture& picture,
                                             const LintOptions& options = {});

/// What is kept of a texture to compare others with it: a few kilobytes.
struct LintTraits {
    std::vector<float> edges = {};  ///< where it has edges, roughly; nothing of small or even ones
    std::vector<float> sky = {};    ///< of a cube: its light in each direction, roughly
};

/// Measures the first layer. Fails with `ErrorKind::usage` for an empty texture, if blocks cannot be
/// decoded, or without memory.
[[nodiscard]] YL_API Result<LintTraits> lint_traits(const Texture& texture);
[[nodiscard]] YL_API Result<LintTraits> lint_traits(const Picture& picture);

/// What is wrong about a texture beside another of the same thing: normals that are upside down
/// beside the colours of their surface, a blurred sky that is turned or mirrored beside the sharp one.
/// `other_name` is for the sentence.
[[nodiscard]] YL_API std::optional<Evidence> compare_traits(const LintTraits& traits,
                                                            const LintTraits& other,
                                                            std::string_view other_name);

}  // namespace yl
