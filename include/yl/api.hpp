// What a shared library exports: `YL_API` stands before everything public that is not inline.
#pragma once

#if defined(__GNUC__) && !defined(_WIN32)
#define YL_API __attribute__((visibility("default")))
#else
#define YL_API  // on Windows the build exports all symbols
#endif
