#include "batch/cache/entry.hpp"

#include <fcntl.h>
#include <fmt/format.h>

#include <array>
#include <cstring>
#include <nlohmann/json.hpp>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"
#include "base/new_file.hpp"
#include "batch/cache/hash.hpp"

namespace yl::batch {
namespace {

using Json = nlohmann::json;

constexpr std::string_view magic = "YLentry\n";
constexpr std::size_t head_bytes = magic.size() + 8;
constexpr std::size_t tail_bytes = 32;
constexpr std::size_t piece_bytes = std::size_t{1} << 18U;
constexpr std::uint64_t max_list_bytes = std::uint64_t{64} << 20U;

std::array<char, 8> little_endian(std::uint64_t number) {
    std::array<char, 8> bytes{};
    for (std::size_t i = 0; i < bytes.size(); ++i)
        bytes[i] = static_cast<char>((number >> (8 * i)) & 0xffU);
    return bytes;
}

std::uint64_t from_little_endian(const char* bytes) {
    std::uint64_t number = 0;
    for (std::size_t i = 0; i < 8; ++i)
        number |= std::uint64_t{static_cast<unsigned char>(bytes[i])} << (8 * i);
    return number;
}

/// Reads up to `count` bytes of a file, piece by piece.
Status each_piece(const OpenFile& file, const std::filesystem::path& path, std::uint64_t begin,
                  std::uint64_t count, const std::function<Status(std::span<const char>)>& take) {
    std::vector<char> bytes(static_cast<std::size_t>(std::min<std::uint64_t>(piece_bytes, count)));
    while (count > 0) {
        const ssize_t got =
            ::pread(file.descriptor.get(), bytes.data(),
                    static_cast<std::size_t>(std::min<std::uint64_t>(bytes.size(), count)),
                    static_cast<off_t>(begin));
        if (got < 0 && errno == EINTR)
            continue;
        if (got < 0)
            return io_error("cannot read", path);
        if (got == 0)
            return fail_at({ErrorKind::malformed, "the file is cut off"}, path.string());
        YL_CHECK(take({bytes.data(), static_cast<std::size_t>(got)}));
        begin += static_cast<std::uint64_t>(got);
        count -= static_cast<std::uint64_t>(got);
    }
    return {};
}

/// Writes and hashes at once.
class Packer {
 public:
    explicit Packer(const NewFile& file) : file_(file) {}

    Status add(std::span<const char> bytes) {
        hasher_.add(bytes.data(), bytes.size());
        YL_CHECK(file_.write_at(offset_, std::as_bytes(bytes)));
        offset_ += bytes.size();
        return {};
    }
    [[nodiscard]] Status finish() {
        const std::string tail = hasher_.hash().text();
        return add(tail);
    }

 private:
    const NewFile& file_;
    Hasher hasher_ = {};
    std::uint64_t offset_ = 0;
};

std::string list_of(const StoredEntry& entry) {
    Json files = Json::array();
    for (const StoredFile& file : entry.files)
        files.push_back({{"name", file.name}, {"bytes", file.bytes}, {"hash", file.hash.text()}});
    const Json list = {{"report", entry.report}, {"findings", entry.findings}, {"files", files}};
    return list.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<StoredEntry> parse_list(const std::string& text) {
    const auto wrong = [] { return fail(ErrorKind::malformed, "the list of files is damaged"); };
    const Json list = Json::parse(text, nullptr, false);
    if (!list.is_object())
        return wrong();
    StoredEntry entry;
    try {
        entry.report = list.at("report").get<std::string>();
        entry.findings = list.at("findings").get<std::uint32_t>();
        for (const Json& one : list.at("files")) {
            const auto hash = Hash::parse(one.at("hash").get<std::string>());
            const auto name = one.at("name").get<std::string>();
            // Names are those of files beside each other: nothing may lead out of the folder.
            if (!hash || name.empty() || name == "." || name == ".." ||
                name.find('/') != std::string::npos)
                return wrong();
            entry.files.push_back({name, one.at("bytes").get<std::uint64_t>(), *hash});
        }
    } catch (const Json::exception&) {
        return wrong();
    }
    return entry;
}

}  // namespace

Status pack_entry(StoredEntry& entry, const std::filesystem::path& folder,
                  const std::filesystem::path& to) {
    for (StoredFile& file : entry.files) {
        std::error_code error;
        file.bytes = std::filesystem::file_size(folder / file.name, error);
        YL_TRY(file.hash, hash_file(folder / file.name));
    }
    YL_TRY(NewFile file, NewFile::begin(to));
    Packer packer(file);
    const std::string list = list_of(entry);
    YL_CHECK(packer.add(magic));
    YL_CHECK(packer.add(little_endian(list.size())));
    YL_CHECK(packer.add(list));
    for (const StoredFile& one : entry.files) {
        const std::filesystem::path path = folder / one.name;
        YL_TRY(const OpenFile from, open_regular(path));
        YL_CHECK(each_piece(from, path, 0, one.bytes,
                            [&](std::span<const char> bytes) { return packer.add(bytes); }));
    }
    YL_CHECK(packer.finish());
    return file.commit_soon();
}

Result<CacheEntry> open_entry(const std::filesystem::path& path) {
    const auto damaged = [&](const char* how) {
        return fail_at({ErrorKind::malformed, std::string("this is no whole entry: ") + how},
                       path.string());
    };
    YL_TRY(const OpenFile file, open_regular(path));
    if (file.size < head_bytes + tail_bytes)
        return damaged("it is cut off");
    Hasher hasher;
    std::string head, tail;
    YL_CHECK(each_piece(file, path, 0, file.size - tail_bytes, [&](std::span<const char> bytes) {
        hasher.add(bytes.data(), bytes.size());
        if (head.size() < head_bytes)
            head.append(bytes.data(), std::min(bytes.size(), head_bytes - head.size()));
        return Status{};
    }));
    YL_CHECK(each_piece(file, path, file.size - tail_bytes, tail_bytes,
                        [&](std::span<const char> bytes) {
                            tail.append(bytes.data(), bytes.size());
                            return Status{};
                        }));
    if (!head.starts_with(magic))
        return damaged("it begins otherwise");
    if (hasher.hash().text() != tail)
        return damaged("its hash is another");
    const std::uint64_t list_bytes = from_little_endian(head.data() + magic.size());
    if (list_bytes > std::min(max_list_bytes, file.size - head_bytes - tail_bytes))
        return damaged("its list is too long");
    std::string text;
    YL_CHECK(each_piece(file, path, head_bytes, list_bytes, [&](std::span<const char> bytes) {
        text.append(bytes.data(), bytes.size());
        return Status{};
    }));
    auto entry = parse_list(text);
    if (!entry)
        return fail_at(entry.error(), path.string());
    std::vector<std::uint64_t> offsets;
    std::uint64_t offset = head_bytes + list_bytes;
    for (const StoredFile& one : entry->files) {
        offsets.push_back(offset);
        if (one.bytes > file.size - tail_bytes - offset)
            return damaged("its files are cut off");
        offset += one.bytes;
    }
    return CacheEntry(path, std::move(*entry), std::move(offsets));
}

Status CacheEntry::write_file(std::size_t index, const std::filesystem::path& place) const {
    if (index >= entry_.files.size())
        return fail(ErrorKind::usage, fmt::format("the entry has {} files", entry_.files.size()));
    YL_TRY(const OpenFile from, open_regular(path_));
    YL_TRY(NewFile to, NewFile::begin(place));
    std::uint64_t offset = 0;
    Hasher hasher;
    const auto copy = [&](std::span<const char> bytes) {
        hasher.add(bytes.data(), bytes.size());
        const Status written = to.write_at(offset, std::as_bytes(bytes));
        offset += bytes.size();
        return written;
    };
    YL_CHECK(each_piece(from, path_, offsets_[index], entry_.files[index].bytes, copy));
    if (hasher.hash() != entry_.files[index].hash)
        return fail_at({ErrorKind::malformed, "the entry changed while it was read"},
                       path_.string());
    return to.commit();
}

}  // namespace yl::batch
