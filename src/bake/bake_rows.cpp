// Textures of pictures that are never in memory as a whole.
#include <fmt/format.h>

#include <algorithm>
#include <list>

#include <yl/bake_rows.hpp>
#include <yl/status_macros.hpp>
#include "bake/band_reader.hpp"
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/formats.hpp"
#include "bake/level_writer.hpp"
#include "bake/subject.hpp"
#include "base/out_of_memory.hpp"
#include "base/progress.hpp"
#include "base/text.hpp"
#include "container/texture_format.hpp"
#include "measure/content.hpp"
#include "resample/level_flow.hpp"

namespace yl {
namespace {

Status check_options(const Subject& subject, const BakeOptions& options) {
    const auto refuse = [](const char* place, std::string_view why) {
        return fail_at(
            {ErrorKind::usage, fmt::format("{}, which needs the whole picture in memory", why)},
            place);
    };
    const std::array<std::uint32_t, 2> own = {subject.image.width, subject.image.height};
    if (texture_size(own[0], own[1], options) != own)
        return refuse("size", "the texture gets another size than the picture");
    if (options.origin == Origin::bottom)
        return refuse("origin", "the last row comes first");
    if (options.coverage)
        return refuse("coverage", "levels keep the share of texels that pass a test");
    if (!options.given.empty())
        return refuse("given", "levels are given");
    if (options.normals)
        return refuse("normals", "roughness is widened by a normal map");
    const bool is_float = info(subject.image.format).is_float();
    if (subject.role == Role::normal && is_float && !options.plain_chain)
        return refuse("role", "how directions in floating point are stored is measured");
    if (const auto why = needs_whole_levels(chain_options(options, subject.role)); !why.empty())
        return refuse("mips", why);
    return {};
}

/// Level 0, converted band by band and handed on to its file.
class TopLevel final : public RowFlow {
 public:
    TopLevel(const Subject& subject, const BakeOptions& options, const ChannelPlan& channels,
             Transfer transfer, BandReader& bands, Image texels, LevelWriter& writer,
             ProgressCounter& progress)
        : subject_(subject),
          options_(options),
          channels_(channels),
          transfer_(transfer),
          bands_(bands),
          texels_(std::move(texels)),
          writer_(writer),
          progress_(progress) {}

    [[nodiscard]] const std::byte* row(std::uint32_t y) override {
        while (status_ && y >= end_)
            status_ = read_band();
        const std::uint32_t begin = end_ - rows_;
        return texels_.view().row(y >= begin && y < end_ ? y - begin : 0).data();
    }

    [[nodiscard]] Status status() const {
        YL_CHECK(status_);
        return writer_.status();
    }

    /// Over all texels.
    [[nodiscard]] std::optional<double> mean_normal_length() const {
        return has_lengths_ ? std::optional(lengths_ / end_) : std::nullopt;
    }

 private:
    [[nodiscard]] Status read_band() {
        YL_CHECK(progress_.status());
        YL_TRY(ConstImageView band, bands_.next());
        band.format = subject_.image.format;
        ImageView texels = texels_.view();
        texels.height = band.height;
        std::optional<double> length;
        YL_CHECK(place_rows(subject_, band, end_, options_, channels_, transfer_, texels, length));
        has_lengths_ = length.has_value();
        lengths_ += length.value_or(0) * band.height;
        writer_.write(texels, end_);
        rows_ = band.height;
        end_ += rows_;
        progress_.add(rows_);
        return {};
    }

    const Subject& subject_;
    const BakeOptions& options_;
    ChannelPlan channels_;
    Transfer transfer_;
    BandReader& bands_;
    Image texels_;
    LevelWriter& writer_;
    ProgressCounter& progress_;
    std::uint32_t rows_ = 0, end_ = 0;  ///< those at hand, and the one behind them
    double lengths_ = 0;
    bool has_lengths_ = false;
    Status status_ = {};
};

class RowBaker {
 public:
    RowBaker(const std::filesystem::path& picture, const std::filesystem::path& texture,
             const BakeOptions& options, const ReadOptions& reading,
             const TextureWriteOptions& writing)
        : picture_(picture),
          texture_(texture),
          options_(options),
          reading_(reading),
          writing_(writing) {
        reading_.role = options.role.value_or(Role::color);
        if (options.progress)
            reading_.progress = options.progress;
    }

    Result<BakedFile> run() {
        YL_TRY(PictureRows rows, PictureRows::open(picture_, reading_));
        const ConstImageView image{nullptr, rows.format(), rows.width(), rows.height(), 0};
        YL_TRY(Subject subject, subject_of(rows.picture(), image, options_));
        YL_CHECK(check_options(subject, options_));
        ContentCounter counter(rows.picture().swizzle);
        YL_CHECK(measure(rows, counter));
        subject.use = counter.use();
        YL_CHECK(rows.rewind());
        return bake(rows, subject, counter.content());
    }

 private:
    [[nodiscard]] std::uint32_t band_rows(const Subject& subject, Format texels,
                                          Format wanted) const {
        const std::uint32_t bytes =
            std::max(info(subject.image.format).block_bytes, info(texels).block_bytes);
        return std::min(
            rows_of_strip(std::uint64_t{subject.image.width} * bytes, info(wanted).block_height),
            subject.image.height);
    }

    [[nodiscard]] Status measure(PictureRows& rows, ContentCounter& counter) const {
        const std::uint64_t row_bytes =
            std::uint64_t{rows.width()} * info(rows.format()).block_bytes;
        YL_TRY(BandReader bands,
               BandReader::create(rows, std::min(rows_of_strip(row_bytes, 1), rows.height())));
        ProgressCounter progress(options_.progress, Phase::reading, rows.height());
        while (true) {
            YL_CHECK(progress.status());
            YL_TRY(const ConstImageView band, bands.next());
            if (band.height == 0)
                return progress.finish();
            counter.add(band);
            progress.add(band.height);
        }
    }

    [[nodiscard]] Result<BakedFile> bake(PictureRows& rows, const Subject& subject,
                                         const ContentMeasure& content) {
        BakedFile baked{.role = subject.role, .is_opaque = subject.use.is_opaque};
        const Format wanted =
            wanted_format(options_, plain_format_for(subject.image, subject.use, subject.role),
                          [&](BlockFamily family) {
                              return block_format_for(subject.use, subject.role, family);
                          });
        const ChannelPlan channels = plan_channels(subject.picture, subject.use, info(wanted));
        baked.findings = check_subject(subject, info(wanted),
                                       shows_meaning(subject, options_) ? &content : nullptr);
        TextureShape shape{.format = format_of_chain(wanted),
                           .width = subject.image.width,
                           .height = subject.image.height};
        YL_CHECK(check_level_count(options_, shape));
        shape.levels = options_.levels.value_or(full_level_count(shape.width, shape.height));
        YL_CHECK(check_first_level(shape, options_.first_level));
        TextureMetadata& metadata = baked.metadata;
        metadata.transfer = info(shape.format).transfer;
        metadata.alpha = subject.alpha;
        metadata.swizzle = channels.seen;
        metadata.sampler = options_.sampler;
        YL_CHECK(write(rows, subject, channels, shape, wanted, baked));
        for (const Finding& finding : check_blocks(baked.shape, wanted_family(options_)))
            baked.findings.push_back(finding);
        return baked;
    }

    /// `chain` is the shape of all levels, in the format in which they are made.
    [[nodiscard]] Status write(PictureRows& rows, const Subject& subject,
                               const ChannelPlan& channels, const TextureShape& chain,
                               Format wanted, BakedFile& baked) {
        const TextureMetadata made = baked.metadata;
        const std::uint32_t skipped = options_.first_level;
        baked.shape = {.format = wanted,
                       .width = chain.width_at(skipped),
                       .height = chain.height_at(skipped),
                       .levels = chain.levels - skipped};
        if (info(wanted).is_block())
            baked.metadata.transfer = info(wanted).transfer;
        const auto plan =
            plan_texture_file(ending_of(texture_), baked.shape, baked.metadata, writing_);
        if (!plan)
            return fail_at(plan.error(), texture_.string());
        YL_TRY(NewFile file, NewFile::begin(texture_));
        YL_CHECK(file.write_at(0, plan->head));
        BlockOptions blocks = block_options(options_, subject.role);
        blocks.progress = {};  // rows are counted instead
        blocks.source_transfer = made.transfer;
        blocks.alpha = made.alpha;
        TextureShape stored = chain;
        stored.format = wanted;
        std::list<LevelWriter> writers;
        std::vector<RowSink*> sinks;
        for (std::uint32_t level = 0; level < chain.levels; ++level) {
            const bool is_kept = level >= skipped;
            writers.emplace_back(stored, level, chain.format, is_kept ? &file : nullptr,
                                 is_kept ? plan->level_offsets[level - skipped] : 0, blocks);
            YL_CHECK(writers.back().status());
            sinks.push_back(&writers.back());
        }
        const std::uint32_t band = band_rows(subject, chain.format, wanted);
        YL_TRY(BandReader bands, BandReader::create(rows, band));
        YL_TRY(Image texels, Image::create(chain.format, chain.width, band, Limits::none()));
        ProgressCounter progress(options_.progress,
                                 info(wanted).is_block() ? Phase::encoding : Phase::levels,
                                 chain.height);
        TopLevel top(subject, options_, channels, made.transfer, bands, std::move(texels),
                     writers.front(), progress);
        const auto status = [&]() -> Status {
            YL_CHECK(top.status());
            for (const LevelWriter& writer : writers)
                YL_CHECK(writer.status());
            return {};
        };
        YL_CHECK(flow_levels(chain, made, top, std::span(sinks).subspan(1),
                             chain_options(options_, subject.role), status));
        YL_CHECK(status());
        YL_CHECK(progress.finish());
        baked.mean_normal_length = top.mean_normal_length();
        baked.file_bytes = plan->bytes;
        baked.flowed = rows.flows();
        return file.commit();
    }

    const std::filesystem::path& picture_;
    const std::filesystem::path& texture_;
    const BakeOptions& options_;
    ReadOptions reading_;
    const TextureWriteOptions& writing_;
};

}  // namespace

Result<BakedFile> bake_by_rows(const std::filesystem::path& picture,
                               const std::filesystem::path& texture, const BakeOptions& options,
                               const ReadOptions& reading, const TextureWriteOptions& writing) try {
    auto baked = RowBaker(picture, texture, options, reading, writing).run();
    if (!baked)
        return fail_at(baked.error(), picture.string());
    return baked;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
