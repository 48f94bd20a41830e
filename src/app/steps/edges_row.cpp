#include "app/steps/edges_row.h"

#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>

#include <algorithm>

namespace yarngap::app {

EdgesRow::EdgesRow(Workspace& workspace, FinishWork& work)
    : FinishRow(workspace, tr("Hide edges"), "edgesRow")
    , work_(work)
    , find_(button(
          tr("Hide edges"), "hideEdges",
          tr("Find the smallest scale that hides all bare edges, also those left by holding and calming")))
    , remove_(button(tr("Remove"), "showEdges", tr("Stop scaling in")))
    , where_(choice("edgesWhere", tr("Where edges are hidden"),
                    {tr("All through the shot"), tr("In the selected stretch")})) {
    scale_ = number(tr("Scale"), tr("Scale that hides edges"), "edgesScale",
                    {tr("%"), 2, 0.1, 100, 100 * HideEdges::most},
                    [](Finish& f, double v) { f.hideEdges.scale = v / 100; });
    fade_ = number(tr("Comes in over"), tr("Fade of the scale that hides edges"), "edgesFade",
                   {tr("f"), 0, 1, 0, HideEdges::longestFade},
                   [](Finish& f, double v) { f.hideEdges.fade = static_cast<int>(v); });
    fade_->setToolTip(
        tr("Source frames over which it scales in before the stretch and out after it; 0 for at once"));
    body()->addWidget(captioned(tr("Where"), where_));
    QHBoxLayout* line = addLine();
    line->addWidget(find_, 1);
    line->addWidget(remove_);
    QGridLayout* grid = addGrid();
    grid->addWidget(scale_, 0, 0);
    grid->addWidget(fade_, 0, 1);
    words_ = addWords();
    connect(find_, &QPushButton::clicked, this, &EdgesRow::find);
    connect(remove_, &QPushButton::clicked, this, [this] {
        found_.clear();
        edit(tr("stop hiding edges"), [](Finish& f) { f.hideEdges = {}; });
    });
}

void EdgesRow::find() {
    const auto plan = workspace_.plan();
    if (!plan || plan->rows.empty() || !finish()) return;
    std::optional<std::pair<std::int64_t, std::int64_t>> gaps;
    auto first = std::int64_t{0};
    auto last = static_cast<std::int64_t>(plan->rows.size()) - 1;
    if (where_->currentIndex() == 1) {
        gaps = workspace_.selectedGaps();
        if (!gaps) return tell(tr("Select a stretch in the thread chart first (Shift and drag)."));
        const auto inside = [&](const PlanRow& row) {
            return row.position.frame >= gaps->first && row.position.frame <= gaps->second;
        };
        const auto begin = std::ranges::find_if(plan->rows, inside);
        if (begin == plan->rows.end())
            return tell(tr("No frame of the result lies in the selected stretch."));
        first = begin - plan->rows.begin();
        last = first;
        while (last + 1 < static_cast<std::int64_t>(plan->rows.size()) &&
               inside(plan->rows[static_cast<std::size_t>(last) + 1]))
            ++last;
    }
    tell({});
    work_.hideEdges(*finish(), first, last, [this, gaps](const HiddenEdges& edges) { take(edges, gaps); });
}

void EdgesRow::take(const HiddenEdges& edges, std::optional<std::pair<std::int64_t, std::int64_t>> gaps) {
    QStringList words;
    if (edges.scale > 1)
        words << tr("Output %1 needs it most.").arg(edges.worst);
    else if (edges.cannotBeHidden == 0)
        words << tr("There are no bare edges.");
    if (edges.cannotBeHidden > 0)
        words << tr("%n frames cannot be hidden by scaling, first output %1: the picture is moved too far "
                    "there.",
                    nullptr, static_cast<int>(edges.cannotBeHidden))
                     .arg(edges.firstSuch);
    found_ = words.join(QLatin1Char(' '));
    edit(tr("hide edges"), [&](Finish& f) {
        f.hideEdges.scale = edges.scale;
        f.hideEdges.from.reset();
        f.hideEdges.to.reset();
        if (!gaps) return;
        f.hideEdges.from = Rational(gaps->first);
        f.hideEdges.to = Rational(gaps->second + 1);
    });
    words_->setText(found_);
    words_->setVisible(!found_.isEmpty());
}

QString EdgesRow::show(const Finish& finish, const MediaFacts& /*facts*/) {
    const HideEdges& hide = finish.hideEdges;
    scale_->setNumber(100 * hide.scale);
    fade_->setNumber(hide.fade);
    fade_->setVisible(hide.from.has_value());
    remove_->setEnabled(hide.scale > 1);
    if (hide.scale == 1 && hide.from) found_.clear();
    QString words = found_;
    if (hide.from)
        words += (words.isEmpty() ? QString() : QStringLiteral(" ")) +
                 tr("In force from source %1 to %2.").arg(hide.from->floor()).arg(hide.to->floor());
    words_->setText(words);
    words_->setVisible(!words.isEmpty());
    if (hide.scale == 1) return {};
    return tr("scaled %1").arg(QLocale().toString(hide.scale, 'f', 3));
}

} // namespace yarngap::app
