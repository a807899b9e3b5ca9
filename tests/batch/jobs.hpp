// Jobs that copy text files, and count how often they do.
#pragma once

#include <atomic>
#include <fstream>
#include <yl/batch.hpp>

#include "support/check.hpp"
#include "support/files.hpp"

namespace support {

inline std::string text_in(const std::string& path) {
    const auto bytes = read_bytes(path);
    return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

/// A folder with inputs, and jobs that make an output of each.
struct Workshop {
    TemporaryFolder folder = {};
    mutable std::atomic<int> made = 0;

    [[nodiscard]] std::string path(const std::string& name) const { return folder.path(name); }
    void write(const std::string& name, const std::string& text) const {
        std::filesystem::create_directories(std::filesystem::path(path(name)).parent_path());
        write_text(path(name), text);
    }

    /// The output holds the inputs' texts and the settings.
    [[nodiscard]] yl::batch::Job job(const std::string& output, std::vector<std::string> inputs,
                                     std::vector<yl::batch::Setting> settings = {}) const {
        yl::batch::Job job{.output = path(output)};
        for (const std::string& input : inputs)
            job.inputs.push_back(path(input));
        job.settings = std::move(settings);
        job.versions = {{"copy", "1"}};
        job.make = [this, inputs = job.inputs, settings = job.settings](
                       const std::filesystem::path& file) -> yl::Result<yl::batch::Made> {
            ++made;
            std::string text;
            for (const std::string& input : inputs)
                text += text_in(input) + "\n";
            for (const yl::batch::Setting& one : settings)
                text += one.name + "=" + one.value + "\n";
            write_text(file.string(), text);
            return yl::batch::Made{"made of " + std::to_string(inputs.size()), 0};
        };
        return job;
    }

    [[nodiscard]] yl::batch::BuildOptions options(bool with_cache = true) const {
        yl::batch::BuildOptions options;
        options.state = path("state");
        options.work = path("work");
        if (with_cache)
            options.cache = must(yl::batch::BuildCache::open(path("cache")));
        return options;
    }
};

}  // namespace support
