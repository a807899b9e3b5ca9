#include "codec/webp/macroblock.hpp"

#include <algorithm>
#include <cstring>

namespace yl::webp {
namespace {

constexpr int stride = Surrounded::stride;

std::uint8_t clamped(int value) {
    return static_cast<std::uint8_t>(std::clamp(value, 0, 255));
}

void fill(std::uint8_t* to, int size, int value) {
    for (int y = 0; y < size; ++y)
        std::memset(to + y * stride, value, static_cast<std::size_t>(size));
}

void continue_gradients(std::uint8_t* to, int size) {
    const std::uint8_t* above = to - stride;
    for (int y = 0; y < size; ++y) {
        std::uint8_t* row = to + y * stride;
        const int step = row[-1] - above[-1];
        for (int x = 0; x < size; ++x)
            row[x] = clamped(above[x] + step);
    }
}

int mean_around(const std::uint8_t* to, int size, bool has_above, bool has_left) {
    if (!has_above && !has_left)
        return 128;
    int sum = 0, count = 0;
    if (has_above)
        for (int x = 0; x < size; ++x, ++count)
            sum += to[x - stride];
    if (has_left)
        for (int y = 0; y < size; ++y, ++count)
            sum += to[y * stride - 1];
    return (sum + count / 2) / count;
}

std::uint8_t mean(int a, int b) {
    return static_cast<std::uint8_t>((a + b + 1) >> 1);
}
std::uint8_t mean(int a, int b, int c) {
    return static_cast<std::uint8_t>((a + 2 * b + c + 2) >> 2);
}
/// Weighed around p[0].
std::uint8_t around(const std::uint8_t* p) {
    return mean(p[-1], p[0], p[1]);
}
/// Between p[0] and p[1].
std::uint8_t behind(const std::uint8_t* p) {
    return mean(p[0], p[1]);
}

/// All samples of a diagonal are alike: `value(k)` for the k-th, counted from the top left, or, for
/// those that run to the right and down, from the bottom left.
template <class Value>
void fill_diagonals(std::uint8_t* to, bool to_the_right, Value&& value) {
    std::array<std::uint8_t, 7> values;
    for (int k = 0; k < 7; ++k)
        values[static_cast<std::size_t>(k)] = value(k);
    for (int y = 0; y < 4; ++y)
        for (int x = 0; x < 4; ++x)
            to[y * stride + x] = values[static_cast<std::size_t>(to_the_right ? 3 - y + x : x + y)];
}

/// A block's samples by number: row by row, each names one of the values.
void fill_from(std::uint8_t* to, std::span<const std::uint8_t> values, const char (&places)[17]) {
    for (int i = 0; i < 16; ++i)
        to[i / 4 * stride + i % 4] = values[static_cast<std::size_t>(places[i] - 'a')];
}

/// Lines of slope 2 and 1/2: halfway between samples on every other row or column.
void predict_steep(std::uint8_t* to, BlockPrediction mode, const std::uint8_t* edge,
                   const std::uint8_t* above, const std::uint8_t* left) {
    switch (mode) {
        case BlockPrediction::vertical_right: {
            const std::uint8_t values[] = {behind(edge + 4), behind(edge + 5), behind(edge + 6),
                                           behind(edge + 7), around(edge + 4), around(edge + 5),
                                           around(edge + 6), around(edge + 7), around(edge + 3),
                                           around(edge + 2)};
            return fill_from(to, values, "abcdefghiabcjefg");
        }
        case BlockPrediction::vertical_left: {
            const std::uint8_t values[] = {behind(above),     behind(above + 1), behind(above + 2),
                                           behind(above + 3), around(above + 1), around(above + 2),
                                           around(above + 3), around(above + 4), around(above + 5),
                                           around(above + 6)};
            return fill_from(to, values, "abcdefghbcdifghj");
        }
        case BlockPrediction::horizontal_down: {
            const std::uint8_t values[] = {behind(edge + 3), around(edge + 4), around(edge + 5),
                                           around(edge + 6), behind(edge + 2), around(edge + 3),
                                           behind(edge + 1), around(edge + 2), behind(edge),
                                           around(edge + 1)};
            return fill_from(to, values, "abcdefabghefijgh");
        }
        default: {
            const std::uint8_t values[] = {behind(left),     around(left + 1),
                                           behind(left + 1), around(left + 2),
                                           behind(left + 2), mean(left[2], left[3], left[3]),
                                           left[3]};
            return fill_from(to, values, "abcdcdefefgggggg");
        }
    }
}

}  // namespace

void predict(Surrounded& samples, int size, Prediction mode, bool has_above, bool has_left) {
    std::uint8_t* to = samples.at(0, 0);
    switch (mode) {
        case Prediction::dc:
            fill(to, size, mean_around(to, size, has_above, has_left));
            break;
        case Prediction::true_motion:
            continue_gradients(to, size);
            break;
        case Prediction::vertical:
            for (int y = 0; y < size; ++y)
                std::memcpy(to + y * stride, to - stride, static_cast<std::size_t>(size));
            break;
        case Prediction::horizontal:
            for (int y = 0; y < size; ++y)
                std::memset(to + y * stride, to[y * stride - 1], static_cast<std::size_t>(size));
            break;
    }
}

void predict_block(Surrounded& samples, int y, int x, BlockPrediction mode) {
    std::uint8_t* to = samples.at(y, x);
    const std::uint8_t* above = to - stride;
    // The samples around, from the bottom left to the top right.
    const std::uint8_t edge[9] = {
        to[3 * stride - 1], to[2 * stride - 1], to[stride - 1], to[-1],  above[-1],
        above[0],           above[1],           above[2],       above[3]};
    const std::uint8_t left[4] = {to[-1], to[stride - 1], to[2 * stride - 1], to[3 * stride - 1]};
    switch (mode) {
        case BlockPrediction::dc: {
            int sum = 4;
            for (int i = 0; i < 4; ++i)
                sum += above[i] + left[i];
            return fill(to, 4, sum >> 3);
        }
        case BlockPrediction::true_motion:
            return continue_gradients(to, 4);
        case BlockPrediction::vertical: {
            const std::uint8_t row[4] = {around(above), around(above + 1), around(above + 2),
                                         around(above + 3)};
            for (int i = 0; i < 4; ++i)
                std::memcpy(to + i * stride, row, 4);
            return;
        }
        case BlockPrediction::horizontal: {
            const std::uint8_t column[4] = {mean(above[-1], left[0], left[1]), around(left + 1),
                                            around(left + 2), mean(left[2], left[3], left[3])};
            for (int i = 0; i < 4; ++i)
                std::memset(to + i * stride, column[i], 4);
            return;
        }
        case BlockPrediction::left_down:
            return fill_diagonals(to, false, [&](int k) {
                return k == 6 ? mean(above[6], above[7], above[7]) : around(above + k + 1);
            });
        case BlockPrediction::right_down:
            return fill_diagonals(to, true, [&](int k) { return around(edge + k + 1); });
        default:
            return predict_steep(to, mode, edge, above, left);
    }
}

namespace {

// Factors of the transform in 16 bits behind the point: sqrt(2) cos(pi / 8) - 1 and sqrt(2) sin(pi / 8).
int times_cosine(int value) {
    return value + (value * 20091 >> 16);
}
int times_sine(int value) {
    return value * 35468 >> 16;
}

}  // namespace

void add_constant_plain(int value, std::uint8_t* to) {
    for (int y = 0; y < 4; ++y)
        for (int x = 0; x < 4; ++x)
            to[y * stride + x] = clamped(to[y * stride + x] + value);
}

void add_residue(Surrounded& samples, int y, int x, Coefficients coefficients, int count) {
    std::uint8_t* to = samples.at(y, x);
    if (count == 1)
        add_constant((coefficients[0] + 4) >> 3, to);
    else if (count > 1)
        add_transformed(coefficients.data(), to);
}

void add_transformed_plain(const std::int16_t* in, std::uint8_t* to) {
    std::array<int, 16> columns;
    for (std::size_t i = 0; i < 4; ++i) {
        const int a = in[i] + in[8 + i], b = in[i] - in[8 + i];
        const int c = times_sine(in[4 + i]) - times_cosine(in[12 + i]);
        const int d = times_cosine(in[4 + i]) + times_sine(in[12 + i]);
        columns[i] = a + d;
        columns[4 + i] = b + c;
        columns[8 + i] = b - c;
        columns[12 + i] = a - d;
    }
    for (std::size_t row = 0; row < 4; ++row, to += stride) {
        const int* in_row = columns.data() + 4 * row;
        const int a = in_row[0] + in_row[2] + 4, b = in_row[0] - in_row[2] + 4;
        const int c = times_sine(in_row[1]) - times_cosine(in_row[3]);
        const int d = times_cosine(in_row[1]) + times_sine(in_row[3]);
        to[0] = clamped(to[0] + ((a + d) >> 3));
        to[1] = clamped(to[1] + ((b + c) >> 3));
        to[2] = clamped(to[2] + ((b - c) >> 3));
        to[3] = clamped(to[3] + ((a - d) >> 3));
    }
}

void spread_means(Coefficients in, std::int16_t* blocks) {
    std::array<int, 16> columns;
    for (std::size_t i = 0; i < 4; ++i) {
        const int a = in[i] + in[12 + i], b = in[4 + i] + in[8 + i];
        const int c = in[4 + i] - in[8 + i], d = in[i] - in[12 + i];
        columns[i] = a + b;
        columns[4 + i] = c + d;
        columns[8 + i] = a - b;
        columns[12 + i] = d - c;
    }
    for (std::size_t row = 0; row < 4; ++row, blocks += 64) {
        const int* in_row = columns.data() + 4 * row;
        const int a = in_row[0] + in_row[3] + 3, b = in_row[1] + in_row[2];
        const int c = in_row[1] - in_row[2], d = in_row[0] - in_row[3] + 3;
        blocks[0] = static_cast<std::int16_t>((a + b) >> 3);
        blocks[16] = static_cast<std::int16_t>((c + d) >> 3);
        blocks[32] = static_cast<std::int16_t>((a - b) >> 3);
        blocks[48] = static_cast<std::int16_t>((d - c) >> 3);
    }
}

}  // namespace yl::webp
