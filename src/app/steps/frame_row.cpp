#include "app/steps/frame_row.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QHBoxLayout>
#include <QLocale>

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr std::array<FrameFit, 5> fits{FrameFit::letterbox, FrameFit::fill, FrameFit::width, FrameFit::height,
                                       FrameFit::byHand};
constexpr std::array<std::array<int, 3>, 4> colours{
    {{0, 0, 0}, {64, 64, 64}, {128, 128, 128}, {255, 255, 255}}};

QString sizeText(const FrameSize& size) {
    return QStringLiteral("%1×%2").arg(size.width).arg(size.height);
}

} // namespace

FrameRow::FrameRow(Workspace& workspace)
    : FinishRow(workspace, tr("Frame"), "frameRow")
    , sizes_(choice("frameSizes", tr("Frame size of the result"), {tr("As the source")}))
    , size_(new ValueField(tr("Frame size of the result")))
    , aspect_(new ValueField(tr("Pixel aspect of the result")))
    , fit_(choice("frameFit", tr("How the picture lies in the frame"),
                  {tr("Fit, with bars"), tr("Fill, cut off"), tr("As wide as the frame"),
                   tr("As high as the frame"), tr("By hand, pixel for pixel")}))
    , place_(button(tr("Place on the picture"), "placeFrame",
                    tr("Drag the picture in its frame; the wheel or the corners scale it. Esc leaves"), true))
    , key_(button(tr("Key"), "placeKey",
                  tr("Keep scale and place at this frame; between keys they go from one to "
                     "the other")))
    , reset_(button(tr("Reset"), "resetPlace", tr("Back to the fit: no scale, shift or keys")))
    , eased_(new QCheckBox(tr("Ease")))
    , around_(choice("frameAround", tr("Colour of the bars"),
                     {tr("Black"), tr("Dark grey"), tr("Grey"), tr("White")}))
    , safe_(new QCheckBox(tr("Safe areas")))
    , thirds_(new QCheckBox(tr("Thirds")))
    , centre_(new QCheckBox(tr("Centre"))) {
    const auto placed = [this](void (*change)(PlaceKey&, double)) {
        return [this, change](double value, bool isStepped) {
            changePlace([&](PlaceKey& key) { change(key, value); }, tr("place in frame"),
                        isStepped ? editPlace : 0);
        };
    };
    scale_ = new NumberField(tr("Scale"), tr("Scale of the picture"), "placeScale",
                             {tr("%"), 1, 0.5, 100 * PlaceKey::least, 100 * PlaceKey::most});
    x_ = new NumberField(tr("Across"), tr("Shift across"), "placeX", {tr("px"), 1, 1, -99'999, 99'999});
    y_ = new NumberField(tr("Down"), tr("Shift down"), "placeY", {tr("px"), 1, 1, -99'999, 99'999});
    connect(scale_, &NumberField::changed, this, placed([](PlaceKey& k, double v) { k.scale = v / 100; }));
    connect(x_, &NumberField::changed, this, [this](double value, bool isStepped) {
        changePlace([&](PlaceKey& k) { k.x = value / result_.width; }, tr("place in frame"),
                    isStepped ? editPlace : 0);
    });
    connect(y_, &NumberField::changed, this, [this](double value, bool isStepped) {
        changePlace([&](PlaceKey& k) { k.y = value / result_.height; }, tr("place in frame"),
                    isStepped ? editPlace : 0);
    });
    for (NumberField* field : {scale_, x_, y_})
        connect(field, &NumberField::problem, this, &FrameRow::tell);
    layOut();
}

void FrameRow::layOut() {
    for (const FrameStandard& one : frameStandards())
        sizes_->addItem(sizeText(one.size));
    sizes_->addItem(tr("Typed"));
    size_->setObjectName(QStringLiteral("frameSize"));
    aspect_->setObjectName(QStringLiteral("frameAspect"));
    aspect_->setToolTip(tr("Width over height of a pixel: 1, or a ratio such as 12/11"));
    QGridLayout* grid = addGrid();
    grid->addWidget(captioned(tr("Size"), sizes_), 0, 0, 1, 2);
    grid->addWidget(captioned(tr("Pixels"), size_), 1, 0);
    grid->addWidget(captioned(tr("Pixel aspect"), aspect_), 1, 1);
    grid->addWidget(captioned(tr("Fit"), fit_), 2, 0, 1, 2);
    grid->addWidget(captioned(tr("Bars"), around_), 3, 0);
    grid->addWidget(scale_, 3, 1);
    grid->addWidget(x_, 4, 0);
    grid->addWidget(y_, 4, 1);
    body()->addWidget(place_);
    QHBoxLayout* keys = addLine();
    keys->addWidget(key_);
    keys->addWidget(reset_);
    keys->addWidget(eased_);
    keys->addStretch();
    eased_->hide(); // until there are two keys
    words_ = addWords();
    QGridLayout* marks = addGrid();
    int column = 0;
    for (const auto& [box, name] :
         {std::pair{safe_, "safeAreas"}, std::pair{thirds_, "thirds"}, std::pair{centre_, "centreMark"}}) {
        box->setObjectName(QString::fromLatin1(name));
        marks->addWidget(box, column / 2, column % 2);
        ++column;
        connect(box, &QCheckBox::toggled, this, [this] {
            Q_EMIT marksAsked(safe_->isChecked(), thirds_->isChecked(), centre_->isChecked());
        });
    }
    connect(sizes_, &QComboBox::activated, this, &FrameRow::chooseSize);
    connect(size_, &ValueField::typed, this, &FrameRow::typeSize);
    connect(size_, &ValueField::refused, this, &FrameRow::tell);
    connect(aspect_, &ValueField::refused, this, &FrameRow::tell);
    connect(aspect_, &ValueField::typed, this, [this](const QString& typed) {
        try {
            const Rational aspect = Rational::parse(bare(typed, {}));
            edit(tr("pixel aspect"), [&](Finish& f) { f.frame.pixelAspect = aspect; });
        } catch (const Error& error) {
            aspect_->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(fit_, &QComboBox::activated, this, [this](int at) {
        edit(tr("fit in frame"), [&](Finish& f) { f.frame.fit = fits[static_cast<std::size_t>(at)]; });
    });
    connect(around_, &QComboBox::activated, this, [this](int at) {
        edit(tr("colour of bars"),
             [&](Finish& f) { f.frame.around = colours[static_cast<std::size_t>(at)]; });
    });
    connect(place_, &QPushButton::clicked, this, &FrameRow::placeAsked);
    connect(key_, &QPushButton::clicked, this, [this] {
        const PlaceKey now = placeNow();
        edit(tr("key of place"), [&](Finish& f) { f.places = withPlaceKey(f.places, now); });
    });
    connect(reset_, &QPushButton::clicked, this, &FrameRow::resetPlace);
    eased_->setObjectName(QStringLiteral("placeEase"));
    connect(eased_, &QCheckBox::clicked, this, [this](bool on) {
        edit(tr("ease of place"), [&](Finish& f) {
            for (PlaceKey& key : f.places)
                key.isEased = on;
        });
    });
}

Rational FrameRow::here() const {
    return Rational(workspace_.sourceFrameAtPlayhead());
}

PlaceKey FrameRow::placeNow() const {
    PlaceKey now = finish() ? yarngap::placeAt(finish()->places, here()) : PlaceKey();
    now.at = here();
    return now;
}

void FrameRow::changePlace(const std::function<void(PlaceKey&)>& change, const QString& what, int kind) {
    if (!finish()) return;
    PlaceKey now = placeNow();
    change(now);
    edit(
        what,
        [&](Finish& f) {
            if (f.places.size() == 1) now.at = f.places.front().at; // one goes for all frames
            f.places = withPlaceKey(f.places, now);
        },
        kind);
}

void FrameRow::placeAt(double scale, double x, double y, int kind) {
    changePlace(
        [&](PlaceKey& key) {
            key.scale = std::clamp(scale, PlaceKey::least, PlaceKey::most);
            key.x = std::clamp(x, -PlaceKey::farthest, PlaceKey::farthest);
            key.y = std::clamp(y, -PlaceKey::farthest, PlaceKey::farthest);
        },
        tr("place in frame"), kind);
}

void FrameRow::resetPlace() {
    edit(tr("reset place"), [](Finish& f) { f.places.clear(); });
}

void FrameRow::chooseSize(int index) {
    const auto standards = frameStandards();
    if (index == 0)
        return edit(tr("frame size of the source"), [](Finish& f) {
            f.frame.size.reset();
            f.frame.pixelAspect.reset();
        });
    const auto at = static_cast<std::size_t>(index) - 1;
    if (at >= standards.size()) return size_->setFocus();
    edit(tr("frame size %1").arg(sizeText(standards[at].size)), [&](Finish& f) {
        f.frame.size = standards[at].size;
        f.frame.pixelAspect.reset();
        if (standards[at].pixelAspect != Rational(1)) f.frame.pixelAspect = standards[at].pixelAspect;
    });
}

void FrameRow::typeSize(const QString& typed) {
    QString text = typed;
    const QStringList sides =
        text.replace(QChar(0x00D7), QLatin1Char('x')).split(QLatin1Char('x'), Qt::SkipEmptyParts);
    bool ok = sides.size() == 2;
    const int width = ok ? sides[0].trimmed().toInt(&ok) : 0;
    const int height = ok ? sides[1].trimmed().toInt(&ok) : 0;
    if (!ok) return size_->refuse(tr("A size reads like 1920x1080."));
    if (std::min(width, height) < FrameChoice::smallest || std::max(width, height) > FrameChoice::largest)
        return size_->refuse(
            tr("Each side must have %1 to %2 pixels.").arg(FrameChoice::smallest).arg(FrameChoice::largest));
    edit(tr("frame size %1").arg(sizeText({width, height})), [&](Finish& f) {
        f.frame.size = FrameSize{width, height};
    });
    if (finish() && finish()->frame.size) size_->setShown(sizeText(result_));
}

QString FrameRow::show(const Finish& finish, const MediaFacts& facts) {
    const ResultFrame result = resultFrame(finish.frame, facts);
    result_ = result.size;
    const auto standards = frameStandards();
    int chosen = 0;
    if (finish.frame.size) {
        const auto at = std::ranges::find(standards, *finish.frame.size, &FrameStandard::size);
        chosen = static_cast<int>(at - standards.begin()) + 1;
    }
    sizes_->setCurrentIndex(chosen);
    size_->setShown(sizeText(result.size));
    aspect_->setShown(QString::fromStdString(result.pixelAspect.toString()));
    fit_->setCurrentIndex(static_cast<int>(std::ranges::find(fits, finish.frame.fit) - fits.begin()));
    const auto bar = std::ranges::find(colours, finish.frame.around);
    around_->setCurrentIndex(bar == colours.end() ? -1 : static_cast<int>(bar - colours.begin()));
    const PlaceKey now = placeNow();
    scale_->setNumber(100 * now.scale);
    x_->setNumber(now.x * result_.width);
    y_->setNumber(now.y * result_.height);
    reset_->setEnabled(!finish.places.empty());
    eased_->setVisible(finish.places.size() > 1);
    eased_->setChecked(std::ranges::all_of(finish.places, &PlaceKey::isEased));
    QStringList words;
    if (result.isRounded)
        words << tr("This pixel format cannot hold %1; the frame is made %2.")
                     .arg(sizeText(*finish.frame.size), sizeText(result.size));
    if (finish.places.size() > 1) {
        QStringList frames;
        constexpr std::size_t most = 6;
        for (std::size_t i = 0; i < std::min(most, finish.places.size()); ++i)
            frames << QLocale().toString(finish.places[i].at.toDouble(), 'g', 6);
        if (finish.places.size() > most) frames << QStringLiteral("…");
        words << tr("Keys at source frames %1.").arg(frames.join(QStringLiteral(", ")));
    }
    words_->setText(words.join(QLatin1Char(' ')));
    words_->setVisible(!words.isEmpty());
    QStringList out;
    if (finish.frame.size || finish.frame.pixelAspect) out << sizeText(result.size);
    if (finish.places.size() > 1)
        out << tr("%n keys", nullptr, static_cast<int>(finish.places.size()));
    else if (now.scale != 1)
        out << tr("scaled %1").arg(QLocale().toString(now.scale, 'f', 2));
    else if (now.x != 0 || now.y != 0)
        out << tr("moved");
    return out.join(QStringLiteral(", "));
}

} // namespace yarngap::app
