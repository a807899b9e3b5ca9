// How vectorised functions of some length are inlined.
#pragma once

/// Inlined everywhere, where speed counts; as the compiler thinks best where the size of the program
/// counts as well. Functions of a few operations are HWY_INLINE.
#ifdef YL_SMALL_PROGRAM
#define YL_SIMD_INLINE inline
#else
#define YL_SIMD_INLINE HWY_INLINE
#endif
