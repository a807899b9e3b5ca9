// ylat peek: what a picture or texture file holds.
#include <fmt/format.h>

#include <memory>

#include "arguments.hpp"
#include "describe.hpp"
#include "session.hpp"

namespace ylat {
namespace {

void add_channels(Json& entry, const yl::ChannelUse& use) {
    entry["used_channels"] = use.useful_channels();
    entry["gray"] = use.is_gray;
    entry["opaque"] = use.is_opaque;
}

/// Whether opposite edges meet, axis by axis.
std::string seam_text(const yl::SeamMeasure& seams) {
    const auto axis = [](const char* name, float ratio) {
        return fmt::format("{} {} ({:.1f})",
                           ratio > yl::SeamMeasure::visible ? "a seam" : "no seam", name, ratio);
    };
    return fmt::format("{}, {}; 1 is a step like any other", axis("left to right", seams.across),
                       axis("top to bottom", seams.down));
}

std::string alpha_use(const yl::ChannelUse& use) {
    return use.is_opaque         ? "present, but 1 everywhere"
           : use.alpha_is_binary ? "used, 0 or 1 only"
                                 : "used";
}

struct Peek {
    Session& session;
    std::vector<std::string> paths;

    yl::Result<Exit> run() const {
        Json all = Json::array();
        std::optional<yl::Error> failure;
        for (const std::string& path : paths) {
            if (!all.empty())
                session.say("");
            auto entry = look(path);
            if (entry) {
                all.push_back(*entry);
                continue;
            }
            if (failure)
                session.complain(*failure);
            failure = entry.error();
        }
        session.give(all);
        if (failure)
            return tl::unexpected(*failure);
        return Exit::done;
    }

    yl::Result<Json> look(const std::string& path) const {
        const auto kind = file_kind(path);
        if (!kind)
            return tl::unexpected(kind.error());
        if (*kind == FileKind::texture) {
            const auto texture = yl::read_texture(path);
            if (!texture)
                return tl::unexpected(texture.error());
            return describe(path, *texture);
        }
        const auto picture = yl::read_picture(path);
        if (!picture)
            return tl::unexpected(picture.error());
        return describe(path, *picture);
    }

    Json describe(const std::string& path, const yl::Picture& picture) const {
        const yl::Image& image = picture.image;
        const yl::PictureInfo& info = picture.info;
        const yl::ChannelUse use = yl::analyse_channels(image.view(), picture.swizzle);
        const yl::SeamMeasure seams = yl::measure_seams(image.view());
        const std::uint32_t bits = yl::bits_in_use(image.view());
        const yl::Format baked = yl::default_format(picture, yl::Role::color);
        yl::TextureShape shape{.format = baked, .width = image.width(), .height = image.height()};
        const std::uint64_t top_bytes = shape.total_bytes();
        shape.levels = yl::full_level_count(shape.width, shape.height);
        const bool has_alpha = info.file_channels % 2 == 0;

        session.say(path);
        session.say(row_text(
            "file", info.file_format + " picture" + (info.is_interlaced ? ", interlaced" : "")));
        session.say(
            row_text("size", fmt::format("{} pixels", size_text(image.width(), image.height()))));
        session.say(row_text(
            "channels",
            fmt::format("{}, {} bits{}; used: {}, {} bits", channel_text(info.file_channels),
                        info.file_bits, info.has_palette ? " by a palette" : "",
                        channel_text(use.useful_channels()), bits)));
        session.say(row_text("colour", fmt::format("{}: {}", transfer_text(picture.transfer),
                                                   info.transfer_reason)));
        session.say(row_text(
            "alpha",
            has_alpha ? fmt::format("{}, {}", alpha_text(picture.alpha), alpha_use(use)) : "none"));
        session.say(row_text("row 0",
                             fmt::format("top{}", info.applied_turn == yl::Turn::none
                                                      ? ""
                                                      : fmt::format(", after a turn {}",
                                                                    yl::name(info.applied_turn)))));
        session.say(row_text("repeated", seam_text(seams)));
        session.say(row_text(
            "on the GPU",
            fmt::format("{} as {}, {} with {} levels", byte_text(top_bytes), yl::info(baked).name,
                        byte_text(shape.total_bytes()), shape.levels)));
        for (const std::string& remark : info.remarks)
            session.say(row_text("remark", remark));

        Json entry = {{"file", path},
                      {"kind", "picture"},
                      {"format", info.file_format},
                      {"width", image.width()},
                      {"height", image.height()},
                      {"stored_channels", info.file_channels},
                      {"bits", info.file_bits},
                      {"palette", info.has_palette},
                      {"interlaced", info.is_interlaced},
                      {"transfer", transfer_text(picture.transfer)},
                      {"transfer_reason", info.transfer_reason},
                      {"alpha", has_alpha ? alpha_text(picture.alpha) : "none"},
                      {"origin", "top"},
                      {"turn", yl::name(info.applied_turn)},
                      {"used_bits", bits},
                      {"seam_across", seams.across},
                      {"seam_down", seams.down},
                      {"color_profile", info.color_profile_name},
                      {"gpu_format", yl::info(baked).name},
                      {"gpu_bytes", shape.total_bytes()},
                      {"remarks", info.remarks}};
        add_channels(entry, use);
        return entry;
    }

    Json describe(const std::string& path, const yl::TextureFile& file) const {
        const yl::Texture& texture = file.texture;
        const yl::TextureShape& shape = texture.shape();
        const yl::TextureTraits& traits = texture.traits;
        const yl::FormatInfo& format = yl::info(shape.format);
        const yl::ChannelUse use = yl::analyse_channels(texture.image(0), traits.swizzle);
        const bool has_alpha =
            format.has(yl::Channel::alpha) || traits.swizzle == yl::gray_alpha_swizzle;
        const std::uint32_t full = yl::full_level_count(shape.width, shape.height, shape.depth);

        session.say(path);
        session.say(row_text(
            "file",
            fmt::format("{} texture, {}, supercompression {}", file.info.file_format,
                        byte_text(file.info.file_bytes), yl::name(file.info.supercompression))));
        session.say(row_text("format", fmt::format("{} (VkFormat {})", format.name,
                                                   static_cast<std::uint32_t>(shape.format))));
        session.say(row_text(
            "size", fmt::format("{}{} texels", size_text(shape.width, shape.height),
                                shape.depth > 1 ? fmt::format(" x {}", shape.depth) : "")));
        session.say(row_text("levels", fmt::format("{} of {}{}", shape.levels, full,
                                                   shape.levels == full ? ", a full chain" : "")));
        session.say(row_text("layers", fmt::format("{}, faces {}", shape.layers, shape.faces)));
        session.say(row_text("channels",
                             fmt::format("seen as {}; used: {}", yl::swizzle_text(traits.swizzle),
                                         channel_text(use.useful_channels()))));
        session.say(row_text("colour", transfer_text(traits.transfer)));
        session.say(row_text(
            "alpha",
            has_alpha ? fmt::format("{}, {}", alpha_text(traits.alpha), alpha_use(use)) : "none"));
        session.say(row_text("row 0", origin_text(traits.origin)));
        session.say(row_text("on the GPU", byte_text(shape.total_bytes())));
        if (traits.sampler)
            session.say(row_text("sampler", yl::sampler_text(*traits.sampler)));
        for (const auto& [key, value] : traits.notes)
            session.say(
                row_text("note", fmt::format("{} = {}", key, value.substr(0, value.find('\0')))));
        for (const std::string& remark : file.info.remarks)
            session.say(row_text("remark", remark));

        Json entry = {{"file", path},
                      {"kind", "texture"},
                      {"format", file.info.file_format},
                      {"file_bytes", file.info.file_bytes},
                      {"supercompression", yl::name(file.info.supercompression)},
                      {"gpu_format", format.name},
                      {"vk_format", static_cast<std::uint32_t>(shape.format)},
                      {"width", shape.width},
                      {"height", shape.height},
                      {"depth", shape.depth},
                      {"levels", shape.levels},
                      {"layers", shape.layers},
                      {"faces", shape.faces},
                      {"swizzle", yl::swizzle_text(traits.swizzle)},
                      {"transfer", transfer_text(traits.transfer)},
                      {"alpha", has_alpha ? alpha_text(traits.alpha) : "none"},
                      {"origin", origin_text(traits.origin)},
                      {"gpu_bytes", shape.total_bytes()},
                      {"remarks", file.info.remarks}};
        if (traits.sampler)
            entry["sampler"] = yl::sampler_text(*traits.sampler);
        add_channels(entry, use);
        return entry;
    }
};

}  // namespace

void add_peek(CLI::App& app, Session& session) {
    auto peek = std::make_shared<Peek>(Peek{session, {}});
    CLI::App* command = add_command(app, session, "peek", "Say what picture or texture files hold",
                                    [peek] { return peek->run(); });
    command->add_option("FILE", peek->paths, "Picture or texture files")->required();
}

}  // namespace ylat
