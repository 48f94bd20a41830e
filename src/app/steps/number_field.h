// A field for one number with a unit.
#pragma once

#include "app/look/value_field.h"

#include <QString>
#include <QWidget>

namespace yarngap::app {

/// What a number may be and how it is shown.
struct NumberForm {
    QString unit; ///< "px", "%"; may be empty
    int decimals = 0;
    double step = 1;
    double least = 0, most = 100;
};

/// A ValueField under its caption that knows its range: it refuses what is outside it with a sentence.
class NumberField : public QWidget {
    Q_OBJECT
  public:
    NumberField(const QString& caption, const QString& accessibleName, const char* objectName,
                const NumberForm& form, QWidget* parent = nullptr);
    void setNumber(double value);
    [[nodiscard]] double number() const { return value_; }
    [[nodiscard]] ValueField& field() { return *field_; }

  Q_SIGNALS:
    /// `isStepped`: by a key, the wheel or a drag; such changes merge into one step of undo.
    void changed(double value, bool isStepped);
    void problem(const QString& sentence); ///< empty when all is well again

  private:
    NumberForm form_;
    ValueField* field_;
    double value_ = 0;
};

} // namespace yarngap::app
