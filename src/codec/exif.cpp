#include "codec/exif.hpp"

namespace yl {
namespace {

constexpr std::uint16_t orientation_tag = 0x0112;
constexpr std::size_t entry_bytes = 12;

/// Numbers of the byte order that the data name; beyond their end nothing.
class TiffReader {
 public:
    explicit TiffReader(ByteSpan data) : data_(data), little_(as_text(data).starts_with("II")) {}

    template <std::unsigned_integral T>
    [[nodiscard]] std::optional<T> at(std::size_t offset) const {
        if (offset > data_.size() || sizeof(T) > data_.size() - offset)
            return {};
        const std::byte* bytes = data_.data() + offset;
        return little_ ? load<T>(bytes) : load<T, std::endian::big>(bytes);
    }

 private:
    ByteSpan data_;
    bool little_;
};

}  // namespace

std::optional<Orientation> exif_orientation(ByteSpan tiff) {
    const TiffReader reader(tiff);
    const std::size_t directory = reader.at<std::uint32_t>(4).value_or(0);
    const std::size_t entries = reader.at<std::uint16_t>(directory).value_or(0);
    for (std::size_t i = 0; i < entries; ++i) {
        const std::size_t entry = directory + 2 + entry_bytes * i;
        if (reader.at<std::uint16_t>(entry) != orientation_tag)
            continue;
        const std::uint16_t value = reader.at<std::uint16_t>(entry + 8).value_or(0);
        return value >= 1 && value <= 8 ? std::optional(static_cast<Orientation>(value))
                                        : std::nullopt;
    }
    return {};
}

}  // namespace yl
