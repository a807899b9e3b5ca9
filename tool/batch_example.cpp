#include "batch.hpp"

namespace ylat {
namespace {

constexpr std::string_view example =
    R"(# Textures of a game, for three kinds of machines: ylat batch textures.toml
# Paths are by the folder of this file. Options are those of ylat bake, cube, atlas and model, without
# their hyphens.

# Where files go; {target}, {group}, {role}, {folder}, {name}, {match} and {ending} stand for what they say.
output = "built/{target}/{folder}/{name}.{ending}"
memory = "2G"                       # of all files under way together

[cache]
folder = ".ylat-batch/cache"
size = "4G"
# shared = "http://textures.example/cache"   # for all machines of a team; or a folder

[defaults]                          # for whatever has such an option
supercompress = "zstd"

[targets.desktop]
as = "bc"

[targets.phone]
as = "astc"
max-size = 1024

[targets.web]
as = "etc"
max-size = 1024

# Names tell roles, and any other option: wall_nm.png. Without these, words such as wall_normal do.
[[names]]
files = "*_nm"
role = "normal"

[[names]]
files = "*_orm"
role = "data"

[[textures]]                        # a texture of each file
name = "walls"
files = ["walls/**/*.png", "!walls/**/old_*"]
for.phone = { effort = 3 }

[[textures]]
name = "ui"
files = "ui/*.png"
targets = ["desktop", "web"]
as = "rgba8-srgb"                   # what holds for fewer files wins
levels = 1
sampler = "mag=nearest min=nearest wrap=clamp-to-edge"

[[packed]]                          # channels of several files
name = "surfaces"
files = "surfaces/*_ao.png"
channels = { r = "{folder}/{match}_ao.png", g = "{folder}/{match}_rough.png", b = "0" }
output = "built/{target}/surfaces/{match}_orm.ktx2"
role = "data"

[[cubes]]
name = "skies"
files = "skies/*.hdr"
layout = "panorama"
prefilter = "specular"
targets = ["desktop"]
as = "rgba16-float"

[[arrays]]                          # all files become one
name = "leaves"
files = "leaves/*.png"

[[overrides]]                       # for these files, whatever their group says
files = "walls/hero.png"
effort = 9
)";

}  // namespace

std::string_view batch_example() {
    return example;
}

}  // namespace ylat
