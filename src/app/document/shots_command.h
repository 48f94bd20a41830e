// A step of undo: from one list of shots to another.
#pragma once

#include "app/document/document.h"

#include <QUndoCommand>

#include <cstddef>
#include <vector>

namespace yarngap::app {

/// It holds only the shots that differ: of an edit, the one before and after it.
class ShotsCommand : public QUndoCommand {
  public:
    /// From the shots that `document` has to `after`. Edits of the same `kind` above 0 that follow each other
    /// become one step.
    ShotsCommand(Document& document, const QString& text, const std::vector<Shot>& after, int currentAfter,
                 int kind);

    void undo() override { replace(after_.size(), before_, currentBefore_); }
    void redo() override { replace(before_.size(), after_, currentAfter_); }
    [[nodiscard]] int id() const override { return kind_ > 0 ? kind_ : -1; }
    bool mergeWith(const QUndoCommand* other) override;

  private:
    [[nodiscard]] bool isEdit() const { return before_.size() == 1 && after_.size() == 1; }
    void replace(std::size_t count, const std::vector<Shot>& by, int current);

    Document& document_;
    std::ptrdiff_t at_ = 0; ///< of the first shot that differs
    std::vector<Shot> before_;
    std::vector<Shot> after_;
    int currentBefore_;
    int currentAfter_;
    int kind_;
};

} // namespace yarngap::app
