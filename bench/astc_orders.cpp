// In which order ASTC's grids of weights and ranges of endpoints are tried: the table of the encoder.
//     astc_orders PICTURE... > src/block/astc/candidate_orders.hpp
// Each next candidate of a list is the one that, beside those before it, leaves least of what can be
// gained, where each picture counts alike.
#include <algorithm>
#include <cstdio>
#include <random>
#include <vector>
#include <yl/yl.hpp>

#include "block/astc/candidate_order.hpp"
#include "block/astc/encode.hpp"
#include "or_quit.hpp"

using namespace yl;
using namespace yl::astc;

namespace {

constexpr std::size_t blocks_of_picture = 160;

/// Random blocks of a picture, one after the other.
std::vector<std::byte> blocks_of(ConstImageView picture, astc::Footprint footprint,
                                 std::mt19937& random) {
    std::vector<std::byte> texels;
    for (std::size_t i = 0; i < blocks_of_picture; ++i) {
        const std::size_t x = random() % (picture.width - footprint.width);
        const auto y = static_cast<std::uint32_t>(random() % (picture.height - footprint.height));
        for (std::uint32_t row = 0; row < footprint.height; ++row) {
            const std::byte* from = picture.row(y + row).data() + 4 * x;
            texels.insert(texels.end(), from, from + std::size_t{4} * footprint.width);
        }
    }
    return texels;
}

/// Errors of all blocks and candidates, each picture's divided by what its best ones leave.
std::vector<float> weighed_errors(const EncoderTables& tables, const CandidateList& list,
                                  const std::vector<Image>& pictures) {
    std::vector<float> all;
    std::mt19937 random(1);
    const std::size_t count = list.candidates.size();
    for (const Image& picture : pictures) {
        const auto texels = blocks_of(picture.view(), tables.footprint(), random);
        auto errors = candidate_errors(tables, list, texels.data(), blocks_of_picture);
        float best = 0;
        for (std::size_t block = 0; block < blocks_of_picture; ++block)
            best += *std::min_element(errors.begin() + std::ptrdiff_t(block * count),
                                      errors.begin() + std::ptrdiff_t((block + 1) * count));
        for (float& error : errors)
            error /= std::max(best, 1.0F);
        all.insert(all.end(), errors.begin(), errors.end());
    }
    return all;
}

/// Places in the list.
std::vector<std::size_t> order_of(const std::vector<float>& errors, std::size_t candidates) {
    const std::size_t blocks = errors.size() / candidates;
    std::vector<float> left(blocks, 1e30F);
    std::vector<std::size_t> order;
    while (order.size() < std::min(candidates, ordered_candidates)) {
        std::size_t best = 0;
        double least = 1e300;
        for (std::size_t i = 0; i < candidates; ++i) {
            double sum = 0;
            for (std::size_t block = 0; block < blocks; ++block)
                sum += double(std::min(left[block], errors[block * candidates + i]));
            if (std::ranges::find(order, i) == order.end() && sum < least) {
                least = sum;
                best = i;
            }
        }
        for (std::size_t block = 0; block < blocks; ++block)
            left[block] = std::min(left[block], errors[block * candidates + best]);
        order.push_back(best);
    }
    return order;
}

void print_orders(const EncoderTables& tables, const std::vector<Image>& pictures) {
    std::printf("    {{\n");
    for (unsigned i = 0; i < 6; ++i) {
        const unsigned kind = i % 3;
        const CandidateList& list = tables.list(i < 3 ? EndpointMode::rgb : EndpointMode::rgb_scale,
                                                kind == 1 ? 2 : 1, kind == 2);
        const auto order = order_of(weighed_errors(tables, list, pictures), list.candidates.size());
        std::printf("        {");
        for (std::size_t k = 0; k < ordered_candidates; ++k)
            std::printf("%s%u",
                        k == 0        ? ""
                        : k % 16 == 0 ? ",\n         "
                                      : ", ",
                        k < order.size() ? list.candidates[order[k]].mode_bits : 0U);
        std::printf("},\n");
    }
    std::printf("    }},\n");
}

template <std::size_t... at>
void print_all(const std::vector<Image>& pictures, std::index_sequence<at...> /*n*/) {
    (print_orders(encoder_tables<footprints[at].width, footprints[at].height>(), pictures), ...);
}

}  // namespace

int main(int argc, char** argv) {
    std::vector<Image> pictures;
    for (int i = 1; i < argc; ++i) {
        const Picture picture = or_quit(read_picture(std::filesystem::path(argv[i])));
        pictures.push_back(or_quit(
            convert(picture.image.view(), Format::rgba8_unorm,
                    {.source_transfer = picture.transfer, .target_transfer = Transfer::srgb})));
    }
    std::printf(
        "// Made by bench/astc_orders.\n#pragma once\n\n"
        "#include \"block/astc/candidate_order.hpp\"\n\nnamespace yl::astc {\n\n"
        "// clang-format off\n"
        "inline constexpr CandidateOrder candidate_orders[footprints.size()] = {\n");
    print_all(pictures, std::make_index_sequence<footprints.size()>());
    std::printf("};\n// clang-format on\n\n}  // namespace yl::astc\n");
}
