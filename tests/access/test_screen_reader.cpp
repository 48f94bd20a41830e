// The program as a screen reader sees it: a real window under Xvfb, asked over the real accessibility bus.

#include "access/reader.h"
#include "support/clips.h"

#include <QDBusMetaType>
#include <QDBusReply>
#include <QProcess>
#include <QRegularExpression>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include <memory>

using namespace yarngap::test;

namespace {

// AtspiStateType of AT-SPI 2.
constexpr unsigned stateFocusable = 11;
constexpr unsigned stateSelected = 23;
constexpr unsigned stateShowing = 25;

constexpr int patience = 30'000; // sanitizers are slow

/// A program that says in its first line where it can be reached, and ends with the test.
class Server {
  public:
    Server(const QString& program, const QStringList& arguments) {
        process_.start(program, arguments);
        while (!process_.canReadLine() && process_.waitForReadyRead(patience)) {
        }
        place_ = QString::fromUtf8(process_.readLine()).trimmed();
    }
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;
    ~Server() {
        process_.terminate();
        if (!process_.waitForFinished(5000)) process_.kill();
        process_.waitForFinished(5000);
    }
    [[nodiscard]] const QString& place() const { return place_; }

  private:
    QProcess process_;
    QString place_;
};

} // namespace

class TestScreenReader : public QObject {
    Q_OBJECT

    Clips clips_;
    std::unique_ptr<Server> screen_;
    std::unique_ptr<Server> session_;
    QProcess program_;
    QStringList heard_; ///< what the bus told of its own: "accessible-name /org/…"

    static QDBusConnection bus() { return QDBusConnection(QStringLiteral("reader")); }

    [[nodiscard]] QProcessEnvironment environment() const {
        QProcessEnvironment all = QProcessEnvironment::systemEnvironment();
        all.insert(QStringLiteral("DISPLAY"), QLatin1Char(':') + screen_->place());
        all.insert(QStringLiteral("QT_QPA_PLATFORM"), QStringLiteral("xcb"));
        all.insert(QStringLiteral("DBUS_SESSION_BUS_ADDRESS"), session_->place());
        all.insert(QStringLiteral("QT_LINUX_ACCESSIBILITY_ALWAYS_ON"), QStringLiteral("1"));
        all.insert(QStringLiteral("XDG_CONFIG_HOME"), clips_.path(QStringLiteral("config")));
        all.insert(QStringLiteral("XDG_DATA_HOME"), clips_.path(QStringLiteral("data")));
        return all;
    }

    /// The window, once it is on the bus; waits for it.
    static std::optional<Seen> window() {
        std::optional<Seen> found;
        [[maybe_unused]] const bool came = QTest::qWaitFor(
            [&] {
                const Seen root(bus(), {QStringLiteral("org.a11y.atspi.Registry"),
                                        QDBusObjectPath(QStringLiteral("/org/a11y/atspi/accessible/root"))});
                for (const Seen& application : root.children())
                    if (application.name() == QLatin1String("yarngap") ||
                        application.name() == QLatin1String("Yarn Gap"))
                        for (const Seen& one : application.children())
                            if (one.has(stateShowing)) found = one;
                return found.has_value();
            },
            patience);
        return found;
    }
    /// An object in it, waited for.
    static std::optional<Seen> object(const QString& start, const QString& role = {}) {
        const auto whole = window();
        std::optional<Seen> found;
        if (whole) [[maybe_unused]]
            const bool came =
                QTest::qWaitFor([&] { return (found = whole->named(start, role)).has_value(); }, patience);
        return found;
    }

    /// All that is seen, to be told when something is not.
    static QByteArray all() {
        QString text;
        const std::function<void(const Seen&, int)> walk = [&](const Seen& one, int depth) {
            text += QString(2 * depth, QLatin1Char(' ')) + one.role() + QLatin1Char(' ') + one.name() +
                    QLatin1Char('\n');
            for (const Seen& child : one.children())
                walk(child, depth + 1);
        };
        if (const auto whole = window()) walk(*whole, 0);
        return text.toUtf8();
    }

  public Q_SLOTS: // NOLINT(readability-redundant-access-specifiers): called by the bus
    void hear(const QDBusMessage& told) {
        if (!told.arguments().isEmpty())
            heard_ << told.arguments().front().toString() + QLatin1Char(' ') + told.path();
    }

  private Q_SLOTS:
    void initTestCase() {
        qRegisterMetaType<BusName>();
        qDBusRegisterMetaType<BusName>();
        qDBusRegisterMetaType<QList<BusName>>();
        const QString clip =
            clips_.moving(QStringLiteral("tern.mkv"), 12, {QStringLiteral("-c:v"), QStringLiteral("ffv1")});
        screen_ = std::make_unique<Server>(QStringLiteral("Xvfb"),
                                           QStringList{QStringLiteral("-displayfd"), QStringLiteral("1"),
                                                       QStringLiteral("-screen"), QStringLiteral("0"),
                                                       QStringLiteral("1280x800x24"),
                                                       QStringLiteral("-nolisten"), QStringLiteral("tcp")});
        QVERIFY2(!screen_->place().isEmpty(), "Xvfb does not start");
        session_ =
            std::make_unique<Server>(QStringLiteral("dbus-daemon"),
                                     QStringList{QStringLiteral("--session"), QStringLiteral("--nofork"),
                                                 QStringLiteral("--print-address=1")});
        QVERIFY2(!session_->place().isEmpty(), "dbus-daemon does not start");
        const QDBusConnection session =
            QDBusConnection::connectToBus(session_->place(), QStringLiteral("session"));
        const QDBusReply<QString> address = session.call(
            QDBusMessage::createMethodCall(QStringLiteral("org.a11y.Bus"), QStringLiteral("/org/a11y/bus"),
                                           QStringLiteral("org.a11y.Bus"), QStringLiteral("GetAddress")));
        QVERIFY2(address.isValid(), qPrintable(address.error().message()));
        QVERIFY(QDBusConnection::connectToBus(address.value(), QStringLiteral("reader")).isConnected());
        // Without anybody who listens, programs say nothing.
        for (const char* event : {"Object:PropertyChange:", "Object:StateChanged:"})
            bus().call(QDBusMessage::createMethodCall(QStringLiteral("org.a11y.atspi.Registry"),
                                                      QStringLiteral("/org/a11y/atspi/registry"),
                                                      QStringLiteral("org.a11y.atspi.Registry"),
                                                      QStringLiteral("RegisterEvent"))
                       << QString::fromLatin1(event));
        bus().connect({}, {}, QStringLiteral("org.a11y.atspi.Event.Object"), QStringLiteral("PropertyChange"),
                      this, SLOT(hear(QDBusMessage)));
        program_.setProcessEnvironment(environment());
        program_.setProcessChannelMode(QProcess::ForwardedChannels);
        program_.start(QStringLiteral(YARNGAP_PROGRAM), {clip});
        QVERIFY(program_.waitForStarted());
        QVERIFY2(object(QStringLiteral("Output 0"), QStringLiteral("slider")), all());
    }

    void framesOfTheStageAreRead() {
        const auto frame = object(QStringLiteral("Output 0"), QStringLiteral("slider"));
        QVERIFY(frame);
        QVERIFY2(frame->name().contains(QLatin1String("original source frame 0")), qPrintable(frame->name()));
        QVERIFY2(object(QStringLiteral("Source frame "), QStringLiteral("graphic")), all());
        heard_.clear();
        frame->setValue(3);
        QVERIFY(object(QStringLiteral("Output 3"), QStringLiteral("slider")));
        QCOMPARE(frame->value(), 3.0); // the same object says so now
        // And it was told, so that it is read out.
        QTRY_VERIFY_WITH_TIMEOUT(heard_.contains(QStringLiteral("accessible-name ") + frame->path()),
                                 patience);
    }

    void theChartHasPlayheadStretchesAndFrames() {
        const auto chart = object(QStringLiteral("Thread chart"));
        QVERIFY(chart);
        const auto playhead = chart->named(QStringLiteral("Playhead"), QStringLiteral("slider"));
        QVERIFY(playhead);
        playhead->setValue(5);
        QTRY_COMPARE_WITH_TIMEOUT(playhead->name(), QStringLiteral("Playhead at output frame 5 of 12"),
                                  patience);
        QCOMPARE(playhead->value(), 5.0);
        const auto seventh = chart->named(QStringLiteral("Output 7 "), QStringLiteral("list item"));
        QVERIFY(seventh);
        QCOMPARE(seventh->value(), 7.0); // its source position
        seventh->act();
        QTRY_COMPARE_WITH_TIMEOUT(playhead->value(), 7.0, patience);
        const auto stretch = chart->named(QStringLiteral("Speed 100 % from output frame 0 to 12"));
        QVERIFY(stretch);
        QCOMPARE(stretch->value(), 100.0);
        stretch->setValue(50);
        QTRY_VERIFY_WITH_TIMEOUT(chart->named(QStringLiteral("Speed 50 % from output frame 0 to")), patience);
        QTRY_VERIFY_WITH_TIMEOUT(chart->named(QStringLiteral("Output 1 · position 0.50")), patience);
    }

    void framesOfTheSourceSheetAreRead() {
        const auto button = object(QStringLiteral("Source sheet"), QStringLiteral("check box"));
        QVERIFY2(button, all());
        button->act();
        const auto fifth = object(QStringLiteral("Source frame 5"), QStringLiteral("list item"));
        QVERIFY(fifth);
        fifth->act();
        QTRY_VERIFY_WITH_TIMEOUT(fifth->has(stateSelected), patience);
        QCOMPARE(fifth->value(), 5.0);
    }

    void everythingThatTakesTheFocusHasAName() {
        const auto whole = window();
        QVERIFY(whole);
        QStringList nameless;
        int met = 0;
        const std::function<void(const Seen&)> walk = [&](const Seen& one) {
            if (one.has(stateShowing) && one.has(stateFocusable)) {
                ++met;
                if (one.name().isEmpty()) nameless << one.role() + QLatin1Char(' ') + one.path();
            }
            for (const Seen& child : one.children())
                walk(child);
        };
        walk(*whole);
        QVERIFY2(met > 20, qPrintable(QString::number(met)));
        QVERIFY2(nameless.isEmpty(), qPrintable(nameless.join(QLatin1Char('\n'))));
    }

    void cleanupTestCase() {
        program_.terminate();
        if (!program_.waitForFinished(10'000)) program_.kill();
        program_.waitForFinished(10'000);
    }
};

QTEST_GUILESS_MAIN(TestScreenReader)
#include "test_screen_reader.moc"
