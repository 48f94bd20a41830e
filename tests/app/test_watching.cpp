// Watching the result: filmstrip, several versions and their numbers, true frames, sound, full screen,
// memory, and that whatever is on screen is what a render of the same plan writes.

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "app/document/media_library.h"
#include "core/media/library_messages.h"
#include "core/memory_shares.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/pictures.h"
#include "support/shot_window.h"
#endif

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QRandomGenerator>
#include <QSettings>
#include <QSignalSpy>
#include <QTest>
#include <QToolButton>

#include <cmath>

using namespace yarngap;
using namespace yarngap::app;
using namespace yarngap::test;

class TestWatching : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    QString clip_;
    QString fast_; ///< the same filmed at four times the rate
    ShotWindow window_;

    PictureStage& stage() { return window_->gapView().stage(); }
    FilmStrip& strip() { return window_->gapView().filmStrip(); }
    PulsePlot& plot() { return window_->gapView().plot(); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QWidget* focus = QApplication::focusWidget();
        QTest::keyClick(focus ? focus : window_.operator->(), key, modifiers);
    }
    const Shot& shot() { return *window_->document().current(); }
    bool isSettled() {
        return !stage().isStale() && !stage().isDraft() &&
               stage().shownOutput() == window_->player().playhead();
    }
    bool settles() {
        return QTest::qWaitFor([this] { return isSettled(); }, 30'000);
    }
    bool isReady(qint64 first, qint64 last) {
        const auto stateOf = [this](qint64 output) {
            return window_->preview().ready()[static_cast<std::size_t>(output)];
        };
        const auto isThere = [&] {
            for (qint64 i = first; i <= last; ++i)
                if (stateOf(i) != Readiness::ready) return false;
            return true;
        };
        if (QTest::qWaitFor(isThere, 60'000)) return true;
        for (qint64 i = first; i <= last; ++i) {
            const auto picture = window_->preview().picture(i);
            qWarning("%lld: %d, %s", i, static_cast<int>(stateOf(i)),
                     picture ? qPrintable(picture->trouble) : "no picture");
        }
        return false;
    }
    /// A picture of the stage's size, drawn as the stage would at `place`.
    QImage drawn(const Image& image, const ColourTags& colour, const QRectF& place) {
        const QSize size = window_->preview().picture(window_->player().playhead())->image.size();
        const QImage picture = toQImage(toScreenRgb(image, colour, size.width(), size.height()));
        QImage screen(stage().size(), QImage::Format_RGB32);
        QPainter p(&screen);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(place, picture);
        return screen;
    }
    /// Output frame `output` as a render of `version` makes it.
    QImage made(const Shot& version, qint64 output, const QRectF& place) {
        static const auto store = std::make_shared<VectorStore>();
        const auto source = openSource(clip_);
        const FramePlan plan = makePlan(version.timing(source->facts().rate, source->frames()),
                                        version.settingsInForce(), source->frames());
        const MadeFrame frame =
            FrameMaker(source, store, version.inBetweens).make(plan.rows[static_cast<std::size_t>(output)]);
        return drawn(*frame.image, source->facts().colour, place);
    }
    QImage wanted(qint64 output) { return made(shot(), output, stage().placeOfPicture()); }
    /// The largest difference of both inside the picture at `where`.
    static int apart(const QImage& a, const QImage& b, const QRectF& where) {
        const QRect place = where.toAlignedRect().adjusted(3, 3, -3, -3);
        int most = 0;
        for (int y = place.top(); y <= place.bottom(); ++y)
            for (int x = place.left(); x <= place.right(); ++x)
                most = std::max(most, std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y))));
        return most;
    }
    int apart(const QImage& a, const QImage& b) { return apart(a, b, stage().placeOfPicture()); }
    void compareWith(int index, int mode = 0) {
        key(Qt::Key_C);
        window_.choose("compareMode", mode);
        window_.choose("compareWith", index);
    }
    bool othersAreThere() {
        return QTest::qWaitFor([this] { return isSettled() && !stage().isOtherStale(); }, 30'000);
    }

    /// How far what is seen of the filmstrip is from the pictures it says it shows: mean steps of grey, of
    /// the worst of three places.
    double unlikenessOfPlaces() {
        const auto page = strip().page();
        const QImage seen = strip().grab().toImage();
        double worst = 0;
        for (const qint64 output : {page->first, page->first + 3, page->second}) {
            const auto picture = window_->preview().picture(output);
            if (!picture) return 255;
            const QImage& small = picture->small;
            const QRectF place = strip().placeOf(output);
            double sum = 0;
            int count = 0;
            for (int y = 8; y < 100; y += 7)
                for (int x = 8; x < 180; x += 7, ++count) {
                    const QPointF at = place.topLeft() + QPointF((x + 0.5) * place.width() / small.width(),
                                                                 (y + 0.5) * place.height() / small.height());
                    sum += std::abs(qGray(seen.pixel(at.toPoint())) - qGray(small.pixel(x, y)));
                }
            worst = std::max(worst, sum / count);
        }
        return worst;
    }

  private Q_SLOTS:
    void initTestCase() {
        silenceMediaLibraries();
        const QStringList sound{
            QStringLiteral("-f"),   QStringLiteral("lavfi"),
            QStringLiteral("-i"),   QStringLiteral("sine=frequency=500:duration=1:sample_rate=48000"),
            QStringLiteral("-c:v"), QStringLiteral("ffv1"),
            QStringLiteral("-c:a"), QStringLiteral("pcm_s16le")};
        const auto film = [&](const QString& name, int rate) {
            return clips_.make(
                name, QStringList{QStringLiteral("-f"), QStringLiteral("lavfi"), QStringLiteral("-i"),
                                  QStringLiteral("testsrc2=size=192x108:rate=%1:duration=0.5").arg(rate)} +
                          sound);
        };
        clip_ = film(QStringLiteral("clip.mkv"), 24);
        fast_ = film(QStringLiteral("fast.mkv"), 96);
    }
    void init() {
        QSettings().clear();
        window_.open(clip_);
        window_->setFocus();
    }
    void cleanup() { window_.close(); }

    void theFilmstripShowsConsecutiveFramesAndGoesWhereItIsClicked() {
        window_->player().goTo(9);
        key(Qt::Key_F);
        QVERIFY(strip().isVisible());
        QVERIFY(!stage().isVisible());
        QTRY_VERIFY(strip().page()->second - strip().page()->first >= 10); // once it has its size
        QVERIFY(strip().page()->first <= 9 && strip().page()->second >= 9);
        QVERIFY(isReady(strip().page()->first, strip().page()->second));
        // Each place shows the frame it says, once the page has come to rest.
        QTRY_VERIFY(unlikenessOfPlaces() < 12);
        QCOMPARE(strip().captionOf(8), QStringLiteral("8 · source 2"));
        QVERIFY2(strip().captionOf(9).startsWith(QStringLiteral("9 · doubt 0.")),
                 qPrintable(strip().captionOf(9)));
        // Originals are framed otherwise than made frames: all along, not here and there.
        const auto framed = [&](qint64 output) {
            const QImage seen = strip().grab().toImage();
            const QRectF place = strip().placeOf(output);
            int light = 0;
            for (int x = 10; x < 110; ++x) {
                bool bright = false; // wherever a line falls between pixels
                for (int y = -1; y <= 1; ++y)
                    bright |= qGray(seen.pixel(qRound(place.left()) + x, qRound(place.top()) + y)) > 200;
                light += bright ? 1 : 0;
            }
            return light;
        };
        QTRY_VERIFY(framed(12) > 90 && framed(13) < 80);

        const auto page = strip().page();
        QTest::mouseClick(&strip(), Qt::LeftButton, {}, strip().placeOf(page->first + 2).center().toPoint());
        QCOMPARE(window_->player().playhead(), page->first + 2);
        QTest::keyClick(&strip(), Qt::Key_Down);
        QVERIFY(window_->player().playhead() > page->first + 4);
        QTest::keyClick(&strip(), Qt::Key_Escape);
        QVERIFY(!strip().isVisible());
        QVERIFY(settles());
    }

    void theFilmstripTellsRepeats() {
        window_->document().edit(QStringLiteral("method"), [&] {
            Shot changed = shot();
            changed.method = Method::sample;
            return changed;
        }());
        QTest::mouseClick(window_.find<QToolButton>("filmStripButton"), Qt::LeftButton);
        QVERIFY(isReady(0, 8));
        QCOMPARE(strip().captionOf(1), QStringLiteral("1 · same as 0"));
        QVERIFY(!strip().captionOf(3).contains(QStringLiteral("same"))); // beyond half way it is the next
        // Comparing takes its place.
        key(Qt::Key_C);
        QVERIFY(!strip().isVisible());
        key(Qt::Key_F);
        QVERIFY(strip().isVisible());
        QVERIFY(!window_->gapView().isComparing());
    }

    void fourVersionsShowAtOnceEachInItsPlace() {
        window_->player().goTo(6);
        QVERIFY(settles());
        key(Qt::Key_C);
        QTest::mouseClick(window_.find<QToolButton>("saveSettingsButton"),
                          Qt::LeftButton); // another version of flow
        Shot changed = shot();
        changed.inBetweens.flow.stiffness = 90;
        window_->document().edit(QStringLiteral("stiffness"), changed);
        window_.choose("compareWith", 0);
        window_.choose("compareMode", 4);
        QVERIFY(othersAreThere());
        QCOMPARE(window_->gapView().bar().others().size(), std::size_t{3});
        const QImage seen = stage().grab().toImage();
        // Sampling, blending and the settings saved, in the order of the list; each is what a render of it
        // is.
        Shot sampled = shot();
        sampled.method = Method::sample;
        Shot blended = shot();
        blended.method = Method::blend;
        Shot before = shot();
        before.inBetweens.flow.stiffness = FlowOptions::defaultStiffness;
        const std::array<Shot, 4> versions{shot(), sampled, blended, before};
        for (std::size_t i = 0; i < versions.size(); ++i)
            for (std::size_t other = 0; other < versions.size(); ++other) {
                const int most = apart(seen, made(versions[other], 6, stage().placeOfVersion(i)),
                                       stage().placeOfVersion(i).adjusted(0, 34, 0, 0)); // below the note
                // Every version is in its own place, and in no other.
                QVERIFY2(i == other ? most <= 1 : most > 1,
                         qPrintable(QStringLiteral("%1 at %2: %3").arg(other).arg(i).arg(most)));
            }
        const QRectF place = stage().placeOfPicture();
        stage().setZoom(3, place.center());
        QVERIFY(othersAreThere());
        QCOMPARE(stage().zoomPercent(), 300.0); // and all at the same zoom, see test_looking
    }

    void mendsAreComparedWithWhatWasBeforeAndTakenAway() {
        window_->player().goTo(6);
        QVERIFY(settles());
        key(Qt::Key_C);
        auto* with = window_.find<QComboBox>("compareWith");
        const QString entry = QStringLiteral("Before mends");
        QVERIFY(with->findText(entry) < 0); // nothing is mended
        const Shot plain = shot();
        Shot mended = plain;
        const std::int64_t gap = window_->plan()->rows[6].first;
        mended.methodStretches = {{gap, gap, Method::blend}};
        window_->document().edit(QStringLiteral("mended"), mended);
        QVERIFY(with->findText(entry) >= 0);
        window_.choose("compareMode", 0);
        window_.choose("compareWith", with->findText(entry));
        QVERIFY(othersAreThere());
        const QImage seen = stage().grab().toImage();
        const auto shows = [&](std::size_t i, const Shot& version) {
            return apart(seen, made(version, 6, stage().placeOfVersion(i)),
                         stage().placeOfVersion(i).adjusted(0, 34, 0, 0)) <= 1;
        };
        QVERIFY(shows(0, mended) && !shows(0, plain));
        QVERIFY(shows(1, plain) && !shows(1, mended));
        QVERIFY(!window_.find<QToolButton>("deleteSettingsButton")->isVisible());
        QTest::mouseClick(window_.find<QToolButton>("keepButton"), Qt::LeftButton);
        QVERIFY(shot() == plain);
        QVERIFY(with->findText(entry) < 0);
        window_->document().undoStack().undo();
        QVERIFY(shot() == mended);
    }

    void picturesSideBySideAreAsLargeAsTheStageAllows() {
        window_->resize(1280, 800);
        compareWith(0);
        window_.choose("compareMode", 0);
        QVERIFY(othersAreThere());
        const QRectF place = stage().placeOfPicture();
        QVERIFY2(place.height() >= 2.0 / 3 * stage().height(),
                 qPrintable(QStringLiteral("%1 of %2").arg(place.height()).arg(stage().height())));
        // They leave nothing at the sides but their margins.
        QVERIFY(stage().placeOfVersion(1).right() - place.left() > stage().width() - 32 ||
                place.height() > stage().height() - 2);
    }

    void theNumbersOfVersionsTellAPulse() {
        window_->player().goTo(12);
        compareWith(0); // sampling
        QVERIFY(othersAreThere());
        QVERIFY(!plot().isVisible()); // the pictures come first
        QTest::mouseClick(window_.find<QToolButton>("plotsButton"), Qt::LeftButton);
        QVERIFY(plot().isVisible());
        const auto range = plot().range();
        QVERIFY(range && range->first <= 12 && range->second >= 12);
        // Sampling repeats: its change is nothing in most frames and large in some; flow changes evenly.
        QTRY_VERIFY_WITH_TIMEOUT(!plot().numbersOf(0).contains(QStringLiteral("…")) &&
                                     !plot().numbersOf(1).contains(QStringLiteral("…")),
                                 30'000);
        window_->player().goTo(13); // the second frame of source frame 3
        QTRY_VERIFY_WITH_TIMEOUT(plot().numbersOf(1).endsWith(QStringLiteral("change 0.00")), 30'000);
        QTRY_VERIFY_WITH_TIMEOUT(!plot().numbersOf(0).contains(QStringLiteral("…")), 30'000);
        QVERIFY2(!plot().numbersOf(0).endsWith(QStringLiteral("change 0.00")),
                 qPrintable(plot().numbersOf(0)));
        window_->player().goTo(0); // nothing comes before it, and nothing is waited for
        QTRY_VERIFY_WITH_TIMEOUT(plot().numbersOf(0).endsWith(QStringLiteral("change –")), 30'000);
        window_->player().goTo(13);
        // A click in the plot goes to the frame there.
        QTest::mouseClick(&plot(), Qt::LeftButton, {}, QPoint(plot().width() - 25, 30));
        QCOMPARE(window_->player().playhead(),
                 plot().range()->second > 30 ? range->second : window_->player().frames() - 1);
    }

    void trueFramesStandBesideTheMadeOnes() {
        window_->player().goTo(7); // three quarters from 1 to 2: frame 7 of the fast one
        compareWith(1);
        window_->gapView().bar().setFile(fast_);
        QVERIFY(othersAreThere());
        QCOMPARE(window_.find<QComboBox>("compareWith")->currentText(), QStringLiteral("fast.mkv"));
        QVERIFY(!window_.find<QToolButton>("keepButton")->isEnabled()); // there are no settings to keep
        const auto fast = openSource(fast_);
        const QRectF place = stage().placeOfVersion(1);
        const QImage seen = stage().grab().toImage();
        for (const int n : {6, 7, 8}) {
            const int most =
                apart(seen, drawn(*fast->frame(n), fast->facts().colour, place), place.adjusted(0, 34, 0, 0));
            QVERIFY2(n == 7 ? most <= 1 : most > 1, qPrintable(QStringLiteral("%1: %2").arg(n).arg(most)));
        }
        // A file that is none says so and takes nothing away.
        window_->gapView().bar().setFile(clips_.path(QStringLiteral("nothing.mkv")));
        QTRY_VERIFY_WITH_TIMEOUT(window_.find<QLabel>("notice")->isVisible(), 20'000);
        QVERIFY(window_->gapView().isComparing());
    }

    void eachShotIsFoundAsItWasLeft() {
        window_->player().goTo(9);
        window_->document().openFiles({fast_});
        QTRY_COMPARE_WITH_TIMEOUT(window_->document().project().shots.size(), std::size_t{2}, 20'000);
        window_->document().setCurrent(1);
        const auto isOpen = [this](qint64 frames) {
            return QTest::qWaitFor([&] { return window_->plan() && window_->player().frames() == frames; },
                                   20'000);
        };
        QVERIFY(isOpen(48)); // at 100 %
        QCOMPARE(window_->player().playhead(), 0);
        window_->player().goTo(31);
        window_->document().setCurrent(0);
        QCOMPARE(window_->player().playhead(), 9);
        QVERIFY(settles());
        QVERIFY(apart(stage().grab().toImage(), wanted(9)) <= 1);
        window_->document().setCurrent(1);
        QCOMPARE(window_->player().playhead(), 31);
    }

    void theStageTakesTheWholeScreenAndGivesItBack() {
        key(Qt::Key_F11);
        QVERIFY(window_->isFullScreen());
        QVERIFY(!window_->findChild<ThreadChart*>()->isVisible());
        QVERIFY(!window_.find<QPushButton>("saveButton")->isVisible());
        QVERIFY(window_.find<QToolButton>("playButton")->isVisible());
        QVERIFY(settles());
        key(Qt::Key_Right);
        QCOMPARE(window_->player().playhead(), 1);
        key(Qt::Key_Escape);
        QVERIFY(!window_->isFullScreen());
        QVERIFY(window_->findChild<ThreadChart*>()->isVisible());
        QTest::mouseClick(window_.find<QToolButton>("fullScreenButton"), Qt::LeftButton);
        QVERIFY(window_->isFullScreen());
        key(Qt::Key_F11);
        QVERIFY(!window_->isFullScreen());
    }

    void soundIsMadeForThePlanAndGoesTheWayOfThePlayer() {
        QTRY_COMPARE_WITH_TIMEOUT(window_->sound().state(), SoundPlayback::State::ready, 30'000);
        QVERIFY(window_.find<QToolButton>("soundButton")->isVisible());
        const auto track = window_->sound().track();
        // 12 frames at 25 % are 48 at 24 fps: two seconds.
        QCOMPARE(track->samples.size(), std::size_t{2 * 2 * 48000});
        const auto rises = [](const std::vector<std::int16_t>& samples, std::size_t from, std::size_t to) {
            int count = 0;
            for (std::size_t i = from + 1; i < to; ++i)
                count += samples[2 * (i - 1)] < 0 && samples[2 * i] >= 0 ? 1 : 0;
            return count;
        };
        const int heard = rises(track->samples, 24000, 72000);
        QVERIFY2(std::abs(heard - 500) < 12, qPrintable(QString::number(heard))); // its own pitch
        // What the device would read while frames 12 to 23 go round.
        window_->player().setLoop(std::pair<qint64, qint64>(12, 23));
        window_->player().goTo(12);
        window_->player().play(1);
        SoundFeed feed(window_->player());
        feed.setTrack(track);
        feed.start(0);
        const QByteArray read = feed.read(4 * 48000);
        window_->player().pause();
        QCOMPARE(read.size(), 4 * 48000);
        std::vector<std::int16_t> got(static_cast<std::size_t>(read.size()) / 2);
        std::memcpy(got.data(), read.constData(), static_cast<std::size_t>(read.size()));
        for (const std::size_t i : {std::size_t{100}, std::size_t{11000}, std::size_t{23900}}) {
            QCOMPARE(got[2 * i], track->samples[2 * (24000 + i)]);
            // Half a second later the same again.
            QVERIFY(std::abs(got[2 * (i + 24000)] - got[2 * i]) < 2500);
        }
        // Turned off, nothing is kept; on again, it is made.
        QTest::mouseClick(window_.find<QToolButton>("soundButton"), Qt::LeftButton);
        QCOMPARE(window_->sound().state(), SoundPlayback::State::none);
        QVERIFY(!window_->sound().track());
        QVERIFY(!loadPreferences().sound);
        QTest::mouseClick(window_.find<QToolButton>("soundButton"), Qt::LeftButton);
        QTRY_COMPARE_WITH_TIMEOUT(window_->sound().state(), SoundPlayback::State::ready, 30'000);
        // Another timing has another sound.
        Shot changed = shot();
        changed.speed = Rational(1, 2);
        window_->document().edit(QStringLiteral("speed"), changed);
        QTRY_VERIFY_WITH_TIMEOUT(
            window_->sound().track() && window_->sound().track()->samples.size() == 2 * 48000U, 30'000);
    }

    void memoryIsSetAndKept() {
        QTest::mouseClick(window_.find<QPushButton>("settingsButton"), Qt::LeftButton);
        auto* panel = window_->findChild<QWidget*>(QStringLiteral("preferencesPanel"));
        QVERIFY(panel && panel->isVisible());
        const auto type = [&](const char* name, const QString& words) {
            auto* field = panel->findChild<ValueField*>(QString::fromLatin1(name));
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, words);
            QTest::keyClick(field, Qt::Key_Return);
            return field;
        };
        type("memoryField", QStringLiteral("600 MB"));
        QCOMPARE(loadPreferences().memoryBytes, std::uint64_t{600} << 20);
        QCOMPARE(type("frameDiskField", QStringLiteral("1,5"))->text(), QStringLiteral("1.5 GB"));
        QCOMPARE(loadPreferences().frameDiskBytes, std::uint64_t{3} << 29);
        type("memoryField", QStringLiteral("1 MB")); // too little to work with
        QCOMPARE(loadPreferences().memoryBytes, std::uint64_t{600} << 20);
        type("memoryField", QStringLiteral("lots"));
        QCOMPARE(loadPreferences().memoryBytes, std::uint64_t{600} << 20);
        QTRY_VERIFY_WITH_TIMEOUT(panel->findChild<QLabel*>(QStringLiteral("diskUsedLabel"))
                                     ->text()
                                     .startsWith(QStringLiteral("In use:")),
                                 20'000);
        panel->close();
        QVERIFY(settles()); // the shot is opened anew with what it may take now
    }

    void theLimitOfPicturesHolds() {
        Preview& preview = window_->preview();
        QVERIFY(isReady(0, 47));
        const std::size_t all = preview.bytes();
        preview.setMemory(all / 3, 0);
        QVERIFY(preview.bytes() <= all / 3);
        QRandomGenerator random(11);
        for (int i = 0; i < 60; ++i) {
            window_->player().goTo(random.bounded(48));
            QVERIFY(settles());
            QVERIFY(preview.bytes() <= all / 3);
        }
    }

    void scrubbingWildlySettlesOnTheRightPicture() {
        QRandomGenerator random(5);
        int shown = 0;
        int wrong = 0;
        // Whenever a frame is on screen as finished, it is that of the playhead.
        const auto watch = connect(&stage(), &PictureStage::shown, this, [&] {
            if (stage().isStale() || stage().isDraft()) return;
            ++shown;
            wrong += stage().shownOutput() == window_->player().playhead() ? 0 : 1;
        });
        for (int round = 0; round < 6; ++round) {
            for (int i = 0; i < 40; ++i) {
                window_->player().goTo(random.bounded(static_cast<int>(window_->player().frames())));
                if (i % 8 == 0) QCoreApplication::processEvents();
            }
            QVERIFY(settles());
            const QImage seen = stage().grab().toImage();
            QVERIFY2(apart(seen, wanted(window_->player().playhead())) <= 1,
                     qPrintable(QString::number(window_->player().playhead())));
        }
        disconnect(watch);
        QVERIFY(shown >= 6);
        QCOMPARE(wrong, 0);
    }

    void nothingStaleIsEverShownAsFinished() {
        QRandomGenerator random(9);
        constexpr std::array methods{Method::sample, Method::blend, Method::flow};
        int looked = 0;
        const auto look = [&] {
            if (!isSettled()) return;
            ++looked;
            const qint64 output = window_->player().playhead();
            QVERIFY2(apart(stage().grab().toImage(), wanted(output)) <= 1,
                     qPrintable(QStringLiteral("output %1").arg(output)));
        };
        for (int i = 0; i < 14; ++i) {
            Shot changed = shot();
            switch (random.bounded(4)) {
            case 0:
                changed.method = methods[static_cast<std::size_t>(random.bounded(3))];
                break;
            case 1:
                changed.speed = Rational(1, 2 + random.bounded(4));
                break;
            case 2:
                changed.inBetweens.flow.stiffness = 20 + 10 * random.bounded(6);
                break;
            default:
                changed.inBetweens.synthesis.trustLimit = random.bounded(2) ? 40 : 0;
            }
            window_->document().edit(QStringLiteral("a change"), changed);
            look(); // at once: either it says that it is not ready, or it is right
            window_->player().goTo(random.bounded(static_cast<int>(window_->player().frames())));
            look();
            QVERIFY(settles());
            look();
            if (QTest::currentTestFailed()) return;
        }
        QVERIFY(looked >= 14);
    }

    void theRenderWritesWhatWasOnScreen() {
        QVERIFY(isReady(0, 20));
        const QString target = clips_.path(QStringLiteral("out.mkv"));
        auto* field = window_.find<QLineEdit>("targetField");
        field->setText(target);
        Q_EMIT field->textEdited(target);
        QSignalSpy ended(&window_->render(), &RenderController::finished);
        window_.find<QPushButton>("renderButton")->click();
        QVERIFY(ended.wait(120'000));
        QVERIFY2(!window_->render().failed(), qPrintable(window_->render().outcome()));
        QVERIFY(window_->render().report()->finished > 0); // frames made for the picture are used
        const auto written = openSource(target);
        QCOMPARE(written->frames(), 48);
        for (const qint64 output : {1, 4, 7, 18}) {
            const QImage shown = window_->preview().picture(output)->image;
            QCOMPARE(toQImage(toScreenRgb(*written->frame(output), written->facts().colour, shown.width(),
                                          shown.height())),
                     shown);
        }
    }
};

QTEST_MAIN(TestWatching)
#include "test_watching.moc"
