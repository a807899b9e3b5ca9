#include "model/images.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

#include <yl/picture.hpp>
#include <yl/texture_file.hpp>
#include "base/bytes.hpp"
#include "base/parallel.hpp"

namespace yl::model {
namespace {

void look_into(ModelImage& image, ByteSpan content, const ModelReadOptions& options) {
    const Limits& limits = options.limits;
    if (looks_like_texture(content)) {
        const auto stream = TextureStream::open(content, {.limits = limits});
        if (!stream) {
            image.error = stream.error();
            return;
        }
        image.file_format = stream->info().file_format;
        image.texture = stream->shape();
        image.width = stream->shape().width;
        image.height = stream->shape().height;
        return;
    }
    if (!options.look_into_images)
        return;
    const auto picture =
        read_picture(content, {.limits = limits, .further_readers = options.further_readers});
    if (!picture) {
        image.error = picture.error();
        return;
    }
    image.file_format = picture->info.file_format;
    image.width = picture->image.width();
    image.height = picture->image.height();
    image.look = {analyse_channels(picture->image.view(), picture->swizzle),
                  measure_content(picture->image.view(), picture->swizzle)};
}

}  // namespace

void look_into_images(Model& model, const ModelReadOptions& options) {
    parallel_each(model.images.size(), [&](std::size_t i) {
        if (!model.images[i].error && !model.images[i].same_as)
            look_into(model.images[i], model.contents[i], options);
    });
    for (ModelImage& image : model.images)
        if (image.same_as) {
            const ModelImage& twin = model.images[*image.same_as];
            image.file_format = twin.file_format;
            image.width = twin.width;
            image.height = twin.height;
            image.look = twin.look;
            image.texture = twin.texture;
            image.error = twin.error;
        }
}

void report_missing(Model& model) {
    for (std::size_t i = 0; i < model.images.size(); ++i) {
        const ModelImage& image = model.images[i];
        if (image.error)
            model.findings.push_back({"image-missing",
                                      fmt::format("image {}{} cannot be read: {}", i,
                                                  image.name.empty() ? "" : " (" + image.name + ")",
                                                  image.error->sentence()),
                                      "add the file, or use a placeholder", FindingLevel::error});
    }
}

void find_equal_images(Model& model) {
    std::unordered_multimap<std::size_t, std::size_t> by_hash;
    for (std::size_t i = 0; i < model.images.size(); ++i) {
        const ByteSpan content = model.contents[i];
        if (content.empty())
            continue;
        const std::size_t hash = std::hash<std::string_view>{}(as_text(content));
        const auto [begin, end] = by_hash.equal_range(hash);
        for (auto same = begin; same != end && !model.images[i].same_as; ++same)
            if (std::ranges::equal(model.contents[same->second], content))
                model.images[i].same_as = same->second;
        if (!model.images[i].same_as)
            by_hash.emplace(hash, i);
    }
}

}  // namespace yl::model
