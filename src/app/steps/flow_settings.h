// The settings of flow frames in the step In-betweens.
#pragma once

#include "app/look/choice_box.h"
#include "app/steps/matte_settings.h"
#include "app/steps/step_body.h"

#include <QCheckBox>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include <functional>
#include <initializer_list>
#include <vector>

namespace yarngap::app {

/// Every setting of InBetweens, each in a field of its own; those seldom needed under "More".
class FlowSettings : public QWidget {
    Q_OBJECT
  public:
    explicit FlowSettings(Workspace& workspace, QWidget* parent = nullptr);
    void refresh(const Shot& shot);
    [[nodiscard]] MatteSettings& matte() { return *matte_; }

  Q_SIGNALS:
    /// The frame at the playhead is to be shown with other settings beside each other.
    void tryAsked();
    /// Why a value cannot be taken; empty once it can.
    void refused(const QString& sentence);

  private:
    QLayout* buildQualities();
    QLayout* buildStiffness();
    QLayout* buildButtons();
    QWidget* buildMore();
    QLayout* buildTrust();
    void addFlags(QVBoxLayout& layout);
    /// A choice among `values`, bound to a setting; `wordsOf` gives the words of a value. With it changes
    /// what `also` changes.
    template <typename Value>
    ChoiceBox* choice(const char* objectName, const QString& caption, std::initializer_list<Value> values,
                      QString (*wordsOf)(Value), Value& (*setting)(InBetweens&),
                      void (*also)(InBetweens&) = nullptr);
    ValueField* number(const char* objectName, const QString& caption, const QString& unit, int step,
                       int most, int kind, int& (*setting)(InBetweens&));
    QCheckBox* flag(const char* objectName, const QString& caption, const QString& purpose,
                    bool& (*setting)(InBetweens&));
    void change(const QString& what, const std::function<void(InBetweens&)>& edit, int kind = 0);

    Workspace& workspace_;
    QPushButton* try_;
    QToolButton* more_;
    MatteSettings* matte_;
    QWidget* moreSettings_;
    std::vector<std::function<void(const InBetweens&)>> shown_; ///< put a setting into its field
};

} // namespace yarngap::app
