// A page that shows textures with all that is known about them, to open in a browser or send to
// somebody. Needs YellowLattice::report.
//
//     yl::ReportTexture wall = {.name = "wall.ktx2", .texture = &texture};
//     wall.lint = yl::or_exit(yl::lint(texture));
//     const std::array parts = {yl::or_exit(yl::report_part(wall))};
//     std::string page = yl::or_exit(yl::report_page({.textures = parts}));
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/lint.hpp>
#include <yl/sampler.hpp>
#include <yl/texture.hpp>

namespace yl {

/// The version of the page's data, and of what `report_json` gives: raised when a member changes its
/// meaning or goes.
inline constexpr int report_version = 1;

/// How a texture came to be.
struct ReportBuild {
    std::vector<std::string> inputs = {};  ///< the files that it is made of
    std::string source = {};               ///< "built", "cache"
    double seconds = 0;                    ///< that it took
    std::string state = {};                ///< "up to date", "input changed"
};

/// What goes into the page of one texture. Names and sentences may hold anything: the page shows them
/// as text.
struct ReportTexture {
    std::string name = {};             ///< as the page calls it
    std::string file = {};             ///< where it lies, if it does
    std::string file_format = {};      ///< "KTX 2.0", "PNG"
    std::uint64_t file_bytes = 0;      ///< 0: unknown
    bool is_picture = false;           ///< the file is a picture, and the texture was made of it
    const Texture* texture = nullptr;  ///< row 0 at the top; only used during the call
    /// What it was compressed from: as many levels, layers and faces of the same sizes, not
    /// compressed. May be null.
    const Texture* source = nullptr;
    std::string source_name = {};
    std::optional<ReportBuild> build = {};  ///< where a batch made it
    LintReport lint = {};
    /// Beside each finding, the command that mends it; empty where there is none.
    std::vector<std::string> commands = {};
    /// How it is sampled at first; by default as its metadata says, or trilinearly.
    std::optional<Sampler> sampler = {};
};

/// How much of it. All members are optional.
struct ReportOptions {
    /// What its texels may take. Of larger textures the first levels are left out, or a smaller
    /// picture is shown; where the page becomes too large, more levels are left out. It says so.
    std::uint64_t max_bytes = std::uint64_t{8} << 20;
};

/// One texture, ready for a page.
class YL_API ReportPart {
 public:
    /// Its data as JSON, without texels.
    [[nodiscard]] std::string json() const;

 private:
    friend struct ReportAccess;
    std::string facts_ = {};     ///< JSON, without what is shown
    std::string drawings_ = {};  ///< JSON
    std::vector<std::string> levels_ =
        {};  ///< JSON of the texels of each level, from `first_level_`
    std::uint32_t first_level_ = 0;
    bool is_light_ = false, is_scaled_ = false;
};

/// Measures a texture, draws it and packs its texels. Parts can be made at the same time in several
/// threads. Fails with `ErrorKind::usage` for a texture that is not there or a source of other
/// sizes, where blocks cannot be decoded, and without memory.
[[nodiscard]] YL_API Result<ReportPart> report_part(const ReportTexture& texture,
                                                    const ReportOptions& options = {});

/// A texture in a material of a model.
struct ReportBinding {
    std::string slot = {};  ///< "base color"
    std::optional<std::size_t> texture =
        {};                    ///< index in `ReportContent::textures`, if it is there
    std::string image = {};    ///< the name of its image
    std::string sampler = {};  ///< in its text form
};

/// A material and what it binds.
struct ReportMaterial {
    std::string name = {};                     ///< as the page calls it
    std::vector<ReportBinding> bindings = {};  ///< in any order
};

/// A model, as its page shows it.
struct ReportModel {
    std::string name = {}, file = {};
    std::uint64_t triangles = 0;
    std::vector<ReportMaterial> materials = {};
    Findings findings = {};
    Image picture = {};  ///< `rgba8-srgb`; may be empty
};

/// A file that could not be shown, and why.
struct ReportFailure {
    std::string file = {}, problem = {};
};

/// All of a report.
struct ReportContent {
    std::string title = "Textures";
    /// Of the page. Where the textures take more, those that take most lose their largest levels.
    std::uint64_t max_bytes = std::uint64_t{38} << 20;
    std::span<const ReportPart> textures = {};
    std::span<const ReportModel> models = {};
    std::span<const ReportFailure> failures = {};
    /// An earlier page, or its data as JSON: the page says what changed since. Only used during the
    /// call; may be empty.
    std::string_view before = {};
};

/// One self-contained HTML file in UTF-8: no other file and no network is needed to show it. Fails
/// where a model's picture cannot be encoded, with `ErrorKind::malformed` where `before` is no report,
/// and without memory.
[[nodiscard]] YL_API Result<std::string> report_page(const ReportContent& content);

/// The data of the page without texels and pictures, as one JSON document;
/// docs/guide/report.schema.json describes it. Fails as `report_page` does.
[[nodiscard]] YL_API Result<std::string> report_json(const ReportContent& content);

}  // namespace yl
