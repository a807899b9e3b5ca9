#include "batch/verdict.hpp"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"

namespace yl::batch {
namespace {

std::string difference_of(const std::vector<Setting>& before, const std::vector<Setting>& now) {
    const auto value_in = [](const std::vector<Setting>& all, const std::string& name) {
        std::string text;
        for (const Setting& one : all)
            if (one.name == name)
                text += (text.empty() ? "" : ", ") + one.value;
        return text;
    };
    const auto has = [](const std::vector<Setting>& all, const std::string& name) {
        return std::ranges::find(all, name, &Setting::name) != all.end();
    };
    for (const Setting& one : now) {
        if (!has(before, one.name))
            return one.value.empty() ? fmt::format("{} is new", one.name)
                                     : fmt::format("{} {} is new", one.name, one.value);
        const std::string was = value_in(before, one.name), is = value_in(now, one.name);
        if (was != is)
            return fmt::format("{} {}, was {}", one.name, is, was);
    }
    for (const Setting& one : before)
        if (!has(now, one.name))
            return fmt::format("{} is gone", one.name);
    return "they come in another order";
}

enum class Change : std::uint8_t { none, touched, content, gone };

/// By size and time first, by content where these leave a doubt. `seen` is what is known afterwards.
Change change_of(Seen& seen, bool compares_contents) {
    const Seen now = look_at(seen.path);
    if (now.is_there != seen.is_there)
        return now.is_there ? Change::content : Change::gone;
    if (!now.is_there || (!compares_contents && !seen.is_doubtful && now.bytes == seen.bytes &&
                          now.modified == seen.modified))
        return Change::none;
    if (now.bytes != seen.bytes)
        return Change::content;
    const auto inside = look_into(seen.path);
    if (!inside || inside->hash != seen.hash)
        return Change::content;
    const bool is_touched = inside->modified != seen.modified || seen.is_doubtful;
    seen = *inside;
    return is_touched ? Change::touched : Change::none;
}

std::optional<LastTime> last_time(const Known* known) {
    if (known == nullptr)
        return {};
    LastTime last{known->source, known->seconds, {}};
    for (const Seen& input : known->inputs)
        if (input.is_there)
            last.inputs.push_back(input.path);
    return last;
}

}  // namespace

Verdict judge(const Job& job, const State& state, const BuildOptions& options,
              std::optional<Known>& touched) {
    const Known* known = state.find(job.output);
    if (known == nullptr)
        return {Reason::is_new, look_at(job.output).is_there ? "the file is not known" : ""};
    if (known->versions != job.versions)
        return {Reason::encoder_changed, difference_of(known->versions, job.versions)};
    if (known->settings != job.settings)
        return {Reason::settings_changed, difference_of(known->settings, job.settings)};
    if (known->declared != job.inputs)
        return {Reason::settings_changed, "other inputs"};
    Known now = *known;
    bool is_touched = false;
    for (Seen& input : now.inputs) {
        const Change change = change_of(input, options.compare_contents);
        if (change == Change::gone)
            return {Reason::input_changed, input.path + " is gone"};
        if (change == Change::content)
            return {Reason::input_changed, input.path};
        is_touched |= change == Change::touched;
    }
    for (Seen& output : now.outputs) {
        const Change change = change_of(output, options.compare_contents);
        if (change == Change::gone)
            return {Reason::output_missing, output.path == job.output ? "" : output.path};
        if (change == Change::content)
            return {Reason::output_changed, output.path == job.output ? "" : output.path};
        is_touched |= change == Change::touched;
    }
    if (options.force)
        return {Reason::forced, ""};
    const std::uint32_t findings = now.findings;
    if (is_touched)
        touched = std::move(now);
    return {Reason::up_to_date, "", findings};
}

Result<std::map<std::string, std::size_t>> jobs_by_output(std::span<const Job> jobs) {
    std::map<std::string, std::size_t> by_output;
    for (std::size_t i = 0; i < jobs.size(); ++i) {
        if (jobs[i].output.empty() || !jobs[i].make)
            return fail(ErrorKind::usage, fmt::format("job {} has no output or nothing to do", i));
        const std::string path = std::filesystem::path(jobs[i].output).lexically_normal().string();
        if (!by_output.emplace(path, i).second)
            return fail_at({ErrorKind::usage, "two jobs make this file"}, jobs[i].output);
    }
    return by_output;
}

std::string_view name(Reason reason) {
    switch (reason) {
        case Reason::up_to_date:
            return "up to date";
        case Reason::is_new:
            return "new";
        case Reason::input_changed:
            return "input changed";
        case Reason::settings_changed:
            return "settings changed";
        case Reason::encoder_changed:
            return "encoder changed";
        case Reason::output_missing:
            return "output missing";
        case Reason::output_changed:
            return "output changed by somebody else";
        case Reason::forced:
            return "forced";
    }
    return "";
}

namespace {

/// What earlier jobs made that no job makes any more.
void find_orphans(const State& state, const std::map<std::string, std::size_t>& by_output,
                  Plan& plan) {
    for (const auto& [output, known] : state.all()) {
        if (by_output.contains(std::filesystem::path(output).lexically_normal().string()))
            continue;
        for (Seen file : known.outputs) {
            if (!look_at(file.path).is_there)
                continue;
            const Change change = change_of(file, false);
            (change == Change::content ? plan.changed_orphans : plan.orphans).push_back(file.path);
        }
    }
}

}  // namespace

Result<Plan> plan(std::span<const Job> jobs, const BuildOptions& options) try {
    YL_TRY(const auto by_output, jobs_by_output(jobs));
    YL_TRY(const State state, State::open(options.state, false));
    Plan plan;
    plan.verdicts.resize(jobs.size());
    tbb::parallel_for(std::size_t{0}, jobs.size(), [&](std::size_t i) {
        std::optional<Known> touched;
        plan.verdicts[i] = judge(jobs[i], state, options, touched);
        plan.verdicts[i].last = last_time(state.find(jobs[i].output));
    });
    find_orphans(state, by_output, plan);
    return plan;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<std::string>> prune(std::span<const Job> jobs, const BuildOptions& options) try {
    YL_TRY(const Plan found, plan(jobs, options));
    YL_TRY(const auto by_output, jobs_by_output(jobs));
    YL_TRY(State state, State::open(options.state, true));
    std::vector<std::string> gone;
    for (const std::string& path : found.orphans) {
        std::error_code error;
        std::filesystem::remove(path, error);
        if (error)
            return fail_at({ErrorKind::io, "cannot be removed: " + error.message()}, path);
        gone.push_back(path);
    }
    std::vector<std::string> forgotten;
    for (const auto& [output, known] : state.all())
        if (!by_output.contains(std::filesystem::path(output).lexically_normal().string()))
            forgotten.push_back(output);
    for (const std::string& output : forgotten)
        YL_CHECK(state.forget(output));
    return gone;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::batch
