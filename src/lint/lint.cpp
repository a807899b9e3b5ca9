#include <yl/lint.hpp>

#include <algorithm>

#include <yl/sampler_rules.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "lint/subject.hpp"

namespace yl {
namespace {

using namespace lint_checks;

constexpr Check checks[] = {check_levels,  check_coverage, check_directions, check_alpha,
                            check_storage, check_detail,   check_sampling,   check_packed,
                            check_grain,   check_blur,     check_cutout};

/// What the rules say without looking at texels.
void add_rules(const Subject& subject, const LintOptions& options, Found& found) {
    const auto add = [&](Findings findings) {
        for (Finding& finding : findings)
            found.push_back({std::move(finding), "", 0, 0});
    };
    // A picture gets its format and levels when it is baked.
    TextureShape shape = subject.shape;
    if (subject.is_picture)
        shape.levels = full_level_count(shape.width, shape.height);
    if (subject.role_is_given && !subject.is_picture && subject.role != Role::normal)
        add(check_role(shape.format, subject.role));
    if (options.profile)
        add(check_on_device(
            {.shape = shape, .sampler = subject.sampler.value_or(Sampler{}), .role = options.role},
            *options.profile));
    else if (subject.sampler)
        add(check_sampler(shape, *subject.sampler, LevelRange{}));
}

Found all_of(const Subject& subject, const LintOptions& options) {
    Found found;
    add_rules(subject, options, found);
    for (const Check check : checks)
        check(subject, found);
    return found;
}

/// The worst first; otherwise in the order of the checks.
LintReport sorted(const Subject& subject, Found found) {
    std::ranges::stable_sort(found, {}, [](const Evidence& one) { return one.finding.level; });
    return {subject.role, std::move(found)};
}

}  // namespace

Result<LintReport> lint(const Texture& texture, const LintOptions& options) try {
    YL_TRY(const Subject subject, subject_of(texture, options));
    Found found = all_of(subject, options);
    YL_CHECK(check_cube(texture, found));
    if (options.normals != nullptr)
        YL_CHECK(check_widening(subject, *options.normals, found));
    if (options.format)
        YL_CHECK(check_encoding(subject, *options.format, found));
    return sorted(subject, std::move(found));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<LintReport> lint(const Picture& picture, const LintOptions& options) try {
    YL_TRY(const Subject subject, subject_of(picture, options));
    Found found = all_of(subject, options);
    if (options.format)
        YL_CHECK(check_encoding(subject, *options.format, found));
    return sorted(subject, std::move(found));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
