// Makes the table of starts from which EAC is searched, out of pictures, and prints it:
//     eac_starts PICTURE... > src/block/etc/eac_starts.hpp
// Blocks are sorted by the range of their values. For each class of ranges every choice that could be
// good is tried on every block; then the starts are taken one by one, each the one that helps most
// beside those before it.
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <vector>
#include <yl/yl.hpp>

#include "block/etc/eac_classes.hpp"
#include "block/etc/eac_values.hpp"

namespace {

using yl::etc::modifiers;

constexpr std::size_t most_blocks = 600;  // of one class

struct Block {
    std::array<float, 16> values{};
    float low = 0, range = 0;
};

using Classes = std::array<std::vector<Block>, yl::etc::range_classes>;

void add_blocks(yl::ConstImageView image, std::uint32_t channel, Classes& classes) {
    for (std::uint32_t y = 4 * channel; y + 4 <= image.height; y += 20)
        for (std::uint32_t x = 0; x + 4 <= image.width; x += 28) {
            Block block;
            for (std::uint32_t i = 0; i < 16; ++i)
                block.values[i] =
                    std::to_integer<std::uint8_t>(image.row(y + i / 4)[4 * (x + i % 4) + channel]);
            const auto [low, high] = std::ranges::minmax(block.values);
            block.low = low;
            block.range = high - low;
            auto& list = classes[static_cast<std::size_t>(yl::etc::range_class(block.range))];
            if (list.size() < most_blocks)
                list.push_back(block);
        }
}

/// As the encoder takes it: multiplier and offset belong to the class's own range.
struct Start {
    int row = 0, multiplier = 0, offset = 0;
};

std::vector<Start> possible_starts(double range) {
    std::vector<Start> starts;
    const int step = std::max(1, static_cast<int>(range / 32));
    for (int row = 0; row < 16; ++row)
        for (int multiplier = 1; multiplier < 16; ++multiplier) {
            const int reach = (modifiers[row][7] - modifiers[row][3]) * multiplier;
            if (reach > 3.2 * range + 24 || reach < 0.6 * range)
                continue;
            for (int offset = -static_cast<int>(range * 0.4) - 2; offset <= range * 1.4 + 2;
                 offset += step)
                starts.push_back({row, multiplier, offset});
        }
    return starts;
}

float error_of(const Block& block, const Start& start, double range) {
    const double scale = range > 0 ? block.range / range : 1;
    const int multiplier =
        std::clamp(static_cast<int>(std::lround(start.multiplier * scale)), 0, 15);
    const int base =
        std::clamp(static_cast<int>(std::lround(block.low + start.offset * scale)), 0, 255);
    float error = 0;
    for (const float value : block.values) {
        float nearest = 1e9F;
        for (const int modifier : modifiers[start.row])
            nearest =
                std::min(nearest, std::abs(value - static_cast<float>(std::clamp(
                                                       base + modifier * multiplier, 0, 255))));
        error += nearest * nearest;
    }
    return error;
}

std::vector<Start> best_starts(const std::vector<Block>& blocks, double range) {
    const std::vector<Start> possible = possible_starts(range);
    std::vector<std::vector<float>> errors(possible.size());
    for (std::size_t i = 0; i < possible.size(); ++i)
        for (const Block& block : blocks)
            errors[i].push_back(error_of(block, possible[i], range));
    std::vector<float> present(blocks.size(), 1e9F);
    std::vector<Start> chosen;
    while (chosen.size() < yl::etc::most_starts) {
        std::size_t best = 0;
        double least = 1e30;
        for (std::size_t i = 0; i < possible.size(); ++i) {
            double sum = 0;
            for (std::size_t b = 0; b < blocks.size(); ++b)
                sum += std::min(present[b], errors[i][b]);
            if (sum < least) {
                least = sum;
                best = i;
            }
        }
        chosen.push_back(possible[best]);
        for (std::size_t b = 0; b < blocks.size(); ++b)
            present[b] = std::min(present[b], errors[best][b]);
    }
    return chosen;
}

template <class Value>
void print_table(const char* name, const std::vector<std::vector<Start>>& all, const Value& value) {
    std::printf("inline constexpr float %s[most_starts][range_classes] = {\n", name);
    for (std::size_t k = 0; k < yl::etc::most_starts; ++k) {
        std::printf("    {");
        for (std::size_t c = 0; c < all.size(); ++c)
            std::printf("%s%d", c == 0 ? "" : ", ", value(all[c][k]));
        std::printf("},\n");
    }
    std::printf("};\n");
}

}  // namespace

int main(int argc, char** argv) {
    Classes classes;
    for (int i = 1; i < argc; ++i) {
        const auto picture = yl::read_picture(std::filesystem::path(argv[i]));
        if (!picture)
            return std::fprintf(stderr, "%s\n", picture.error().sentence().c_str()), 1;
        const yl::Image image =
            yl::or_exit(yl::convert(picture->image.view(), yl::Format::rgba8_unorm,
                                    {.source_transfer = picture->transfer,
                                     .target_transfer = picture->transfer,
                                     .swizzle = picture->swizzle}));
        for (std::uint32_t channel = 0; channel < 3; ++channel)
            add_blocks(image.view(), channel, classes);
    }
    std::vector<std::vector<Start>> all;
    for (std::size_t c = 0; c < classes.size(); ++c) {
        if (classes[c].empty())
            return std::fprintf(stderr, "no block in class %zu\n", c), 1;
        all.push_back(best_starts(classes[c], yl::etc::range_of_class(static_cast<int>(c))));
    }
    std::printf(
        "// Where the search for EAC begins, by the range of a block's values: rows, and "
        "multipliers\n"
        "// and offsets of the base from the least value, for the range that stands for the "
        "class.\n"
        "// Made by bench/eac_starts.\n#pragma once\n\n#include \"block/etc/eac_classes.hpp\"\n\n"
        "namespace yl::etc {\n\n// clang-format off\n");
    print_table("start_rows", all, [](const Start& s) { return s.row; });
    print_table("start_multipliers", all, [](const Start& s) { return s.multiplier; });
    print_table("start_offsets", all, [](const Start& s) { return s.offset; });
    std::printf("// clang-format on\n\n}  // namespace yl::etc\n");
}
