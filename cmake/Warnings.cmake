# The warnings every target of the project is held to.
add_library(yl_warnings INTERFACE)
target_compile_options(yl_warnings INTERFACE -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror
  # GCC 12 warns of overlapping copies inside std::string where there are none (its bug 105651).
  $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>)

# The same results on every processor: no multiply-adds that round once instead of twice.
add_library(yl_exact_floats INTERFACE)
target_compile_options(yl_exact_floats INTERFACE -ffp-contract=off)
