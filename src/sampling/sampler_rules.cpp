#include <yl/sampler_rules.hpp>

#include <fmt/format.h>

namespace yl {
namespace {

/// The last level that the texture needs in order to be complete.
std::uint32_t last_needed_level(const TextureShape& shape, LevelRange range) {
    return std::min(range.last(), full_level_count(shape.width, shape.height, shape.depth) - 1);
}

}  // namespace

bool is_complete(const TextureShape& shape, const Sampler& sampler, LevelRange range) {
    if (range.count == 0 || range.first >= shape.levels)
        return false;
    return sampler.mip == MipFilter::none || last_needed_level(shape, range) < shape.levels;
}

Findings check_sampler(const TextureShape& shape, const Sampler& sampler, LevelRange range) {
    Findings findings;
    const bool uses_border = std::find(sampler.wrap.begin(), sampler.wrap.begin() + 2,
                                       Wrap::clamp_to_border) != sampler.wrap.begin() + 2;
    if (!is_complete(shape, sampler, range)) {
        findings.push_back(
            {"incomplete-chain",
             fmt::format(
                 "the sampler uses mip levels up to {}, but the texture has only {}: OpenGL "
                 "samples it as black",
                 last_needed_level(shape, range), shape.levels),
             "bake a full chain, declare the level range that is there, or set mip=none",
             FindingLevel::error});
    } else if (sampler.mip != MipFilter::none && shape.levels == 1 &&
               std::max(shape.width, shape.height) > 1) {
        findings.push_back(
            {"no-mips",
             "the sampler asks for mip levels and the texture has one level: far surfaces will "
             "shimmer",
             "bake a full chain, or set mip=none if that is meant"});
    }
    if (sampler.mip == MipFilter::none && shape.levels > 1)
        findings.push_back(
            {"mips-unused",
             fmt::format("the texture has {} levels and the sampler uses none but the first",
                         shape.levels),
             "set mip=linear (or mip=nearest)"});
    if (sampler.max_anisotropy > 1 &&
        (sampler.min == Filter::nearest || sampler.mag == Filter::nearest))
        findings.push_back(
            {"anisotropy-with-nearest",
             "anisotropy with a nearest filter is undefined or ignored, depending on the driver",
             "set mag=linear min=linear, or leave aniso out"});
    if (sampler.min_level > static_cast<float>(shape.levels - 1))
        findings.push_back({"lod-beyond-levels",
                            fmt::format("lod starts at {}, beyond the texture's last level {}",
                                        sampler.min_level, shape.levels - 1),
                            "start the range at a level that is there"});
    if (sampler.border != Sampler{}.border && !uses_border)
        findings.push_back({"border-unused",
                            "a border colour is set, and neither u nor v is clamped to the border",
                            "set wrap=clamp-to-border, or leave border out"});
    return findings;
}

}  // namespace yl
