// Open files of the system.
#pragma once

#include <unistd.h>

#include <filesystem>
#include <utility>

#include <yl/result.hpp>
#include "base/internal.hpp"

namespace yl {

/// Closes a file descriptor at the end of its scope.
class Descriptor {
 public:
    explicit Descriptor(int number) : number_(number) {}
    ~Descriptor() {
        if (number_ >= 0)
            ::close(number_);
    }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    Descriptor(Descriptor&& other) noexcept : number_(std::exchange(other.number_, -1)) {}
    Descriptor& operator=(Descriptor&&) = delete;
    [[nodiscard]] int get() const { return number_; }
    [[nodiscard]] bool valid() const { return number_ >= 0; }
    [[nodiscard]] bool close() { return ::close(std::exchange(number_, -1)) == 0; }

 private:
    int number_;
};

struct OpenFile {
    Descriptor descriptor;
    std::uint64_t size;
};

/// For reading. A pipe that nobody writes to would keep the program waiting for ever: regular files
/// alone.
[[nodiscard]] YL_INTERNAL Result<OpenFile> open_regular(const std::filesystem::path& path);

/// What errno says of a file.
[[nodiscard]] YL_INTERNAL tl::unexpected<Error> io_error(const char* what,
                                                         const std::filesystem::path& path);

}  // namespace yl
