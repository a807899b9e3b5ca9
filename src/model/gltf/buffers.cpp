#include "model/gltf/buffers.hpp"

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "model/uri.hpp"

namespace yl::model {
namespace {

constexpr std::uint32_t magic = 0x46546C67;         // "glTF"
constexpr std::uint32_t json_chunk = 0x4E4F534A;    // "JSON"
constexpr std::uint32_t binary_chunk = 0x004E4942;  // "BIN"

tl::unexpected<Error> broken(std::string message, std::optional<std::uint64_t> offset = {}) {
    return fail(ErrorKind::malformed, std::move(message), offset);
}

}  // namespace

Result<Container> split_container(std::span<const std::byte> bytes) {
    Container container;
    if (bytes.size() < 4 || load<std::uint32_t>(bytes.data()) != magic) {
        container.json = bytes;
        return container;
    }
    ByteReader reader(bytes);
    YL_CHECK(reader.skip(4));
    YL_TRY(const auto version, reader.read<std::uint32_t>());
    YL_TRY(const auto length, reader.read<std::uint32_t>());
    if (version != 2)
        return fail(ErrorKind::unsupported,
                    fmt::format("the file is of glTF {}; version 2 is read", version), 4);
    if (length > bytes.size())
        return broken(
            fmt::format("the file says to have {} bytes, and has {}", length, bytes.size()), 8);
    bool is_first = true;
    while (reader.left() >= 8) {
        const std::uint64_t offset = reader.offset();
        YL_TRY(const auto chunk_length, reader.read<std::uint32_t>());
        YL_TRY(const auto kind, reader.read<std::uint32_t>());
        if (is_first != (kind == json_chunk) && (is_first || kind == json_chunk))
            return broken("the first chunk, and no other, has to be JSON", offset + 4);
        YL_TRY(const ByteSpan chunk, reader.take(chunk_length));
        if (is_first)
            container.json = chunk;
        else if (kind == binary_chunk && !container.binary)
            container.binary = chunk;
        is_first = false;
        YL_CHECK(reader.skip(std::min<std::uint64_t>((4 - chunk_length % 4) % 4, reader.left())));
    }
    if (is_first)
        return broken("the file has no JSON", 12);
    return container;
}

Status write_container(const std::filesystem::path& path, std::string json,
                       std::span<const ByteSpan> binary) {
    json.resize((json.size() + 3) / 4 * 4, ' ');
    std::uint64_t binary_bytes = 0;
    for (const ByteSpan piece : binary)
        binary_bytes += piece.size();
    const std::uint64_t padding = (4 - binary_bytes % 4) % 4;
    const std::uint64_t whole = 12 + 8 + json.size() + 8 + binary_bytes + padding;
    if (whole > 0xFFFFFFFFU)
        return fail_at({ErrorKind::limit, "a .glb file holds at most 4 GiB"}, path.string());
    ByteWriter head;
    for (const std::uint64_t number : {std::uint64_t{magic}, std::uint64_t{2}, whole,
                                       std::uint64_t{json.size()}, std::uint64_t{json_chunk}})
        head.write(static_cast<std::uint32_t>(number));
    head.append(json);
    head.write(static_cast<std::uint32_t>(binary_bytes + padding));
    head.write(binary_chunk);
    std::vector<ByteSpan> pieces = {head.bytes()};
    pieces.insert(pieces.end(), binary.begin(), binary.end());
    constexpr std::array<std::byte, 3> zeros{};
    pieces.push_back(ByteSpan(zeros).first(padding));
    return write_file(path, pieces);
}

Result<std::unique_ptr<HeldBytes>> open_uri(const std::string& uri,
                                            const std::filesystem::path& folder,
                                            const ModelReadOptions& options) {
    if (is_data_uri(uri)) {
        YL_TRY(std::vector<std::byte> decoded,
               decode_data_uri(uri, std::min(options.limits.max_bytes, options.max_data_uri)));
        return std::make_unique<HeldBytes>(std::move(decoded));
    }
    YL_TRY(const auto file,
           resolve_uri(uri, folder, options.allow_outside, options.files == nullptr));
    return open_bytes(file, options.limits, options.files);
}

Result<ByteSpan> Buffers::buffer(std::size_t index) {
    const Json& entry = member(model_, "buffers")[index];
    YL_TRY(const auto declared, whole_of(entry, "byteLength"));
    if (!declared)
        return broken(fmt::format("buffer {} has no byteLength", index));
    const std::string& uri = text_of(entry, "uri");
    ByteSpan bytes;
    if (uri.empty()) {
        if (index != 0 || !container_.binary)
            return broken(fmt::format("buffer {} has neither a URI nor a binary chunk", index));
        bytes = *container_.binary;
    } else {
        const Locked lock(reading_);
        auto found = read_.find(index);
        if (found == read_.end()) {
            YL_TRY(auto held, open_uri(uri, folder_, options_));
            found = read_.emplace(index, std::move(held)).first;
        }
        bytes = found->second->bytes();
    }
    if (*declared > bytes.size())
        return broken(fmt::format("buffer {} says to have {} bytes, and has {}", index, *declared,
                                  bytes.size()));
    return bytes.first(*declared);
}

Result<ByteSpan> Buffers::view(std::size_t index) {
    const Json& entry = member(model_, "bufferViews")[index];
    YL_TRY(const auto number, index_of(entry, "buffer", model_, "buffers"));
    YL_TRY(const auto offset, whole_of(entry, "byteOffset"));
    YL_TRY(const auto length, whole_of(entry, "byteLength"));
    if (!number || !length)
        return broken(fmt::format("buffer view {} has no buffer or no byteLength", index));
    YL_TRY(const auto bytes, buffer(*number));
    const std::uint64_t begin = offset.value_or(0);
    if (begin > bytes.size() || *length > bytes.size() - begin)
        return broken(fmt::format("buffer view {} takes {} bytes at {} of buffer {}, which has {}",
                                  index, *length, begin, *number, bytes.size()));
    return bytes.subspan(begin, *length);
}

}  // namespace yl::model
