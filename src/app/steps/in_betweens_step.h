// The step In-betweens: the method, and how flow frames are made.
#pragma once

#include "app/steps/matte_settings.h"
#include "app/steps/steps.h"

#include <QCheckBox>
#include <QToolButton>

#include <vector>

namespace yarngap::app {

class InBetweensStep : public StepBody {
    Q_OBJECT
  public:
    explicit InBetweensStep(Workspace& workspace);
    QString refresh() override;
    void setMethod(Method method);
    [[nodiscard]] MatteSettings& matte() { return *matte_; }

  Q_SIGNALS:
    /// The frame at the playhead is to be shown with other settings beside each other.
    void tryAsked();

  private:
    QWidget* buildFlow();
    QWidget* buildMore();
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
    void refreshMethods(const Shot& shot);

    QButtonGroup* methods_;
    QLabel* explanation_;
    QLabel* stretches_;
    QPushButton* everywhere_;
    QLabel* problem_;
    QWidget* flow_;
    QWidget* moreSettings_;
    QPushButton* try_;
    QToolButton* more_;
    MatteSettings* matte_;
    std::vector<std::function<void(const InBetweens&)>> shown_; ///< put a setting into its field
};

} // namespace yarngap::app
