// Memory, disk and sound, in a panel that drops down from the top bar.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/look/value_field.h"
#include "app/window/preferences.h"
#include "core/motion/vector_store.h"
#include "core/synthesis/frame_folder.h"

#include <QCheckBox>
#include <QFrame>
#include <QLabel>
#include <QPushButton>

#include <functional>
#include <memory>

class QVBoxLayout;

namespace yarngap::app {

/// Every change takes effect at once. Goes away when something else is clicked.
class PreferencesPanel : public QFrame {
    Q_OBJECT
  public:
    /// The folders may be null.
    PreferencesPanel(const Preferences& preferences, std::shared_ptr<FrameFolder> frames,
                     std::shared_ptr<VectorFolder> vectors, QWidget* parent);

  Q_SIGNALS:
    void changed(const yarngap::app::Preferences& preferences);

  private:
    using Member = std::uint64_t Preferences::*;
    ValueField* addSize(QVBoxLayout& layout, const QString& caption, const char* objectName, Member member,
                        const QString& purpose);
    void set(ValueField& field, Member member, const std::function<std::uint64_t()>& value);
    void addLook(QVBoxLayout& layout);
    void addSizeOfText(QVBoxLayout& layout);
    static void addRow(QVBoxLayout& layout, const QString& caption, ChoiceBox& box);
    void measure(); ///< what lies on disk, in the background
    void refresh();

    Preferences preferences_;
    std::shared_ptr<FrameFolder> frames_;
    std::shared_ptr<VectorFolder> vectors_;
    ValueField* memory_;
    ValueField* frameDisk_;
    ValueField* vectorDisk_;
    QLabel* problem_;
    QLabel* used_;
    QPushButton* clear_;
    QCheckBox* sound_;
    ChoiceBox* look_;
    ChoiceBox* size_;
    QLabel* sizeWords_;
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

} // namespace yarngap::app
