// Pictures and textures that commands begin with, and the options that overrule what files say of
// them.
#pragma once

#include "session.hpp"

namespace ylat {

/// The options' texts.
struct InputChoices {
    std::string role = {}, alpha = {}, transfer = {}, profile = "apply", part = {};
};

/// What they mean; what nobody says is left out.
struct InputOptions {
    std::optional<yl::Role> role = {};
    std::optional<yl::AlphaMode> alpha = {};
    std::optional<yl::Transfer> transfer = {};
    yl::ProfileUse profile = yl::ProfileUse::apply;
    std::string part = {};
    /// Whether the command itself goes by them; texture files mostly say themselves what they hold.
    bool uses_role = false, uses_alpha = false;
};

/// When --role, --alpha and --transfer mean something to a command.
struct InputRules {
    std::vector<OptionRule> role = {}, alpha = {}, transfer = {};
};

/// --role, --alpha and --transfer.
[[nodiscard]] OptionTable input_options(InputChoices& choices, InputRules rules = {});

/// --profile and --part, of commands that make something of pictures; `has_profile` is their fact.
[[nodiscard]] OptionTable picture_options(InputChoices& choices, Facts has_profile);
/// Whether any picture said of its colours that they are not sRGB's.
[[nodiscard]] bool tells_of_profile(const yl::Findings& findings);

[[nodiscard]] yl::Result<InputOptions> parse_inputs(const InputChoices& choices);

/// An error where a part of a texture file is asked for.
[[nodiscard]] yl::Status refuse_part(const std::string& path, const std::string& part);

enum class FileKind : std::uint8_t { picture, texture };

/// What a file's first bytes say it is; an error when it cannot be read or is neither.
[[nodiscard]] yl::Result<FileKind> file_kind(const std::string& path);

/// A picture; what its file leaves open or says in vain is noted.
[[nodiscard]] yl::Result<yl::Picture> open_picture(const Session& session, const std::string& path,
                                                   const InputOptions& options = {});

/// The same; a picture inside of a texture file is level 0 of its first surface, which is noted
/// when there are others. What a picture's file says is left to whoever uses it.
[[nodiscard]] yl::Result<yl::Picture> picture_of(const Session& session, const std::string& path,
                                                 const InputOptions& options = {});

/// All frames of an animation, or pages of a file; one picture of any other file.
[[nodiscard]] yl::Result<yl::PictureFrames> frames_of(const Session& session,
                                                      const std::string& path,
                                                      const InputOptions& options = {});

/// A texture file, or a picture that is baked on the spot by its role; what is odd is noted.
[[nodiscard]] yl::Result<yl::Texture> open_texture(const Session& session, const std::string& path,
                                                   const InputOptions& options = {});

/// The same of cubes: pictures that hold a whole one are cut.
[[nodiscard]] yl::Result<yl::Texture> open_cube(const Session& session, const std::string& path,
                                                const InputOptions& options = {});

/// A texture as it is looked at: row 0 at the top, decoded where its rows have to be turned.
[[nodiscard]] yl::Result<yl::Texture> upright(yl::Texture texture);

/// Notes that only one layer, slice or face of a texture is used, where it has more.
void note_first_surface(const Session& session, const yl::TextureShape& shape,
                        const std::string& path, bool one_face = false);

/// What was odd about a texture file, as findings.
[[nodiscard]] yl::Findings file_findings(const yl::TextureFileInfo& info);

}  // namespace ylat
