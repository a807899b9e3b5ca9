// Regions laid one after the other into staging memory, and divided into batches.
#pragma once

#include <yl/upload.hpp>

namespace yl {

class RegionLayout {
 public:
    RegionLayout(UploadPlan& plan, const DeviceProfile& profile, std::uint64_t budget);

    /// Adds a region whose place and size are set. It is divided between slices, or between rows of
    /// texels or blocks, when it exceeds the budget; what does not fit the present batch begins the
    /// next. Fails with `ErrorKind::limit` when one row is too much.
    [[nodiscard]] Status add(const UploadRegion& region);

    /// Closes the last batch. Nothing may be added afterwards.
    void finish();

 private:
    void place(UploadRegion region);

    UploadPlan& plan_;
    bool copies_whole_blocks_ = false;
    std::uint64_t budget_;
    std::uint64_t pitch_step_, offset_step_;  // bytes
    std::uint32_t block_height_;
    UploadBatch batch_ = {};
};

}  // namespace yl
