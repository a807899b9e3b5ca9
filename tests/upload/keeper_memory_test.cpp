// The keeper where memory on the device is short.
#include <fmt/format.h>

#include <fstream>
#include <yl/yl.hpp>

#include "upload/keeper_fixture.hpp"

using namespace yl;
using support::Bench;
using support::contains;
using support::red_of;

TEST_CASE("a budget of memory leaves out top levels of what was least used, and brings them back") {
    Bench bench;
    // 64 x 64 texels with all levels take 21,844 bytes; three of them 65,532
    const auto a = bench.square("a.png", 64, 1), b = bench.square("b.png", 64, 2),
               c = bench.square("c.png", 64, 3);
    TextureKeeper keeper(bench.device, {.memory_budget = 50'000, .patience = 3});
    const auto ta = keeper.request({.file = a});
    const auto tb = keeper.request({.file = b});
    keeper.pump_until_settled();
    CHECK(keeper.totals().device_bytes == 2 * 21'844);
    static_cast<void>(keeper.texture(tb));
    const auto tc = keeper.request({.file = c});
    static_cast<void>(keeper.texture(tc));
    for (int i = 0; i < 3; ++i) {
        keeper.pump_until_settled();
        static_cast<void>(keeper.texture(tb));
        static_cast<void>(keeper.texture(tc));
    }
    CHECK(keeper.totals().device_bytes <= 50'000);
    CHECK(keeper.status(ta).dropped_levels == 1);  // the least used
    CHECK(keeper.status(ta).state == KeeperState::ready);
    CHECK(keeper.status(tb).dropped_levels == 0);
    CHECK(keeper.status(tc).dropped_levels == 0);
    CHECK(keeper.texture(tc)->shape().width == 64);
    // room again: it comes back
    keeper.release(tb);
    for (int i = 0; i < 5; ++i)
        keeper.pump_until_settled();
    CHECK(keeper.status(ta).dropped_levels == 0);
    CHECK(keeper.texture(ta)->shape().width == 64);
    CHECK(red_of(*keeper.texture(ta)) == 1);
    // a smaller budget takes effect
    keeper.set_memory_budget(12'000);
    for (int i = 0; i < 5; ++i)
        keeper.pump_until_settled();
    CHECK(keeper.totals().device_bytes <= 12'000);
    CHECK(keeper.totals().ready == 2);
    keeper.set_memory_budget(3);
    const auto nothing = keeper.request({.file = bench.square("d.png", 1, 3)});
    keeper.pump_until_settled();
    CHECK(keeper.status(nothing).state == KeeperState::failed);
    CHECK(contains(keeper.status(nothing).error->message, "budget"));
}

TEST_CASE("an unused texture makes room for one that is used again") {
    Bench bench;
    TextureKeeper keeper(bench.device, {.memory_budget = 30'000, .patience = 4});
    const auto ta = keeper.request({.file = bench.square("a.png", 64, 1)});
    keeper.pump_until_settled();
    const auto tb = keeper.request({.file = bench.square("b.png", 64, 2)});
    static_cast<void>(keeper.texture(tb));
    for (int i = 0; i < 4; ++i) {
        keeper.pump_until_settled();
        static_cast<void>(keeper.texture(tb));
    }
    CHECK(keeper.status(tb).dropped_levels == 0);
    CHECK(keeper.status(ta).dropped_levels == 1);
    for (int i = 0; i < 12; ++i) {  // now the other way round
        static_cast<void>(keeper.texture(ta));
        keeper.pump_until_settled();
    }
    CHECK(keeper.status(ta).dropped_levels == 0);
    CHECK(keeper.status(tb).dropped_levels == 1);
    CHECK(keeper.totals().device_bytes <= 30'000);
}

TEST_CASE("as many levels go as have to, to the byte") {
    // The first level takes 16,384 of 21,844 bytes, the second 4,096.
    struct Case {
        std::uint64_t budget;
        std::uint32_t dropped;
    };
    constexpr std::uint64_t both = 2 * 21'844;
    for (const Case& one : {Case{both, 0},
                            {both - 1, 1},
                            {both - 16'384, 1},
                            {both - 16'385, 2},
                            {both - 20'480, 2},
                            {both - 20'481, 3}}) {
        Bench bench;
        TextureKeeper keeper(bench.device, {.memory_budget = one.budget, .patience = 4});
        const auto unused = keeper.request({.file = bench.square("a.png", 64, 1)});
        keeper.pump_until_settled();
        const auto used = keeper.request({.file = bench.square("b.png", 64, 2)});
        for (int i = 0; i < 6; ++i) {
            static_cast<void>(keeper.texture(used));
            keeper.pump_until_settled();
        }
        CAPTURE(one.budget);
        CHECK(keeper.status(used).dropped_levels == 0);
        CHECK(keeper.status(unused).dropped_levels == one.dropped);
        CHECK(keeper.totals().device_bytes <= one.budget);
    }
}

TEST_CASE("files that are gone when memory runs short are left as they are, and all settles") {
    Bench bench;
    TextureKeeper keeper(bench.device, {.memory_budget = 50'000, .patience = 2});
    const auto a = bench.square("a.png", 64, 1), b = bench.square("b.png", 64, 2);
    const auto ta = keeper.request({.file = a}), tb = keeper.request({.file = b});
    keeper.pump_until_settled();
    std::filesystem::remove(a);
    std::filesystem::remove(b);
    // neither can give up its first level any more: the third one comes with what is left
    const auto tc = keeper.request({.file = bench.square("c.png", 64, 3)});
    for (int i = 0; i < 4; ++i)
        CHECK(keeper.pump_until_settled().is_settled());
    CHECK(keeper.status(ta).dropped_levels == 0);
    CHECK(keeper.status(tb).dropped_levels == 0);
    CHECK(keeper.status(ta).state == KeeperState::ready);
    CHECK(keeper.status(tc).state == KeeperState::ready);
    CHECK(keeper.status(tc).dropped_levels == 1);
    CHECK(keeper.totals().device_bytes <= 50'000);
    // and one that has given up levels and is gone does not get them back
    std::filesystem::remove(bench.folder.path("c.png"));
    keeper.release(ta);
    for (int i = 0; i < 4; ++i)
        CHECK(keeper.pump_until_settled().is_settled());
    CHECK(keeper.status(tc).dropped_levels == 1);
    REQUIRE(keeper.status(tc).error);
    CHECK(keeper.status(tc).error->kind == ErrorKind::missing);
    CHECK(red_of(*keeper.texture(tc)) == 3);
    // back on disk, it is read again
    bench.square("c.png", 64, 30);
    CHECK(keeper.reload_changed() == 1);
    for (int i = 0; i < 4; ++i)
        keeper.pump_until_settled();
    CHECK(keeper.status(tc).dropped_levels == 0);
    CHECK(red_of(*keeper.texture(tc)) == 30);
}

TEST_CASE("textures that are used alike get the same share of memory that is short") {
    Bench bench;
    constexpr int count = 40;
    constexpr std::uint64_t whole = 5460;  // 32 x 32 with all levels
    TextureKeeper keeper(bench.device, {.memory_budget = count * whole / 4 + count});
    std::vector<TextureTicket> tickets;
    for (int i = 0; i < count; ++i)
        tickets.push_back(keeper.request(
            {.file = bench.square(fmt::format("{}.png", i), 32, static_cast<std::uint8_t>(i))}));
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == count);
    CHECK(totals.device_bytes <= count * whole / 4 + count);
    for (const TextureTicket ticket : tickets)
        CHECK(keeper.status(ticket).dropped_levels == 1);
    // With memory to spare everything comes back.
    keeper.set_memory_budget(2 * count * whole);
    keeper.pump_until_settled();
    for (const TextureTicket ticket : tickets)
        CHECK(keeper.status(ticket).dropped_levels == 0);
}

TEST_CASE("of many textures that are used in every frame, the one that is not makes room") {
    Bench bench;
    constexpr std::size_t count = 300;
    constexpr std::uint64_t whole = 340;  // 8 x 8 with all levels
    TextureKeeper keeper(bench.device, {.memory_budget = count * whole, .patience = 20});
    std::vector<TextureTicket> tickets;
    const auto add = [&] {
        const auto red = static_cast<std::uint8_t>(tickets.size());
        tickets.push_back(
            keeper.request({.file = bench.square(fmt::format("{}.png", tickets.size()), 8, red)}));
    };
    for (std::size_t i = 0; i < count; ++i)
        add();
    CHECK(keeper.pump_until_settled().ready == count);
    const auto draw_frames = [&](int frames) {
        for (int frame = 0; frame < frames; ++frame) {
            for (std::size_t i = 1; i < tickets.size(); ++i)  // all but the first
                static_cast<void>(keeper.texture(tickets[i]));
            static_cast<void>(keeper.pump());
        }
    };
    draw_frames(30);
    add();
    const auto is_whole = [&](std::size_t i) {
        const KeptTexture kept = keeper.status(tickets[i]);
        return kept.state == KeeperState::ready && kept.dropped_levels == 0;
    };
    for (int i = 0; i < 100 && !(is_whole(count) && !is_whole(0)); ++i) {
        draw_frames(20);
        std::this_thread::sleep_for(std::chrono::milliseconds(2));  // for the workers
    }
    CHECK(is_whole(count));
    CHECK_FALSE(is_whole(0));
    CHECK(keeper.totals().device_bytes <= count * whole);
}
