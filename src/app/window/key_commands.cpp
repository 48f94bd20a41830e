#include "app/window/key_commands.h"

#include <algorithm>

namespace yarngap::app {

bool act(const std::vector<KeyCommand>& commands, int key, Qt::KeyboardModifiers modifiers) {
    const bool shift = modifiers == Qt::ShiftModifier;
    if (modifiers != Qt::NoModifier && modifiers != Qt::KeypadModifier && !shift) return false;
    const auto command =
        std::find_if(commands.begin(), commands.end(), [key](const KeyCommand& c) { return c.key == key; });
    if (command == commands.end()) return false;
    shift && command->shifted ? command->shifted() : command->act();
    return true;
}

} // namespace yarngap::app
