#include "model_extract.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include <yl/files.hpp>
#include <yl/status_macros.hpp>

#include "describe.hpp"

namespace ylat {
namespace {

using yl::model::Model;
using yl::model::ModelImage;

/// The ending of a file in this format.
std::string ending_for(const std::string& file_format) {
    static constexpr std::pair<std::string_view, std::string_view> endings[] = {
        {"JPEG", "jpg"},    {"TIFF", "tif"},     {"Radiance HDR", "hdr"},
        {"OpenEXR", "exr"}, {"KTX 2.0", "ktx2"}, {"KTX 1", "ktx"},
        {"", "bin"}};
    for (const auto& [name, ending] : endings)
        if (name == file_format)
            return std::string(ending);
    std::string ending = file_format;
    std::ranges::transform(ending, ending.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending;
}

Json entry_of(const ModelImage& image, std::size_t index, const std::string& file) {
    Json entry = {{"image", index},
                  {"name", image.name},
                  {"source", yl::model::name(image.source)},
                  {"uri", image.uri},
                  {"file", file},
                  {"bytes", image.bytes},
                  {"file_format", image.file_format},
                  {"width", image.width},
                  {"height", image.height}};
    if (image.same_as)
        entry["same_as"] = *image.same_as;
    return entry;
}

/// "03_slate.png": in the model's order.
std::string file_name(const Model& model, std::size_t index) {
    const std::string name = safe_name(model.images[index]);
    return fmt::format("{:02}{}{}.{}", index, name.empty() ? "" : "_", name,
                       ending_for(model.images[index].file_format));
}

}  // namespace

std::string safe_name(const ModelImage& image) {
    const bool has_file = image.source == yl::model::ImageSource::file;
    std::string stem = has_file ? std::filesystem::path(image.uri).stem().string() : image.name;
    std::erase_if(stem, [](unsigned char c) { return c < 0x20; });
    std::ranges::replace_if(
        stem,
        [](char c) { return std::string_view("/\\:*?\"<>|%. ").find(c) != std::string::npos; },
        '_');
    constexpr std::size_t longest = 60;
    stem.resize(std::min(stem.size(), longest));
    return stem;
}

yl::Status make_folder(const std::string& folder) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error)
        return yl::fail_at({yl::ErrorKind::io, "cannot make the folder: " + error.message()},
                           folder);
    return {};
}

yl::Result<Exit> extract_images(const Session& session, const std::string& path, const Model& model,
                                const std::string& folder) {
    YL_CHECK(make_folder(folder));
    Json list = Json::array();
    std::vector<std::string> names(model.images.size());
    std::size_t written = 0;
    for (std::size_t i = 0; i < model.images.size(); ++i) {
        const ModelImage& image = model.images[i];
        if (model.contents[i].empty())
            continue;  // a finding says why
        if (image.same_as) {
            names[i] = names[*image.same_as];
        } else {
            names[i] = file_name(model, i);
            const std::string file = (std::filesystem::path(folder) / names[i]).string();
            YL_CHECK(yl::write_whole_file(file, model.contents[i]));
            session.say(
                row_text(names[i], fmt::format("{}, {}", size_text(image.width, image.height),
                                               byte_text(image.bytes))));
            ++written;
        }
        list.push_back(entry_of(image, i, names[i]));
    }
    const Json all = {{"model", path}, {"images", list}};
    const std::string text = all.dump(2) + "\n";
    YL_CHECK(yl::write_whole_file((std::filesystem::path(folder) / "images.json").string(),
                                  std::as_bytes(std::span(text))));
    session.say(fmt::format("{} -> {}: {} of {} images, and images.json", path, folder, written,
                            model.images.size()));
    session.warn(model.findings, path);
    session.give([&] { return all; });
    return session.outcome();
}

}  // namespace ylat
