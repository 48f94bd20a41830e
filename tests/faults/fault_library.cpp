// Makes one call of one kind fail, as a full disk, a broken one or too little memory would. Loaded before the
// C library (LD_PRELOAD) and told by its environment:
//
//     YARNGAP_FAULT="write 3 28"      the third write fails with errno 28; "short" instead of a number: it
//                                     writes half, or as a read finds the end of the file too soon; reads
//                                     fail from the third on
//     YARNGAP_FAULT_UNDER=/folder     only files below it count
//     YARNGAP_FAULT_MARK=/file        comes to be when the call fails, so that whoever counts knows
//
// Kinds: open, write, sync, rename, read, memory (allocations of 256 KB and more, wherever).

#include <atomic>
#include <cerrno>
#include <climits>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/types.h>
#include <sys/uio.h>
#include <unistd.h>

namespace {

enum class Kind { none, open, write, sync, rename, read, memory };

struct Fault {
    Kind kind = Kind::none;
    long at = 0;
    int code = 0; // 0: short
    const char* under = nullptr;
    const char* mark = nullptr;
};

Fault faultFromEnvironment() {
    Fault fault;
    const char* text = std::getenv("YARNGAP_FAULT");
    if (!text) return fault;
    char kind[16] = "";
    char code[16] = "";
    if (std::sscanf(text, "%15s %ld %15s", kind, &fault.at, code) != 3) return fault;
    const char* const names[] = {"", "open", "write", "sync", "rename", "read", "memory"};
    for (int i = 1; i < 7; ++i)
        if (std::strcmp(kind, names[i]) == 0) fault.kind = static_cast<Kind>(i);
    fault.code = std::strcmp(code, "short") == 0 ? 0 : std::atoi(code);
    fault.under = std::getenv("YARNGAP_FAULT_UNDER");
    fault.mark = std::getenv("YARNGAP_FAULT_MARK");
    return fault;
}

Fault fault;
std::atomic<long> calls{0};
std::atomic<bool> isReady{false};

__attribute__((constructor)) void readEnvironment() {
    fault = faultFromEnvironment();
    isReady = true;
}

/// Counts a call of a kind; true for the one that is to fail.
bool isDue(Kind kind) {
    if (!isReady || fault.kind != kind) return false;
    const long call = ++calls;
    // A disk that cannot be read stays so.
    if (kind == Kind::read ? call < fault.at : call != fault.at) return false;
    if (fault.mark) {
        const long fd = ::syscall(SYS_openat, AT_FDCWD, fault.mark, O_CREAT | O_WRONLY, 0666);
        if (fd >= 0) ::syscall(SYS_close, fd);
    }
    return true;
}

bool isUnder(const char* path) {
    if (!isReady || fault.kind == Kind::none || !fault.under || !path) return false;
    const std::size_t length = std::strlen(fault.under);
    return std::strncmp(path, fault.under, length) == 0 && (path[length] == '/' || path[length] == 0);
}

bool isUnder(int fd) {
    if (!isReady || fault.kind == Kind::none || !fault.under) return false;
    char link[32];
    std::snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
    char path[PATH_MAX];
    const long n = ::syscall(SYS_readlinkat, AT_FDCWD, link, path, sizeof path - 1);
    if (n <= 0) return false;
    path[n] = 0;
    return isUnder(path);
}

bool failsNow(Kind kind, const char* path) {
    if (!isUnder(path) || !isDue(kind)) return false;
    errno = fault.code;
    return true;
}

template <typename Function>
Function real(const char* name) {
    return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

mode_t modeOf(int flags, va_list list) {
    return (flags & (O_CREAT | O_TMPFILE)) != 0 ? static_cast<mode_t>(va_arg(list, unsigned)) : 0;
}

} // namespace

#define OPENING(NAME)                                                                                        \
    extern "C" int NAME(const char* path, int flags, ...) {                                                  \
        va_list list;                                                                                        \
        va_start(list, flags);                                                                               \
        const mode_t mode = modeOf(flags, list);                                                             \
        va_end(list);                                                                                        \
        static const auto next = real<int (*)(const char*, int, ...)>(#NAME);                                \
        return failsNow(Kind::open, path) ? -1 : next(path, flags, mode);                                    \
    }
OPENING(open)
OPENING(open64)

#define OPENING_AT(NAME)                                                                                     \
    extern "C" int NAME(int folder, const char* path, int flags, ...) {                                      \
        va_list list;                                                                                        \
        va_start(list, flags);                                                                               \
        const mode_t mode = modeOf(flags, list);                                                             \
        va_end(list);                                                                                        \
        static const auto next = real<int (*)(int, const char*, int, ...)>(#NAME);                           \
        return failsNow(Kind::open, path) ? -1 : next(folder, path, flags, mode);                            \
    }
OPENING_AT(openat)
OPENING_AT(openat64)

#define STREAM(NAME)                                                                                         \
    extern "C" FILE* NAME(const char* path, const char* mode) {                                              \
        static const auto next = real<FILE* (*)(const char*, const char*)>(#NAME);                           \
        return failsNow(Kind::open, path) ? nullptr : next(path, mode);                                      \
    }
STREAM(fopen)
STREAM(fopen64)

extern "C" ssize_t write(int fd, const void* bytes, size_t count) {
    static const auto next = real<ssize_t (*)(int, const void*, size_t)>("write");
    if (!isUnder(fd) || !isDue(Kind::write)) return next(fd, bytes, count);
    if (fault.code == 0) return next(fd, bytes, count > 1 ? count / 2 : count);
    errno = fault.code;
    return -1;
}

#define PLACED_WRITE(NAME, OFFSET)                                                                           \
    extern "C" ssize_t NAME(int fd, const void* bytes, size_t count, OFFSET at) {                            \
        static const auto next = real<ssize_t (*)(int, const void*, size_t, OFFSET)>(#NAME);                 \
        if (!isUnder(fd) || !isDue(Kind::write)) return next(fd, bytes, count, at);                          \
        if (fault.code == 0) return next(fd, bytes, count > 1 ? count / 2 : count, at);                      \
        errno = fault.code;                                                                                  \
        return -1;                                                                                           \
    }
PLACED_WRITE(pwrite, off_t)
PLACED_WRITE(pwrite64, off64_t)

extern "C" ssize_t writev(int fd, const struct iovec* parts, int count) {
    static const auto next = real<ssize_t (*)(int, const struct iovec*, int)>("writev");
    if (!isUnder(fd) || !isDue(Kind::write)) return next(fd, parts, count);
    if (fault.code == 0) return next(fd, parts, 1);
    errno = fault.code;
    return -1;
}

extern "C" ssize_t read(int fd, void* bytes, size_t count) {
    static const auto next = real<ssize_t (*)(int, void*, size_t)>("read");
    if (!isUnder(fd) || !isDue(Kind::read)) return next(fd, bytes, count);
    if (fault.code == 0) return 0;
    errno = fault.code;
    return -1;
}

#define PLACED_READ(NAME, OFFSET)                                                                            \
    extern "C" ssize_t NAME(int fd, void* bytes, size_t count, OFFSET at) {                                  \
        static const auto next = real<ssize_t (*)(int, void*, size_t, OFFSET)>(#NAME);                       \
        if (!isUnder(fd) || !isDue(Kind::read)) return next(fd, bytes, count, at);                           \
        if (fault.code == 0) return 0;                                                                       \
        errno = fault.code;                                                                                  \
        return -1;                                                                                           \
    }
PLACED_READ(pread, off_t)
PLACED_READ(pread64, off64_t)

#define LISTED_READ(NAME, OFFSET)                                                                            \
    extern "C" ssize_t NAME(int fd, const struct iovec* parts, int count, OFFSET at, int flags) {            \
        static const auto next = real<ssize_t (*)(int, const struct iovec*, int, OFFSET, int)>(#NAME);       \
        if (!isUnder(fd) || !isDue(Kind::read)) return next(fd, parts, count, at, flags);                    \
        if (fault.code == 0) return 0;                                                                       \
        errno = fault.code;                                                                                  \
        return -1;                                                                                           \
    }
LISTED_READ(preadv2, off_t)
LISTED_READ(preadv64v2, off64_t)

#define SYNCING(NAME)                                                                                        \
    extern "C" int NAME(int fd) {                                                                            \
        static const auto next = real<int (*)(int)>(#NAME);                                                  \
        if (!isUnder(fd) || !isDue(Kind::sync)) return next(fd);                                             \
        errno = fault.code;                                                                                  \
        return -1;                                                                                           \
    }
SYNCING(fsync)
SYNCING(fdatasync)
SYNCING(syncfs)

extern "C" int rename(const char* from, const char* to) {
    static const auto next = real<int (*)(const char*, const char*)>("rename");
    return failsNow(Kind::rename, to) ? -1 : next(from, to);
}

extern "C" int renameat(int fromFolder, const char* from, int toFolder, const char* to) {
    static const auto next = real<int (*)(int, const char*, int, const char*)>("renameat");
    return failsNow(Kind::rename, to) ? -1 : next(fromFolder, from, toFolder, to);
}

extern "C" int renameat2(int fromFolder, const char* from, int toFolder, const char* to, unsigned flags) {
    static const auto next = real<int (*)(int, const char*, int, const char*, unsigned)>("renameat2");
    return failsNow(Kind::rename, to) ? -1 : next(fromFolder, from, toFolder, to, flags);
}

extern "C" int link(const char* from, const char* to) {
    static const auto next = real<int (*)(const char*, const char*)>("link");
    return failsNow(Kind::rename, to) ? -1 : next(from, to);
}

extern "C" int mkdir(const char* path, mode_t mode) {
    static const auto next = real<int (*)(const char*, mode_t)>("mkdir");
    return failsNow(Kind::open, path) ? -1 : next(path, mode);
}

#ifndef YARNGAP_SANITIZED // a sanitizer has allocation to itself

extern "C" void* __libc_malloc(size_t);
extern "C" void* __libc_calloc(size_t, size_t);
extern "C" void* __libc_realloc(void*, size_t);
extern "C" void* __libc_memalign(size_t, size_t);

namespace {

constexpr size_t large = size_t{256} << 10;

bool isMissing(size_t bytes) {
    if (bytes < large || !isDue(Kind::memory)) return false;
    errno = ENOMEM;
    return true;
}

} // namespace

extern "C" void* malloc(size_t bytes) {
    return isMissing(bytes) ? nullptr : __libc_malloc(bytes);
}

extern "C" void* calloc(size_t count, size_t each) {
    return each > 0 && isMissing(count * each) ? nullptr : __libc_calloc(count, each);
}

extern "C" void* realloc(void* old, size_t bytes) {
    return isMissing(bytes) ? nullptr : __libc_realloc(old, bytes);
}

extern "C" void* memalign(size_t alignment, size_t bytes) {
    return isMissing(bytes) ? nullptr : __libc_memalign(alignment, bytes);
}

extern "C" void* aligned_alloc(size_t alignment, size_t bytes) {
    return isMissing(bytes) ? nullptr : __libc_memalign(alignment, bytes);
}

extern "C" int posix_memalign(void** to, size_t alignment, size_t bytes) {
    if (isMissing(bytes)) return ENOMEM;
    void* p = __libc_memalign(alignment, bytes);
    if (!p) return ENOMEM;
    *to = p;
    return 0;
}

#endif
