#include "app/window/mending_list.h"

#include "app/look/wrapping_row.h"
#include "core/time/timecode.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

#include <algorithm>
#include <map>
#include <set>
#include <utility>

namespace yarngap::app {

namespace {

QPushButton* smallButton(const QString& text, const char* name, const QString& tip) {
    auto* button = new QPushButton(text);
    button->setObjectName(QString::fromLatin1(name));
    button->setToolTip(tip);
    button->setStyleSheet(QStringLiteral("padding: 2px 6px; min-width: 0; font-size: 12px;"));
    return button;
}

} // namespace

MendingList::MendingList(DoubtSearch& search, QWidget* parent)
    : QWidget(parent)
    , search_(search)
    , state_(new QLabel)
    , filter_(new ChoiceBox)
    , order_(new ChoiceBox)
    , model_(new MendingModel(search, this))
    , list_(new QListView)
    , accept_(smallButton(tr("Accept"), "acceptGapButton", tr("The gap may stay as it is (Enter)")))
    , try_(smallButton(tr("Try cures"), "tryCuresButton",
                       tr("Mends of this gap side by side, each judged on the real frames beside it")))
    , out_(smallButton(tr("Unmend"), "unmendButton", tr("Take out what mends this gap (Delete)")))
    , through_(smallButton(
          tr("Run through"), "runThroughButton",
          tr("Play this gap at its own speed, eased in and out, so that nothing is made in it. Later "
             "frames move")))
    , quickly_(smallButton(tr("Pass quickly"), "passQuicklyButton",
                           tr("Play this gap at twice its own speed, eased in and out. Later frames move")))
    , curesWords_(new QLabel)
    , cures_(new QListWidget) {
    setObjectName(QStringLiteral("mendingList"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 10, 12, 10);
    layout->setSpacing(6);
    auto* title = new QLabel(tr("MENDING LIST"));
    title->setProperty("role", "heading");
    layout->addWidget(title);
    state_->setObjectName(QStringLiteral("mendingState"));
    state_->setWordWrap(true);
    state_->setProperty("role", "faint");
    layout->addWidget(state_);
    auto* choices = new QHBoxLayout;
    choices->setSpacing(6);
    filter_->setObjectName(QStringLiteral("mendingFilter"));
    filter_->setAccessibleName(tr("Gaps that are listed"));
    for (const auto& [text, value] :
         {std::pair{tr("all"), -1}, {tr("open"), 0}, {tr("mended"), 1}, {tr("accepted"), 2}})
        filter_->addItem(text, value);
    order_->setObjectName(QStringLiteral("mendingOrder"));
    order_->setAccessibleName(tr("Order of the list"));
    for (const auto& [text, value] :
         {std::pair{tr("worst first"), 0}, {tr("by place"), 1}, {tr("by kind"), 2}})
        order_->addItem(text, value);
    choices->addWidget(filter_, 1);
    choices->addWidget(order_, 1);
    layout->addLayout(choices);
    buildList();
    layout->addWidget(list_, 3);
    for (const auto& row : {std::vector{accept_, try_, out_}, std::vector{through_, quickly_}}) {
        auto* line = new WrappingRow(WrappingRow::Rest::shared);
        line->setSpacing(6);
        for (QPushButton* button : row)
            line->addWidget(button);
        layout->addLayout(line);
    }
    buildCures();
    layout->addWidget(curesWords_);
    layout->addWidget(cures_, 2);
    connect(filter_, &QComboBox::currentIndexChanged, this, &MendingList::refresh);
    connect(order_, &QComboBox::currentIndexChanged, this, &MendingList::refresh);
    connect(&search_, &DoubtSearch::changed, this, &MendingList::refresh);
    connect(&search_, &DoubtSearch::pictureReady, model_, &MendingModel::picturesChanged);
    connect(&search_, &DoubtSearch::curesChanged, this, &MendingList::showCures);
    refresh();
    showCures();
}

void MendingList::buildList() {
    list_->setObjectName(QStringLiteral("mendingRows"));
    list_->setAccessibleName(tr("Doubtful gaps"));
    list_->setModel(model_);
    list_->setItemDelegate(mendingRowPainter(*model_, list_));
    list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setUniformItemSizes(true);
    list_->installEventFilter(this);
    connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this](const QModelIndex& at) {
                if (const MendingRow* row = current()) at_ = row->gap.first;
                showButtons();
                if (!at.isValid() || !list_->hasFocus()) return;
                Q_EMIT gapChosen(model_->rows().at(static_cast<std::size_t>(at.row())).gap.output);
            });
    connect(list_, &QListView::clicked, this, [this](const QModelIndex& at) {
        Q_EMIT gapChosen(model_->rows().at(static_cast<std::size_t>(at.row())).gap.output);
    });
    connect(accept_, &QPushButton::clicked, this, &MendingList::accept);
    connect(out_, &QPushButton::clicked, this, &MendingList::takeMendOut);
    for (QPushButton* button : {through_, quickly_})
        connect(button, &QPushButton::clicked, this, [this, button] {
            if (const MendingRow* row = current())
                Q_EMIT timingMendAsked({row->gap.first, row->gap.last - 1}, button == quickly_);
        });
    connect(try_, &QPushButton::clicked, this, [this] {
        if (const MendingRow* row = current()) search_.tryCures(row->gap);
    });
}

void MendingList::buildCures() {
    curesWords_->setObjectName(QStringLiteral("curesWords"));
    curesWords_->setWordWrap(true);
    curesWords_->setProperty("role", "faint");
    cures_->setObjectName(QStringLiteral("cures"));
    cures_->setAccessibleName(tr("Cures, the best first"));
    cures_->setIconSize(mendingPicture);
    cures_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    cures_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    connect(cures_, &QListWidget::itemClicked, this,
            [this](QListWidgetItem* item) { takeCure(cures_->row(item)); });
    cures_->installEventFilter(this);
}

std::int64_t MendingList::gapOf(const DoubtfulGap& gap) const {
    return plan_ && gap.output < static_cast<std::int64_t>(plan_->rows.size())
               ? plan_->rows[static_cast<std::size_t>(gap.output)].position.frame
               : gap.first;
}

void MendingList::setShot(const std::shared_ptr<const FramePlan>& plan, const Mending& mending,
                          const Rate& rate) {
    plan_ = plan;
    mending_ = mending;
    rate_ = rate;
    refresh();
}

void MendingList::setLimit(double limit) {
    limit_ = limit;
    refresh();
}

void MendingList::refresh() {
    counts_ = {};
    std::vector<MendingRow> rows;
    std::set<std::size_t> listed; // mends
    for (const DoubtfulGap& gap : search_.gaps()) {
        MendingRow row;
        row.gap = gap;
        const std::int64_t own = gapOf(gap);
        const auto mend = mending_.at(own);
        if (mend) {
            row.state = GapState::mended;
            row.mend = QString::fromStdString(mending_.mends[*mend].name);
            listed.insert(*mend);
        } else if (mending_.isAccepted(own)) {
            row.state = GapState::accepted;
        } else if (gap.doubt < limit_) {
            continue;
        }
        if (rate_.value() > Rational(0))
            row.timecode = QString::fromStdString(Timecode(rate_).format(gap.output));
        rows.push_back(std::move(row));
    }
    // Mends whose frames are no flow frames any more.
    std::map<std::size_t, std::int64_t> outputs; // the first of each mend
    if (plan_)
        for (const PlanRow& row : plan_->rows)
            if (row.mend) outputs.try_emplace(*row.mend, row.output);
    for (std::size_t i = 0; i < mending_.mends.size(); ++i) {
        const Mend& mend = mending_.mends[i];
        if (!mend.isOn || listed.contains(i)) continue;
        const auto first = outputs.find(i);
        if (first == outputs.end()) continue;
        MendingRow row;
        row.gap.first = mend.gaps.first;
        row.gap.last = mend.gaps.last + 1;
        row.gap.output = first->second;
        row.state = GapState::mended;
        row.mend = QString::fromStdString(mend.name);
        row.hasDoubt = false;
        if (rate_.value() > Rational(0))
            row.timecode = QString::fromStdString(Timecode(rate_).format(first->second));
        rows.push_back(std::move(row));
    }
    for (const MendingRow& row : rows)
        ++(row.state == GapState::open     ? counts_.open
           : row.state == GapState::mended ? counts_.mended
                                           : counts_.accepted);
    const int wanted = filter_->currentData().toInt();
    std::erase_if(rows,
                  [&](const MendingRow& r) { return wanted >= 0 && static_cast<int>(r.state) != wanted; });
    const int order = order_->currentData().toInt();
    if (order == 1) std::ranges::stable_sort(rows, {}, [](const MendingRow& r) { return r.gap.first; });
    if (order == 2)
        std::ranges::stable_sort(rows, {}, [](const MendingRow& r) {
            return r.gap.why.empty() ? 99 : static_cast<int>(r.gap.why.front());
        });
    std::vector<DoubtfulGap> pictures;
    for (const MendingRow& row : rows)
        if (row.hasDoubt && pictures.size() < 200) pictures.push_back(row.gap);
    const auto place = std::ranges::find_if(rows, [&](const MendingRow& r) { return r.gap.first == at_; });
    const int again = place == rows.end() ? -1 : static_cast<int>(place - rows.begin());
    if (rows.size() != model_->rows().size() ||
        !std::ranges::equal(rows, model_->rows(), [](const MendingRow& a, const MendingRow& b) {
            return a.gap == b.gap && a.state == b.state && a.mend == b.mend && a.timecode == b.timecode;
        })) {
        const QSignalBlocker quiet(list_->selectionModel());
        model_->setRows(std::move(rows));
        if (again >= 0) list_->setCurrentIndex(model_->index(again));
        list_->viewport()->update();
    }
    if (!search_.isSearching()) search_.wantPictures(pictures);
    QString words;
    if (search_.isSearching())
        words = tr("Looking at the gaps, %1 %…").arg(static_cast<int>(search_.progress() * 100));
    else if (!search_.trouble().isEmpty())
        words = search_.trouble();
    else if (model_->rows().empty())
        words = search_.gaps().empty() ? tr("No frame of this shot is made by optical flow.")
                                       : tr("No gap is as doubtful as the limit says.");
    else
        words =
            tr("%1 open, %2 mended, %3 accepted").arg(counts_.open).arg(counts_.mended).arg(counts_.accepted);
    state_->setText(words);
    showButtons();
}

const MendingRow* MendingList::current() const {
    const QModelIndex at = list_->currentIndex();
    return at.isValid() && at.row() < model_->rowCount() ? &model_->rows()[static_cast<std::size_t>(at.row())]
                                                         : nullptr;
}

void MendingList::showButtons() {
    const MendingRow* row = current();
    accept_->setEnabled(row && row->state != GapState::mended);
    accept_->setText(row && row->state == GapState::accepted ? tr("Reopen") : tr("Accept"));
    try_->setEnabled(row && row->hasDoubt);
    out_->setEnabled(row && row->state == GapState::mended);
    for (QPushButton* button : {through_, quickly_})
        button->setEnabled(row != nullptr);
}

void MendingList::accept() {
    const MendingRow* row = current();
    if (!row || row->state == GapState::mended) return;
    const bool reopen = row->state == GapState::accepted;
    Q_EMIT mendAsked(withAccepted(mending_, gapOf(row->gap), !reopen),
                     reopen ? tr("gap %1 open again").arg(row->gap.first)
                            : tr("gap %1 accepted").arg(row->gap.first));
}

void MendingList::takeMendOut() {
    const MendingRow* row = current();
    if (!row || row->state != GapState::mended) return;
    const std::int64_t gap = row->hasDoubt ? gapOf(row->gap) : row->gap.first;
    Q_EMIT mendAsked(withoutMendAt(mending_, gap), tr("mend of gap %1 taken out").arg(row->gap.first));
}

void MendingList::showCures() {
    const CuresOfGap& cures = search_.cures();
    const bool shown = cures.gap >= 0;
    cures_->setVisible(shown);
    curesWords_->setVisible(shown);
    cures_->clear();
    if (!shown) return;
    curesWords_->setText(
        cures.isDone
            ? tr("Cures for gap %1, judged on the real frames beside it. A click takes one.").arg(cures.gap)
            : tr("Trying cures for gap %1…").arg(cures.gap));
    double best = 0;
    for (const JudgedCure& cure : cures.cures)
        best = std::max(best, cure.mark.value_or(0));
    for (std::size_t i = 0; i < cures.cures.size(); ++i) {
        const JudgedCure& cure = cures.cures[i];
        QString mark = tr("no real frames beside it");
        if (cure.mark)
            mark = tr("%1 dB").arg(QLocale().toString(*cure.mark, 'f', 2)) + (*cure.mark < best - aTie
                                                                                  ? QString()
                                                                              : i == 0 ? tr(" · best")
                                                                                       : tr(" · as good"));
        auto* item = new QListWidgetItem(QIcon(QPixmap::fromImage(cures.pictures[i])),
                                         QString::fromStdString(cure.cure.name) + QLatin1Char('\n') + mark);
        cures_->addItem(item);
    }
}

void MendingList::takeCure(int row) {
    const CuresOfGap& cures = search_.cures();
    if (row < 0 || row >= static_cast<int>(cures.cures.size())) return;
    const Cure& cure = cures.cures[static_cast<std::size_t>(row)].cure;
    const auto gap = std::ranges::find(search_.gaps(), cures.gap, &DoubtfulGap::first);
    if (gap == search_.gaps().end()) return;
    const QString name = QString::fromStdString(cure.name);
    if (cure.changes == MendChanges())
        return Q_EMIT mendAsked(withAccepted(withoutMendAt(mending_, gapOf(*gap)), gapOf(*gap), true),
                                tr("gap %1 accepted").arg(cures.gap));
    Q_EMIT mendAsked(
        withMend(mending_, {.gaps = {gap->first, gap->last - 1}, .name = cure.name, .changes = cure.changes}),
        tr("gap %1 mended: %2").arg(cures.gap).arg(name));
}

void MendingList::goToDoubtful(std::int64_t gap, int direction) {
    const DoubtfulGap* best = nullptr;
    for (const DoubtfulGap& one : search_.gaps()) {
        const std::int64_t away = (one.first - gap) * direction;
        if (one.doubt < limit_ || away <= 0) continue;
        if (!best || away < (best->first - gap) * direction) best = &one;
    }
    if (!best) return;
    for (int i = 0; i < model_->rowCount(); ++i)
        if (model_->rows()[static_cast<std::size_t>(i)].gap.first == best->first)
            list_->setCurrentIndex(model_->index(i));
    Q_EMIT gapChosen(best->output);
}

bool MendingList::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, event);
    switch (static_cast<QKeyEvent*>(event)->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (watched == cures_)
            takeCure(cures_->currentRow());
        else
            accept();
        return true;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        takeMendOut();
        return true;
    case Qt::Key_Escape:
        Q_EMIT left();
        return true;
    default:
        return QWidget::eventFilter(watched, event);
    }
}

} // namespace yarngap::app
