#include "bake/band_reader.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl {

Result<BandReader> BandReader::create(PictureRows& rows, std::uint32_t band_rows) {
    BandReader reader(rows);
    for (Image& band : reader.bands_) {
        YL_TRY(band, Image::create(rows.format(), rows.width(), band_rows, Limits::none()));
    }
    return reader;
}

void BandReader::read_ahead() {
    ImageView band = bands_[reading_].view();
    rows_in_it_ = band.height = std::min(band.height, rows_->rows_left());
    if (band.height > 0)
        read_ = std::async(std::launch::async | std::launch::deferred,
                           [rows = rows_, band] { return rows->read(band); });
}

Result<ConstImageView> BandReader::next() {
    if (!read_.valid() && rows_in_it_ == 0)
        read_ahead();
    if (!read_.valid())
        return ConstImageView{};
    YL_CHECK(read_.get());
    ConstImageView band = std::as_const(bands_[reading_]).view();
    band.height = rows_in_it_;
    reading_ = 1 - reading_;
    read_ahead();
    return band;
}

}  // namespace yl
