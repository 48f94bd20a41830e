// How the program's allocator treats memory that is given back.
#pragma once

namespace yarngap {

/// Call at the start of a program, before there are threads: memory given back by one thread serves all
/// others, instead of staying with each of them. Pictures are large and made on many threads, so that the
/// C library's usual way keeps several times what is in use.
void shareFreedMemory();

} // namespace yarngap
