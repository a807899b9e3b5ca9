// Values in words and numbers that people read.
#pragma once

#include <string>
#include <vector>
#include <yl/yl.hpp>

namespace ylat {

/// Pictures show what a device shows, and devices approximate the level of detail; the driver that
/// `--api gl` asks does it like this.
inline constexpr yl::LevelCurve device_curve = yl::LevelCurve::piecewise_linear;

/// "1.33 MiB"
[[nodiscard]] std::string byte_text(std::uint64_t bytes);

/// "512 x 512"
[[nodiscard]] std::string size_text(std::uint32_t width, std::uint32_t height);

/// "1 level", "3 levels"
[[nodiscard]] std::string count_text(std::uint64_t count, std::string_view thing);

/// How many levels, and layers, faces and slices where there is more than one; the latter alone,
/// after a comma.
[[nodiscard]] std::string shape_text(const yl::TextureShape& shape);
[[nodiscard]] std::string parts_text(const yl::TextureShape& shape);

/// "gray", "RGBA" ...
[[nodiscard]] std::string channel_text(std::uint32_t channels);

[[nodiscard]] std::string_view transfer_text(yl::Transfer transfer);
[[nodiscard]] std::string_view alpha_text(yl::AlphaMode mode);
[[nodiscard]] std::string_view origin_text(yl::Origin origin);

/// Two columns, the left one padded; indented below a headline.
[[nodiscard]] std::string row_text(std::string_view name, std::string_view value);

/// Lines of cells in columns as wide as they need, the first line as their headings; numbers stand
/// at the right. Columns with nothing below the heading are left out.
/// A terminal's table fits its width: the longest words lose their middle.
[[nodiscard]] std::string table_text(const std::vector<std::vector<std::string>>& lines);
/// The same in at most so many letters, if that can be.
[[nodiscard]] std::string table_text(const std::vector<std::vector<std::string>>& lines,
                                     std::size_t most);

}  // namespace ylat
