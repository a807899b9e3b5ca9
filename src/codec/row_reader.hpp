// What a file format offers for pictures that are read band by band.
#pragma once

#include <functional>
#include <memory>

#include <yl/files.hpp>
#include <yl/picture.hpp>

namespace yl {

/// The stored pixels of a file, in order.
class RowReader {
 public:
    RowReader() = default;
    RowReader(const RowReader&) = delete;
    RowReader& operator=(const RowReader&) = delete;
    virtual ~RowReader() = default;

    /// The next `band.height` rows; there are as many. `band` has the picture's format and width.
    [[nodiscard]] virtual Status read(ImageView band) = 0;

    /// Goes back to the first row, if that is easily done.
    [[nodiscard]] virtual bool rewind() { return false; }

    /// What was odd in all that was read; after the last row.
    [[nodiscard]] virtual std::vector<std::string> last_remarks() { return {}; }
};

/// An opened file, of which everything but the pixels is known.
struct RowStart {
    Picture picture = {};  ///< without pixels
    Format format = Format::undefined;
    std::uint32_t width = 0, height = 0;
    std::optional<Orientation> orientation = {};
    std::unique_ptr<RowReader> reader = {};
    /// Turns stored colours into those that the picture has; null where they are the same.
    std::function<Status(Picture& band)> settle = {};
    /// Why the picture has to be read whole; there is no reader then.
    std::string needs_whole = {};
};

/// An open file whose bytes are at hand for as long as it is asked for them one after the other.
using SharedFile = std::shared_ptr<const File>;

}  // namespace yl
