#include <yl/atlas.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <set>

#include <yl/status_macros.hpp>
#include "bake/atlas/cells.hpp"
#include "bake/atlas/flipbooks.hpp"
#include "bake/atlas/pack.hpp"
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/stack.hpp"
#include "base/out_of_memory.hpp"
#include "base/progress.hpp"

namespace yl {
namespace {

using atlas::CellRule;
using atlas::CellSize;
using atlas::Packing;
using atlas::Slot;

constexpr std::uint32_t default_max_side = 4096;
constexpr std::uint32_t max_clean_level = 8;

Status check_options(const AtlasOptions& options) {
    const BakeOptions& bake = options.bake;
    const auto refuse = [](const char* place, const char* why) {
        return fail_at({ErrorKind::usage, why}, place);
    };
    if (options.last_clean_level > max_clean_level)
        return refuse("last clean level", "the last clean level is 0 to 8");
    if (bake.normals)
        return refuse("normals", "an atlas has no normal map of its own");
    if (bake.first_level > 0)
        return refuse("first level", "an atlas begins with its level 0");
    if (bake.origin != Origin::top)
        return refuse("origin", "an atlas has its first row at the top");
    return {};
}

/// A picture in the atlas's format, and what is left of it.
struct Content {
    Texture texture = {};  ///< one level
    Image turned = {};     ///< clockwise by a quarter; empty if it is not
    Box box = {};          ///< of the texture
};

class AtlasMaker {
 public:
    AtlasMaker(std::span<const AtlasPicture> pictures, const AtlasOptions& options)
        : pictures_(pictures),
          options_(options),
          pointers_(pointers_of(pictures)),
          stack_(pointers_, bake_, [this](std::size_t i) { return pictures_[i].name; }) {
        bake_ = options.bake;
        bake_.max_side = {};
        bake_.power_of_two = PowerOfTwo::any;
    }

    Result<Atlas> run() {
        YL_CHECK(check_options(options_));
        YL_CHECK(check_names());
        YL_CHECK(stack_.settle());
        if (options_.turn && stack_.role() == Role::normal)
            return fail_at({ErrorKind::usage,
                            "normal maps are not turned: their directions would turn with them"},
                           "turn");
        rule_ = CellRule::of(stack_.format(), options_.last_clean_level);
        YL_CHECK(check_sides());
        YL_CHECK(convert_all());
        YL_TRY(const Packing packing, packed());
        YL_CHECK(place_all(packing));
        YL_CHECK(fill(packing));
        result_.table.flipbooks = atlas::flipbooks_of(pictures_);
        return std::move(result_);
    }

 private:
    static std::vector<const Picture*> pointers_of(std::span<const AtlasPicture> pictures) {
        std::vector<const Picture*> pointers;
        for (const AtlasPicture& picture : pictures)
            pointers.push_back(picture.picture);
        return pointers;
    }

    [[nodiscard]] Status check_names() const {
        std::set<std::string_view> names;
        for (std::size_t i = 0; i < pictures_.size(); ++i) {
            const std::string& name = pictures_[i].name;
            if (name.empty())
                return fail_at({ErrorKind::usage, "it has no name"}, fmt::format("picture {}", i));
            if (!names.insert(name).second)
                return fail_at({ErrorKind::usage, "another picture has the same name"}, name);
        }
        return {};
    }

    /// Cells of whole blocks do not always fill sides of powers of two.
    [[nodiscard]] Status check_sides() const {
        if (options_.bake.power_of_two == PowerOfTwo::any || std::has_single_bit(rule_.alignment))
            return {};
        const FormatInfo& f = info(stack_.format());
        return fail_at({ErrorKind::usage,
                        fmt::format("an atlas in {}, whose blocks are {} x {}, has no sides of "
                                    "powers of two",
                                    f.name, f.block_width, f.block_height)},
                       "power of two");
    }

    /// Texels in the format that the chain is made in, trimmed.
    Status convert_all() {
        BakeOptions each = stack_.each();
        each.format = format_of_chain(stack_.format());
        each.levels = 1;
        each.coverage = {};
        each.sampler = {};
        each.progress = {};
        ProgressCounter progress(bake_.progress, Phase::assembling, stack_.size());
        YL_CHECK(progress.status());
        const bool is_coverage = info(stack_.role()).alpha_is_coverage;
        for (std::size_t i = 0; i < stack_.size(); ++i) {
            YL_TRY(Baked one, stack_.baked(i, stack_.picture(i), each));
            YL_CHECK(stack_.join(result_.baked, one, i));
            Content content;
            content.texture = std::move(one.texture);
            const TextureShape& shape = content.texture.shape();
            const Box whole = {0, 0, shape.width, shape.height};
            const bool may_trim = is_coverage && !one.is_opaque && !pictures_[i].repeats;
            const Box visible = may_trim ? atlas::visible_box(content.texture) : whole;
            result_.bordered += visible == whole ? 0U : 1U;
            content.box = options_.trim ? visible : whole;
            contents_.push_back(std::move(content));
            progress.add(1);
            YL_CHECK(progress.status());
        }
        return progress.finish();
    }

    [[nodiscard]] atlas::PackOptions pack_options() const {
        std::uint32_t side = options_.bake.max_side.value_or(default_max_side);
        const bool powers = options_.bake.power_of_two != PowerOfTwo::any;
        if (powers)
            side = std::bit_floor(std::max(side, 1U));
        return {side / rule_.alignment, powers, options_.layers};
    }

    [[nodiscard]] Result<Packing> packed() {
        const atlas::PackOptions to_pack = pack_options();
        std::vector<CellSize> cells;
        for (std::size_t i = 0; i < contents_.size(); ++i) {
            const Box& box = contents_[i].box;
            cells.push_back({rule_.units(box.width), rule_.units(box.height),
                             options_.turn && !pictures_[i].repeats});
            if (std::max(cells[i].width, cells[i].height) > to_pack.max_side)
                return fail_at(
                    {ErrorKind::limit,
                     fmt::format("{} x {} texels and its gutters do not fit into an "
                                 "atlas of {} x {}",
                                 box.width, box.height, to_pack.max_side * rule_.alignment,
                                 to_pack.max_side * rule_.alignment)},
                    pictures_[i].name);
        }
        std::optional<Packing> packing;
        if (options_.keep != nullptr)
            packing = packed_beside(cells, to_pack);
        if (!packing)
            packing = atlas::pack(cells, to_pack);
        if (!packing)
            return fail(ErrorKind::limit,
                        fmt::format("the pictures do not fit into one atlas of {} x {} texels; "
                                    "allow a larger one, or layers",
                                    to_pack.max_side * rule_.alignment,
                                    to_pack.max_side * rule_.alignment));
        std::uint64_t used = 0;
        for (const CellSize& cell : cells)
            used += std::uint64_t{cell.width} * cell.height;
        const std::uint64_t all = std::uint64_t{packing->width} * packing->height * packing->layers;
        result_.unused = 1 - static_cast<double>(used) / static_cast<double>(all);
        return *packing;
    }

    /// The slot that a part has in the older table, if it still fits into its cell there.
    [[nodiscard]] std::optional<Slot> old_slot(const AtlasPart& old, const CellSize& cell) const {
        const std::uint32_t unit = rule_.alignment;
        for (const std::uint32_t side : {old.cell.x, old.cell.y, old.cell.width, old.cell.height})
            if (side % unit != 0)
                return {};
        const std::uint32_t width = old.is_turned ? cell.height : cell.width;
        const std::uint32_t height = old.is_turned ? cell.width : cell.height;
        if (width > old.cell.width / unit || height > old.cell.height / unit ||
            (old.is_turned && !cell.may_turn))
            return {};
        return Slot{old.layer, old.cell.x / unit, old.cell.y / unit, old.is_turned};
    }

    [[nodiscard]] std::optional<Packing> packed_beside(std::span<const CellSize> cells,
                                                       const atlas::PackOptions& to_pack) {
        const AtlasTable& old = *options_.keep;
        std::vector<std::optional<Slot>> kept(cells.size());
        std::size_t count = 0;
        for (std::size_t i = 0; i < cells.size(); ++i) {
            if (const AtlasPart* part = old.find(pictures_[i].name))
                kept[i] = old_slot(*part, cells[i]);
            count += kept[i] ? 1U : 0U;
        }
        const std::uint32_t unit = rule_.alignment;
        const Packing room = {old.width / unit, old.height / unit, old.layers, {}};
        const bool has_its_shape =
            room.width <= to_pack.max_side && room.height <= to_pack.max_side &&
            (old.layers == 1 || options_.layers) &&
            (!to_pack.powers_of_two ||
             (std::has_single_bit(room.width) && std::has_single_bit(room.height)));
        std::optional<Packing> packing;
        if (has_its_shape && count > 0)
            packing = atlas::pack_beside(cells, kept, room, to_pack);
        result_.kept = packing ? count : 0;
        if (!packing)
            result_.baked.findings.push_back(
                {"atlas-repacked",
                 "the older atlas cannot be kept: its size, its alignment or its room do not "
                 "suffice",
                 "allow a larger atlas, or the same format and clean level as before",
                 FindingLevel::hint});
        return packing;
    }

    /// The table's parts, and the pictures that are turned.
    Status place_all(const Packing& packing) {
        AtlasTable& table = result_.table;
        const std::uint32_t unit = rule_.alignment;
        table.width = packing.width * unit;
        table.height = packing.height * unit;
        table.layers = packing.layers;
        table.last_clean_level = options_.last_clean_level;
        for (std::size_t i = 0; i < contents_.size(); ++i) {
            const Content& content = contents_[i];
            const TextureShape& shape = content.texture.shape();
            const Slot& slot = packing.slots[i];
            AtlasPart part{.name = pictures_[i].name,
                           .layer = slot.layer,
                           .is_turned = slot.is_turned,
                           .repeats = pictures_[i].repeats,
                           .picture_size = {shape.width, shape.height},
                           .trimmed = {content.box.x, content.box.y}};
            std::uint32_t width = content.box.width, height = content.box.height;
            if (slot.is_turned)
                std::swap(width, height);
            part.cell = {slot.x * unit, slot.y * unit, rule_.units(width) * unit,
                         rule_.units(height) * unit};
            part.box = {part.cell.x + rule_.gutter, part.cell.y + rule_.gutter, width, height};
            part.pivot = pictures_[i].pivot.value_or(std::array{
                static_cast<float>(shape.width) / 2, static_cast<float>(shape.height) / 2});
            table.parts.push_back(std::move(part));
        }
        return {};
    }

    [[nodiscard]] Result<ConstImageView> texels_of(std::size_t i) {
        Content& content = contents_[i];
        YL_TRY(ConstImageView view, cropped(std::as_const(content.texture).image(0), content.box));
        if (!result_.table.parts[i].is_turned)
            return view;
        YL_TRY(content.turned, with_orientation(view, Orientation::quarter_right));
        return std::as_const(content.turned).view();
    }

    Status fill(const Packing& packing) {
        const AtlasTable& table = result_.table;
        Texture& texture = result_.baked.texture;
        TextureShape shape = {.format = contents_[0].texture.shape().format,
                              .width = table.width,
                              .height = table.height,
                              .layers = table.layers,
                              .is_array = packing.layers > 1};
        YL_CHECK(check_level_count(bake_, shape));
        const std::uint32_t most = full_level_count(shape.width, shape.height);
        shape.levels = bake_.levels.value_or(
            options_.full_chain ? most : std::min(rule_.last_clean_level + 1, most));
        const TextureMetadata metadata = texture.metadata;
        YL_TRY(texture, Texture::create(shape));
        texture.metadata = metadata;
        texture.metadata.sampler = bake_.sampler;
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            std::ranges::fill(texture.level(level), std::byte{0});  // what is in no cell
        ProgressCounter progress(bake_.progress, Phase::levels, table.parts.size());
        YL_CHECK(progress.status());
        for (std::size_t i = 0; i < table.parts.size(); ++i) {
            YL_TRY(const ConstImageView texels, texels_of(i));
            YL_CHECK(
                atlas::fill_cell(texture, table.parts[i], texels, bake_, stack_.role(), rule_));
            progress.add(1);
            YL_CHECK(progress.status());
        }
        YL_CHECK(progress.finish());
        YL_CHECK(atlas::fill_mixed_levels(texture, bake_, stack_.role(), rule_));
        report_mixed_levels(shape);
        return encode_chain(texture, stack_.format(), block_options(bake_, stack_.role()),
                            wanted_family(bake_), result_.baked.findings);
    }

    void report_mixed_levels(const TextureShape& shape) {
        if (shape.levels > rule_.last_clean_level + 1)
            result_.baked.findings.push_back(
                {"atlas-levels-mix",
                 fmt::format("levels from {} on mix neighbouring parts",
                             rule_.last_clean_level + 1),
                 fmt::format("limit the sampler to levels 0 to {}, or ask for more clean levels",
                             rule_.last_clean_level)});
    }

    std::span<const AtlasPicture> pictures_;
    const AtlasOptions& options_;
    BakeOptions bake_ = BakeOptions();
    std::vector<const Picture*> pointers_;
    Stack stack_;
    CellRule rule_ = {};
    std::vector<Content> contents_ = {};
    Atlas result_ = {};
};

}  // namespace

const AtlasPart* AtlasTable::find(std::string_view name) const {
    const auto found = std::ranges::find(parts, name, &AtlasPart::name);
    return found != parts.end() ? &*found : nullptr;
}

Result<Atlas> make_atlas(std::span<const AtlasPicture> pictures, const AtlasOptions& options) try {
    return AtlasMaker(pictures, options).run();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
