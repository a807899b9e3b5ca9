// What a batch list may hold: kinds of groups, each done by a command of this tool with the options of
// that command.
#pragma once

#include <yl/batch_list.hpp>

#include "session.hpp"

namespace ylat {

/// A row of the table of kinds.
struct BatchKind {
    const char* name;     ///< of its groups: [[textures]]
    const char* command;  ///< that makes its outputs
    const char* ending;
    bool joins_files = false, takes_faces = false, takes_channels = false;
    std::vector<std::string> words = {};  ///< that always go with the command
    std::vector<std::string> left_out =
        {};  ///< options of the command that make no sense in a list
    const char* output_option = "-o";
    const char* about = "";  ///< for people
};

[[nodiscard]] std::span<const BatchKind> batch_kinds();
[[nodiscard]] const BatchKind& batch_kind(std::string_view name);

/// All kinds with the options of their commands, as the commands themselves declare them.
[[nodiscard]] yl::batch::Vocabulary batch_vocabulary();

/// Command lines without the program's name; a texture of packed channels takes two. `output` takes the
/// place of the entry's, `between` is a file for what one command hands to the next.
[[nodiscard]] std::vector<std::vector<std::string>> batch_words(const yl::batch::ListEntry& entry,
                                                                const std::string& output,
                                                                const std::string& between);

/// An error for options or values that the command does not take, at the option's place in the list.
/// Nothing is read or written for it.
[[nodiscard]] yl::Status check_batch_words(const yl::batch::ListEntry& entry);

/// The files that an entry names: its inputs, and those in its options.
[[nodiscard]] std::vector<std::string> batch_inputs(const yl::batch::ListEntry& entry);

/// The versions of all algorithms that may decide an entry's bytes.
[[nodiscard]] std::vector<yl::batch::Setting> batch_versions(const yl::batch::ListEntry& entry);

/// Runs a command line of this tool inside of it, and gives its document for programs.
[[nodiscard]] yl::Result<Json> run_inside(const std::vector<std::string>& words);

}  // namespace ylat
