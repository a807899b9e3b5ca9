#include "peek_fast.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "describe.hpp"
#include "inputs.hpp"

namespace ylat {
namespace {

Entry describe(const std::string& path, const yl::PictureHeader& header) {
    const std::string size = size_text(header.width, header.height);
    const std::string depth = fmt::format("{}{}", header.bits, header.is_float ? ", float" : "");
    Entry entry;
    entry.rows = {{"file", fmt::format("{} picture", header.file_format)},
                  {"size", size + " pixels"},
                  {"channels", fmt::format("{}, {} bits", channel_text(header.channels), depth)}};
    if (header.frames > 1)
        entry.rows.emplace_back("frames", fmt::format("{}", header.frames));
    entry.cells = {path,  std::string(header.file_format),
                   size,  channel_text(header.channels),
                   depth, "",
                   "",    "",
                   "1",   "",
                   ""};
    entry.json = {
        {"input", path},         {"kind", "picture"},        {"file_format", header.file_format},
        {"width", header.width}, {"height", header.height},  {"channels", header.channels},
        {"bits", header.bits},   {"float", header.is_float}, {"frames", header.frames}};
    return entry;
}

Entry describe(const std::string& path, const yl::TextureStream& stream) {
    const yl::TextureShape& shape = stream.shape();
    const yl::FormatInfo& format = yl::info(shape.format);
    const std::string size = size_text(shape.width, shape.height) +
                             (shape.depth > 1 ? fmt::format(" x {}", shape.depth) : "");
    Entry entry;
    entry.rows = {
        {"file", fmt::format("{} texture, {}, supercompression {}", stream.info().file_format,
                             byte_text(stream.info().file_bytes),
                             yl::name(stream.info().supercompression))},
        {"format", fmt::format("{} ({})", format.name, yl::vulkan_enumerant(shape.format))},
        {"size", size + " texels"},
        {"levels", fmt::format("{}{}", shape.levels, parts_text(shape))},
        {"on the GPU", byte_text(shape.total_bytes())}};
    entry.cells = {path,
                   stream.info().file_format,
                   size,
                   channel_text(format.channel_count),
                   fmt::format("{}", format.channels[0].bits),
                   std::string(transfer_text(stream.metadata().transfer)),
                   "",
                   "",
                   fmt::format("{}", shape.levels),
                   byte_text(shape.total_bytes()),
                   ""};
    entry.json = {{"input", path},
                  {"kind", "texture"},
                  {"file_format", stream.info().file_format},
                  {"file_bytes", stream.info().file_bytes}};
    add_shape(entry.json, shape);
    return entry;
}

}  // namespace

yl::Result<Entry> describe_header(const std::string& path, bool forgives) {
    YL_TRY(const auto kind, file_kind(path));
    if (kind == FileKind::picture) {
        YL_TRY(const auto header, yl::peek_picture(path, files_for(path)));
        return describe(path, header);
    }
    YL_TRY(
        const auto stream,
        yl::TextureStream::open(
            path, {.limits = yl::Limits::none(), .forgiving = forgives, .files = files_for(path)},
            yl::FileAccess::on_demand));
    return describe(path, stream);
}

yl::Result<Entry> describe_unread(const std::string& path, const yl::Error& why) {
    if (why.kind != yl::ErrorKind::limit)
        return tl::unexpected(why);
    YL_TRY(auto entry, describe_header(path, false));
    const std::string remark = fmt::format("only the header was read: {}", why.message);
    entry.rows.emplace_back("remark", remark);
    entry.cells.back() = "1";
    entry.json["remarks"] = {remark};
    return entry;
}

}  // namespace ylat
