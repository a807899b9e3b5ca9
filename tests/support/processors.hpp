// Runs work for every instruction set that this processor and the build have.
#pragma once

#include <hwy/targets.h>

namespace support {

template <class Work>
void for_each_instruction_set(const Work& work) {
    for (const std::int64_t target : hwy::SupportedAndGeneratedTargets()) {
        hwy::SetSupportedTargetsForTest(target);
        hwy::GetChosenTarget().Update(target);
        work(hwy::TargetName(target));
    }
    hwy::SetSupportedTargetsForTest(0);
    hwy::GetChosenTarget().Update(hwy::SupportedTargets());
}

}  // namespace support
