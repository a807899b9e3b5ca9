// The command bake: what was given, and what it does with that.
#pragma once

#include "arguments.hpp"
#include "bake_many.hpp"
#include "blocks.hpp"
#include "inputs.hpp"

namespace ylat {

enum BakeFact : Facts {
    to_dds = 1U << 0U,
    to_ktx2 = 1U << 13U,
    role_of_numbers = 1U << 1U,    ///< data or mask
    makes_levels = 1U << 3U,       ///< smaller than level 0
    makes_many_levels = 1U << 4U,  ///< two and more of them
    filters = 1U << 5U,            ///< levels, or a picture on its way to another size
    rings = 1U << 6U,              ///< by a kernel that can
    rounds = 1U << 7U,             ///< to integers
    has_alpha = 1U << 11U,         ///< that is not 1 everywhere
    tests_alpha = 1U << 12U,       ///< or the first channel of what has none
    is_light = 1U << 2U,
    role_matters = 1U << 14U,
    looks_beyond = 1U << 15U,  ///< the edges, by a kernel wider than a box
    averages_by_role = 1U << 16U,
    stacks = 1U << 17U,  ///< several pictures
    bakes_one = 1U << 18U,
    is_flat = 1U << 19U,  ///< no volume
    differs_in_size = 1U << 20U,
    keeps_array = 1U << 21U,
    cuts_strip = 1U << 24U,     ///< one picture into the slices of a volume
    has_frames = 1U << 27U,     ///< in some input
    bakes_many = 1U << 26U,     ///< into a folder, each by itself
    has_profile = 1U << 25U,    ///< a picture, of colours
    exceeds_size = 1U << 22U,   ///< that is asked for
    has_odd_sides = 1U << 23U,  ///< no powers of two
    reads_picture = 1U << 8U,   ///< one, no texture
    reads_rows = 1U << 28U,     ///< of that, into a file
    stores_levels = 1U << 9U,   ///< a picture, more than one
};

inline constexpr const char* chain_heading = "The mip chain";
/// The key of the seconds that each layer is shown, in a texture's key-value pairs.
inline constexpr const char* frame_times_note = "YLframeSeconds";

/// A texture, and what became of those of an input that is one.
struct Made {
    yl::Baked baked = {};  ///< without the texels where the file is there already
    yl::TextureShape shape = {};
    yl::TextureMetadata metadata = {};
    std::optional<std::uint64_t> file_bytes = {};  ///< of a file that was written row by row
    bool flowed = false;                           ///< so was the picture read
    bool is_texture = false;
    bool keeps_texels = false;
    bool is_relabelled = false;                     ///< says something else of its texels
    bool is_unequal = false;                        ///< of pictures of several sizes
    bool has_frames = false;                        ///< some input has several
    bool has_levels = false;                        ///< the picture's file stores several
    std::vector<double> seconds = {};               ///< of each frame, where known
    std::array<std::uint32_t, 2> source_size = {};  ///< 0: not known
};

struct Bake {
    Session& session;
    Command command;
    std::vector<std::string> paths = {};
    std::string output = {};
    InputChoices inputs = {};
    std::string format = {};
    std::string levels = "full";
    std::string origin = "top";
    std::string supercompression = "none";
    std::string sampler = {};
    std::string filter = {}, edges = {}, reduction = "average", power_of_two = "any", fade = {};
    std::string normals = {};
    std::vector<std::string> given = {};
    std::optional<float> coverage = {};
    std::optional<std::uint32_t> max_size = {};
    yl::MipOptions mips = {};
    bool plain_chain = false, limit_ringing = false;
    std::uint32_t first_level = 0;
    BlockChoices blocks = {};
    bool old_header = false;
    bool array = false, volume = false, frames = false;
    std::string sizes = "refuse";
    std::optional<std::uint32_t> slices = {};
    bool by_rows = false, stored_levels = false;
    std::vector<std::string> role_patterns = {};
    bool into_folder = false;

    /// Level 0 may come first, or be named like the others.
    yl::Result<std::string> top_picture() const;
    /// "N=FILE" for levels that are not to be filtered.
    yl::Status read_given(yl::BakeOptions& result) const;
    yl::Status read_chain_options(yl::BakeOptions& result) const;
    /// All but what is in files.
    yl::Result<yl::BakeOptions> parsed_options() const;
    yl::Result<yl::BakeOptions> options() const;
    yl::Status check() const;
    /// Whether an option is given that asks for levels to be made.
    [[nodiscard]] bool wants_new_levels() const;
    /// A texture file, or a lookup table, which becomes one.
    yl::Result<yl::TextureFile> read_stored(const std::string& path,
                                            const yl::BakeOptions& bake_options) const;
    /// A texture in another container, format or order of rows, or with other levels.
    yl::Result<Made> store_anew(const yl::TextureFile& file, const std::string& path,
                                const yl::BakeOptions& bake_options) const;
    [[nodiscard]] static bool is_texture(const std::string& path);
    /// Textures, cubes among them, as the layers of one array.
    yl::Result<Made> join_textures(const yl::BakeOptions& bake_options) const;
    /// The library numbers pictures and textures; people know them by their files.
    static std::string with_name(const std::string& text, const std::vector<std::string>& names);
    /// The layers of an array, or the slices of a volume.
    yl::Result<Made> stack(const yl::BakeOptions& bake_options) const;
    yl::Result<Made> make(const yl::BakeOptions& bake_options) const;
    /// One picture, perhaps with the levels that its file stores.
    yl::Result<Made> make_one(const std::string& top, const yl::BakeOptions& bake_options) const;
    [[nodiscard]] yl::Result<yl::ReadOptions> reading(const std::string& path) const;
    /// Whether the picture is beyond what is read whole.
    [[nodiscard]] bool exceeds_memory(const yl::BakeOptions& bake_options) const;
    /// Writes the file as well.
    yl::Result<Made> make_by_rows(const yl::BakeOptions& bake_options,
                                  const yl::TextureWriteOptions& write_options) const;
    /// What is known before anything is read.
    [[nodiscard]] Facts early_facts(const yl::BakeOptions& chosen) const;
    /// What is known of the texture that was made.
    [[nodiscard]] Facts facts_of(const Made& made, const yl::BakeOptions& chosen) const;
    /// The texture file, written, with all that was noticed.
    struct Written {
        std::string top = {};
        Made made = {};
        yl::Supercompression scheme = yl::Supercompression::none;
        std::uint64_t file_bytes = 0;
    };
    yl::Result<Written> make_and_write() const;
    /// Each input by itself, in the role that its name tells unless one is given.
    yl::Result<Exit> run_many() const;
    yl::Result<Exit> run() const;
    [[nodiscard]] static std::string_view alpha_words(const Made& made);
    void report(const Written& written) const;
    [[nodiscard]] Json json_of(const Written& written) const;
};

/// All options of the command.
void add_bake_options(const std::shared_ptr<Bake>& bake);

}  // namespace ylat
