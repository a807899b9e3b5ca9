// The keeper's worker threads: what they do first, how far ahead, and what nobody wants any more.
#include <array>
#include <atomic>
#include <semaphore>
#include <thread>
#include <yl/yl.hpp>

#include "upload/keeper_fixture.hpp"

using namespace yl;
using support::Bench;
using support::must;
using support::red_of;
using support::write_text;

namespace {

/// Contents "#a", "#b" … which a reader of the test's own makes squares of.
TextureRequest content(char name) {
    return {.bytes = std::vector{std::byte{'#'}, static_cast<std::byte>(name)}};
}

bool is_content(std::span<const std::byte> bytes) {
    return bytes[0] == std::byte{'#'};
}

Picture square_of(std::uint32_t side, int red) {
    Picture picture;
    picture.image = must(Image::create(Format::rgba8_srgb, side, side));
    for (std::uint32_t y = 0; y < side; ++y)
        std::ranges::fill(picture.image.view().row(y), static_cast<std::byte>(red));
    return picture;
}

}  // namespace

TEST_CASE("of those that wait, the most urgent is decoded first") {
    Bench bench;
    std::vector<std::string> order;
    std::atomic<bool> is_at_work = false;
    std::binary_semaphore may_go(0);
    const PictureReader noting{"noting", is_content,
                               [&](std::span<const std::byte> bytes, const ReadOptions&) {
                                   order.emplace_back(1, static_cast<char>(bytes[1]));
                                   if (!is_at_work.exchange(true))
                                       may_go.acquire();
                                   return Result<Picture>(square_of(1, 7));
                               }};
    const auto request = [](const char* name, int priority) {
        TextureRequest result{.bytes = std::vector{std::byte{'#'}, static_cast<std::byte>(*name)}};
        result.priority = priority;
        return result;
    };
    TextureKeeper keeper(bench.device, {.workers = 1, .further_readers = {noting}});
    static_cast<void>(keeper.request(request("first", 0)));
    while (!is_at_work)
        std::this_thread::yield();
    const auto a = keeper.request(request("a", 0));
    static_cast<void>(keeper.request(request("b", 5)));
    static_cast<void>(keeper.request(request("c", 5)));
    static_cast<void>(keeper.request(request("d", -1)));
    // Of several tickets of one texture the highest counts, whichever is changed last.
    const auto low = keeper.request(request("e", 1));
    static_cast<void>(keeper.request(request("e", 7)));
    keeper.set_priority(low, -9);
    keeper.set_priority(a, 9);
    may_go.release();
    CHECK(keeper.pump_until_settled().ready == 6);
    CHECK(order == std::vector<std::string>{"f", "a", "e", "b", "c", "d"});
}

TEST_CASE("workers decode ahead as far as they may, and go on when there is room") {
    Bench bench;
    std::atomic<int> decoded = 0;
    const PictureReader counting{"counting", is_content,
                                 [&](std::span<const std::byte>, const ReadOptions&) {
                                     ++decoded;
                                     return Result<Picture>(square_of(16, 9));
                                 }};
    TextureKeeper keeper(bench.device,
                         {.workers = 1, .further_readers = {counting}, .decoded_ahead = 1});
    for (const char name : {'a', 'b', 'c', 'd', 'e'})
        static_cast<void>(keeper.request(content(name)));
    while (decoded == 0)
        std::this_thread::yield();
    std::this_thread::sleep_for(std::chrono::milliseconds(30));
    CHECK(decoded == 1);
    CHECK(keeper.pump_until_settled().ready == 5);
    CHECK(decoded == 5);
}

TEST_CASE("what a worker brings of a file that has changed since is thrown away") {
    Bench bench;
    const std::string path = bench.folder.path("panel.txt");
    write_text(path, "#1");
    std::array<std::binary_semaphore, 2> may_go = {std::binary_semaphore(0),
                                                   std::binary_semaphore(0)};
    std::atomic<std::size_t> begun = 0;
    const PictureReader held{"held", is_content,
                             [&](std::span<const std::byte> bytes, const ReadOptions&) {
                                 const int red = std::to_integer<int>(bytes[1]);
                                 may_go[begun++].acquire();
                                 return Result<Picture>(square_of(8, red));
                             }};
    TextureKeeper keeper(bench.device, {.workers = 1, .further_readers = {held}});
    const auto ticket = keeper.request({.file = path});
    while (begun < 1)
        std::this_thread::yield();
    write_text(path, "#22");  // another size, so that the change is seen whatever the clock says
    CHECK(keeper.reload_changed() == 1);
    may_go[0].release();
    while (begun < 2)  // the first result is there
        std::this_thread::yield();
    for (int i = 0; i < 10; ++i) {
        CHECK(keeper.pump(std::chrono::milliseconds(1)).swapped_in == 0);
        CHECK(keeper.status(ticket).state != KeeperState::ready);
    }
    may_go[1].release();
    CHECK(keeper.pump_until_settled().ready == 1);
    CHECK(red_of(*keeper.texture(ticket)) == '2');
}
