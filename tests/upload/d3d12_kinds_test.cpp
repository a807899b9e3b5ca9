// Every format in every kind of texture on a Direct3D 12 device.
#include "upload/d3d12_fixture.hpp"
#include "upload/d3d12_shim.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using support::D3d12Fixture;
using support::must;
using support::must_fail;

namespace {

void check_all_kinds(d3d12::Device& device) {
    std::size_t count = 0;
    for (const FormatInfo& f : all_formats())
        for (const TextureShape& shape : support::shapes_for(device.profile(), f.format)) {
            CAPTURE(support::text_of(shape));
            const Texture texture =
                support::random_texture(shape, static_cast<std::uint32_t>(++count));
            const auto uploaded = must(device.upload(texture));
            CHECK(support::holds(uploaded, uploaded.plan(), texture));
        }
    CHECK(count > 700);
}

}  // namespace

TEST_CASE(
    "every format, kind and size goes to Direct3D 12 and comes back, by one queue and by two") {
    for (const bool has_copy_queue : {false, true}) {
        CAPTURE(has_copy_queue);
        D3d12Fixture direct3d({}, has_copy_queue);
        check_all_kinds(direct3d.device);
    }
}

TEST_CASE("every format, kind and size goes to Direct3D 12 in batches of 512 bytes") {
    D3d12Fixture direct3d({.staging_budget = 512});
    check_all_kinds(direct3d.device);
}

TEST_CASE("every format, kind and size goes to Direct3D 12 on the browser's driver") {
    const support::BrowserDirect3d browser;
    auto device = must(d3d12::Device::open(browser.handles(), {.staging_budget = 4096}));
    check_all_kinds(device);
}

TEST_CASE("Direct3D 12: what was moved from, and layers that come late") {
    D3d12Fixture direct3d;
    support::check_moved_from(direct3d.device);
    support::check_late_layers(direct3d.device);
}
