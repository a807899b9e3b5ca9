// The functions of a module of WebAssembly.
#include <cstdlib>

#include "call.hpp"

namespace {

yl::web::Objects& objects() {
    static yl::web::Objects kept;
    return kept;
}

std::string& last_answer() {
    static std::string text;
    return text;
}

}  // namespace

extern "C" {

/// Memory for requests and files; 0 when there is none left.
__attribute__((export_name("allocate"))) void* yl_allocate(std::size_t bytes) {
    return std::malloc(bytes > 0 ? bytes : 1);
}

__attribute__((export_name("release"))) void yl_release(void* memory) {
    std::free(memory);
}

/// Carries a request out; gives the length of the answer, which stays until the next one.
__attribute__((export_name("call"))) std::size_t yl_call(const char* request, std::size_t length) {
    last_answer() = yl::web::answer(objects(), {request, length});
    return last_answer().size();
}

__attribute__((export_name("answer"))) const char* yl_answer() {
    return last_answer().data();
}
}
