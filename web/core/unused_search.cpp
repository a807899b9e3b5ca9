// What stands for the searches of Zstandard that levels in one piece never need (scripts/wasm-libraries).
extern "C" __attribute__((used)) unsigned long yl_unused_search(void*, void*, unsigned*,
                                                                const void*, unsigned long) {
    __builtin_trap();
}
