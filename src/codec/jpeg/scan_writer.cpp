#include "codec/jpeg/scan_writer.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cstdlib>

#include "codec/code_lengths.hpp"

namespace yl::jpeg {
namespace {

constexpr std::size_t symbols = 256;
constexpr unsigned max_code_length = 16;
constexpr std::uint8_t sixteen_zeros = 0xF0;

/// Of one table: how often symbols occur, then their codes.
struct Table {
    std::array<std::uint32_t, symbols + 1> counts{};
    std::array<std::uint8_t, symbols> lengths{};
    std::array<std::uint16_t, symbols> codes{};
    std::vector<std::uint8_t> order{};  ///< symbols by their codes

    [[nodiscard]] bool is_used() const {
        return std::any_of(counts.begin(), counts.end(), [](std::uint32_t n) { return n > 0; });
    }
    void make_codes();
};

/// No code may consist of ones alone: a symbol that does not exist takes it.
void Table::make_codes() {
    counts[symbols] = 1;
    auto all = code_lengths(counts, max_code_length);
    const auto longest = std::max_element(all.begin(), all.end());
    // What is as long occurs once as well, if the one that does not exist has a shorter code.
    std::swap(*longest, all[symbols]);
    std::copy_n(all.begin(), symbols, lengths.begin());
    std::uint32_t code = 0;
    for (unsigned length = 1; length <= max_code_length; ++length, code <<= 1U)
        for (std::size_t symbol = 0; symbol < symbols; ++symbol)
            if (lengths[symbol] == length) {
                codes[symbol] = static_cast<std::uint16_t>(code++);
                order.push_back(static_cast<std::uint8_t>(symbol));
            }
}

/// Tables by what they are for: of the first coefficient and of the others, of luminance and of the
/// other components.
using Tables = std::array<std::array<Table, 2>, 2>;

class Counter {
 public:
    explicit Counter(Tables& tables) : tables_(tables) {}

    void symbol(std::size_t kind, std::size_t group, std::uint8_t value) {
        ++tables_[kind][group].counts[value];
    }
    void bits(std::uint32_t, unsigned) {}
    void finish() {}

 private:
    Tables& tables_;
};

class Writer {
 public:
    Writer(const Tables& tables, ByteWriter& file) : tables_(tables), file_(file) {}

    void symbol(std::size_t kind, std::size_t group, std::uint8_t value) {
        const Table& table = tables_[kind][group];
        bits(table.codes[value], table.lengths[value]);
    }
    /// The lowest bits, the highest of them first.
    void bits(std::uint32_t value, unsigned count) {
        held_ = held_ << count | (value & ((std::uint64_t{1} << count) - 1));
        for (count_ += count; count_ >= 8; count_ -= 8) {
            const auto byte = static_cast<std::uint8_t>(held_ >> (count_ - 8));
            file_.write(byte);
            if (byte == 0xFF)
                file_.write(std::uint8_t{0});  // no marker
        }
    }
    void finish() {
        if (count_ > 0)
            bits(0x7F, 8 - count_);
    }

 private:
    const Tables& tables_;
    ByteWriter& file_;
    std::uint64_t held_ = 0;
    unsigned count_ = 0;
};

unsigned bit_count(int value) {
    return static_cast<unsigned>(std::bit_width(static_cast<unsigned>(std::abs(value))));
}

/// Walks through a scan; the sink counts symbols, or writes them.
template <class Sink>
class ScanCoder {
 public:
    ScanCoder(std::span<const CodedPlane> planes, const Scan& scan, Sink& sink)
        : planes_(planes), scan_(scan), sink_(sink) {}

    void run() {
        if (scan_.components.size() > 1)
            interleaved();
        else
            alone(scan_.components[0]);
        end_run();
        sink_.finish();
    }

 private:
    void interleaved() {
        const CodedPlane& first = planes_[0];
        for (std::uint32_t y = 0; y < first.blocks_y / first.v; ++y)
            for (std::uint32_t x = 0; x < first.blocks_x / first.h; ++x)
                for (const std::size_t component : scan_.components) {
                    const CodedPlane& plane = planes_[component];
                    for (std::uint32_t v = 0; v < plane.v; ++v)
                        for (std::uint32_t h = 0; h < plane.h; ++h)
                            block(component,
                                  plane.blocks[std::size_t{y * plane.v + v} * plane.blocks_x +
                                               x * plane.h + h]);
                }
    }

    void alone(std::size_t component) {
        const CodedPlane& plane = planes_[component];
        for (std::uint32_t y = 0; y < plane.own_y; ++y)
            for (std::uint32_t x = 0; x < plane.own_x; ++x)
                block(component, plane.blocks[std::size_t{y} * plane.blocks_x + x]);
    }

    void block(std::size_t component, const CodedBlock& coefficients) {
        group_ = component == 0 ? 0 : 1;
        if (scan_.first == 0)
            first_coefficient(component, coefficients[0]);
        if (scan_.last == 0)
            return;
        if (scan_.high > 0)
            refine(coefficients);
        else
            others(coefficients);
    }

    void first_coefficient(std::size_t component, int value) {
        value >>= scan_.low;
        if (scan_.high > 0)
            return sink_.bits(static_cast<std::uint32_t>(value), 1);
        const int step = value - before_[component];
        before_[component] = value;
        sink_.symbol(0, group_, static_cast<std::uint8_t>(bit_count(step)));
        number(step);
    }

    /// The bits of a number whose size is known: negative ones begin with 0.
    void number(int value) {
        sink_.bits(static_cast<std::uint32_t>(value < 0 ? value - 1 : value), bit_count(value));
    }

    [[nodiscard]] int cut(int value) const {
        const int size = std::abs(value) >> scan_.low;
        return value < 0 ? -size : size;
    }

    void others(const CodedBlock& coefficients) {
        unsigned zeros = 0;
        for (unsigned k = std::max(scan_.first, 1U); k <= scan_.last; ++k) {
            const int value = cut(coefficients[k]);
            if (value == 0) {
                ++zeros;
                continue;
            }
            end_run();
            for (; zeros > 15; zeros -= 16)
                sink_.symbol(1, group_, sixteen_zeros);
            sink_.symbol(1, group_, static_cast<std::uint8_t>(zeros << 4U | bit_count(value)));
            number(value);
            zeros = 0;
        }
        if (zeros > 0)
            end_block();
    }

    /// What is known already gets another bit each; what becomes known comes with its sign.
    void refine(const CodedBlock& coefficients) {
        unsigned last_new = 0;
        for (unsigned k = scan_.first; k <= scan_.last; ++k)
            if (std::abs(cut(coefficients[k])) == 1)
                last_new = k;
        unsigned zeros = 0;
        std::vector<std::uint8_t> more;  // bits of what is known, behind the next symbol
        const auto write_more = [&] {
            for (const std::uint8_t bit : more)
                sink_.bits(bit, 1);
            more.clear();
        };
        for (unsigned k = scan_.first; k <= scan_.last; ++k) {
            const int value = cut(coefficients[k]);
            if (value == 0) {
                ++zeros;
                continue;
            }
            for (; zeros > 15 && k <= last_new; zeros -= 16) {
                end_run();
                sink_.symbol(1, group_, sixteen_zeros);
                write_more();
            }
            if (std::abs(value) > 1) {
                more.push_back(static_cast<std::uint8_t>(std::abs(value) & 1));
                continue;
            }
            end_run();
            sink_.symbol(1, group_, static_cast<std::uint8_t>(zeros << 4U | 1U));
            sink_.bits(value > 0 ? 1 : 0, 1);
            write_more();
            zeros = 0;
        }
        if (zeros == 0 && more.empty())
            return;
        run_bits_.insert(run_bits_.end(), more.begin(), more.end());
        end_block();
    }

    /// The rest of the block is zero, or known.
    void end_block() {
        constexpr unsigned max_run = 0x7FFF;
        if (!scan_.is_progressive)
            return sink_.symbol(1, group_, 0);
        if (++run_ == max_run)
            end_run();
    }

    /// Writes that so many blocks ended, and the bits of what is known in them.
    void end_run() {
        if (run_ == 0)
            return;
        const auto size = static_cast<unsigned>(std::bit_width(run_)) - 1;
        sink_.symbol(1, group_, static_cast<std::uint8_t>(size << 4U));
        sink_.bits(run_, size);  // without its highest bit
        run_ = 0;
        for (const std::uint8_t bit : run_bits_)
            sink_.bits(bit, 1);
        run_bits_.clear();
    }

    std::span<const CodedPlane> planes_;
    const Scan& scan_;
    Sink& sink_;
    std::size_t group_ = 0;
    std::array<int, 4> before_{};
    unsigned run_ = 0;
    std::vector<std::uint8_t> run_bits_{};
};

void write_tables(ByteWriter& file, const Tables& tables) {
    for (std::size_t kind = 0; kind < 2; ++kind)
        for (std::size_t group = 0; group < 2; ++group) {
            const Table& table = tables[kind][group];
            if (table.order.empty())
                continue;
            file.write(std::uint8_t{0xFF});
            file.write(static_cast<std::uint8_t>(dht));
            file.write_big(
                static_cast<std::uint16_t>(2 + 1 + max_code_length + table.order.size()));
            file.write(static_cast<std::uint8_t>(kind << 4U | group));
            for (unsigned length = 1; length <= max_code_length; ++length)
                file.write(static_cast<std::uint8_t>(
                    std::count(table.lengths.begin(), table.lengths.end(), length)));
            for (const std::uint8_t symbol : table.order)
                file.write(symbol);
        }
}

void write_header(ByteWriter& file, const Scan& scan) {
    file.write(std::uint8_t{0xFF});
    file.write(static_cast<std::uint8_t>(sos));
    file.write_big(static_cast<std::uint16_t>(6 + 2 * scan.components.size()));
    file.write(static_cast<std::uint8_t>(scan.components.size()));
    for (const std::size_t component : scan.components) {
        const unsigned group = component == 0 ? 0 : 1;
        file.write(static_cast<std::uint8_t>(component + 1));
        file.write(static_cast<std::uint8_t>(group << 4U | group));
    }
    file.write(static_cast<std::uint8_t>(scan.first));
    file.write(static_cast<std::uint8_t>(scan.last));
    file.write(static_cast<std::uint8_t>(scan.high << 4U | scan.low));
}

}  // namespace

void write_scan(ByteWriter& file, std::span<const CodedPlane> planes, const Scan& scan) {
    Tables tables;
    Counter counter(tables);
    ScanCoder<Counter>(planes, scan, counter).run();
    for (auto& kind : tables)
        for (Table& table : kind)
            if (table.is_used())
                table.make_codes();
    write_tables(file, tables);
    write_header(file, scan);
    Writer writer(tables, file);
    ScanCoder<Writer>(planes, scan, writer).run();
}

}  // namespace yl::jpeg
