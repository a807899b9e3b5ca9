// Bands of a picture's rows, read ahead.
#pragma once

#include <array>
#include <future>

#include <yl/picture_rows.hpp>

namespace yl {

/// Reads the next band while the one before is worked on.
class BandReader {
 public:
    /// Bands have `band_rows` rows, the last one perhaps fewer. `rows` must outlive it.
    [[nodiscard]] static Result<BandReader> create(PictureRows& rows, std::uint32_t band_rows);

    /// Valid until the call after the next one; without rows at the end.
    [[nodiscard]] Result<ConstImageView> next();

 private:
    explicit BandReader(PictureRows& rows) : rows_(&rows) {}
    void read_ahead();

    PictureRows* rows_;
    std::array<Image, 2> bands_ = {};
    std::size_t reading_ = 0;  ///< which of them
    std::uint32_t rows_in_it_ = 0;
    std::future<Status> read_ = {};
};

}  // namespace yl
