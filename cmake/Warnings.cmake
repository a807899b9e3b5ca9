# The warnings every target of the project is held to; in a project of somebody else's, none.
add_library(yl_warnings INTERFACE)
if(PROJECT_IS_TOP_LEVEL)
  target_compile_options(yl_warnings INTERFACE -Wall -Wextra -Wpedantic -Wconversion -Wshadow
    # GCC 12 warns of overlapping copies inside std::string where there are none (its bug 105651).
    $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>)
  if(YL_WARNINGS_AS_ERRORS)
    target_compile_options(yl_warnings INTERFACE -Werror)
  endif()
endif()

# The same results on every processor: no multiply-adds that round once instead of twice.
add_library(yl_exact_floats INTERFACE)
target_compile_options(yl_exact_floats INTERFACE -ffp-contract=off)

# Headers compiled once for all of a target. Behind them GCC 12 takes the standard library's own code for ours, and warns of
# copies of strings that cannot happen.
function(yl_precompile target)
  target_precompile_headers(${target} ${ARGN})
  target_compile_options(${target} PRIVATE $<$<CXX_COMPILER_ID:GNU>:-Wno-stringop-overflow;-Wno-array-bounds>)
endfunction()
