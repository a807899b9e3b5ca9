// A library to preload: makes the n-th call of one kind fail, and counts the calls.
//
//     YL_FAULT="write 3"  the third write fails; "write 0": none does
//     YL_FAULT_COUNT=FILE the number of calls goes into FILE when the program ends
//
// Kinds: new (throws std::bad_alloc), open, read, write, sync, link, rename. Calls for the system's
// own files (libraries, devices, /proc) are let through uncounted. "signal 1" sends SIGTERM to the
// program right before its first rename, which then succeeds.
#include <dlfcn.h>
#include <fcntl.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdarg>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <new>

namespace {

struct Fault {
    char kind[16] = "";
    long number = 0;
    std::atomic<long> calls = 0;

    Fault() {
        const char* text = std::getenv("YL_FAULT");
        if (text != nullptr)
            static_cast<void>(std::sscanf(text, "%15s %ld", kind, &number));
    }
    ~Fault() {
        const char* file = std::getenv("YL_FAULT_COUNT");
        if (file == nullptr)
            return;
        kind[0] = '\0';
        if (FILE* out = std::fopen(file, "w")) {
            std::fprintf(out, "%ld", calls.load());
            std::fclose(out);
        }
    }
};

/// What happens before main is the system's business.
std::atomic<bool> has_begun = false;
int (*program_main)(int, char**, char**) = nullptr;

int begin(int argc, char** argv, char** environment) {
    has_begun = true;
    const int code = program_main(argc, argv, environment);
    has_begun = false;
    return code;
}

Fault& fault() {
    static Fault one;
    return one;
}

bool fails(const char* kind) {
    Fault& one = fault();
    if (!has_begun || std::strcmp(one.kind, kind) != 0)
        return false;
    return one.calls.fetch_add(1) + 1 == one.number;
}

template <class Function>
Function next(const char* name) {
    return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

bool is_systems(const char* path) {
    for (const char* start : {"/proc", "/sys", "/dev", "/usr", "/lib", "/etc"})
        if (std::strncmp(path, start, std::strlen(start)) == 0)
            return true;
    return false;
}

int refuse(int number) {
    errno = number;
    return -1;
}

void* take(std::size_t size, std::size_t alignment) {
    if (fails("new"))
        return nullptr;
    void* memory = nullptr;
    if (alignment <= alignof(std::max_align_t))
        return std::malloc(size);
    return ::posix_memalign(&memory, alignment, size) == 0 ? memory : nullptr;
}

void* take_or_throw(std::size_t size, std::size_t alignment) {
    void* memory = take(size, alignment);
    if (memory == nullptr)
        throw std::bad_alloc();
    return memory;
}

constexpr std::size_t usual = alignof(std::max_align_t);

}  // namespace

void* operator new(std::size_t size) {
    return take_or_throw(size, usual);
}
void* operator new[](std::size_t size) {
    return take_or_throw(size, usual);
}
void* operator new(std::size_t size, std::align_val_t a) {
    return take_or_throw(size, std::size_t(a));
}
void* operator new[](std::size_t size, std::align_val_t a) {
    return take_or_throw(size, std::size_t(a));
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    return take(size, usual);
}
void* operator new[](std::size_t size, const std::nothrow_t&) noexcept {
    return take(size, usual);
}
void* operator new[](std::size_t size, std::align_val_t a, const std::nothrow_t&) noexcept {
    return take(size, std::size_t(a));
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete[](void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::align_val_t) noexcept {
    std::free(memory);
}

extern "C" {

int __libc_start_main(int (*main)(int, char**, char**), int argc, char** argv, void (*init)(),
                      void (*fini)(), void (*loader_fini)(), void* stack_end) {
    program_main = main;
    using Start = int (*)(int (*)(int, char**, char**), int, char**, void (*)(), void (*)(),
                          void (*)(), void*);
    return next<Start>("__libc_start_main")(begin, argc, argv, init, fini, loader_fini, stack_end);
}

int open(const char* path, int flags, ...) {
    va_list rest;
    va_start(rest, flags);
    const mode_t mode = (flags & (O_CREAT | O_TMPFILE)) != 0 ? va_arg(rest, mode_t) : 0;
    va_end(rest);
    if (!is_systems(path) && fails("open"))
        return refuse(EMFILE);
    static const auto real = next<int (*)(const char*, int, ...)>("open");
    return real(path, flags, mode);
}

ssize_t read(int file, void* target, size_t size) {
    if (file > STDERR_FILENO && fails("read"))
        return refuse(EIO);
    static const auto real = next<ssize_t (*)(int, void*, size_t)>("read");
    return real(file, target, size);
}

ssize_t write(int file, const void* bytes, size_t size) {
    if (file > STDERR_FILENO && fails("write"))
        return refuse(ENOSPC);
    static const auto real = next<ssize_t (*)(int, const void*, size_t)>("write");
    return real(file, bytes, size);
}

ssize_t pread(int file, void* target, size_t size, off_t offset) {
    if (fails("read"))
        return refuse(EIO);
    static const auto real = next<ssize_t (*)(int, void*, size_t, off_t)>("pread");
    return real(file, target, size, offset);
}

ssize_t pwrite(int file, const void* bytes, size_t size, off_t offset) {
    if (fails("write"))
        return refuse(ENOSPC);
    static const auto real = next<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite");
    return real(file, bytes, size, offset);
}

int fsync(int file) {
    if (fails("sync"))
        return refuse(EIO);
    static const auto real = next<int (*)(int)>("fsync");
    return real(file);
}

int linkat(int from, const char* old_path, int to, const char* new_path, int flags) {
    if (fails("link"))
        return refuse(EACCES);
    static const auto real = next<int (*)(int, const char*, int, const char*, int)>("linkat");
    return real(from, old_path, to, new_path, flags);
}

int rename(const char* old_path, const char* new_path) {
    if (fails("rename"))
        return refuse(EACCES);
    if (fails("signal")) {
        ::kill(::getpid(), SIGTERM);
        ::usleep(50000);  // long enough for a thread that does not hold it back
    }
    static const auto real = next<int (*)(const char*, const char*)>("rename");
    return real(old_path, new_path);
}

}  // extern "C"
