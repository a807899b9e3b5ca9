#include "upload/keeper/load_queue.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <new>
#include <optional>

#include <yl/status_macros.hpp>
#include <yl/texture_file.hpp>
#include "bake/normals_for.hpp"
#include "base/files.hpp"
#include "upload/keeper/reduce.hpp"

namespace yl {
namespace {

/// What a request brings along, or a file's content.
struct Content {
    Buffer file = {};
    ByteSpan bytes = {};
};

Result<Content> content_of(const std::filesystem::path& file, const SharedBytes& bytes,
                           const KeeperOptions& keeper) {
    Content content;
    if (bytes) {
        content.bytes = bytes.bytes();
        return content;
    }
    YL_TRY(content.file, read_file(keeper.files, file, keeper.limits.max_bytes));
    content.bytes = content.file.bytes();
    return content;
}

/// The options with the normals that the request names; a finding where they cannot be read.
BakeOptions with_normals(const TextureRequest& request, const Picture& picture,
                         const KeeperOptions& keeper, Findings& findings) {
    BakeOptions options = request.bake;
    if (options.normals != nullptr || (request.normals_file.empty() && !request.normals_bytes))
        return options;
    const auto content = content_of(request.normals_file, request.normals_bytes, keeper);
    auto normals =
        content ? normals_for(content->bytes, picture,
                              {.limits = keeper.limits, .further_readers = keeper.further_readers})
                : tl::unexpected(content.error());
    if (normals)
        options.normals = std::move(*normals);
    else
        findings.push_back({"roughness-not-widened",
                            fmt::format("the roughness is not widened by its normals: {}",
                                        normals.error().sentence()),
                            "add the normal map, or ask for the roughness alone"});
    return options;
}

/// A texture file of which only the header has been read, or a texture that was made of a picture.
struct Source {
    std::optional<TextureStream> file = {};
    Baked baked = {};

    [[nodiscard]] const TextureShape& shape() const {
        return file ? file->shape() : baked.texture.shape();
    }
    [[nodiscard]] const TextureMetadata& metadata() const {
        return file ? file->metadata() : baked.texture.metadata;
    }
    /// Without its first levels.
    [[nodiscard]] Result<Texture> take(std::uint32_t dropped_levels) {
        if (file)
            return file->read_all(dropped_levels);
        if (dropped_levels > 0)
            return without_top_levels(baked.texture, dropped_levels);
        return std::move(baked.texture);
    }
};

Result<bool> is_texture(const TextureRequest& request, const KeeperOptions& keeper) {
    if (request.bytes)
        return looks_like_texture(request.bytes.bytes());
    std::array<std::byte, 64> space{};
    YL_TRY(const std::size_t count, read_start(keeper.files, request.file, space));
    return looks_like_texture(ByteSpan(space).first(count));
}

Result<Source> open_request(const TextureRequest& request, const KeeperOptions& keeper) {
    Source source;
    YL_TRY(const bool is_file, is_texture(request, keeper));
    if (is_file) {
        const TextureReadOptions options{.limits = keeper.limits,
                                         .role = request.bake.role,
                                         .transfer = request.bake.transfer,
                                         .files = keeper.files};
        YL_TRY(source.file,
               request.bytes ? TextureStream::open(request.bytes.bytes(), options)
                             : TextureStream::open(request.file, options, FileAccess::on_demand));
        return source;
    }
    YL_TRY(const Content content, content_of(request.file, request.bytes, keeper));
    YL_TRY(const Picture picture,
           read_picture(content.bytes, {.role = request.bake.role.value_or(Role::color),
                                        .limits = keeper.limits,
                                        .further_readers = keeper.further_readers}));
    Findings findings;
    const BakeOptions options = with_normals(request, picture, keeper, findings);
    YL_TRY(source.baked, bake(picture, options));
    Findings& all = source.baked.findings;
    all.insert(all.end(), findings.begin(), findings.end());
    return source;
}

Status check_kind(const TextureShape& shape, TextureKind wanted) {
    if (kind_of(shape) == wanted)
        return {};
    return fail(ErrorKind::usage,
                fmt::format("this is a texture of the kind {}, and the request's `kind` is {}",
                            name(kind_of(shape)), name(wanted)));
}

Result<LoadedTexture> load(const LoadJob& job, const DeviceProfile& profile,
                           const KeeperOptions& options, std::uint64_t most_bytes) {
    LoadedTexture loaded;
    YL_TRY(Source source, open_request(job.request, options));
    YL_CHECK(check_kind(source.shape(), job.request.kind));
    UploadOptions prepare{.missing_blocks = options.missing_blocks,
                          .transcode_effort = options.transcode_effort};
    YL_TRY(const UploadPlan full,
           plan_upload(source.shape(), profile, prepare, source.metadata().swizzle,
                       source.metadata().transfer));
    loaded.full_shape = full.shape;
    loaded.dropped_levels = std::min(job.drop_levels, full.shape.levels - 1);
    if (job.has_choice)
        loaded.dropped_levels =
            std::max(loaded.dropped_levels,
                     levels_to_drop(full.shape, most_bytes).value_or(full.shape.levels - 1));
    YL_TRY(loaded.texture, source.take(loaded.dropped_levels));
    prepare.smallest_first = true;
    prepare.staging_budget = options.staging_budget;
    prepare.sampler = job.request.sampler;
    prepare.role = job.request.bake.role;
    prepare.label = job.request.file.filename().string();
    YL_TRY(loaded.prepared, prepare_upload(loaded.texture, profile, prepare));
    Findings& findings = loaded.prepared.findings;
    findings.insert(findings.begin(), source.baked.findings.begin(), source.baked.findings.end());
    if (loaded.prepared.plan.converts())
        loaded.texture = std::move(loaded.prepared.converted);
    return loaded;
}

}  // namespace

Result<LoadedTexture> load_wish(const LoadJob& job, const DeviceProfile& profile,
                                const KeeperOptions& options, std::uint64_t most_bytes) {
    try {
        auto loaded = load(job, profile, options, most_bytes);
        if (!loaded)
            return fail_at(loaded.error(), job.request.file.string());
        return loaded;
    } catch (const std::bad_alloc&) {
        return fail_at({ErrorKind::memory, "there is not enough memory to decode it"},
                       job.request.file.string());
    }
}

LoadQueue::LoadQueue(DeviceProfile profile, const KeeperOptions& options)
    : profile_(std::move(profile)), options_(options) {
    const unsigned processors = std::max(std::thread::hardware_concurrency(), 2U);
    const unsigned count = options.workers > 0 ? options.workers : processors - 1;
    for (unsigned i = 0; i < count; ++i)
        workers_.emplace_back([this](const std::stop_token& stop) { run(stop); });
}

LoadQueue::~LoadQueue() {
    for (std::jthread& worker : workers_)
        worker.request_stop();
    work_or_room_.notify_all();
}

void LoadQueue::add(LoadJob job) {
    {
        const std::scoped_lock lock(mutex_);
        const Place place{!job.comes_first, -std::int64_t{job.request.priority}, next_place_++};
        forget_locked(job.texture);
        queued_[job.texture] = place;
        jobs_.emplace(place, std::move(job));
    }
    work_or_room_.notify_one();
}

void LoadQueue::forget(std::uint64_t texture) {
    const std::scoped_lock lock(mutex_);
    forget_locked(texture);
}

void LoadQueue::forget_locked(std::uint64_t texture) {
    const auto queued = queued_.find(texture);
    if (queued == queued_.end())
        return;
    jobs_.erase(queued->second);
    queued_.erase(queued);
}

void LoadQueue::set_priority(std::uint64_t texture, int priority) {
    const std::scoped_lock lock(mutex_);
    const auto queued = queued_.find(texture);
    if (queued == queued_.end())
        return;
    auto job = jobs_.extract(queued->second);
    queued->second.urgency = -std::int64_t{priority};
    job.key() = queued->second;
    job.mapped().request.priority = priority;
    jobs_.insert(std::move(job));
}

std::vector<LoadResult> LoadQueue::collect() {
    std::vector<LoadResult> results;
    {
        const std::scoped_lock lock(mutex_);
        results.swap(results_);
        result_bytes_ = 0;
    }
    work_or_room_.notify_all();
    return results;
}

void LoadQueue::set_held_bytes(std::uint64_t bytes) {
    {
        const std::scoped_lock lock(mutex_);
        held_bytes_ = bytes;
    }
    work_or_room_.notify_all();
}

void LoadQueue::wait() {
    std::unique_lock lock(mutex_);
    done_.wait(lock, [&] { return !results_.empty() || (queued_.empty() && at_work_.empty()); });
}

bool LoadQueue::is_decoding(std::uint64_t texture) const {
    const std::scoped_lock lock(mutex_);
    return at_work_.contains(texture);
}

bool LoadQueue::is_idle() const {
    const std::scoped_lock lock(mutex_);
    return queued_.empty() && at_work_.empty() && results_.empty();
}

void LoadQueue::run(const std::stop_token& stop) {
    for (;;) {
        LoadJob job;
        {
            std::unique_lock lock(mutex_);
            const bool has_work = work_or_room_.wait(lock, stop, [&] {
                return !jobs_.empty() && (jobs_.begin()->second.comes_first ||
                                          result_bytes_ + held_bytes_ < options_.decoded_ahead);
            });
            if (!has_work || stop.stop_requested())
                return;
            job = std::move(jobs_.extract(jobs_.begin()).mapped());
            queued_.erase(job.texture);
            at_work_.insert(job.texture);
        }
        LoadResult result{job.texture, job.generation,
                          load_wish(job, profile_, options_, most_bytes_)};
        {
            const std::scoped_lock lock(mutex_);
            at_work_.erase(at_work_.find(job.texture));
            result_bytes_ += result.bytes();
            results_.push_back(std::move(result));
        }
        done_.notify_all();
    }
}

}  // namespace yl
