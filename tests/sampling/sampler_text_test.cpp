#include <yl/sampler.hpp>
#include <yl/sampler_rules.hpp>

#include "support/check.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

TEST_CASE("every part of the text form is read") {
    const Sampler sampler = must(
        parse_sampler("mag=nearest min=nearest mip=none wrap=mirror,clamp-to-border,mirror-once "
                      "border=0.5,0,-1,1 aniso=8 lod=1..4.5 bias=-0.5 compare=less-or-equal"));
    CHECK(sampler.mag == Filter::nearest);
    CHECK(sampler.min == Filter::nearest);
    CHECK(sampler.mip == MipFilter::none);
    CHECK(sampler.wrap == std::array{Wrap::mirror, Wrap::clamp_to_border, Wrap::mirror_once});
    CHECK(sampler.border == std::array{0.5F, 0.0F, -1.0F, 1.0F});
    CHECK(sampler.max_anisotropy == 8);
    CHECK(sampler.min_level == 1);
    CHECK(sampler.max_level == 4.5F);
    CHECK(sampler.level_bias == -0.5F);
    CHECK(sampler.compare == Compare::less_or_equal);
    CHECK(must(parse_sampler(sampler_text(sampler))) == sampler);
}

TEST_CASE("parts may be left out") {
    CHECK(must(parse_sampler("")) == Sampler{});
    CHECK(must(parse_sampler("  mip=nearest  ")).mip == MipFilter::nearest);
    CHECK(must(parse_sampler("wrap=clamp-to-edge")).wrap ==
          std::array{Wrap::clamp_to_edge, Wrap::clamp_to_edge, Wrap::clamp_to_edge});
    CHECK(must(parse_sampler("wrap=repeat,mirror")).wrap ==
          std::array{Wrap::repeat, Wrap::mirror, Wrap::mirror});
    CHECK(sampler_text(Sampler{}) == "mag=linear min=linear mip=linear");
    for (const char* text : {"mag=linear min=linear mip=none wrap=mirror",
                             "mag=linear min=linear mip=linear wrap=repeat,mirror",
                             "mag=linear min=linear mip=linear border=1,1,1,1 aniso=16 lod=0..4 "
                             "bias=1 compare=always"})
        CHECK(sampler_text(must(parse_sampler(text))) == text);
}

TEST_CASE("what is left out may stay as it was in another sampler") {
    Sampler pixels = must(parse_sampler("mag=nearest min=nearest mip=none wrap=mirror"));
    const Sampler changed = must(parse_sampler("aniso=4 mip=linear", pixels));
    pixels.max_anisotropy = 4;
    pixels.mip = MipFilter::linear;
    CHECK(changed == pixels);
    CHECK(must(parse_sampler("", pixels)) == pixels);
}

TEST_CASE("what is not understood is named, with what would be") {
    const auto reason = [](const char* text) {
        const Error error = must_fail(parse_sampler(text));
        CHECK(error.kind == ErrorKind::usage);
        return error.sentence();
    };
    CHECK(contains(reason("mag=soft"), "'mag=soft'"));
    CHECK(contains(reason("mag=soft"), "nearest, linear"));
    CHECK(contains(reason("shine=1"), "the parts are mag"));
    CHECK(contains(reason("mag"), "nearest, linear"));
    CHECK(contains(reason("aniso=0.5"), "1 (none) or more"));
    CHECK(contains(reason("aniso=nan"), "a number"));
    CHECK(contains(reason("lod=4"), "a range"));
    CHECK(contains(reason("lod=4..1"), "not below"));
    CHECK(contains(reason("border=1,2"), "4 numbers"));
    CHECK(contains(reason("wrap=repeat,repeat,repeat,repeat"), "three"));
    CHECK(contains(reason("bias=1x"), "a number"));
}

TEST_CASE("completeness: a min filter that uses levels needs all of them") {
    const TextureShape one{.format = Format::r8_unorm, .width = 8, .height = 4};
    TextureShape full = one;
    full.levels = 4;
    const Sampler mips;
    Sampler none;
    none.mip = MipFilter::none;
    CHECK(is_complete(full, mips, {0, 1001}));
    CHECK_FALSE(is_complete(one, mips, {0, 1001}));
    CHECK(is_complete(one, none, {0, 1001}));
    CHECK(is_complete(one, mips, LevelRange::of(one)));
    TextureShape some = one;
    some.levels = 3;
    CHECK_FALSE(is_complete(some, mips, {0, 4}));
    CHECK(is_complete(some, mips, {0, 3}));
    CHECK_FALSE(is_complete(full, none, {4, 2}));
    CHECK_FALSE(is_complete(full, mips, {2, 0}));
}

TEST_CASE("each mistake in a pair of texture and sampler is found") {
    const auto problems = [](std::uint32_t levels, const char* sampler, LevelRange range) {
        std::string all;
        for (const Finding& finding :
             check_sampler({.format = Format::r8_unorm, .width = 8, .height = 8, .levels = levels},
                           must(parse_sampler(sampler)), range))
            all += finding.problem + "\n";
        return all;
    };
    CHECK(problems(4, "", {0, 4}).empty());
    CHECK(contains(problems(1, "", {0, 1001}), "black"));
    CHECK(contains(problems(1, "", {0, 1}), "shimmer"));
    CHECK(contains(problems(4, "mip=none", {0, 4}), "none but the first"));
    CHECK(contains(problems(4, "mag=nearest aniso=4", {0, 4}), "anisotropy"));
    CHECK(contains(problems(4, "lod=5..9", {0, 4}), "beyond the texture's last level"));
    CHECK(contains(problems(4, "border=1,1,1,1", {0, 4}), "border colour"));
    CHECK(problems(4, "border=1,1,1,1 wrap=repeat,clamp-to-border", {0, 4}).empty());
}

TEST_CASE("the text of a sampler says every part that is not as usual, from the least on") {
    for (const char* part :
         {"aniso=2", "aniso=1.5", "bias=0.25", "bias=-0.25", "lod=0..4", "lod=1..1000",
          "compare=less", "border=0,0,0,1", "wrap=repeat,mirror", "wrap=repeat,repeat,mirror"}) {
        CAPTURE(part);
        const Sampler sampler = must(parse_sampler(part));
        CHECK(sampler != Sampler{});
        CHECK(must(parse_sampler(sampler_text(sampler))) == sampler);
    }
}
