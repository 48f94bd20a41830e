// What single keys do, wherever the focus is.
#pragma once

#include <qnamespace.h>

#include <functional>
#include <vector>

namespace yarngap::app {

/// A key, and what it does. `shifted` is what it does with Shift; null: the same.
struct KeyCommand {
    int key = 0;
    std::function<void()> act;
    std::function<void()> shifted = nullptr;
};

/// Does what a key asks for; false where it asks for nothing. Shift is known, other modifiers are not.
bool act(const std::vector<KeyCommand>& commands, int key, Qt::KeyboardModifiers modifiers);

} // namespace yarngap::app
