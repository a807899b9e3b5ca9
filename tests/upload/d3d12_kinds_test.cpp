// Every format in every kind of texture on a Direct3D 12 device.
#include "upload/d3d12_fixture.hpp"
#include "upload/kinds.hpp"

using namespace yl;
using support::D3d12Fixture;
using support::must;
using support::must_fail;

TEST_CASE("every format, kind and size goes to Direct3D 12 and comes back") {
    for (const bool has_copy_queue : {false, true})
        for (const std::uint64_t budget : {std::uint64_t{8192}, std::uint64_t{8} << 20}) {
            CAPTURE(has_copy_queue);
            CAPTURE(budget);
            D3d12Fixture direct3d({.staging_budget = budget}, has_copy_queue);
            std::size_t count = 0;
            for (const FormatInfo& f : all_formats())
                for (const TextureShape& shape :
                     support::shapes_for(direct3d.device.profile(), f.format)) {
                    CAPTURE(support::text_of(shape));
                    const Texture texture =
                        support::random_texture(shape, static_cast<std::uint32_t>(++count));
                    const auto uploaded = must(direct3d.device.upload(texture));
                    CHECK(support::holds(uploaded, uploaded.plan(), texture));
                }
            CHECK(count > 700);
        }
}

TEST_CASE("Direct3D 12: what was moved from, and layers that come late") {
    D3d12Fixture direct3d;
    support::check_moved_from(direct3d.device);
    support::check_late_layers(direct3d.device);
}
