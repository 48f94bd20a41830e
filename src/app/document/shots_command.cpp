#include "app/document/shots_command.h"

#include <algorithm>

namespace yarngap::app {

ShotsCommand::ShotsCommand(Document& document, const QString& text, const std::vector<Shot>& after,
                           int currentAfter, int kind)
    : QUndoCommand(text)
    , document_(document)
    , currentBefore_(document.current_)
    , currentAfter_(currentAfter)
    , kind_(kind) {
    const std::vector<Shot>& before = document.project_.shots;
    const auto [left, right] = std::mismatch(before.begin(), before.end(), after.begin(), after.end());
    at_ = left - before.begin();
    auto leftEnd = before.end();
    auto rightEnd = after.end();
    while (leftEnd != left && rightEnd != right && *(leftEnd - 1) == *(rightEnd - 1)) {
        --leftEnd;
        --rightEnd;
    }
    before_.assign(left, leftEnd);
    after_.assign(right, rightEnd);
}

bool ShotsCommand::mergeWith(const QUndoCommand* other) {
    const auto* next = dynamic_cast<const ShotsCommand*>(other);
    if (!next || next->currentAfter_ != currentAfter_ || next->text() != text() || next->at_ != at_ ||
        !isEdit() || !next->isEdit())
        return false;
    after_ = next->after_;
    setObsolete(after_ == before_);
    return true;
}

void ShotsCommand::replace(std::size_t count, const std::vector<Shot>& by, int current) {
    std::vector<Shot> shots = document_.project_.shots;
    const auto begin = shots.begin() + at_;
    shots.erase(begin, begin + static_cast<std::ptrdiff_t>(count));
    shots.insert(shots.begin() + at_, by.begin(), by.end());
    document_.setShots(shots, current);
}

} // namespace yarngap::app
