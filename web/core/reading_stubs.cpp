// What the module that reads leaves out: encoders of blocks, writers of files, pictures. Stands in place of
// block/encode.cpp, the encoders of each format and their tables, which are never called then, and container/*/write.cpp.
#include <yl/block.hpp>
#include <yl/picture.hpp>

#include "block/astc/encode.hpp"
#include "block/astc/encoder_tables.hpp"
#include "block/bc/encode.hpp"
#include "block/etc/encode.hpp"
#include "container/dds/dds.hpp"
#include "container/ktx2/ktx2.hpp"

namespace yl {
namespace {

tl::unexpected<Error> no_encoders() {
    return fail(ErrorKind::unsupported, "this module encodes no blocks: load the one that bakes");
}

tl::unexpected<Error> no_writers() {
    return fail(ErrorKind::unsupported, "this module writes no files: load the one that bakes");
}

}  // namespace

Status encode_blocks(ConstImageView, ImageView, const BlockOptions&) {
    return no_encoders();
}
Result<Image> encode_blocks(ConstImageView, Format, const BlockOptions&) {
    return no_encoders();
}
Result<Texture> encode_texture(const Texture&, Format, const BlockOptions&) {
    return no_encoders();
}

bool looks_like_picture(std::span<const std::byte>) {
    return false;
}

namespace ktx2 {
Result<EncodedFile> write(const Texture&, const TextureWriteOptions&) {
    return no_writers();
}
Result<FilePlan> plan(const TextureShape&, const TextureMetadata&, const TextureWriteOptions&) {
    return no_writers();
}
}  // namespace ktx2

namespace dds {
Result<EncodedFile> write(const Texture&, const TextureWriteOptions&) {
    return no_writers();
}
Result<FilePlan> plan(const TextureShape&, const TextureMetadata&, const TextureWriteOptions&) {
    return no_writers();
}
}  // namespace dds

namespace bc {
void encode_bc1(const std::byte*, std::size_t, const ColorSettings&, std::byte*) {}
void encode_bc1a(const std::byte*, std::size_t, const ColorSettings&, std::byte*) {}
void encode_bc3_color(const std::byte*, std::size_t, const ColorSettings&, std::byte*) {}
void encode_bc7(const std::byte*, std::size_t, const ColorSettings&, std::byte*) {}
void encode_bc4(const float*, const float*, std::size_t, const ChannelSettings&, std::byte*) {}
void encode_bc6h(const std::byte*, std::size_t, const LightSettings&, std::byte*) {}
}  // namespace bc

namespace etc {
void encode_eac(EacKind, const float*, const float*, std::size_t, const ChannelSettings&,
                std::byte*) {}
void encode_rgb(const std::byte*, std::size_t, const ColorSettings&, std::size_t, std::byte*) {}
void encode_rgb_cut_out(const std::byte*, std::size_t, const ColorSettings&, std::byte*) {}
}  // namespace etc

namespace astc {
EncoderTables::EncoderTables(const FootprintTables&) : footprint_{} {}
void encode_ldr(const EncoderTables&, const std::byte*, std::size_t, const ColorSettings&,
                std::byte*) {}
void encode_hdr(const EncoderTables&, const std::byte*, std::size_t, const ColorSettings&,
                std::byte*) {}
}  // namespace astc
}  // namespace yl
