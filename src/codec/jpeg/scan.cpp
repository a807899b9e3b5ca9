#include "codec/jpeg/scan.hpp"

#include <fmt/format.h>

#include "base/attempt.hpp"
#include "base/checked.hpp"

namespace yl::jpeg {
namespace {

/// What a scan remembers from block to block.
class ScanDecoder {
 public:
    ScanDecoder(const Frame& frame, const Scan& scan, ByteSpan data)
        : frame_(frame), scan_(scan), data_(data), bits_(data) {}

    /// False when the bits make no sense.
    [[nodiscard]] bool decode(std::size_t slot, Block& block) {
        const ScanComponent& component = scan_.components[slot];
        if (!frame_.progressive)
            return sequential(component, last_dc_[slot], block);
        if (scan_.first == 0)
            return scan_.high == 0 ? first_dc(component, last_dc_[slot], block) : refine_dc(block);
        return scan_.high == 0 ? first_ac(component, block) : refine_ac(component, block);
    }

    [[nodiscard]] bool overran() const { return bits_.overran(); }
    [[nodiscard]] std::size_t offset() const { return start_ + bits_.offset(); }

    /// Passes a restart marker: all that was remembered is forgotten (F.1.1.5).
    [[nodiscard]] Status restart() {
        std::size_t at = start_ + bits_.offset();
        while (at + 1 < data_.size() && data_[at] == std::byte{0xFF} &&
               data_[at + 1] == std::byte{0xFF})
            ++at;
        const auto marker = at + 1 < data_.size() && data_[at] == std::byte{0xFF}
                                ? std::to_integer<std::uint8_t>(data_[at + 1])
                                : 0;
        if (marker != rst0 + next_restart_)
            return fail(
                ErrorKind::malformed,
                fmt::format("restart marker {} is missing: the file is damaged or truncated",
                            next_restart_),
                at);
        next_restart_ = (next_restart_ + 1) % 8;
        start_ = at + 2;
        bits_ = BitReader(data_.subspan(start_));
        last_dc_.fill(0);
        empty_blocks_ = 0;
        return {};
    }

 private:
    bool sequential(const ScanComponent& component, int& last_dc, Block& block) {
        const int size = bits_.symbol(*component.dc);
        if (size < 0 || size > 15)
            return false;
        last_dc = static_cast<std::int16_t>(last_dc +
                                            bits_.signed_number(size));  // wraps in damaged files
        block[0] = static_cast<std::int16_t>(last_dc);
        for (std::size_t k = 1; k < block_size;) {
            const int symbol = bits_.symbol(*component.ac);
            if (symbol < 0)
                return false;
            const int bits = symbol & 15;
            if (bits == 0 && symbol != 0xF0)
                return true;  // end of block
            k += static_cast<std::size_t>(symbol >> 4);
            block[zigzag[k]] = static_cast<std::int16_t>(bits_.signed_number(bits));
            ++k;
        }
        return true;
    }

    bool first_dc(const ScanComponent& component, int& last_dc, Block& block) {
        const int size = bits_.symbol(*component.dc);
        if (size < 0 || size > 15)
            return false;
        last_dc = static_cast<std::int16_t>(last_dc +
                                            bits_.signed_number(size));  // wraps in damaged files
        block[0] = static_cast<std::int16_t>(last_dc * (1 << scan_.low));
        return true;
    }

    bool refine_dc(Block& block) {
        if (bits_.number(1) != 0)
            block[0] = static_cast<std::int16_t>(block[0] | 1 << scan_.low);
        return true;
    }

    /// A run of blocks whose rest is empty, this one included (G.1.2.2).
    void start_empty_blocks(int run) { empty_blocks_ = (1U << run) + bits_.number(run); }

    bool first_ac(const ScanComponent& component, Block& block) {
        if (empty_blocks_ > 0) {
            --empty_blocks_;
            return true;
        }
        for (int k = scan_.first; k <= scan_.last;) {
            const int symbol = bits_.symbol(*component.ac);
            if (symbol < 0)
                return false;
            const int run = symbol >> 4;
            const int bits = symbol & 15;
            if (bits == 0 && run < 15) {
                start_empty_blocks(run);
                --empty_blocks_;
                return true;
            }
            k += run;
            if (bits != 0)
                block[zigzag[static_cast<std::size_t>(k)]] =
                    static_cast<std::int16_t>(bits_.signed_number(bits) * (1 << scan_.low));
            ++k;
        }
        return true;
    }

    /// One more bit for a coefficient that is not 0.
    void refine(std::int16_t& coefficient) {
        if (bits_.number(1) == 0)
            return;
        const int step = 1 << scan_.low;
        if ((coefficient & step) == 0)
            coefficient =
                static_cast<std::int16_t>(coefficient + (coefficient >= 0 ? step : -step));
    }

    bool refine_ac(const ScanComponent& component, Block& block) {
        int k = scan_.first;
        const auto at = [&](int place) -> std::int16_t& {
            return block[zigzag[static_cast<std::size_t>(place)]];
        };
        while (empty_blocks_ == 0 && k <= scan_.last) {
            const int symbol = bits_.symbol(*component.ac);
            if (symbol < 0 || (symbol & 15) > 1)
                return false;
            int run = symbol >> 4;
            int fresh = 0;
            if ((symbol & 15) != 0) {
                fresh = bits_.number(1) != 0 ? 1 << scan_.low : -(1 << scan_.low);
            } else if (run < 15) {
                start_empty_blocks(run);
                break;
            }
            // Pass over `run` zeros, refining what is not zero on the way.
            for (; k <= scan_.last; ++k) {
                if (at(k) != 0) {
                    refine(at(k));
                } else if (run-- == 0) {
                    if (fresh != 0)
                        at(k) = static_cast<std::int16_t>(fresh);
                    break;
                }
            }
            ++k;
        }
        if (empty_blocks_ > 0) {
            for (; k <= scan_.last; ++k)
                if (at(k) != 0)
                    refine(at(k));
            --empty_blocks_;
        }
        return true;
    }

    const Frame& frame_;
    const Scan& scan_;
    ByteSpan data_;
    BitReader bits_;
    std::size_t start_ = 0;  ///< of the bits since the last restart
    std::array<int, 4> last_dc_{};
    std::uint32_t empty_blocks_ = 0;
    int next_restart_ = 0;
};

/// The blocks of one unit: of several components by their sampling factors, of a single one just
/// one block (A.2).
struct UnitGrid {
    std::uint32_t units_x = 0, units_y = 0;
    bool interleaved = false;

    UnitGrid(const Frame& frame, const Scan& scan)
        : units_x(frame.units_x), units_y(frame.units_y) {
        interleaved = scan.components.size() > 1;
        if (interleaved)
            return;
        const Component& only = frame.components[scan.components[0].index];
        units_x = static_cast<std::uint32_t>(ceil_div(only.width, block_side));
        units_y = static_cast<std::uint32_t>(ceil_div(only.height, block_side));
    }
};

}  // namespace

Result<std::size_t> decode_scan(const Frame& frame, const Scan& scan, ByteSpan data,
                                const BlockStore& store) {
    ScanDecoder decoder(frame, scan, data);
    const UnitGrid grid(frame, scan);
    const auto decode_block = [&](std::size_t slot, std::uint32_t x, std::uint32_t y) {
        const std::size_t index = scan.components[slot].index;
        if (!decoder.decode(slot, store.block(index, x, y)))
            return false;
        if (store.finished)
            store.finished(index, x, y);
        return true;
    };
    std::uint32_t until_restart = scan.restart_interval;
    for (std::uint32_t unit_y = 0; unit_y < grid.units_y; ++unit_y) {
        for (std::uint32_t unit_x = 0; unit_x < grid.units_x; ++unit_x) {
            if (scan.restart_interval != 0 && until_restart-- == 0) {
                YL_CHECK(decoder.restart());
                until_restart = scan.restart_interval - 1;
            }
            bool sound = true;
            for (std::size_t slot = 0; sound && slot < scan.components.size(); ++slot) {
                const Component& component = frame.components[scan.components[slot].index];
                const std::uint32_t across = grid.interleaved ? component.h : 1;
                const std::uint32_t down = grid.interleaved ? component.v : 1;
                for (std::uint32_t i = 0; sound && i < across * down; ++i)
                    sound = decode_block(slot, unit_x * across + i % across,
                                         unit_y * down + i / across);
            }
            if (!sound || decoder.overran())
                return fail(
                    ErrorKind::malformed,
                    sound ? "the coded data end early: the file is truncated or damaged"
                          : "the coded data hold a code that no table has: the file is damaged",
                    decoder.offset());
        }
    }
    return decoder.offset();
}

}  // namespace yl::jpeg
