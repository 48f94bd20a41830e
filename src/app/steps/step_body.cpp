#include "app/steps/step_body.h"

#include "core/error.h"

namespace yarngap::app {

void StepBody::apply(ValueField& field, const QString& what, int kind,
                     const std::function<Timing(const Timing&)>& change) {
    const auto timing = workspace_.document.currentTiming();
    if (!timing) return;
    try {
        const Timing changed = change(*timing);
        validate(changed);
        workspace_.document.editTiming(what, changed, kind);
        refresh(); // also when nothing changed, so that the field shows the value again
    } catch (const Error& error) {
        field.refuse(QString::fromStdString(error.what()));
    }
}

} // namespace yarngap::app
