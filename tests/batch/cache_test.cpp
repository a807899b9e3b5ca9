// Caches on this machine and for several.
#include <fcntl.h>
#include <sys/stat.h>

#include <algorithm>
#include <set>
#include <thread>

#include "batch/jobs.hpp"

using namespace yl::batch;
using support::must;
using support::must_fail;
using support::text_in;
using support::Workshop;

namespace {

Hash key_of(int number) {
    return hash_text("key " + std::to_string(number));
}

/// An entry of one file with so many letters.
CacheEntry store(const BuildCache& cache, const Workshop& shop, int number, std::size_t letters) {
    shop.write("to-pack/file", std::string(letters, 'x'));
    return must(cache.store(key_of(number), {"report", 1, {{"file"}}}, shop.path("to-pack")));
}

std::vector<std::string> entries_in(const std::string& folder) {
    std::vector<std::string> files;
    for (const auto& one : std::filesystem::recursive_directory_iterator(folder))
        if (one.path().extension() == ".entry")
            files.push_back(one.path().string());
    std::ranges::sort(files);
    return files;
}

}  // namespace

TEST_CASE("hashes are those of XXH3, whole or in pieces") {
    // The value of the empty input that the algorithm's description gives.
    CHECK(hash_text("").text() == "99aa06d3014798d86001c324468d497f");
    const Workshop shop;
    shop.write("large", std::string(1'000'000, 'a'));
    CHECK(must(hash_file(shop.path("large"))) == hash_text(std::string(1'000'000, 'a')));
    CHECK(Hash::parse(key_of(1).text()) == key_of(1));
    CHECK_FALSE(Hash::parse("99aa06d3014798d86001c324468d497g"));
    CHECK_FALSE(Hash::parse("99"));
    CHECK(must_fail(hash_file(shop.path("none"))).kind == yl::ErrorKind::missing);
}

TEST_CASE("a damaged entry is not used, and goes") {
    const Workshop shop;
    const auto cache = must(BuildCache::open(shop.path("cache")));
    store(*cache, shop, 1, 1000);
    const std::string path = entries_in(shop.path("cache")).at(0);
    const std::string whole = text_in(path);
    REQUIRE(cache->find(key_of(1)));
    for (std::size_t at = 0; at < whole.size(); at += 7) {
        std::string damaged = whole;
        damaged[at] = static_cast<char>(damaged[at] ^ 1);
        support::write_text(path, damaged);
        CHECK_FALSE(cache->find(key_of(1)));
        CHECK_FALSE(std::filesystem::exists(path));
    }
    for (std::size_t size = 0; size < whole.size(); size += 13) {
        support::write_text(path, whole.substr(0, size));
        CHECK_FALSE(cache->find(key_of(1)));
    }
    support::write_text(path, whole);
    const auto entry = cache->find(key_of(1));
    REQUIRE(entry);
    CHECK(entry->stored().report == "report");
    CHECK(entry->stored().findings == 1);
    must(entry->write_file(0, shop.path("back")));
    CHECK(text_in(shop.path("back")) == std::string(1000, 'x'));
    CHECK(must_fail(entry->write_file(1, shop.path("back"))).kind == yl::ErrorKind::usage);
}

TEST_CASE("a cache stays within its size, and keeps what was used last") {
    const Workshop shop;
    const auto cache = must(BuildCache::open(shop.path("cache"), {.max_bytes = 5000}));
    for (int i = 0; i < 6; ++i) {
        store(*cache, shop, i, 1000);
        // Times of some file systems are coarse.
        const timespec times[2] = {{i, 0}, {i, 0}};
        REQUIRE(::utimensat(AT_FDCWD,
                            (shop.path("cache/entries/") + key_of(i).text().substr(0, 2) + "/" +
                             key_of(i).text() + ".entry")
                                .c_str(),
                            times, 0) == 0);
    }
    REQUIRE(cache->find(key_of(0)));  // is used again
    CHECK(must(cache->trim()) <= 5000);
    CHECK(cache->has(key_of(0)));
    CHECK_FALSE(cache->has(key_of(1)));
    CHECK(cache->has(key_of(5)));
}

TEST_CASE("a key is held by one at a time") {
    const Workshop shop;
    const auto cache = must(BuildCache::open(shop.path("cache")));
    auto held = cache->try_lock(key_of(1));
    REQUIRE(held);
    CHECK_FALSE(cache->try_lock(key_of(1)));
    CHECK(cache->try_lock(key_of(2)));
    held.reset();
    CHECK(cache->try_lock(key_of(1)));
}

TEST_CASE("two runs on one cache at once: each file is made once") {
    for (int round = 0; round < 20; ++round) {
        const Workshop shop, other;
        const auto cache = must(BuildCache::open(shop.path("cache")));
        const auto run = [&](const Workshop& one) {
            std::vector<Job> jobs;
            for (int i = 0; i < 30; ++i) {
                one.write("in" + std::to_string(i), std::to_string(i));
                jobs.push_back(one.job("out/" + std::to_string(i), {"in" + std::to_string(i)}));
            }
            BuildOptions options = one.options(false);
            options.cache = cache;
            CHECK(must(build(jobs, options)).failed == 0);
        };
        std::thread second([&] { run(other); });
        run(shop);
        second.join();
        CHECK(shop.made + other.made == 30);
        for (int i = 0; i < 30; ++i)
            CHECK(text_in(shop.path("out/" + std::to_string(i))) ==
                  text_in(other.path("out/" + std::to_string(i))));
    }
}

TEST_CASE("a folder that several machines share: stored once, fetched, and never trusted unseen") {
    const Workshop here, there;
    const auto shared = shared_folder(here.path("shared"));
    std::filesystem::create_directories(here.path("shared"));
    for (const Workshop* one : {&here, &there})
        one->write("in", "text");
    BuildOptions options = here.options();
    options.shared = shared;
    const Job job = here.job("out/x", {"in"}), same = there.job("out/x", {"in"});
    CHECK(must(build(std::span(&job, 1), options)).built == 1);
    REQUIRE(entries_in(here.path("shared")).size() == 1);
    const std::string stored = entries_in(here.path("shared"))[0];

    BuildOptions elsewhere = there.options();
    elsewhere.shared = shared;
    SUBCASE("fetched") {
        CHECK(must(build(std::span(&same, 1), elsewhere)).from_shared == 1);
        CHECK(there.made == 0);
    }
    SUBCASE("a wrong or cut entry is not used, and remarked on") {
        std::string content = text_in(stored);
        SUBCASE("wrong") {
            content[content.size() / 2] ^= 4;
        }
        SUBCASE("cut") {
            content.resize(content.size() / 2);
        }
        SUBCASE("empty") {
            content.clear();
        }
        support::write_text(stored, content);
        int remarks = 0;
        elsewhere.on_event = [&](const Event& event) {
            remarks += event.kind == Event::Kind::remark ? 1 : 0;
        };
        CHECK(must(build(std::span(&same, 1), elsewhere)).built == 1);
        CHECK(remarks == 1);
        CHECK(text_in(there.path("out/x")) == text_in(here.path("out/x")));
    }
    SUBCASE("a folder that is not there is no reason to fail") {
        elsewhere.shared = shared_folder("/nowhere/at/all");
        CHECK(must(build(std::span(&same, 1), elsewhere)).built == 1);
    }
    SUBCASE("read-only: nothing is stored") {
        elsewhere.shared = shared_folder(there.path("reads"), {.is_writable = false});
        CHECK(must(build(std::span(&same, 1), elsewhere)).built == 1);
        CHECK_FALSE(std::filesystem::exists(there.path("reads")));
    }
}
