#include "support/profiles.hpp"

#include <cmath>
#include <initializer_list>
#include <stdexcept>

namespace support {
namespace {

void need(cmsBool done) {
    if (!done)
        throw std::runtime_error("Little CMS made no profile");
}

cmsInt32Number lab_of_inks(const cmsUInt16Number* ink, cmsUInt16Number* lab, void*) {
    const auto light = [&](int i) { return 1 - ink[i] / 65535.0; };
    const double gray = light(3) * (0.3 * light(0) + 0.5 * light(1) + 0.2 * light(2));
    const cmsCIELab place = {100 * std::cbrt(gray), 60 * (light(0) - light(1)) * -light(3),
                             70 * (light(2) - light(0)) * -light(3)};
    cmsFloat2LabEncoded(lab, &place);
    return 1;
}

}  // namespace

std::vector<std::byte> saved_profile(cmsHPROFILE profile) {
    cmsUInt32Number size = 0;
    need(cmsSaveProfileToMem(profile, nullptr, &size));
    std::vector<std::byte> bytes(size);
    need(cmsSaveProfileToMem(profile, bytes.data(), &size));
    cmsCloseProfile(profile);
    return bytes;
}

std::vector<std::byte> ink_profile(unsigned nodes) {
    cmsHPROFILE profile = cmsCreateProfilePlaceholder(nullptr);
    cmsSetProfileVersion(profile, 4.3);
    cmsSetDeviceClass(profile, cmsSigOutputClass);
    cmsSetColorSpace(profile, cmsSigCmykData);
    cmsSetPCS(profile, cmsSigLabData);
    cmsPipeline* pipeline = cmsPipelineAlloc(nullptr, 4, 3);
    cmsStage* grid = cmsStageAllocCLut16bit(nullptr, nodes, 4, 3, nullptr);
    need(cmsStageSampleCLut16bit(grid, lab_of_inks, nullptr, 0));
    cmsPipelineInsertStage(pipeline, cmsAT_END, cmsStageAllocToneCurves(nullptr, 4, nullptr));
    cmsPipelineInsertStage(pipeline, cmsAT_END, grid);
    cmsPipelineInsertStage(pipeline, cmsAT_END, cmsStageAllocToneCurves(nullptr, 3, nullptr));
    for (const cmsTagSignature tag : {cmsSigAToB0Tag, cmsSigAToB1Tag})
        need(cmsWriteTag(profile, tag, pipeline));
    cmsPipelineFree(pipeline);
    return saved_profile(profile);
}

}  // namespace support
