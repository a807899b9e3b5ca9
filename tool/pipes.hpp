// Standard input and output, and pipes, where commands take files.
#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <utility>
#include <vector>
#include <yl/result.hpp>

namespace ylat {

/// Opens what is closed of standard input, output and error, so that no file that is opened later
/// takes their numbers. Says whether standard output was open.
[[nodiscard]] bool hold_standard_streams();

/// Copies of what came through pipes, for as long as this lives.
class Pipes {
 public:
    Pipes() = default;
    ~Pipes();
    Pipes(const Pipes&) = delete;
    Pipes& operator=(const Pipes&) = delete;

    /// Whether a path stands for a pipe: "-", or one that the shell or a person made.
    [[nodiscard]] static bool is_pipe(const std::string& path);

    /// The path of a copy in memory, which can be read again and again.
    [[nodiscard]] yl::Result<std::string> copy_of(const std::string& path);

    /// `text` with the pipes' own names in place of their copies'.
    [[nodiscard]] std::string with_own_names(std::string text) const;

 private:
    struct Copy {
        int descriptor;
        std::string path, name;
    };
    std::vector<Copy> copies_;
};

/// Writes all of it to standard output.
[[nodiscard]] yl::Status write_to_output(std::span<const std::byte> bytes);

}  // namespace ylat
