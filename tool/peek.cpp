// ylat peek: what a picture or texture file holds.
#include <fmt/format.h>

#include <memory>

#include "archives.hpp"
#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "peek_fast.hpp"

namespace ylat {
namespace {

const std::vector<std::string> columns = {"file",   "kind",       "size",   "channels",
                                          "bits",   "colour",     "alpha",  "seams",
                                          "levels", "on the GPU", "remarks"};

std::string bits_text(std::uint32_t bits) {
    return fmt::format("{} {}", bits, bits == 1 ? "bit" : "bits");
}

void add_channels(Json& entry, const yl::ChannelUse& use) {
    entry["used_channels"] = use.useful_channels();
    entry["gray"] = use.is_gray;
    entry["opaque"] = use.is_opaque;
}

bool shows(float seam) {
    return seam > yl::SeamMeasure::visible;
}

/// Whether opposite edges meet, axis by axis.
std::string seam_text(const yl::SeamMeasure& seams) {
    const auto axis = [](const char* name, float ratio) {
        return fmt::format("{} {} ({:.1f})", shows(ratio) ? "a seam" : "no seam", name, ratio);
    };
    return fmt::format("{}, {}; 1 is a step like any other", axis("left to right", seams.across),
                       axis("top to bottom", seams.down));
}

std::string short_seam_text(const yl::SeamMeasure& seams) {
    if (shows(seams.across) && shows(seams.down))
        return "both";
    return shows(seams.across) ? "across" : shows(seams.down) ? "down" : "none";
}

std::string alpha_use(const yl::ChannelUse& use) {
    return use.is_opaque         ? "present, but 1 everywhere"
           : use.alpha_is_binary ? "used, 0 or 1 only"
                                 : "used";
}

std::string short_alpha_text(bool has_alpha, const yl::ChannelUse& use) {
    return !has_alpha ? "none" : use.is_opaque ? "unused" : use.alpha_is_binary ? "0 or 1" : "used";
}

std::string count_text(std::size_t remarks) {
    return remarks == 0 ? "" : fmt::format("{}", remarks);
}

/// What is found out about a picture beside what its reader says.
struct PictureFacts {
    yl::ChannelUse use;
    yl::SeamMeasure seams;
    std::uint32_t bits = 0;
    yl::TextureShape baked = {};
    std::uint64_t top_bytes = 0;
    std::optional<yl::CubeLayoutGuess> cube = {};
    yl::RoleGuess guess = {};
    bool is_float = false;

    explicit PictureFacts(const yl::Picture& picture)
        : use(yl::analyse_channels(picture.image.view(), picture.swizzle)),
          seams(yl::measure_seams(picture.image.view())),
          bits(yl::bits_in_use(picture.image.view())) {
        is_float = yl::info(picture.image.format()).is_float();
        baked = {.format = yl::default_format(picture, yl::default_role(picture)),
                 .width = picture.image.width(),
                 .height = picture.image.height()};
        top_bytes = baked.total_bytes();
        baked.levels = yl::full_level_count(baked.width, baked.height);
        cube = yl::guess_cube_layout(picture);
        guess = yl::guess_role(picture);
    }
};

std::string cube_text(const yl::CubeLayoutGuess& cube) {
    if (!yl::is_cut_layout(cube.layout))
        return fmt::format("{} {}", cube.agrees ? "seems to be a" : "has the sides of a",
                           yl::name(cube.layout)) +
               (cube.agrees ? fmt::format(", for faces of about {}", cube.face_size)
                            : ", but not its content");
    return fmt::format("has the sides of a {} with faces of {}, which {} (misfit {:.3f})",
                       yl::name(cube.layout), cube.face_size, cube.agrees ? "join" : "do not join",
                       cube.misfit);
}

Json picture_json(const std::string& path, const yl::Picture& picture, const PictureFacts& facts) {
    const yl::PictureInfo& info = picture.info;
    const bool has_alpha = info.file_channels % 2 == 0;
    Json json = {{"input", path},
                 {"kind", "picture"},
                 {"file_format", info.file_format},
                 {"width", picture.image.width()},
                 {"height", picture.image.height()},
                 {"stored_channels", info.file_channels},
                 {"bits", info.file_bits},
                 {"palette", info.has_palette},
                 {"interlaced", info.is_interlaced},
                 {"transfer", transfer_text(picture.transfer)},
                 {"transfer_reason", info.transfer_reason},
                 {"alpha", has_alpha ? alpha_text(picture.alpha) : "none"},
                 {"origin", "top"},
                 {"turn", yl::name(info.applied_orientation)},
                 {"used_bits", facts.bits},
                 {"role_guess", yl::info(facts.guess.role).name},
                 {"role_reason", facts.guess.reason},
                 {"seam_across", facts.seams.across},
                 {"seam_down", facts.seams.down},
                 {"color_profile", info.color_profile_name},
                 {"gpu_format", yl::info(facts.baked.format).name},
                 {"gpu_bytes", facts.baked.total_bytes()},
                 {"remarks", info.remarks}};
    add_channels(json, facts.use);
    if (facts.cube)
        json["cube_layout"] = {{"layout", yl::name(facts.cube->layout)},
                               {"face_size", facts.cube->face_size},
                               {"agrees", facts.cube->agrees},
                               {"misfit", facts.cube->misfit}};
    return json;
}

Entry describe(const std::string& path, const yl::Picture& picture) {
    const PictureFacts facts(picture);
    const yl::PictureInfo& info = picture.info;
    const std::string size = size_text(picture.image.width(), picture.image.height());
    const bool has_alpha = info.file_channels % 2 == 0;
    const bool is_reoriented = info.applied_orientation != yl::Orientation::none;
    const std::string used = channel_text(facts.use.useful_channels());
    Entry entry;
    entry.rows = {
        {"file", info.file_format + " picture" + (info.is_interlaced ? ", interlaced" : "")},
        {"size", size + " pixels"},
        {"channels", fmt::format("{}, {}{}; used: {}, {}", channel_text(info.file_channels),
                                 bits_text(info.file_bits), info.has_palette ? " by a palette" : "",
                                 used, bits_text(facts.bits))},
        {"colour", fmt::format("{}: {}", transfer_text(picture.transfer), info.transfer_reason)},
        {"alpha", has_alpha ? fmt::format("{}, {}", alpha_text(picture.alpha), alpha_use(facts.use))
                            : "none"},
        {"row 0", is_reoriented
                      ? fmt::format("top, after a turn {}", yl::name(info.applied_orientation))
                      : "top"},
        {"repeated", seam_text(facts.seams)},
        {"role", fmt::format("{}, judging by the content: {}", yl::info(facts.guess.role).name,
                             facts.guess.reason)},
        {"on the GPU", fmt::format("{} as {}, {} with {} levels", byte_text(facts.top_bytes),
                                   yl::info(facts.baked.format).name,
                                   byte_text(facts.baked.total_bytes()), facts.baked.levels)}};
    const auto header = yl::peek_picture(path, files_for(path));
    if (header && header->frames > 1)
        entry.rows.emplace_back("frames",
                                fmt::format("{}, of which this is the first", header->frames));
    if (facts.cube)
        entry.rows.emplace_back("as a cube", cube_text(*facts.cube));
    for (const std::string& remark : info.remarks)
        entry.rows.emplace_back("remark", remark);
    entry.cells = {path,
                   info.file_format,
                   size,
                   used,
                   facts.is_float ? fmt::format("{}, float", info.file_bits)
                                  : fmt::format("{} of {}", facts.bits, info.file_bits),
                   std::string(transfer_text(picture.transfer)),
                   short_alpha_text(has_alpha, facts.use),
                   short_seam_text(facts.seams),
                   "1",
                   byte_text(facts.baked.total_bytes()),
                   count_text(info.remarks.size())};
    entry.json = picture_json(path, picture, facts);
    entry.json["frames"] = header ? header->frames : 1;
    return entry;
}

Json texture_json(const std::string& path, const yl::TextureFile& file, const yl::ChannelUse& use,
                  bool has_alpha) {
    const yl::TextureShape& shape = file.texture.shape();
    const yl::TextureMetadata& metadata = file.texture.metadata;
    Json json = {{"input", path},
                 {"kind", "texture"},
                 {"file_format", file.info.file_format},
                 {"file_bytes", file.info.file_bytes},
                 {"supercompression", yl::name(file.info.supercompression)},
                 {"vk_format", static_cast<std::uint32_t>(shape.format)},
                 {"swizzle", yl::swizzle_text(metadata.swizzle)},
                 {"transfer", transfer_text(metadata.transfer)},
                 {"alpha", has_alpha ? alpha_text(metadata.alpha) : "none"},
                 {"origin", origin_text(metadata.origin)},
                 {"remarks", file.info.remarks}};
    add_shape(json, shape);
    if (metadata.sampler)
        json["sampler"] = yl::sampler_text(*metadata.sampler);
    add_channels(json, use);
    return json;
}

Entry describe(const std::string& path, const yl::TextureFile& file) {
    const yl::Texture& texture = file.texture;
    const yl::TextureShape& shape = texture.shape();
    const yl::TextureMetadata& metadata = texture.metadata;
    const yl::FormatInfo& format = yl::info(shape.format);
    const auto decoded = yl::decode_blocks(texture.image(0));  // fails where there are no blocks
    const yl::ConstImageView top = decoded ? decoded->view() : texture.image(0);
    const yl::ChannelUse use = yl::analyse_channels(top, metadata.swizzle);
    const bool has_alpha =
        format.has(yl::Channel::alpha) || metadata.swizzle == yl::gray_alpha_swizzle;
    const std::uint32_t full = yl::full_level_count(shape.width, shape.height, shape.depth);
    const std::string size = size_text(shape.width, shape.height) +
                             (shape.depth > 1 ? fmt::format(" x {}", shape.depth) : "");
    const std::string used = channel_text(use.useful_channels());
    Entry entry;
    entry.rows = {
        {"file",
         fmt::format("{} texture, {}, supercompression {}", file.info.file_format,
                     byte_text(file.info.file_bytes), yl::name(file.info.supercompression))},
        {"format", fmt::format("{} ({}, {})", format.name, yl::vulkan_enumerant(shape.format),
                               static_cast<std::uint32_t>(shape.format))},
        {"size", size + " texels"},
        {"levels", fmt::format("{} of {}{}{}", shape.levels, full,
                               shape.levels == full ? ", a full chain" : "", parts_text(shape))},
        {"channels", fmt::format("seen as {}; used: {}", yl::swizzle_text(metadata.swizzle), used)},
        {"colour", std::string(transfer_text(metadata.transfer))},
        {"alpha",
         has_alpha ? fmt::format("{}, {}", alpha_text(metadata.alpha), alpha_use(use)) : "none"},
        {"row 0", std::string(origin_text(metadata.origin))},
        {"on the GPU", byte_text(shape.total_bytes())}};
    if (format.name.starts_with("etc2-rgb8-") && yl::count_blocks_beyond_etc1(texture) == 0)
        entry.rows.emplace_back("blocks", "ETC1's alone, so that devices without ETC2 decode them");
    if (const auto seams = yl::measure_cube_seams(texture))
        entry.rows.emplace_back(
            "faces", fmt::format("{}: steps across edges are {:.2f} times those within faces",
                                 seams->shows() ? "do not join" : "join", seams->ratio()));
    if (metadata.sampler)
        entry.rows.emplace_back("sampler", yl::sampler_text(*metadata.sampler));
    for (const auto& [key, value] : metadata.key_values)
        entry.rows.emplace_back("note",
                                fmt::format("{} = {}", key, value.substr(0, value.find('\0'))));
    for (const std::string& remark : file.info.remarks)
        entry.rows.emplace_back("remark", remark);
    entry.cells = {path,
                   file.info.file_format,
                   size,
                   used,
                   fmt::format("{}", format.channels[0].bits),
                   std::string(transfer_text(metadata.transfer)),
                   short_alpha_text(has_alpha, use),
                   "",
                   fmt::format("{}", shape.levels),
                   byte_text(shape.total_bytes()),
                   count_text(file.info.remarks.size())};
    entry.json = texture_json(path, file, use, has_alpha);
    return entry;
}

struct Peek {
    Session& session;
    std::vector<std::string> paths;
    bool in_full = false;
    bool forgives = false;
    bool fast = false;

    yl::Result<Exit> run() const {
        std::vector<yl::Result<Entry>> entries(paths.size());
        if (fast)
            for (std::size_t i = 0; i < paths.size(); ++i)
                entries[i] = describe_header(paths[i], forgives);
        else
            look_at_all(entries);
        std::optional<yl::Error> failure;
        Json all = Json::array();
        std::vector<std::vector<std::string>> table = {columns};
        for (std::size_t i = 0; i < entries.size(); ++i) {
            if (!entries[i]) {
                if (failure && !session.json)
                    session.complain(*failure);
                failure = entries[i].error();
                all.push_back({{"input", paths[i]}, {"error", error_json(*failure)}});
                continue;
            }
            if (paths.size() == 1 || in_full)
                say_in_full(paths[i], *entries[i], i > 0);
            table.push_back(entries[i]->cells);
            all.push_back(entries[i]->json);
        }
        if (paths.size() > 1 && !in_full && table.size() > 1)
            session.say(table_text(table));
        session.give([&] { return Json(all); });
        if (failure && session.json)
            return exit_for(failure->kind);
        if (failure)
            return tl::unexpected(*failure);
        return session.outcome();
    }

    /// Pictures at the same time, textures one by one.
    void look_at_all(std::vector<yl::Result<Entry>>& entries) const {
        std::vector<std::filesystem::path> pictures;
        std::vector<std::size_t> places;
        for (std::size_t i = 0; i < paths.size(); ++i) {
            const auto kind = file_kind(paths[i]);
            if (!kind) {
                entries[i] = tl::unexpected(kind.error());
            } else if (*kind == FileKind::picture) {
                pictures.emplace_back(paths[i]);
                places.push_back(i);
            } else if (const auto texture = yl::read_texture(
                           paths[i], {.forgiving = forgives, .files = files_for(paths[i])})) {
                entries[i] = describe(paths[i], *texture);
            } else {
                entries[i] = tl::unexpected(texture.error());
            }
        }
        // Files that look into archives find those of the disk as well.
        yl::ReadOptions options;
        for (const std::string& path : paths)
            if (auto files = files_for(path))
                options.files = std::move(files);
        const auto keep = [&](std::size_t index, yl::Result<yl::Picture> picture) {
            const std::size_t place = places[index];
            if (picture)
                entries[place] = describe(paths[place], *picture);
            else
                entries[place] = describe_unread(paths[place], picture.error());
        };
        yl::read_pictures(pictures, keep, options);
    }

    void say_in_full(const std::string& path, const Entry& entry, bool after_another) const {
        if (after_another)
            session.say("");
        session.say(path);
        for (const auto& [name, value] : entry.rows)
            session.say(row_text(name, value));
    }
};

}  // namespace

void add_peek(CLI::App& app, Session& session) {
    auto peek = std::make_shared<Peek>(Peek{session, {}});
    Command command(app, session, "peek", "Say what picture or texture files hold");
    command.runs([peek] { return peek->run(); });
    command.add(
        {.rows = {
             {"FILE",
              &peek->paths,
              "",
              "Picture or texture files",
              {.required = true, .reads_pipes = true}},
             {"--forgive", &peek->forgives, "",
              "Read texture files that break rules which affect no texel, and remark on it"},
             {"--fast", &peek->fast, "", "Read only headers: say what needs no look at the pixels"},
             {"--in-full", &peek->in_full, "",
              "Describe each file in full, even when there are several"}}});
}

}  // namespace ylat
