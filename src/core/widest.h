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

/// Before a loop over lines that takes thirty times as long with a sanitizer in it, and most of a test's time
/// with it: there it is left as it is. Its caller tells what lines it takes with touchEnds().
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define YARNGAP_LEFT_AS_IT_IS [[gnu::no_sanitize("address", "undefined", "thread")]]
#else
#define YARNGAP_LEFT_AS_IT_IS
#endif

namespace yarngap {

/// Lets a sanitizer look at both ends of a line; nothing elsewhere.
template <typename T>
void touchEnds([[maybe_unused]] const T* line, [[maybe_unused]] int n) {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
    if (n <= 0) return;
    static_cast<void>(*static_cast<const volatile T*>(line));
    static_cast<void>(*static_cast<const volatile T*>(line + n - 1));
#endif
}

} // namespace yarngap
