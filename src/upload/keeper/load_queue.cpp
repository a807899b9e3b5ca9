#include "upload/keeper/load_queue.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <new>

#include <yl/container.hpp>
#include "bake/normals_for.hpp"
#include "base/attempt.hpp"
#include "base/file.hpp"
#include "upload/keeper/reduce.hpp"

namespace yl {
namespace {

/// What a wish brings along, or a file's content.
struct Content {
    Buffer file = {};
    ByteSpan bytes = {};
};

Result<Content> content_of(const std::filesystem::path& file,
                           const std::shared_ptr<const std::vector<std::byte>>& bytes,
                           const ReadLimits& limits) {
    Content content;
    if (bytes != nullptr) {
        content.bytes = *bytes;
        return content;
    }
    YL_TRY(content.file, read_file(file, limits.greatest_bytes));
    content.bytes = content.file.bytes();
    return content;
}

/// The options with the normals that the wish names; a finding where they cannot be had.
BakeOptions with_normals(const TextureWish& wish, const Picture& picture, const ReadLimits& limits,
                         Findings& findings) {
    BakeOptions options = wish.bake;
    if (options.normals != nullptr || (wish.normals_file.empty() && wish.normals_bytes == nullptr))
        return options;
    const auto content = content_of(wish.normals_file, wish.normals_bytes, limits);
    auto normals =
        content ? normals_for(content->bytes, picture, limits) : tl::unexpected(content.error());
    if (normals)
        options.normals = std::move(*normals);
    else
        findings.push_back({fmt::format("the roughness is not widened by its normals: {}",
                                        normals.error().sentence()),
                            "bring the normal map, or wish for the roughness alone"});
    return options;
}

Result<Baked> read_wish(const TextureWish& wish, const ReadLimits& limits) {
    YL_TRY(const Content content, content_of(wish.file, wish.bytes, limits));
    const ByteSpan bytes = content.bytes;
    if (looks_like_texture(bytes)) {
        YL_TRY(TextureFile file, read_texture(bytes, {.limits = limits,
                                                      .role = wish.bake.role,
                                                      .transfer = wish.bake.transfer}));
        return Baked{std::move(file.texture), {}};
    }
    YL_TRY(const Picture picture,
           read_picture(bytes, {.role = wish.bake.role.value_or(Role::color), .limits = limits}));
    Findings findings;
    const BakeOptions options = with_normals(wish, picture, limits, findings);
    YL_TRY(Baked baked, bake(picture, options));
    baked.findings.insert(baked.findings.end(), findings.begin(), findings.end());
    return baked;
}

Status check_kind(const TextureShape& shape, TextureKind wanted) {
    if (kind_of(shape) == wanted)
        return {};
    return fail(ErrorKind::usage, fmt::format("this is a texture of kind {}, and one of kind {} "
                                              "was wanted",
                                              name(kind_of(shape)), name(wanted)));
}

Result<LoadedTexture> load(const LoadJob& job, const DeviceProfile& profile,
                           const KeeperOptions& options, std::uint64_t most_bytes) {
    LoadedTexture loaded;
    YL_TRY(Baked baked, read_wish(job.wish, options.limits));
    loaded.texture = std::move(baked.texture);
    YL_CHECK(check_kind(loaded.texture.shape(), job.wish.kind));
    YL_TRY(const UploadPlan full, plan_upload(loaded.texture, profile));
    loaded.full_shape = full.shape;
    loaded.dropped_levels = std::min(job.drop_levels, full.shape.levels - 1);
    if (job.has_choice)
        loaded.dropped_levels =
            std::max(loaded.dropped_levels,
                     levels_to_drop(full.shape, most_bytes).value_or(full.shape.levels - 1));
    if (loaded.dropped_levels > 0) {
        YL_TRY(loaded.texture, without_top_levels(loaded.texture, loaded.dropped_levels));
    }
    PrepareOptions prepare;
    prepare.wish.smallest_first = true;
    prepare.wish.staging_budget = options.staging_budget;
    prepare.sampler = job.wish.sampler;
    prepare.role = job.wish.bake.role;
    prepare.label = job.wish.file.filename().string();
    YL_TRY(loaded.prepared, prepare_upload(loaded.texture, profile, prepare));
    Findings& findings = loaded.prepared.findings;
    findings.insert(findings.begin(), baked.findings.begin(), baked.findings.end());
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
            return fail_at(loaded.error(), job.wish.file.string());
        return loaded;
    } catch (const std::bad_alloc&) {
        return fail_at({ErrorKind::memory, "there is not enough memory to decode it"},
                       job.wish.file.string());
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
        queued_[job.texture] = job.generation;
        if (job.comes_first)
            jobs_.push_front(std::move(job));
        else
            jobs_.push_back(std::move(job));
    }
    work_or_room_.notify_one();
}

void LoadQueue::forget(std::uint64_t texture) {
    const std::scoped_lock lock(mutex_);
    queued_.erase(texture);
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
                return !jobs_.empty() && (jobs_.front().comes_first ||
                                          result_bytes_ + held_bytes_ < options_.decoded_ahead);
            });
            if (!has_work || stop.stop_requested())
                return;
            job = std::move(jobs_.front());
            jobs_.pop_front();
            const auto queued = queued_.find(job.texture);
            if (queued == queued_.end() || queued->second != job.generation)
                continue;
            queued_.erase(queued);
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
