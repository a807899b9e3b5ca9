// Nothing is thrown in a page: where it would be, the module ends, and the page loads it again. Of what the
// core calls, only running out of memory comes this far.
#include <cstddef>

extern "C" {

[[noreturn]] void* __cxa_allocate_exception(std::size_t) {
    __builtin_trap();
}

[[noreturn]] void __cxa_throw(void*, void*, void (*)(void*)) {
    __builtin_trap();
}
}
