#include "batch_jobs.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <mutex>
#include <set>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "models.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;
using yl::batch::Job;
using yl::batch::ListEntry;
using yl::batch::ListOption;

/// Files of the disk, and which of them were asked for.
class SeenFiles : public yl::Files {
 public:
    yl::Result<std::unique_ptr<yl::File>> open(const fs::path& name) const override {
        const std::scoped_lock lock(mutex_);
        seen_.insert(name.lexically_normal().string());
        return disk_->open(name);
    }
    yl::Result<std::vector<std::string>> list() const override { return disk_->list(); }
    [[nodiscard]] std::vector<std::string> seen() const { return {seen_.begin(), seen_.end()}; }

 private:
    std::shared_ptr<const yl::Files> disk_ = yl::disk_files();
    mutable std::mutex mutex_ = {};
    mutable std::set<std::string> seen_ = {};
};

/// A model's buffers and images, those included that are not there.
yl::Result<std::vector<std::string>> files_of_model(const ListEntry& entry) {
    const auto files = std::make_shared<SeenFiles>();
    yl::model::ModelReadOptions options;
    options.allow_outside = entry.find("allow-outside") != nullptr;
    options.look_into_images = true;
    options.files = files;
    YL_TRY([[maybe_unused]] const auto model, read_any_model(entry.inputs.front(), options));
    return files->seen();
}

std::vector<yl::batch::Setting> settings_of(const ListEntry& entry) {
    const BatchKind& kind = batch_kind(entry.kind);
    std::vector<yl::batch::Setting> settings = {{"command", kind.command}};
    for (const std::string& word : kind.words)
        settings.push_back({word.substr(2), ""});
    for (const ListOption& option : entry.options)
        settings.push_back({option.name, fmt::format("{}", fmt::join(option.values, ", "))});
    for (const std::string& channel : entry.channels)
        settings.push_back({"channel", channel});
    // Which face a picture is, and what a part of an atlas is called, is told by the files' names.
    if (entry.kind == "cubes" || entry.kind == "atlases")
        for (const std::string& input : entry.faces.empty() ? entry.inputs : entry.faces)
            settings.push_back({"name", fs::path(input).filename().string()});
    return settings;
}

/// An option for many files need not change every one of them.
bool is_of_other_files(const ListEntry& entry, const Json& finding) {
    return finding.value("code", "") == "option-without-effect" &&
           std::ranges::any_of(entry.options, [&](const ListOption& option) {
               return option.is_general &&
                      finding.value("problem", "").starts_with("--" + option.name + " ");
           });
}

yl::Result<yl::batch::Made> make(const ListEntry& entry, const fs::path& output) {
    Json document = Json::object();
    Json findings = Json::array();
    const std::string between = output.string() + ".png";
    for (const auto& words : batch_words(entry, output.string(), between)) {
        YL_TRY(Json made, run_inside(words));
        for (const Json& finding : made.value("findings", Json::array()))
            if (!is_of_other_files(entry, finding))
                findings.push_back(finding);
        document = std::move(made);
    }
    std::error_code error;
    fs::remove(between, error);
    document["output"] = entry.output;
    document["findings"] = findings;
    const auto warnings = std::ranges::count_if(findings, [](const Json& finding) {
        return finding.value("level", "") != yl::name(yl::FindingLevel::hint);
    });
    return yl::batch::Made{document.dump(-1, ' ', false, Json::error_handler_t::replace),
                           static_cast<std::uint32_t>(warnings)};
}

/// Of the formats that take long; by measured rates on one thread, uncompressed being 1.
double weight_of(const ListEntry& entry) {
    const ListOption* format = entry.find("as");
    const std::string name = format != nullptr        ? format->values.front()
                             : entry.kind == "models" ? "bc"
                                                      : "";
    const ListOption* effort = entry.find("effort");
    const double tries =
        effort != nullptr ? std::max(0.5, std::atof(effort->values.front().c_str())) : 5;
    if (name.starts_with("astc"))
        return 6 * tries;
    if (name.starts_with("bc6") || name.starts_with("bc7") || name == "bc")
        return 3 * tries;
    if (name.starts_with("bc") || name.starts_with("et") || name.starts_with("ea"))
        return 1 + tries;
    return 1;
}

/// Of the format that is asked for; of blocks, of what they are made of.
std::uint64_t bytes_of_made_texel(const ListEntry& entry) {
    constexpr std::uint64_t usual = 4;
    const ListOption* as = entry.find("as");
    const yl::FormatInfo* format = as != nullptr && !as->values.empty()
                                       ? yl::find_format(std::string_view(as->values.front()))
                                       : nullptr;
    return format != nullptr && !format->is_block() ? format->block_bytes : usual;
}

}  // namespace

yl::batch::Need batch_need(const ListEntry& entry) {
    constexpr std::uint64_t fixed = std::uint64_t{4} << 20U;
    yl::batch::Need need{fixed, 0};
    std::uint64_t texels = 0, bytes = 0, made = bytes_of_made_texel(entry);
    for (const std::string& input : batch_inputs(entry)) {
        std::error_code error;
        const std::uint64_t file_bytes = fs::file_size(input, error);
        if (error)
            continue;
        bytes += file_bytes;
        const auto header = yl::peek_picture(input);
        const std::uint64_t of_one =
            header ? std::uint64_t{header->width} * header->height * header->frames
                   : file_bytes / 2;  // textures and models: about so many
        const std::uint64_t of_texel =
            header ? std::uint64_t{header->channels} * header->bits / 8 : 4;
        texels += of_one;
        made = std::max(made, of_texel);
        bytes += of_one * of_texel;
    }
    // Beside the pictures and their files: levels on their way as floating point, and the chain.
    constexpr std::uint64_t bytes_on_the_way = 8;
    need.memory += bytes + texels * (bytes_on_the_way + made * 4 / 3);
    need.cost = static_cast<double>(texels) * weight_of(entry);
    if (const ListOption* prefilter = entry.find("prefilter");
        prefilter != nullptr && prefilter->values.front() == "specular")
        need.cost *= 50;
    return need;
}

std::vector<Job> batch_jobs(const std::vector<ListEntry>& entries) {
    std::vector<Job> jobs;
    for (const ListEntry& entry : entries) {
        Job job{.output = entry.output, .group = entry.group, .target = entry.target};
        job.inputs = batch_inputs(entry);
        job.settings = settings_of(entry);
        job.versions = batch_versions(entry);
        job.need = [&entry] { return batch_need(entry); };
        if (entry.kind == "models")
            job.more_inputs = [&entry] { return files_of_model(entry); };
        job.make = [&entry](const fs::path& output) { return make(entry, output); };
        jobs.push_back(std::move(job));
    }
    return jobs;
}

}  // namespace ylat
