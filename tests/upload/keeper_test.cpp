// The keeper of many textures, on the stand-in.
#include <fmt/format.h>

#include <fstream>
#include <yl/yl.hpp>

#include "upload/keeper_fixture.hpp"

using namespace yl;
using support::Bench;
using support::contains;
using support::must;
using support::red_of;
using support::write_square;
using support::write_text;

TEST_CASE("placeholders at once, by state and role, and the real textures later") {
    Bench bench;
    TextureKeeper keeper(bench.device);
    const auto panel = keeper.request({.file = bench.square("panel.png", 16, 200)});
    TextureRequest ripples = {.file = bench.square("ripples.png", 8, 128)};
    ripples.bake.role = Role::normal;
    const auto normals = keeper.request(ripples);
    const auto missing = keeper.request({.file = bench.folder.path("missing.png")});
    const DeviceTexture* waiting = keeper.texture(panel);
    REQUIRE(waiting != nullptr);
    CHECK(waiting->shape().width == 1);
    CHECK(red_of(*waiting) == 128);
    CHECK(support::level_of(must(keeper.texture(normals)->read_back()), 0)[2] == std::byte{255});
    const auto settled = keeper.when_settled();
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == 2);
    CHECK(totals.failed == 1);
    CHECK(totals.is_settled());
    CHECK(settled.get().ready == 2);
    CHECK(keeper.texture(panel)->shape().width == 16);
    CHECK(keeper.texture(panel)->shape().levels == 5);
    CHECK(keeper.status(panel).progress == 1);
    CHECK(red_of(*keeper.texture(panel)) == 200);
    CHECK(keeper.status(missing).state == KeeperState::failed);
    REQUIRE(keeper.status(missing).error);
    CHECK(keeper.status(missing).error->kind == ErrorKind::missing);
    CHECK(contains(keeper.status(missing).error->place, "missing.png"));
    CHECK(red_of(*keeper.texture(missing)) == 226);
    CHECK(keeper.texture({}) == nullptr);
}

TEST_CASE("a keeper's paths lead to the program's own files") {
    Bench bench;
    const auto files =
        memory_files({{"panel.png", support::read_bytes(bench.square("on_disk.png", 16, 77))}});
    TextureKeeper keeper(bench.device, {.files = files});
    const auto panel = keeper.request({.file = "panel.png"});
    const auto on_disk = keeper.request({.file = bench.folder.path("on_disk.png")});
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == 1);
    CHECK(red_of(*keeper.texture(panel)) == 77);
    REQUIRE(keeper.status(on_disk).error);
    CHECK(keeper.status(on_disk).error->kind == ErrorKind::missing);
}

TEST_CASE("equal files and settings are loaded once, and kept as long as somebody wants them") {
    Bench bench;
    const std::string path = bench.square("panel.png", 16, 200);
    TextureKeeper keeper(bench.device);
    const auto first = keeper.request({.file = path});
    const auto same =
        keeper.request({.file = std::filesystem::path(path).parent_path() / "." / "panel.png"});
    TextureRequest data = {.file = path};
    data.bake.role = Role::data;
    const auto other = keeper.request(data);
    TextureRequest sharp = {.file = path, .sampler = must(parse_sampler("mag=nearest"))};
    const auto sampled = keeper.request(sharp);
    CHECK(keeper.pump_until_settled().textures == 3);
    CHECK(keeper.texture(first) == keeper.texture(same));
    CHECK(keeper.texture(first) != keeper.texture(other));
    CHECK(keeper.texture(first) != keeper.texture(sampled));
    keeper.release(first);
    CHECK(keeper.texture(first) == nullptr);
    CHECK(keeper.texture(same)->shape().width == 16);
    const std::size_t alive = bench.device.textures_alive();
    keeper.release(same);
    CHECK(bench.device.textures_alive() == alive - 1);
    CHECK(keeper.totals().textures == 2);
    keeper.release(same);  // void tickets are ignored
    // equal bytes are equal files
    const auto bytes = std::make_shared<std::vector<std::byte>>(
        must(texture_file_bytes("ktx2", support::random_texture({.format = Format::r8_unorm}, 1))));
    const auto copy = std::make_shared<std::vector<std::byte>>(*bytes);
    const auto a = keeper.request({.bytes = bytes});
    const auto b = keeper.request({.bytes = copy});
    keeper.pump_until_settled();
    CHECK(keeper.texture(a) == keeper.texture(b));
    CHECK(keeper.status(a).state == KeeperState::ready);
}

TEST_CASE("the tickets that have another texture are named, each once") {
    Bench bench;
    const std::string path = bench.square("panel.png", 16, 200);
    TextureKeeper keeper(bench.device, {.workers = 1});
    const auto a = keeper.request({.file = path});
    const auto b = keeper.request({.file = path});
    const auto missing = keeper.request({.file = bench.folder.path("missing.png")});
    const auto gone = keeper.request({.file = path});
    keeper.cancel(gone);
    std::vector<std::uint64_t> changed;
    for (bool is_settled = false; !is_settled;) {
        const PumpReport report = keeper.pump();
        for (const TextureTicket ticket : report.changed)
            changed.push_back(ticket.number);
        is_settled = report.is_settled;
    }
    std::ranges::sort(changed);
    CHECK(changed == std::vector<std::uint64_t>{a.number, b.number, missing.number});
    CHECK(keeper.pump().changed.empty());
    // Short of memory it gets another one.
    keeper.set_memory_budget(16 * 16 * 4);
    std::size_t count = 0;
    for (int i = 0; i < 100 && count == 0; ++i, keeper.pump_until_settled())
        count = keeper.pump().changed.size();
    CHECK(keeper.status(a).dropped_levels > 0);
}

TEST_CASE("contents may be a part of what somebody else keeps") {
    Bench bench;
    const auto file = support::read_bytes(bench.square("panel.png", 16, 200));
    const auto packed = std::make_shared<std::vector<std::byte>>(7 + file.size());
    std::ranges::copy(file, packed->begin() + 7);
    TextureRequest request{.bytes = SharedBytes(std::span(*packed).subspan(7), packed)};
    CHECK(packed.use_count() == 2);
    {
        TextureKeeper keeper(bench.device);
        const auto ticket = keeper.request(request);
        request.bytes = file;  // the same content by another owner
        const auto same = keeper.request(request);
        keeper.pump_until_settled();
        CHECK(red_of(*keeper.texture(ticket)) == 200);
        CHECK(keeper.texture(ticket) == keeper.texture(same));
        CHECK_FALSE(SharedBytes());
        CHECK(SharedBytes(std::vector<std::byte>{}));
    }
    CHECK(packed.use_count() == 1);
}

TEST_CASE("pumping goes on batch by batch, with progress; small levels show early on request") {
    Bench bench;
    const std::string path = bench.square("panel.png", 64, 200);
    TextureKeeper keeper(bench.device, {.staging_budget = 4096, .show_early = true});
    const auto ticket = keeper.request({.file = path});
    float progress = 0;
    std::size_t steps = 0;
    std::uint32_t shown_before = 7;
    bool has_shown_early = false;
    while (keeper.status(ticket).state != KeeperState::ready) {
        const PumpReport report = keeper.pump(std::chrono::microseconds(0));
        CHECK(report.batches <= 1);
        steps += report.batches;
        const KeptTexture kept = keeper.status(ticket);
        CHECK(kept.progress >= progress);
        progress = kept.progress;
        REQUIRE(kept.state != KeeperState::failed);
        const DeviceTexture* texture = keeper.texture(ticket);
        if (texture->shape().width == 64 && kept.state != KeeperState::ready) {
            has_shown_early = true;
            CHECK(texture->level_range().first <= shown_before);
            shown_before = texture->level_range().first;
            CHECK(shown_before > 0);
        }
    }
    CHECK(has_shown_early);
    CHECK(shown_before == 1);  // all that was complete while the first level was on its way
    CHECK(steps >= 5);         // 16 KiB of the first level alone
    CHECK(keeper.texture(ticket)->level_range().first == 0);
}

TEST_CASE("a cancelled ticket keeps a placeholder; others of the same texture go on") {
    Bench bench;
    const std::string path = bench.square("panel.png", 16, 200);
    TextureKeeper keeper(bench.device);
    const auto stays = keeper.request({.file = path});
    const auto stops = keeper.request({.file = path});
    const auto alone = keeper.request({.file = bench.square("other.png", 16, 90)});
    keeper.cancel(stops);
    keeper.cancel(alone);
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == 1);
    CHECK(totals.cancelled == 1);
    CHECK(keeper.status(stops).state == KeeperState::cancelled);
    CHECK(keeper.status(alone).state == KeeperState::cancelled);
    CHECK(keeper.texture(stops)->shape().width == 1);
    CHECK(keeper.texture(stays)->shape().width == 16);
    const auto again = keeper.request({.file = bench.folder.path("other.png")});
    keeper.pump_until_settled();
    CHECK(red_of(*keeper.texture(again)) == 90);
}

TEST_CASE("what changes on disk is loaded again; the old texture stays until then") {
    Bench bench;
    const std::string path = bench.square("panel.png", 16, 200);
    TextureKeeper keeper(bench.device);
    const auto ticket = keeper.request({.file = path});
    const auto late = keeper.request({.file = bench.folder.path("late.png")});
    keeper.pump_until_settled();
    CHECK(keeper.reload_changed() == 0);
    write_square(path, 32, 50);
    bench.square("late.png", 4, 60);
    CHECK(keeper.reload_changed() == 2);
    CHECK(keeper.status(ticket).state == KeeperState::ready);
    CHECK(red_of(*keeper.texture(ticket)) == 200);
    keeper.pump_until_settled();
    CHECK(keeper.texture(ticket)->shape().width == 32);
    CHECK(red_of(*keeper.texture(ticket)) == 50);
    CHECK(red_of(*keeper.texture(late)) == 60);
    // a broken new version leaves the old one, and says so
    write_text(path, "no picture");
    CHECK(keeper.reload_changed() == 1);
    keeper.pump_until_settled();
    CHECK(red_of(*keeper.texture(ticket)) == 50);
    CHECK(keeper.status(ticket).state == KeeperState::ready);
    REQUIRE(keeper.status(ticket).error);
    CHECK(keeper.reload_changed() == 0);
}

TEST_CASE("1,000 files of which 50 are broken or missing: 950 textures and 50 named errors") {
    Bench bench;
    const std::string good = bench.square("good.png", 4, 9);
    std::ifstream file(good, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(file)), {});
    TextureKeeper keeper(bench.device);
    std::vector<std::pair<TextureTicket, std::string>> tickets;
    for (int i = 0; i < 1000; ++i) {
        const std::string name = fmt::format("picture {}.png", i);
        const std::string path = bench.folder.path(name);
        if (i % 20 != 0)
            write_text(path, bytes + std::string(static_cast<std::size_t>(i), ' '));
        else if (i % 60 == 0)
            write_text(path, bytes.substr(0, bytes.size() / 2));  // broken
        else if (i % 60 == 20)
            write_text(path, "");  // empty; the rest is missing
        tickets.emplace_back(keeper.request({.file = path}), name);
    }
    const KeeperTotals totals = keeper.pump_until_settled();
    CHECK(totals.ready == 950);
    CHECK(totals.failed == 50);
    for (std::size_t i = 0; i < tickets.size(); ++i) {
        const KeptTexture kept = keeper.status(tickets[i].first);
        CHECK((kept.state == KeeperState::failed) == (i % 20 == 0));
        if (kept.state == KeeperState::failed)
            CHECK(contains(kept.error.value().place, tickets[i].second));
    }
}

TEST_CASE("a wrong kind, a lost device and trouble with one texture stop no other") {
    Bench bench;
    TextureKeeper keeper(bench.device);
    const std::string flat = bench.square("flat.png", 16, 1);
    const auto as_cube = keeper.request({.file = flat, .kind = TextureKind::cube});
    CHECK(keeper.texture(as_cube)->shape().faces == 6);
    const auto fine = keeper.request({.file = bench.square("fine.png", 8, 1)});
    bench.device.fail_next([](const DeviceRecord& record) -> Status {
        if (record.kind == DeviceRecord::Kind::reserve && contains(record.text, "tricky"))
            return fail(ErrorKind::limit, "the device is out of memory");
        return {};
    });
    const auto tricky = keeper.request({.file = bench.square("tricky.png", 8, 77)});
    keeper.pump_until_settled();
    CHECK(contains(keeper.status(as_cube).error.value().message, "kind 2D"));
    CHECK(keeper.status(fine).state == KeeperState::ready);
    CHECK(keeper.status(tricky).state == KeeperState::failed);
    CHECK(keeper.status(tricky).error.value().kind == ErrorKind::limit);
    CHECK(contains(keeper.status(tricky).error.value().place, "tricky.png"));
    bench.device.lose();
    const auto late = keeper.request({.file = bench.square("late.png", 8, 78)});
    CHECK(keeper.pump_until_settled().failed == 3);
    CHECK(keeper.status(late).error.value().kind == ErrorKind::device);
}

TEST_CASE("everything goes with the keeper, also what is under way") {
    Bench bench;
    {
        TextureKeeper keeper(bench.device, {.staging_budget = 1024});
        for (int i = 0; i < 20; ++i)
            keeper.request({.file = bench.square(fmt::format("{}.png", i), 32, 3)});
        for (int i = 0; i < 10; ++i)
            keeper.pump(std::chrono::microseconds(0));
    }
    CHECK(bench.device.textures_alive() == 0);
    CHECK(bench.device.bytes_in_use() == 0);
}

TEST_CASE("10,000 loads and drops leave nothing behind") {
    Bench bench;
    const std::string path = bench.square("panel.png", 4, 200);
    TextureKeeper keeper(bench.device);
    for (int round = 0; round < 1000; ++round) {
        std::vector<TextureTicket> tickets;
        for (int i = 0; i < 10; ++i) {
            TextureRequest request = {.file = path};
            request.sampler = Sampler{.level_bias = static_cast<float>(i)};
            tickets.push_back(keeper.request(request));
        }
        keeper.pump_until_settled();
        for (const TextureTicket ticket : tickets)
            keeper.release(ticket);
        bench.device.forget_records();
    }
    CHECK(keeper.totals().tickets == 0);
    CHECK(keeper.totals().textures == 0);
    CHECK(keeper.totals().device_bytes == 0);
    CHECK(bench.device.textures_alive() == 0);
}

TEST_CASE("every kind of texture file has a placeholder of its kind, and comes") {
    Bench bench;
    TextureKeeper keeper(bench.device);
    const std::vector<TextureShape> shapes = {
        {.format = Format::rgba8_srgb, .width = 6, .height = 4, .levels = 3},
        {.format = Format::bc1_srgb, .width = 8, .height = 8, .layers = 3, .is_array = true},
        {.format = Format::rgba16_float, .width = 8, .height = 8, .levels = 4, .faces = 6},
        {.format = Format::r8_unorm,
         .width = 4,
         .height = 4,
         .layers = 2,
         .faces = 6,
         .is_array = true},
        {.format = Format::rg8_unorm, .width = 4, .height = 4, .depth = 4, .levels = 3},
        {.format = Format::rgba8_unorm, .width = 16, .levels = 5, .is_1d = true}};
    std::vector<TextureTicket> tickets;
    for (const TextureShape& shape : shapes) {
        const std::string path = bench.folder.path(std::string(name(kind_of(shape))) + ".ktx2");
        must(write_texture(path, support::random_texture(shape, 9)));
        tickets.push_back(keeper.request({.file = path, .kind = kind_of(shape)}));
        const DeviceTexture* placeholder = keeper.texture(tickets.back());
        REQUIRE(placeholder != nullptr);
        CHECK(kind_of(placeholder->shape()) == kind_of(shape));
        CHECK(placeholder->shape().width == 1);
    }
    CHECK(keeper.pump_until_settled().ready == shapes.size());
    for (std::size_t i = 0; i < shapes.size(); ++i) {
        CHECK(keeper.texture(tickets[i])->shape() == shapes[i]);
        const Texture sent = support::random_texture(shapes[i], 9);
        const Texture back = must(keeper.texture(tickets[i])->read_back());
        CHECK(std::ranges::equal(back.level(0), sent.level(0)));
    }
}

TEST_CASE("conversions on the way and findings reach the ticket") {
    support::TemporaryFolder folder;
    RecordingDevice device(must(find_profile("webgl2")));
    Texture gray =
        support::random_texture({.format = Format::r8_unorm, .width = 4, .height = 4}, 1);
    gray.metadata.swizzle = gray_swizzle;
    must(write_texture(folder.path("gray.ktx2"), gray));
    TextureKeeper keeper(device);
    const auto ticket = keeper.request(
        {.file = folder.path("gray.ktx2"), .sampler = must(parse_sampler("wrap=clamp-to-border"))});
    keeper.pump_until_settled();
    const KeptTexture kept = keeper.status(ticket);
    CHECK(kept.state == KeeperState::ready);
    CHECK(kept.device_bytes == 64);
    REQUIRE(kept.findings.size() >= 2);
    std::string all;
    for (const Finding& finding : kept.findings)
        all += finding.problem;
    CHECK(contains(all, "reorder"));
    CHECK(contains(all, "clamp-to-border"));
    const Texture back = must(keeper.texture(ticket)->read_back());
    CHECK(back.level(0)[1] == gray.level(0)[0]);
}

TEST_CASE("files in memory: pictures, textures, and neither") {
    Bench bench;
    TextureKeeper keeper(bench.device);
    const auto bytes_of_file = [&](const std::string& path) {
        return std::make_shared<const std::vector<std::byte>>(support::read_bytes(path));
    };
    const auto picture =
        keeper.request({.file = "in memory", .bytes = bytes_of_file(bench.square("a.png", 8, 33))});
    write_text(bench.folder.path("text"), "words, words, words, and no picture at all");
    const auto text =
        keeper.request({.file = "words", .bytes = bytes_of_file(bench.folder.path("text"))});
    keeper.pump_until_settled();
    CHECK(red_of(*keeper.texture(picture)) == 33);
    CHECK(keeper.status(text).state == KeeperState::failed);
    CHECK(keeper.status(text).error.value().place == "words");
    CHECK(keeper.reload_changed() == 0);
    CHECK(name(keeper.status(text).state) == "failed");
}

TEST_CASE("limits of the keeper hold for every file, before its bytes are read") {
    Bench bench;
    TextureKeeper keeper(bench.device, {.limits = {.max_side = 16, .max_bytes = 4096}});
    const auto large = keeper.request({.file = bench.square("large.png", 20, 1)});
    const auto fine = keeper.request({.file = bench.square("fine.png", 16, 1)});
    write_text(bench.folder.path("long.png"), std::string(5000, 'x'));
    const auto long_file = keeper.request({.file = bench.folder.path("long.png")});
    const auto folder = keeper.request({.file = bench.folder.path(".")});
    keeper.pump_until_settled();
    CHECK(keeper.status(large).error.value().kind == ErrorKind::limit);
    CHECK(keeper.status(fine).state == KeeperState::ready);
    CHECK(contains(keeper.status(long_file).error.value().message, "5000 bytes"));
    CHECK(contains(keeper.status(folder).error.value().message, "folder"));
}

TEST_CASE(
    "roughness is widened by the normals that its request names, from a file or from memory") {
    Bench bench;
    Image rough = must(Image::create(Format::r8_unorm, 16, 16));
    for (std::uint32_t y = 0; y < 16; ++y)
        std::ranges::fill(rough.view().row(y), std::byte{40});
    must(write_picture(bench.folder.path("rough.png"), rough.view()));
    const auto write_ripples = [&](std::uint32_t every) {
        Image ripples = must(Image::create(Format::rgb8_unorm, 8, 8));
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::size_t x = 0; x < 8; ++x) {
                auto* texel = &ripples.view().row(y)[3 * x];
                texel[0] = std::byte{x / every % 2 == 0 ? std::uint8_t{40} : std::uint8_t{216}};
                texel[1] = std::byte{128};
                texel[2] = std::byte{220};
            }
        must(write_picture(bench.folder.path("ripples.png"), ripples.view()));
    };
    write_ripples(1);
    TextureKeeper keeper(bench.device);
    const auto level_of = [&](TextureTicket ticket, std::uint32_t level) {
        return std::to_integer<int>(
            support::level_of(must(keeper.texture(ticket)->read_back()), level)[0]);
    };
    TextureRequest request{.file = bench.folder.path("rough.png"), .bake = {.role = Role::data}};
    const TextureTicket plain = keeper.request(request);
    request.normals_file = bench.folder.path("ripples.png");
    const TextureTicket widened = keeper.request(request);
    request.normals_bytes = std::make_shared<const std::vector<std::byte>>(
        support::read_bytes(bench.folder.path("ripples.png")));
    const TextureTicket from_memory = keeper.request(request);
    request.normals_bytes = nullptr;
    request.normals_file = bench.folder.path("gone.png");
    const TextureTicket alone = keeper.request(request);
    CHECK(keeper.pump_until_settled().textures == 4);
    CHECK(level_of(plain, 3) == 40);
    CHECK(level_of(widened, 3) > 80);
    CHECK(level_of(from_memory, 3) == level_of(widened, 3));
    CHECK(level_of(alone, 3) == 40);
    REQUIRE_FALSE(keeper.status(alone).findings.empty());
    CHECK(contains(keeper.status(alone).findings[0].problem, "gone.png"));
    const int before = level_of(widened, 2);
    write_ripples(4);
    CHECK(keeper.reload_changed() == 1);
    keeper.pump_until_settled();
    CHECK(level_of(widened, 2) != before);
}

TEST_CASE("what baking found is found in the keeper, too") {
    Bench bench;
    TextureKeeper keeper(bench.device);
    const TextureTicket dark = keeper.request(
        {.file = bench.square("a.png", 8, 90), .bake = {.format = Format::rgba8_unorm}});
    keeper.pump_until_settled();
    REQUIRE_FALSE(keeper.status(dark).findings.empty());
    CHECK(contains(keeper.status(dark).findings[0].problem, "linear light in 8 bits"));
}
