#include "app/steps/in_betweens_step.h"

#include "app/look/core_names.h"
#include "app/steps/setting_words.h"
#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

InBetweensStep::InBetweensStep(Workspace& workspace)
    : StepBody(workspace)
    , methods_(new QButtonGroup(this))
    , explanation_(faintLabel())
    , stretches_(faintLabel())
    , everywhere_(new QPushButton(tr("Same everywhere")))
    , problem_(problemLabel())
    , flow_(new FlowSettings(workspace)) {
    auto* layout = bodyLayout(this);
    layout->addLayout(buildMethods());
    layout->addWidget(explanation_);
    layout->addWidget(flow_);
    layout->addWidget(problem_);
    layout->addWidget(stretches_);
    layout->addWidget(everywhere_);
    stretches_->setObjectName(QStringLiteral("methodStretches"));
    everywhere_->setObjectName(QStringLiteral("methodEverywhere"));
    connect(everywhere_, &QPushButton::clicked, this, [this] {
        if (!workspace_.document.current()) return;
        Shot shot = *workspace_.document.current();
        shot.methodStretches.clear();
        workspace_.document.edit(tr("same method everywhere"), shot);
    });
    connect(flow_, &FlowSettings::tryAsked, this, &InBetweensStep::tryAsked);
    connect(flow_, &FlowSettings::refused, this, [this](const QString& s) { showProblem(problem_, s); });
}

QLayout* InBetweensStep::buildMethods() {
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    int key = 1;
    for (const auto& [method, objectName, label, explains] : methodWords()) {
        auto* button = new QPushButton(label);
        button->setObjectName(QString::fromLatin1(objectName));
        button->setAccessibleName(named(name(method)));
        button->setCheckable(true);
        button->setToolTip(tr("%1 (%2)").arg(named(name(method))).arg(key++));
        button->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 0; }"));
        button->setProperty("role", "choice");
        methods_->addButton(button, static_cast<int>(method));
        row->addWidget(button, 1);
    }
    connect(methods_, &QButtonGroup::idClicked, this, [this](int id) { setMethod(static_cast<Method>(id)); });
    return row;
}

void InBetweensStep::setMethod(Method method) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    if (const auto gaps = workspace_.selectedGaps())
        shot.methodStretches =
            withMethodOn(shot.methodStretches, gaps->first, gaps->second, method, shot.method);
    else
        shot.method = method;
    workspace_.document.edit(named(name(method)), shot);
    refresh(); // the button pressed is not the method of the shot when a stretch was meant
}

void InBetweensStep::refreshMethods(const Shot& shot) {
    if (auto* button = methods_->button(static_cast<int>(shot.method))) button->setChecked(true);
    for (const MethodWords& one : methodWords())
        if (one.method == shot.method) explanation_->setText(one.explains);
}

QStringList InBetweensStep::refreshStretches(const Shot& shot) {
    QStringList others;
    for (const MethodStretch& s : shot.methodStretches)
        others << (s.first == s.last
                       ? tr("gap %1: %2").arg(s.first).arg(named(name(s.method)))
                       : tr("gaps %1 to %2: %3").arg(s.first).arg(s.last).arg(named(name(s.method))));
    QStringList shown = others;
    constexpr qsizetype most = 4;
    if (others.size() > most) shown = others.mid(0, most) << tr("and %1 more").arg(others.size() - most);
    stretches_->setText(others.isEmpty()
                            ? tr("Select a stretch in the thread chart (Shift and drag) to give it another.")
                            : shown.join(QLatin1Char('\n')));
    everywhere_->setVisible(!others.isEmpty());
    return others;
}

QString InBetweensStep::refresh() {
    const Shot* shot = workspace_.document.current();
    setEnabled(shot != nullptr);
    if (!shot) return {};
    refreshMethods(*shot);
    const bool flow = shot->method == Method::flow ||
                      std::any_of(shot->methodStretches.begin(), shot->methodStretches.end(),
                                  [](const MethodStretch& s) { return s.method == Method::flow; });
    flow_->setVisible(flow);
    flow_->refresh(*shot);
    const QStringList others = refreshStretches(*shot);
    QString outcome = methods_->button(static_cast<int>(shot->method))->text().toLower();
    if (flow) {
        outcome += QStringLiteral(", ") + words(shot->inBetweens.flow.quality);
        // In few words, since the line is short.
        if (shot->inBetweens.flow.stiffness != FlowOptions::defaultStiffness)
            outcome += tr(", stiff %1").arg(shot->inBetweens.flow.stiffness);
    }
    if (!others.isEmpty())
        outcome += tr(", %n stretches otherwise", nullptr, static_cast<int>(others.size()));
    return outcome;
}

} // namespace yarngap::app
