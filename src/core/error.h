// Errors that a person can act on: what went wrong, where, and what to do about it.
#pragma once

#include <stdexcept>
#include <string>

namespace yarngap {

/// Thrown by every part of the core. `what()` is one plain sentence (or two) for the editor, already
/// naming the file, the frame or the value concerned and what can be done.
class Error : public std::runtime_error {
  public:
    explicit Error(const std::string& sentence)
        : std::runtime_error(sentence) {}
};

/// Thrown when long work stops because its stop token asked for it. Not a failure.
class Cancelled : public Error {
  public:
    Cancelled()
        : Error("Cancelled.") {}
};

} // namespace yarngap
