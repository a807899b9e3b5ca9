#include "codec/jpeg/scan.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl::jpeg {
namespace {

/// What a scan remembers from block to block.
class ScanDecoder {
 public:
    ScanDecoder(const Frame& frame, const Scan& scan, ByteSpan data)
        : frame_(frame), scan_(scan), data_(data), bits_(data) {}

    /// False when the bits make no sense, or end.
    [[nodiscard]] bool decode(std::size_t slot, Block& block) {
        return decode_block(slot, block) && !overran();
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
    bool decode_block(std::size_t slot, Block& block) {
        const ScanComponent& component = scan_.components[slot];
        if (!frame_.progressive)
            return sequential(component, last_dc_[slot], block);
        if (scan_.first == 0)
            return scan_.high == 0 ? first_dc(component, last_dc_[slot], block) : refine_dc(block);
        return scan_.high == 0 ? first_ac(component, block) : refine_ac(component, block);
    }

    /// The difference to the last DC coefficient comes first (F.2.2.1).
    bool next_dc(const ScanComponent& component, int& last_dc) {
        const auto [size, difference] = bits_.coefficient(*component.dc);
        if (size < 0 || size > 15)
            return false;
        last_dc = static_cast<std::int16_t>(last_dc + difference);  // wraps in damaged files
        return true;
    }

    bool sequential(const ScanComponent& component, int& last_dc, Block& block) {
        if (!next_dc(component, last_dc))
            return false;
        block[0] = static_cast<std::int16_t>(last_dc);
        BitReader bits = bits_;  // in registers
        bool sound = true;
        for (std::size_t k = 1; k < block_size; ++k) {
            const auto [symbol, number] = bits.coefficient(*component.ac);
            if (symbol <= 0) {  // 0 ends the block
                sound = symbol == 0;
                break;
            }
            k += static_cast<std::size_t>(symbol >> 4);
            block[zigzag[k]] = static_cast<std::int16_t>(number);
        }
        bits_ = bits;
        return sound;
    }

    bool first_dc(const ScanComponent& component, int& last_dc, Block& block) {
        if (!next_dc(component, last_dc))
            return false;
        block[0] = static_cast<std::int16_t>(last_dc * (1 << scan_.low));
        return true;
    }

    bool refine_dc(Block& block) {
        if (bits_.bit())
            block[0] = static_cast<std::int16_t>(block[0] | 1 << scan_.low);
        return true;
    }

    /// A run of blocks whose rest is empty, this one included (G.1.2.2).
    void start_empty_blocks(int run, BitReader& bits) {
        empty_blocks_ = (1U << run) + bits.number(run);
    }

    bool first_ac(const ScanComponent& component, Block& block) {
        if (empty_blocks_ > 0) {
            --empty_blocks_;
            return true;
        }
        BitReader bits = bits_;  // in registers
        bool sound = true;
        for (int k = scan_.first; k <= scan_.last; ++k) {
            const auto [symbol, number] = bits.coefficient(*component.ac);
            if (symbol < 0) {
                sound = false;
                break;
            }
            const int run = symbol >> 4;
            if ((symbol & 15) == 0 && run < 15) {
                start_empty_blocks(run, bits);
                --empty_blocks_;
                break;
            }
            k += run;
            if (number != 0)
                block[zigzag[static_cast<std::size_t>(k)]] =
                    static_cast<std::int16_t>(number * (1 << scan_.low));
        }
        bits_ = bits;
        return sound;
    }

    /// One more bit for a coefficient that is not 0.
    void refine(std::int16_t& coefficient, BitReader& bits) const {
        if (!bits.bit())
            return;
        const int step = 1 << scan_.low;
        if ((coefficient & step) == 0)
            coefficient =
                static_cast<std::int16_t>(coefficient + (coefficient >= 0 ? step : -step));
    }

    bool refine_ac(const ScanComponent& component, Block& block) {
        BitReader bits = bits_;  // in registers
        const bool sound = refine_ac(component, block, bits);
        bits_ = bits;
        return sound;
    }

    bool refine_ac(const ScanComponent& component, Block& block, BitReader& bits) {
        int k = scan_.first;
        const auto at = [&](int place) -> std::int16_t& {
            return block[zigzag[static_cast<std::size_t>(place)]];
        };
        while (empty_blocks_ == 0 && k <= scan_.last) {
            const int symbol = bits.symbol(*component.ac);
            if (symbol < 0 || (symbol & 15) > 1)
                return false;
            int run = symbol >> 4;
            int fresh = 0;
            if ((symbol & 15) != 0) {
                fresh = bits.bit() ? 1 << scan_.low : -(1 << scan_.low);
            } else if (run < 15) {
                start_empty_blocks(run, bits);
                break;
            }
            // Pass over `run` zeros, refining what is not zero on the way.
            for (; k <= scan_.last; ++k) {
                if (at(k) != 0) {
                    refine(at(k), bits);
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
                    refine(at(k), bits);
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

/// Walks over the blocks of a scan in coded order: of several components unit by unit, each with as
/// many blocks as its sampling factors say; of a single one block by block (A.2).
class ScanWalk {
 public:
    ScanWalk(const Frame& frame, const Scan& scan, ByteSpan data)
        : frame_(frame),
          scan_(scan),
          decoder_(frame, scan, data),
          until_restart_(scan.restart_interval) {}

    Status together(const UnitRows& rows) {
        for (std::uint32_t unit_y = 0; unit_y < frame_.units_y; ++unit_y) {
            Block* blocks = rows.begin(unit_y, decoder_.offset());
            if (blocks == nullptr)
                return cancelled();
            for (std::uint32_t unit_x = 0; unit_x < frame_.units_x; ++unit_x) {
                if (restart_is_due())
                    YL_CHECK(decoder_.restart());
                for (std::size_t slot = 0; slot < scan_.components.size(); ++slot) {
                    const Component& c = frame_.components[scan_.components[slot].index];
                    Block* first = blocks + c.first_block + std::size_t{unit_x} * c.h;
                    for (std::size_t y = 0; y < c.v; ++y)
                        for (std::size_t x = 0; x < c.h; ++x)
                            if (!decoder_.decode(slot, first[y * c.blocks_x + x]))
                                return damage();
                }
            }
            if (rows.finished)
                rows.finished();
        }
        return {};
    }

    Status alone(const UnitRows& rows) {
        const Component& c = frame_.components[scan_.components[0].index];
        const auto across = static_cast<std::uint32_t>(ceil_div(c.width, block_side));
        const auto down = static_cast<std::uint32_t>(ceil_div(c.height, block_side));
        for (std::uint32_t y = 0; y < down; ++y) {
            Block* blocks = rows.begin(y / c.v, decoder_.offset());
            if (blocks == nullptr)
                return cancelled();
            Block* row = blocks + c.first_block + std::size_t{y % c.v} * c.blocks_x;
            for (std::uint32_t x = 0; x < across; ++x) {
                if (restart_is_due())
                    YL_CHECK(decoder_.restart());
                if (!decoder_.decode(0, row[x]))
                    return damage();
            }
            if (rows.finished)
                rows.finished();
        }
        return {};
    }

    [[nodiscard]] std::size_t offset() const { return decoder_.offset(); }

 private:
    static Status cancelled() { return fail(ErrorKind::cancelled, "reading was cancelled"); }

    bool restart_is_due() {
        if (scan_.restart_interval == 0)
            return false;
        const bool due = until_restart_ == 0;
        until_restart_ = (due ? scan_.restart_interval : until_restart_) - 1;
        return due;
    }

    [[nodiscard]] Status damage() const {
        return fail(ErrorKind::malformed,
                    decoder_.overran()
                        ? "the coded data end early: the file is truncated or damaged"
                        : "the coded data hold a code that no table has: the file is damaged",
                    decoder_.offset());
    }

    const Frame& frame_;
    const Scan& scan_;
    ScanDecoder decoder_;
    std::uint32_t until_restart_;
};

}  // namespace

Result<std::size_t> decode_scan(const Frame& frame, const Scan& scan, ByteSpan data,
                                const UnitRows& rows) {
    ScanWalk walk(frame, scan, data);
    YL_CHECK(scan.components.size() > 1 ? walk.together(rows) : walk.alone(rows));
    return walk.offset();
}

}  // namespace yl::jpeg
