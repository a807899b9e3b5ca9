#include <yl/status_macros.hpp>

#include "outputs.hpp"

#include <filesystem>

#include "pipes.hpp"

namespace ylat {
namespace {

using Bytes = yl::Result<std::uint64_t>;

template <class Encoded>
Bytes send(const Encoded& encoded) {
    if (!encoded)
        return tl::unexpected(encoded.error());
    YL_CHECK(write_to_output(*encoded));
    return encoded->size();
}

Bytes size_of_file(const yl::Status& written, const std::string& path) {
    if (!written)
        return tl::unexpected(written.error());
    std::error_code error;
    const std::uint64_t size = std::filesystem::file_size(path, error);
    return error ? 0 : size;  // of a device, which has none
}

}  // namespace

yl::Result<std::uint64_t> save(const std::string& output, const yl::Texture& texture,
                               const yl::TextureWriteOptions& options) {
    return output == "-" ? send(yl::texture_file_bytes("ktx2", texture, options))
                         : size_of_file(yl::write_texture(output, texture, options), output);
}

yl::Result<std::uint64_t> save(const std::string& output, yl::ConstImageView image) {
    return output == "-" ? send(yl::encode_picture("png", image))
                         : size_of_file(yl::write_picture(output, image), output);
}

yl::Result<std::uint64_t> save(const std::string& output, const yl::Picture& picture,
                               const yl::WriteOptions& options) {
    return output == "-" ? send(yl::encode_picture("png", picture, options))
                         : size_of_file(yl::write_picture(output, picture, options), output);
}

yl::Result<std::uint64_t> save(const std::string& output, std::string_view text) {
    const auto bytes = std::as_bytes(std::span(text));
    YL_CHECK(output == "-" ? write_to_output(bytes) : yl::write_whole_file(output, bytes));
    return text.size();
}

}  // namespace ylat
