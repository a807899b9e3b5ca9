#include "outputs.hpp"

#include "pipes.hpp"

namespace ylat {
namespace {

template <class Encoded>
yl::Status send(const Encoded& encoded) {
    return encoded ? write_to_output(*encoded) : yl::Status(tl::unexpected(encoded.error()));
}

}  // namespace

CLI::Option* add_output_option(CLI::App& command, Session& session, std::string& output,
                               const std::string& meaning) {
    return command.add_option("-o", output, meaning + "; - for standard output")
        ->each([&session](const std::string& path) { session.sends_file |= path == "-"; });
}

yl::Status save(const std::string& output, const yl::Texture& texture,
                const yl::TextureWriteOptions& options) {
    return output == "-" ? send(yl::encode_texture("ktx2", texture, options))
                         : yl::write_texture(output, texture, options);
}

yl::Status save(const std::string& output, yl::ConstImageView image) {
    return output == "-" ? send(yl::encode_picture("png", image))
                         : yl::write_picture(output, image);
}

yl::Status save(const std::string& output, const yl::Picture& picture, int effort) {
    return output == "-" ? send(yl::encode_picture("png", picture, effort))
                         : yl::write_picture(output, picture, effort);
}

}  // namespace ylat
