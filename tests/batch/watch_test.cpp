// Files that change while somebody waits.
#include <yl/folder_watch.hpp>

#include <algorithm>
#include <thread>

#include "batch/jobs.hpp"

using support::must;
using support::must_fail;
using support::Workshop;
using namespace std::chrono_literals;

TEST_CASE("saves are seen, by writing and by renaming, and come together") {
    const Workshop shop;
    shop.write("a/one", "1");
    shop.write("b/two", "2");
    const std::vector<std::string> folders = {shop.path("a"), shop.path("b")};
    auto watch = must(yl::batch::FolderWatch::open(folders));
    CHECK(must(watch.wait(20ms, 50ms)).empty());
    std::thread editor([&] {
        shop.write("a/one", "11");
        shop.write("b/.two.swap", "22");
        std::filesystem::rename(shop.path("b/.two.swap"), shop.path("b/two"));
    });
    std::vector<std::string> seen;
    for (int i = 0; i < 50 && std::ranges::find(seen, shop.path("b/two")) == seen.end(); ++i)
        for (std::string& one : must(watch.wait(100ms, 1000ms)))
            seen.push_back(std::move(one));
    editor.join();
    CHECK(std::ranges::find(seen, shop.path("a/one")) != seen.end());
    CHECK(std::ranges::find(seen, shop.path("b/two")) != seen.end());
    const std::vector<std::string> none = {shop.path("none")};
    CHECK(must_fail(yl::batch::FolderWatch::open(none)).kind == yl::ErrorKind::io);
}
