// What is built, and why.
#include <tbb/task_arena.h>

#include <algorithm>
#include <chrono>
#include <thread>

#include "batch/jobs.hpp"

using namespace yl::batch;
using support::must;
using support::must_fail;
using support::text_in;
using support::Workshop;

namespace {

Reason reason_of(const Job& job, const BuildOptions& options) {
    return must(plan(std::span(&job, 1), options)).verdicts[0].reason;
}
Summary build_one(const Job& job, const BuildOptions& options) {
    return must(build(std::span(&job, 1), options));
}

/// A file whose time says that it is older than it is.
void age(const std::string& path, int seconds) {
    std::filesystem::last_write_time(
        path, std::filesystem::last_write_time(path) - std::chrono::seconds(seconds));
}

}  // namespace

TEST_CASE("a job is done once, and again for each reason there is") {
    const Workshop shop;
    shop.write("in/a", "alpha");
    const BuildOptions options = shop.options(false);
    Job job = shop.job("out/a", {"in/a"}, {{"effort", "5"}});
    CHECK(reason_of(job, options) == Reason::is_new);
    CHECK(build_one(job, options).built == 1);
    CHECK(text_in(shop.path("out/a")) == "alpha\neffort=5\n");
    CHECK(build_one(job, options).up_to_date == 1);
    CHECK(shop.made == 1);

    SUBCASE("another content") {
        shop.write("in/a", "ALPHA");  // as long as before
        const Plan why = must(plan(std::span(&job, 1), options));
        CHECK(why.verdicts[0].reason == Reason::input_changed);
        CHECK(why.verdicts[0].detail == shop.path("in/a"));
    }
    SUBCASE("another time alone is no reason, and is looked into once") {
        age(shop.path("in/a"), 100);
        CHECK(build_one(job, options).up_to_date == 1);
        CHECK(shop.made == 1);
        return;
    }
    SUBCASE("another content of the same size and time is found where contents are compared") {
        age(shop.path("in/a"), 100);
        CHECK(build_one(job, options).up_to_date == 1);
        const auto time = std::filesystem::last_write_time(shop.path("in/a"));
        shop.write("in/a", "ALPHA");
        std::filesystem::last_write_time(shop.path("in/a"), time);
        CHECK(reason_of(job, options) == Reason::up_to_date);
        BuildOptions compares = options;
        compares.compare_contents = true;
        CHECK(reason_of(job, compares) == Reason::input_changed);
        CHECK(build_one(job, compares).built == 1);
    }
    SUBCASE("an option") {
        job = shop.job("out/a", {"in/a"}, {{"effort", "8"}});
        const Plan why = must(plan(std::span(&job, 1), options));
        CHECK(why.verdicts[0].reason == Reason::settings_changed);
        CHECK(why.verdicts[0].detail == "effort 8, was 5");
    }
    SUBCASE("an algorithm") {
        job.versions = {{"copy", "2"}};
        const Plan why = must(plan(std::span(&job, 1), options));
        CHECK(why.verdicts[0].reason == Reason::encoder_changed);
        CHECK(why.verdicts[0].detail == "copy 2, was 1");
    }
    SUBCASE("no output") {
        std::filesystem::remove(shop.path("out/a"));
        CHECK(reason_of(job, options) == Reason::output_missing);
    }
    SUBCASE("an output that somebody changed") {
        shop.write("out/a", "mine");
        CHECK(reason_of(job, options) == Reason::output_changed);
    }
    SUBCASE("another input") {
        shop.write("in/b", "beta");
        job = shop.job("out/a", {"in/a", "in/b"}, {{"effort", "5"}});
        CHECK(reason_of(job, options) == Reason::settings_changed);
    }
    SUBCASE("all is asked for") {
        BuildOptions forced = options;
        forced.force = true;
        CHECK(reason_of(job, forced) == Reason::forced);
        CHECK(build_one(job, forced).built == 1);
        CHECK(shop.made == 2);
        return;
    }
    CHECK(build_one(job, options).failed == 0);
    CHECK(reason_of(job, options) == Reason::up_to_date);
    CHECK(shop.made == 2);
}

TEST_CASE("files that inputs name count as well, and are waited for where they are not there") {
    const Workshop shop;
    shop.write("model", "m");
    Job job = shop.job("out", {"model"});
    job.more_inputs = [&]() -> yl::Result<std::vector<std::string>> {
        return std::vector<std::string>{shop.path("model"), shop.path("image")};
    };
    const BuildOptions options = shop.options();
    CHECK(build_one(job, options).built == 1);
    CHECK(build_one(job, options).up_to_date == 1);
    shop.write("image", "i");
    CHECK(reason_of(job, options) == Reason::input_changed);
    CHECK(build_one(job, options).built == 1);
    std::filesystem::remove(shop.path("image"));
    CHECK(reason_of(job, options) == Reason::input_changed);
    CHECK(build_one(job, options).from_cache == 1);
}

TEST_CASE("one that fails does not stop the others, and leaves nothing") {
    const Workshop shop;
    std::vector<Job> jobs;
    for (int i = 0; i < 20; ++i) {
        const std::string name = std::to_string(i);
        if (i != 7)
            shop.write("in/" + name, name);
        jobs.push_back(shop.job("out/" + name, {"in/" + name}));
    }
    jobs[3].make = [](const std::filesystem::path& file) -> yl::Result<Made> {
        support::write_text(file.string(), "half");
        return yl::fail(yl::ErrorKind::malformed, "broken");
    };
    jobs[5].make = [](const std::filesystem::path&) -> yl::Result<Made> { return Made{}; };
    const Summary summary = must(build(jobs, shop.options()));
    CHECK(summary.built == 17);
    CHECK(summary.failed == 3);
    CHECK(summary.errors[3]->message == "broken");
    CHECK(summary.errors[5]->message == "the job ended without making this file");
    CHECK(summary.errors[7]->kind == yl::ErrorKind::missing);
    CHECK_FALSE(std::filesystem::exists(shop.path("out/3")));
    CHECK(std::filesystem::is_empty(shop.path("work")));
    CHECK(must(build(jobs, shop.options())).up_to_date == 17);
}

TEST_CASE("what cannot be a list of jobs is refused") {
    const Workshop shop;
    shop.write("a", "");
    const std::vector<Job> twins = {shop.job("out/x", {"a"}), shop.job("out/../out/x", {"a"})};
    CHECK(must_fail(build(twins, {})).kind == yl::ErrorKind::usage);
    const std::vector<Job> empty = {Job{.output = "x"}};
    CHECK(must_fail(plan(empty, {})).kind == yl::ErrorKind::usage);
    CHECK(must_fail(shard(twins, 3, 2)).kind == yl::ErrorKind::usage);
    CHECK(must_fail(shard(twins, 0, 2)).kind == yl::ErrorKind::usage);
    BuildOptions options;
    options.shared = shared_folder(shop.path("shared"));
    CHECK(must_fail(build(twins, options)).kind == yl::ErrorKind::usage);
}

TEST_CASE("what was built comes from the cache, in another folder too") {
    Workshop here;
    here.write("in", "text");
    const Job job = here.job("out/x", {"in"}, {{"a", "b"}});
    BuildOptions options = here.options();
    CHECK(build_one(job, options).built == 1);
    std::filesystem::remove(here.path("out/x"));
    CHECK(build_one(job, options).from_cache == 1);
    const Workshop there;
    there.write("in", "text");
    BuildOptions elsewhere = there.options();
    elsewhere.cache = options.cache;
    std::string report;
    elsewhere.on_event = [&](const Event& event) {
        if (event.kind == Event::Kind::finished)
            report = event.made.report;
    };
    CHECK(build_one(there.job("out/x", {"in"}, {{"a", "b"}}), elsewhere).from_cache == 1);
    CHECK(there.made == 0);
    CHECK(report == "made of 1");
    CHECK(text_in(there.path("out/x")) == "text\na=b\n");
}

TEST_CASE("a plan tells how each job was done last") {
    const Workshop shop;
    shop.write("in/a", "alpha");
    Job job = shop.job("out/a", {"in/a"});
    job.make = [make = job.make](const std::filesystem::path& output) {
        std::this_thread::sleep_for(std::chrono::milliseconds(30));
        return make(output);
    };
    const BuildOptions options = shop.options();
    const auto last = [&] { return must(plan(std::span(&job, 1), options)).verdicts[0].last; };
    CHECK_FALSE(last());
    CHECK(build_one(job, options).built == 1);
    REQUIRE(last());
    CHECK(last()->source == Source::built);
    CHECK(last()->seconds >= 0.03);
    CHECK(last()->inputs == std::vector{shop.path("in/a")});
    std::filesystem::remove(shop.path("out/a"));
    CHECK(build_one(job, options).from_cache == 1);
    CHECK(last()->source == Source::cache);
    // It is known of what is not up to date as well.
    shop.write("in/a", "beta");
    CHECK(last()->source == Source::cache);
    for (const auto& [source, word] : {std::pair{Source::built, "built"},
                                       {Source::cache, "cache"},
                                       {Source::shared_cache, "shared cache"}})
        CHECK(name(source) == word);
}

TEST_CASE("several files of one job come and go together") {
    const Workshop shop;
    shop.write("in", "text");
    Job job = shop.job("out/x", {"in"});
    job.make = [](const std::filesystem::path& file) -> yl::Result<Made> {
        support::write_text(file.string(), "one");
        support::write_text(file.string() + ".json", "two");
        return Made{};
    };
    CHECK(build_one(job, shop.options()).built == 1);
    std::filesystem::remove(shop.path("out/x.json"));
    CHECK(reason_of(job, shop.options()) == Reason::output_missing);
    CHECK(build_one(job, shop.options()).from_cache == 1);
    CHECK(text_in(shop.path("out/x.json")) == "two");
    CHECK(must(plan({}, shop.options())).orphans.size() == 2);
}

TEST_CASE("orphans are removed, but for those that somebody changed") {
    const Workshop shop;
    shop.write("in", "text");
    const std::vector<Job> jobs = {shop.job("out/a", {"in"}), shop.job("out/b", {"in"}),
                                   shop.job("out/c", {"in"})};
    must(build(jobs, shop.options()));
    shop.write("out/b", "mine");
    shop.write("out/other", "nobody's");
    const std::span<const Job> left(&jobs[2], 1);
    const Plan seen = must(plan(left, shop.options()));
    CHECK(seen.orphans == std::vector{shop.path("out/a")});
    CHECK(seen.changed_orphans == std::vector{shop.path("out/b")});
    CHECK(must(prune(left, shop.options())) == std::vector{shop.path("out/a")});
    CHECK(text_in(shop.path("out/b")) == "mine");
    CHECK(std::filesystem::exists(shop.path("out/c")));
    CHECK(std::filesystem::exists(shop.path("out/other")));
    CHECK(must(plan(left, shop.options())).orphans.empty());
}

TEST_CASE("inputs that change while a job runs are not taken for what they were") {
    const Workshop shop;
    shop.write("in", "before");
    Job job = shop.job("out", {"in"});
    const auto make = job.make;
    int rounds = 0;
    job.make = [&](const std::filesystem::path& file) {
        auto made = make(file);
        if (++rounds == 1)
            shop.write("in", "after it was read");
        return made;
    };
    CHECK(build_one(job, shop.options()).built == 1);
    CHECK(rounds == 2);
    CHECK(text_in(shop.path("out")) == "after it was read\n");
    job.make = [&](const std::filesystem::path& file) {
        auto made = make(file);
        shop.write("in", "again " + std::to_string(++rounds));
        return made;
    };
    shop.write("in", "more");
    CHECK(build_one(job, shop.options()).failed == 1);
}

TEST_CASE("jobs under way stay within the memory that is allowed, the costliest first") {
    const Workshop shop;
    shop.write("in", "text");
    std::vector<Job> jobs;
    for (int i = 0; i < 24; ++i) {
        jobs.push_back(shop.job("out/" + std::to_string(i), {"in"}, {{"n", std::to_string(i)}}));
        jobs.back().need = [i] {
            return Need{static_cast<std::uint64_t>(10 + i), static_cast<double>(i)};
        };
    }
    jobs.back().need = [] { return Need{1000, 0}; };  // more than all there is: alone
    BuildOptions options = shop.options();
    options.max_memory = 60;
    std::vector<std::size_t> begun;
    std::uint64_t under_way = 0, most = 0;
    const auto memory_of = [&](const Event& event) { return jobs[event.job].need().memory; };
    options.on_event = [&](const Event& event) {
        if (event.kind == Event::Kind::started) {
            begun.push_back(event.job);
            under_way += memory_of(event);
            most = std::max(most, under_way == memory_of(event) ? 0 : under_way);
        } else if (event.kind == Event::Kind::finished) {
            under_way -= memory_of(event);
        }
    };
    tbb::task_arena arena(4);
    const Summary summary = arena.execute([&] { return must(build(jobs, options)); });
    CHECK(summary.built == 24);
    CHECK(begun.front() == 22);
    CHECK(summary.peak_memory == 1000);
    CHECK(most <= 60);
}

TEST_CASE("shards hold each job once, are balanced, and do not depend on the order of jobs") {
    const Workshop shop;
    std::vector<Job> jobs;
    for (int i = 0; i < 100; ++i) {
        jobs.push_back(shop.job("out/" + std::to_string(i), {}));
        jobs.back().need = [i] { return Need{1, 1.0 + (i * 37 % 101)}; };
    }
    std::vector<int> seen(jobs.size());
    double least = 1e9, most = 0;
    std::vector<std::string> of_second;
    for (std::uint32_t part = 1; part <= 4; ++part) {
        double cost = 0;
        for (const std::size_t job : must(shard(jobs, part, 4))) {
            ++seen[job];
            cost += jobs[job].need().cost;
            if (part == 2)
                of_second.push_back(jobs[job].output);
        }
        least = std::min(least, cost);
        most = std::max(most, cost);
    }
    CHECK(std::ranges::all_of(seen, [](int count) { return count == 1; }));
    CHECK(most < 1.02 * least);
    std::ranges::reverse(jobs);
    std::vector<std::string> again;
    for (const std::size_t job : must(shard(jobs, 2, 4)))
        again.push_back(jobs[job].output);
    std::ranges::sort(again);
    std::ranges::sort(of_second);
    CHECK(again == of_second);
}

TEST_CASE("a state that was cut off in the middle of a line loses that line alone") {
    const Workshop shop;
    shop.write("in", "text");
    const std::vector<Job> jobs = {shop.job("out/a", {"in"}), shop.job("out/b", {"in"})};
    const BuildOptions options = shop.options(false);
    must(build(std::span(jobs).first(1), options));
    must(build(jobs, options));
    const std::string whole = text_in(shop.path("state"));
    for (const std::size_t cut : {std::size_t{2}, std::size_t{20}, whole.size() / 3}) {
        shop.write("state", whole.substr(0, whole.size() - cut));
        const Summary summary = must(build(jobs, options));
        CHECK(summary.up_to_date == 1);
        CHECK(summary.built == 1);
        CHECK(must(build(jobs, options)).up_to_date == 2);
    }
    shop.write("state", "{\"output\":3}\nnonsense\n\x01\xff");
    CHECK(must(build(jobs, options)).built == 2);
}

TEST_CASE("a run that is cancelled leaves out what has not begun") {
    const Workshop shop;
    shop.write("in", "text");
    std::vector<Job> jobs;
    for (int i = 0; i < 50; ++i)
        jobs.push_back(shop.job("out/" + std::to_string(i), {"in"}, {{"n", std::to_string(i)}}));
    BuildOptions options = shop.options();
    options.is_cancelled = [&] { return shop.made >= 5; };
    const Summary summary = must(build(jobs, options));
    CHECK(summary.built + summary.left_out == 50);
    CHECK(summary.built >= 5);
    CHECK(summary.left_out > 30);
}
