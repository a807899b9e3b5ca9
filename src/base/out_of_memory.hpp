// What a public call gives back where the system has no memory left: nothing is thrown out of one.
#pragma once

#include <new>

#include <yl/result.hpp>

namespace yl {

/// For a function's handler of std::bad_alloc.
[[nodiscard]] inline tl::unexpected<Error> out_of_memory() {
    return fail(ErrorKind::memory, "there is not enough memory");
}

}  // namespace yl
