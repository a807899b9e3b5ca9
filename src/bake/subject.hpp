// A picture in its role: what becomes of its channels and values, and what contradicts that.
#pragma once

#include <yl/bake.hpp>

namespace yl {

/// A picture in its role.
struct Subject {
    const Picture& picture;
    ConstImageView image;  ///< of a picture whose rows flow, it has no pixels
    Transfer transfer;
    AlphaMode alpha;
    Role role;
    ChannelUse use;
};

/// The use of channels is left to be measured. `image` is the picture's, or says its size and format.
[[nodiscard]] Result<Subject> subject_of(const Picture& picture, ConstImageView image,
                                         const BakeOptions& options);

/// Whether what the picture shows could contradict its role.
[[nodiscard]] bool shows_meaning(const Subject& subject, const BakeOptions& options);

/// What is said of the picture in its role, before anything is made of it; `content` where it could
/// contradict the role.
[[nodiscard]] Findings check_subject(const Subject& subject, const FormatInfo& f,
                                     const ContentMeasure* content);

/// How the texture's few channels are seen, and how the picture's channels get into them.
struct ChannelPlan {
    Swizzle seen = identity_swizzle;
    Swizzle on_the_way = identity_swizzle;
};

[[nodiscard]] ChannelPlan plan_channels(const Picture& picture, const ChannelUse& use,
                                        const FormatInfo& target);

/// Rows of the picture, from `first_row` on, into those of level 0.
[[nodiscard]] Status place_rows(const Subject& subject, ConstImageView image,
                                std::uint32_t first_row, const BakeOptions& options,
                                const ChannelPlan& channels, Transfer transfer, ImageView target,
                                std::optional<double>& mean_normal_length);

}  // namespace yl
