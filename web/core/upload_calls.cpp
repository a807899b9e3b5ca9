// Uploads: planned and converted here, carried out by the page.
#include <yl/placeholder.hpp>
#include <yl/sampler_rules.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

Json to_json(const UploadPlan& plan) {
    Json regions = Json::array(), batches = Json::array();
    for (const UploadRegion& r : plan.regions)
        regions.push_back({{"level", r.level},
                           {"layer", r.layer},
                           {"face", r.face},
                           {"x", r.x},
                           {"y", r.y},
                           {"z", r.z},
                           {"width", r.width},
                           {"height", r.height},
                           {"depth", r.depth},
                           {"offset", r.offset},
                           {"row_pitch", r.row_pitch},
                           {"slice_pitch", r.slice_pitch}});
    for (const UploadBatch& batch : plan.batches)
        batches.push_back(
            {{"first", batch.first_region}, {"count", batch.region_count}, {"bytes", batch.bytes}});
    return {{"shape", web::to_json(plan.shape)},
            {"converts", plan.converts()},
            {"levels", {plan.levels.first, plan.levels.count}},
            {"regions", std::move(regions)},
            {"batches", std::move(batches)}};
}

Result<UploadOptions> options_of(const Json& request) {
    UploadOptions options;
    YL_TRY(options.format, format_of(request, "format"));
    YL_TRY(options.sampler, sampler_of(request));
    YL_TRY(options.role, role_of(request));
    YL_TRY(options.smallest_first, flag_or(request, "smallest_first", false));
    YL_TRY(options.levels.first, number_or(request, "first_level", 0));
    YL_TRY(options.levels.count, number_or(request, "level_count", LevelRange::all));
    YL_TRY(const std::uint32_t budget, number_or(request, "staging_budget", 0));
    if (budget > 0)
        options.staging_budget = budget;
    YL_TRY(const bool transcodes, flag_or(request, "transcode", false));
    options.missing_blocks = transcodes ? MissingBlocks::transcode : MissingBlocks::decode;
    return options;
}

/// What a texture would be on a device, by its header: a stream's levels need not have arrived.
Result<Json> plan(Objects& objects, const Json& request) {
    YL_TRY(const DeviceProfile* profile, object<DeviceProfile>(objects, request, "profile"));
    YL_TRY(const UploadOptions options, options_of(request));
    TextureShape shape;
    TextureMetadata metadata;
    if (has(request, "stream")) {
        YL_TRY(const StreamedFile* streamed, object<StreamedFile>(objects, request, "stream"));
        if (!streamed->stream)
            return fail(ErrorKind::usage, "the stream has not been opened");
        shape = streamed->stream->shape();
        metadata = streamed->stream->metadata();
    } else {
        YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
        shape = texture->shape();
        metadata = texture->metadata;
    }
    YL_TRY(const UploadPlan made,
           plan_upload(shape, *profile, options, metadata.swizzle, metadata.transfer));
    return Json{{"shape", web::to_json(made.shape)},
                {"converts", made.converts()},
                {"kind", name(kind_of(made.shape))}};
}

Result<Json> prepare(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const DeviceProfile* profile, object<DeviceProfile>(objects, request, "profile"));
    YL_TRY(const UploadOptions options, options_of(request));
    Upload upload;
    YL_TRY(upload.prepared, prepare_upload(*texture, *profile, options));
    Json json = {{"plan", to_json(upload.prepared.plan)},
                 {"sampler", web::to_json(upload.prepared.desc.sampler)},
                 {"findings", web::to_json(upload.prepared.findings)}};
    json["upload"] = objects.keep(std::move(upload));
    return json;
}

/// The texels of a batch, laid out as the plan says. Valid until the next call for this upload.
Result<Json> fill(Objects& objects, const Json& request) {
    YL_TRY(Upload * upload, object<Upload>(objects, request, "upload"));
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const std::uint32_t index, number(request, "batch"));
    const UploadPlan& plan = upload->prepared.plan;
    if (index >= plan.batches.size())
        return wrong("batch", "one of the plan's");
    const UploadBatch& batch = plan.batches[index];
    upload->staging.assign(batch.bytes, std::byte{0});
    YL_CHECK(fill_staging(plan, batch, upload->prepared.source(*texture), upload->staging));
    return Json{{"memory", place_of(upload->staging)}};
}

/// A texture as it is on the device: converted, or itself. Frees the upload.
Result<Json> converted(Objects& objects, const Json& request) {
    YL_TRY(Upload * upload, object<Upload>(objects, request, "upload"));
    if (!upload->prepared.plan.converts())
        return Json{{"texture", nullptr}};
    return kept(objects, std::move(upload->prepared.converted));
}

constexpr NamedCall calls[] = {{"plan_upload", plan,
                                "stream texture profile format sampler role smallest_first "
                                "first_level level_count staging_budget transcode"},
                               {"prepare_upload", prepare,
                                "texture profile format sampler role smallest_first first_level "
                                "level_count staging_budget transcode"},
                               {"fill_staging", fill, "upload texture batch"},
                               {"converted", converted, "upload"}};

}  // namespace

std::span<const NamedCall> upload_calls() {
    return calls;
}

}  // namespace yl::web
