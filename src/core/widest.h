// Loops that use the widest instructions of the processor.
#pragma once

/// Before a function: it is compiled for AVX2 as well, and the fitting form is taken when the program starts.
/// Nothing in it may depend on the width, and no operations are fused, so that every processor gives the same
/// bits.
// Sanitizers do not like functions that are chosen before they are set up.
#ifdef YARNGAP_PLAIN // the test that compares both
#define YARNGAP_WIDEST
#elif defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&   \
    !defined(__SANITIZE_THREAD__)
#define YARNGAP_WIDEST [[gnu::target_clones("avx2", "default")]]
#else
#define YARNGAP_WIDEST
#endif
