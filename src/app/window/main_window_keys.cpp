// The keys of the transport, wherever the focus is.

#include "app/window/main_window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QLineEdit>

namespace yarngap::app {

bool MainWindow::eventFilter(QObject* watched, QEvent* happened) {
    // The keys of the transport work wherever the focus is, but for fields that take text.
    const bool released = happened->type() == QEvent::KeyRelease;
    if (released && static_cast<QKeyEvent*>(happened)->isAutoRepeat())
        return QWidget::eventFilter(watched, happened);
    if (released || happened->type() == QEvent::WindowDeactivate) {
        gapView_->stage().flick(0);
        if (gapView_->stage().isHeldInstead()) gapView_->showInstead(nullptr, {});
        gapView_->sourceSheet().endFlick();
    }
    if (happened->type() == QEvent::ContextMenu && watched->isWidgetType() &&
        offerValueHelp(static_cast<QWidget*>(watched),
                       static_cast<QContextMenuEvent*>(happened)->globalPos()))
        return true;
    if (happened->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, happened);
    QWidget* focus = QApplication::focusWidget();
    if (focus != nullptr && focus->window() != this) return QWidget::eventFilter(watched, happened);
    if (qobject_cast<QLineEdit*>(focus) || qobject_cast<QComboBox*>(focus) ||
        QApplication::activePopupWidget())
        return QWidget::eventFilter(watched, happened);
    if (!watched->isWidgetType() || (focus && watched != focus))
        return QWidget::eventFilter(watched, happened);
    const auto* key = static_cast<QKeyEvent*>(happened);
    if (focus && focus->property("takesArrows").toBool()) // it moves what it shows by them
        for (const int own : {Qt::Key_Left, Qt::Key_Right, Qt::Key_Home, Qt::Key_End})
            if (key->key() == own) return QWidget::eventFilter(watched, happened);
    // Space always plays, as an editor's hand expects; Enter presses the focused button instead.
    if (auto* button = qobject_cast<QAbstractButton*>(focus);
        button && (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter)) {
        button->click();
        return true;
    }
    if (handleKey(key->key(), key->modifiers())) return true;
    return QWidget::eventFilter(watched, happened);
}

void MainWindow::prepareKeys() {
    const auto goTo = [this](qint64 output) { return [this, output] { player_.goTo(output); }; };
    const auto step = [this](int by) { return [this, by] { player_.goTo(player_.playhead() + by); }; };
    const auto toOriginal = [this](int direction) {
        return [this, direction] { gapView_->goToOriginal(direction); };
    };
    const auto shuttle = [this](int direction) { return [this, direction] { player_.shuttle(direction); }; };
    const auto flick = [this](int direction) { // while it is held
        return [this, direction] { gapView_->stage().flick(direction); };
    };
    const auto overlay = [this](Overlay one) { return [this, one] { gapView_->tools().toggle(one); }; };
    const auto method = [this](Method one) { return [this, one] { inBetweens_->setMethod(one); }; };
    LoopControls& loops = gapView_->loops();
    const auto shift = [](Qt::Key key) { return QKeySequence(Qt::SHIFT | key); };
    // While an outline or a guide is drawn, they move its points.
    const auto isDrawing = [this] { return gapView_->hasOverlay() || gapView_->guideSheet() != nullptr; };
    const auto toGap = [this](int direction) { return [this, direction] { gapView_->goToGap(direction); }; };
    const QString play = tr("Play and step");
    const QString look = tr("Look");
    const QString work = tr("Work");
    const QString sheet = tr("On the source sheet");
    const QString files = tr("Files and window");
    const auto fixed = [&](const char* name, const QString& group, const QString& words,
                           const QKeySequence& keys) {
        return KeyCommand{QLatin1String(name), group, words, keys, nullptr, nullptr, true,
                          KeyPlace::anywhere};
    };
    // What would play or trim behind the sheet has no place there.
    const auto everywhere = [&](const char* name, const QString& words, Qt::Key key,
                                std::function<void()> act) {
        return KeyCommand{QLatin1String(name), look,    words, key,
                          std::move(act),      nullptr, false, KeyPlace::anywhere};
    };
    SourceSheet& pages = gapView_->sourceSheet();
    const auto inSheet = [&](const char* name, const QString& words, Qt::Key key, std::function<void()> act) {
        return KeyCommand{QLatin1String(name), sheet,   words, key,
                          std::move(act),      nullptr, false, KeyPlace::inTheSheet};
    };
    // Those it acts on by itself.
    const auto ofSheet = [&](const char* name, const QString& words, Qt::Key key) {
        return KeyCommand{QLatin1String(name), sheet, words, key, nullptr, nullptr, true,
                          KeyPlace::inTheSheet};
    };
    const auto decision = [&pages](CleanupKind kind) { return [&pages, kind] { pages.decide(kind); }; };
    const auto flickOfSheet = [&pages](SourceSheet::Flick what) {
        return [&pages, what] { pages.flick(what); };
    };
    keyTable_.set({
        {"play", play, tr("Play or pause"), Qt::Key_Space, [this] { player_.togglePlay(); }},
        {"readyThenPlay", play, tr("Make it ready, then play it"), shift(Qt::Key_Space),
         [&loops] { loops.readyThenPlay(); }},
        {"playBack", play, tr("Play backwards, faster each time"), Qt::Key_J, shuttle(-1)},
        {"pause", play, tr("Pause"), Qt::Key_K, [this] { player_.pause(); }},
        {"playOn", play, tr("Play forwards, faster each time"), Qt::Key_L, shuttle(1)},
        {"loop", play, tr("Loop the selected stretch, or a second"), Qt::Key_G,
         [&loops] { loops.toggleLoop(); }},
        {"thereAndBack", play, tr("Play there and back"), shift(Qt::Key_G),
         [&loops] { loops.toggleThereAndBack(); }},
        {"frameBack", play, tr("One frame back"), Qt::Key_Left, step(-1)},
        {"frameOn", play, tr("One frame on"), Qt::Key_Right, step(1)},
        {"originalBack", play, tr("Previous original"), shift(Qt::Key_Left), toOriginal(-1)},
        {"originalOn", play, tr("Next original"), shift(Qt::Key_Right), toOriginal(1)},
        {"gapBack", play, tr("Previous gap, at the same place in it"), QKeySequence(Qt::CTRL | Qt::Key_Left),
         toGap(-1), isDrawing},
        {"gapOn", play, tr("Next gap, at the same place in it"), QKeySequence(Qt::CTRL | Qt::Key_Right),
         toGap(1), isDrawing},
        {"first", play, tr("First frame"), Qt::Key_Home, goTo(0)},
        {"last", play, tr("Last frame"), Qt::Key_End, [this] { player_.goTo(player_.frames() - 1); }},
        {"sourceBefore", look, tr("Show the source frame before, while held"), Qt::Key_Comma, flick(-1)},
        {"sourceAfter", look, tr("Show the source frame after, while held"), Qt::Key_Period, flick(1)},
        {"withoutMends", look, tr("Show the frame without mends, while held"), Qt::Key_B,
         [this] { showWithoutMends(true); }},
        {"unfinished", look, tr("Show the frame unfinished, while held"), Qt::Key_U,
         [this] { showUnfinished(); }},
        {"vectors", look, tr("Vectors"), Qt::Key_V, overlay(Overlay::vectors)},
        {"trust", look, tr("Trust"), Qt::Key_T, overlay(Overlay::trust)},
        {"difference", look, tr("Difference"), Qt::Key_D, overlay(Overlay::difference)},
        {"madeFrom", look, tr("Made from"), Qt::Key_M, overlay(Overlay::madeFrom)},
        everywhere("compare", tr("Compare with another version"), Qt::Key_C,
                   [this] { compare(!gapView_->isComparing()); }),
        everywhere("filmstrip", tr("Filmstrip"), Qt::Key_F,
                   [this] { gapView_->showFilmStrip(!gapView_->showsFilmStrip()); }),
        everywhere("sourceSheet", tr("Source sheet"), Qt::Key_S,
                   [this] { showSourceSheet(!gapView_->showsSourceSheet()); }),
        {"fullScreen", look, tr("Full screen"), Qt::Key_F11,
         [this] { showFullScreenStage(!fullScreenStage_); }},
        {"in", work, tr("Start the trim at the playhead"), Qt::Key_I, [this] { trim_->setInAtPlayhead(); }},
        {"out", work, tr("End the trim at the playhead"), Qt::Key_O, [this] { trim_->setOutAtPlayhead(); }},
        {"sample", work, tr("Frame sampling"), Qt::Key_1, method(Method::sample)},
        {"blend", work, tr("Frame blending"), Qt::Key_2, method(Method::blend)},
        {"flow", work, tr("Optical flow"), Qt::Key_3, method(Method::flow)},
        {"doubtfulBack", work, tr("Previous doubtful gap"), Qt::Key_BracketLeft,
         [this] { goToDoubtful(-1); }},
        {"doubtfulOn", work, tr("Next doubtful gap"), Qt::Key_BracketRight, [this] { goToDoubtful(1); }},
        inSheet("sheetKeep", tr("Keep the frame as it is"), Qt::Key_A, decision(CleanupKind::keep)),
        inSheet("sheetPassOver", tr("Pass over the frame"), Qt::Key_P, decision(CleanupKind::passOver)),
        inSheet("sheetTakeOut", tr("Take the frame out"), Qt::Key_X, decision(CleanupKind::takeOut)),
        inSheet("sheetRebuild", tr("Rebuild the frame"), Qt::Key_R, decision(CleanupKind::rebuild)),
        inSheet("sheetRestore", tr("Restore damaged places"), Qt::Key_E, decision(CleanupKind::restore)),
        inSheet("sheetPutIn", tr("Put a frame in after it"), Qt::Key_N, decision(CleanupKind::putIn)),
        inSheet("sheetFoundBack", tr("Previous found frame without a decision"), Qt::Key_BracketLeft,
                [&pages] { pages.goToFound(-1); }),
        inSheet("sheetFoundOn", tr("Next found frame without a decision"), Qt::Key_BracketRight,
                [&pages] { pages.goToFound(1); }),
        inSheet("sheetBefore", tr("Show the frame before, while held"), Qt::Key_Comma,
                flickOfSheet(SourceSheet::Flick::before)),
        inSheet("sheetAfter", tr("Show the frame after, while held"), Qt::Key_Period,
                flickOfSheet(SourceSheet::Flick::after)),
        inSheet("sheetMade", tr("Show the frame as it is made, while held"), Qt::Key_B,
                flickOfSheet(SourceSheet::Flick::made)),
        ofSheet("sheetBack", tr("One frame back"), Qt::Key_Left),
        ofSheet("sheetOn", tr("One frame on"), Qt::Key_Right),
        ofSheet("sheetUp", tr("One row back"), Qt::Key_Up),
        ofSheet("sheetDown", tr("One row on"), Qt::Key_Down),
        ofSheet("sheetPageUp", tr("One page back"), Qt::Key_PageUp),
        ofSheet("sheetPageDown", tr("One page on"), Qt::Key_PageDown),
        ofSheet("sheetFirst", tr("First frame"), Qt::Key_Home),
        ofSheet("sheetLast", tr("Last frame"), Qt::Key_End),
        ofSheet("sheetTakeBack", tr("Take back what is decided"), Qt::Key_Backspace),
        ofSheet("sheetLarge", tr("Show the frame large, and back"), Qt::Key_Return),
        ofSheet("sheetDone", tr("Back to the picture"), Qt::Key_Escape),
        fixed("new", files, tr("New project"), QKeySequence::New),
        fixed("open", files, tr("Open"), QKeySequence::Open),
        fixed("save", files, tr("Save"), QKeySequence::Save),
        fixed("saveAs", files, tr("Save under another name"), saveAsKeys()),
        fixed("undo", files, tr("Undo"), QKeySequence::Undo),
        fixed("redo", files, tr("Redo"), QKeySequence::Redo),
        fixed("column", files, tr("Show or hide shots and steps"), QKeySequence(QStringLiteral("Ctrl+L"))),
        fixed("keys", files, tr("This list of keys"), QKeySequence(Qt::Key_F1)),
        fixed("guide", files, tr("The guide, at the step you are in"), shift(Qt::Key_F1)),
        fixed("what", files, tr("What is this? About the value you are at"),
              QKeySequence(Qt::CTRL | Qt::Key_F1)),
    });
    const auto tellKeys = [this] {
        nameKeys(*this, keyTable_);
        gapView_->sourceSheetBar().nameKeys(keyTable_);
    };
    tellKeys();
    connect(&keyTable_, &KeyTable::changed, this, tellKeys);
}

bool MainWindow::handleKey(int key, Qt::KeyboardModifiers modifiers) {
    if (!plan()) return false;
    if (gapView_->showsSourceSheet()) {
        return gapView_->sourceSheet().handleKey(key, modifiers) ||
               keyTable_.act(key, modifiers, KeyPlace::inTheSheet);
    }
    if (key == Qt::Key_Escape && fullScreenStage_) {
        showFullScreenStage(false);
        return true;
    }
    return keyTable_.act(key, modifiers, KeyPlace::atThePicture);
}

} // namespace yarngap::app
