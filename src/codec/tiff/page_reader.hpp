// A page's pixels, all of them or some rows of its tiles.
#pragma once

#include "base/progress.hpp"
#include "codec/color_conversion.hpp"
#include "codec/picture_format.hpp"
#include "codec/tiff/page.hpp"

namespace yl::tiff {

class SampleReader;

/// Red, green and blue of each index, in 8 bits where that loses nothing.
struct Palette {
    std::vector<std::uint16_t> codes = {};
    bool is_wide = false;
};

class PageReader {
 public:
    /// `directory`'s file must outlive it.
    [[nodiscard]] static Result<PageReader> open(const Directory& directory,
                                                 const ReadOptions& options);

    [[nodiscard]] const Page& page() const { return page_; }
    [[nodiscard]] PictureStart start() const;
    [[nodiscard]] std::optional<Orientation> orientation() const;

    /// Nothing is allocated for pixels that the file cannot hold.
    [[nodiscard]] Status check_claims() const;

    /// What the file says of the picture besides its pixels; `format` is theirs.
    void describe(Picture& picture, Format format) const;

    /// Converts colours that the page states to be others than sRGB's, of a picture that `describe`
    /// has described or of some of its rows.
    [[nodiscard]] Status settle_colors(Picture& picture) const;

    /// Cuts uncompressed strips into lower ones, which need less memory.
    void cut_strips(std::uint32_t rows);

    /// Strips or tiles of all planes.
    [[nodiscard]] std::size_t tiles() const {
        return page_.tile_count() * (page_.is_planar ? page_.channels : 1);
    }

    /// The rows of strips or tiles [begin, end), into an image that begins with the first of them.
    /// Counts tiles.
    [[nodiscard]] Status read(std::uint32_t begin, std::uint32_t end, ImageView image,
                              ProgressCounter& progress) const;

 private:
    PageReader(const Directory& directory, const ReadOptions& options)
        : directory_(directory), options_(options) {}

    void read_stated_colors();
    [[nodiscard]] bool is_needed(std::size_t tile) const;
    [[nodiscard]] std::uint64_t stored_bytes(std::size_t tile) const;
    [[nodiscard]] std::array<double, 3> luma() const;
    [[nodiscard]] Status read_samples(std::uint32_t begin, std::uint32_t end, ImageView image,
                                      ProgressCounter& progress) const;
    [[nodiscard]] Status read_tile(const SampleReader& reader, std::size_t tile) const;
    [[nodiscard]] Status unpack_tile(std::size_t tile, std::span<std::byte> target) const;

    Directory directory_;
    ReadOptions options_;
    Page page_ = {};
    Palette palette_ = {};
    std::vector<std::byte> ink_profile_ = {};  ///< where it is applied
    std::optional<StatedColors> stated_ = {};  ///< without a profile
};

}  // namespace yl::tiff
