// The window in another language: every text can be translated, longer ones have room, and what is counted
// has a plural. The other language is made from the texts that scripts/texts collects, each in braces and
// longer by two fifths.

#include "app/look/language.h"
#include "app/look/theme.h"
#include "support/clips.h"
#include "support/own_settings.h"
#include "support/program.h"
#include "support/screen_walk.h"
#include "support/shot_window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QDir>
#include <QFile>
#include <QLabel>
#include <QMenu>
#include <QRegularExpression>
#include <QTabBar>
#include <QTest>
#include <QXmlStreamReader>
#include <QXmlStreamWriter>

#include <set>

using namespace yarngap::app;
using namespace yarngap::test;

namespace {

struct Text {
    QString context, source;
    bool counts = false;
};

QList<Text> collected(const QString& file) {
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly)) qFatal("There is no %s", qPrintable(file));
    QXmlStreamReader xml(&in);
    QList<Text> out;
    QString context;
    bool counts = false;
    while (!xml.atEnd()) {
        if (xml.readNext() != QXmlStreamReader::StartElement) continue;
        if (xml.name() == QLatin1String("name"))
            context = xml.readElementText();
        else if (xml.name() == QLatin1String("message"))
            counts = xml.attributes().value(QLatin1String("numerus")) == QLatin1String("yes");
        else if (xml.name() == QLatin1String("source"))
            out << Text{context, xml.readElementText(), counts};
    }
    return out;
}

QString inBraces(const QString& text) {
    static const QString filler = QStringLiteral(" mopu rela tindo vask").repeated(40);
    return QLatin1Char('{') + text + filler.left(text.size() * 2 / 5) + QLatin1Char('}');
}

void writeLong(const QList<Text>& texts, const QString& file) {
    QFile out(file);
    if (!out.open(QIODevice::WriteOnly)) qFatal("%s cannot be written", qPrintable(file));
    QXmlStreamWriter xml(&out);
    xml.writeStartDocument();
    xml.writeDTD(QStringLiteral("<!DOCTYPE TS>"));
    xml.writeStartElement(QStringLiteral("TS"));
    xml.writeAttribute(QStringLiteral("version"), QStringLiteral("2.1"));
    xml.writeAttribute(QStringLiteral("language"), QStringLiteral("en"));
    for (const Text& text : texts) {
        xml.writeStartElement(QStringLiteral("context"));
        xml.writeTextElement(QStringLiteral("name"), text.context);
        xml.writeStartElement(QStringLiteral("message"));
        if (text.counts) xml.writeAttribute(QStringLiteral("numerus"), QStringLiteral("yes"));
        xml.writeTextElement(QStringLiteral("source"), text.source);
        xml.writeStartElement(QStringLiteral("translation"));
        if (text.counts)
            for (int form = 0; form < 2; ++form)
                xml.writeTextElement(QStringLiteral("numerusform"), inBraces(text.source));
        else
            xml.writeCharacters(inBraces(text.source));
        for (int element = 0; element < 3; ++element)
            xml.writeEndElement();
    }
    xml.writeEndDocument();
}

/// What is left of a text without what is in braces: names of files, keys and formats, numbers, units.
QString outsideBraces(QString text) {
    static const QRegularExpression innermost(QStringLiteral("\\{[^{}]*\\}"));
    static const QRegularExpression tag(QStringLiteral("<[^>]*>"));
    text.remove(tag);
    while (text.contains(innermost))
        text.remove(innermost);
    return text;
}

/// All that a widget shows or tells.
QStringList textsOf(const QWidget& widget) {
    QStringList out{widget.toolTip(), widget.accessibleName(), widget.accessibleDescription()};
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) out << label->text();
    if (const auto* button = qobject_cast<const QAbstractButton*>(&widget)) out << button->text();
    if (const auto* line = qobject_cast<const QLineEdit*>(&widget)) out << line->placeholderText();
    if (const auto* box = qobject_cast<const QComboBox*>(&widget))
        for (int i = 0; i < box->count(); ++i)
            out << box->itemText(i);
    if (const auto* tabs = qobject_cast<const QTabBar*>(&widget))
        for (int i = 0; i < tabs->count(); ++i)
            out << tabs->tabText(i);
    for (const QAction* action : widget.actions())
        out << action->text() << action->toolTip();
    return out;
}

} // namespace

class TestLanguage : public QObject {
    Q_OBJECT

    OwnSettings ownSettings_;
    Clips clips_;
    ShotWindow window_;
    QList<Text> texts_;
    Translation long_;

    /// The core knows no language: what it finds out and tells in whole sentences is English.
    static bool isOfTheCore(const QString& text) {
        for (const char* begin : {"The file says progressive, but", "The last 3 output frames hold",
                                  "<b>Holds down to about", "Deinterlace to"})
            if (text.startsWith(QLatin1String(begin))) return true;
        return false;
    }

    void gather(std::set<QString>& found) {
        static const QRegularExpression word(QStringLiteral("\\p{L}{3,}"));
        // Names that are the same in every language, and what the clip is called.
        static const QRegularExpression same(QStringLiteral(
            "heron(\\.mp4)?|\\bfps\\b|Yarn "
            "Gap|Ctrl|Shift|Alt|Space|Home|End|Enter|Esc|Del|Ins|PgUp|PgDown|Backspace|"
            "Left|Right|Up|Down|Tab|(/"
            "\\S+)+|h264|mov|YUV|bit|WebM|MKV|MP4|MOV|MXF|ProRes|DNxHR|FFV1|OpenEXR|EXR|PNG|TIFF|"
            "DPX|HQX|HQ|AAC|PCM|WAV"));
        for (const QWidget* widget : window_->findChildren<QWidget*>()) {
            if (!widget->isVisible()) continue;
            for (const QString& text : textsOf(*widget))
                if (!isOfTheCore(text) && outsideBraces(text).remove(same).contains(word))
                    found.insert(QLatin1String(widget->metaObject()->className()) + QLatin1Char(' ') +
                                 widget->objectName() + QStringLiteral(": ") + text);
        }
    }

  private Q_SLOTS:
    void initTestCase() {
        applyTheme(*qApp);
        const QString file = clips_.path(QStringLiteral("all.ts"));
        const Outcome o = runProgram(QStringLiteral(YARNGAP_SOURCES "/scripts/texts"), {file});
        QVERIFY2(o.status == 0, o.told());
        texts_ = collected(file);
        QVERIFY(texts_.size() > 1200);
        const QString longer = clips_.path(QStringLiteral("long.ts"));
        writeLong(texts_, longer);
        const QString made = clips_.path(QStringLiteral("long.qm"));
        const Outcome packed = runProgram(QStringLiteral(YARNGAP_LRELEASE),
                                          {QStringLiteral("-silent"), longer, QStringLiteral("-qm"), made});
        QVERIFY2(packed.status == 0, packed.told());
        QVERIFY(long_.load(made));
    }
    void cleanup() {
        window_.close();
        QCoreApplication::removeTranslator(&long_);
    }

    void whatIsCountedHasAPlural() {
        Translation english;
        QVERIFY(english.load(QStringLiteral(":/translations/yarngap_en.qm")));
        int counted = 0;
        for (const Text& text : texts_) {
            if (!text.counts) continue;
            ++counted;
            for (const int n : {1, 2})
                QVERIFY2(
                    !english.translate(text.context.toUtf8(), text.source.toUtf8(), nullptr, n).isEmpty(),
                    qPrintable(text.source + QStringLiteral(" is missing: run scripts/texts --plurals")));
        }
        QVERIFY(counted > 30);
        // And English is there without being asked for.
        const auto repeats = [](int n) {
            return QCoreApplication::translate("yarngap::app::CleanStep", "%n repeats", nullptr, n);
        };
        QCOMPARE(repeats(1), QStringLiteral("1 repeat"));
        QCOMPARE(repeats(2), QStringLiteral("2 repeats"));
    }

    void theLocaleChoosesTheLanguage_data() {
        QTest::addColumn<QLocale>("locale");
        QTest::addColumn<QString>("halfWay");
        QTest::newRow("German") << QLocale(QLocale::German) << QStringLiteral("auf halbem Weg");
        QTest::newRow("of Austria") << QLocale(QLocale::German, QLocale::Austria)
                                    << QStringLiteral("auf halbem Weg");
        QTest::newRow("nobody has translated it") << QLocale(QLocale::French) << QStringLiteral("half way");
        QTest::newRow("English") << QLocale(QLocale::English) << QStringLiteral("half way");
    }
    void theLocaleChoosesTheLanguage() {
        QFETCH(QLocale, locale);
        QFETCH(QString, halfWay);
        const QString folder = clips_.path(QStringLiteral("data/yarngap/translations"));
        QVERIFY(QDir().mkpath(folder));
        const QString texts = clips_.path(QStringLiteral("yarngap_de.ts"));
        QFile out(texts);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(
            "<!DOCTYPE TS><TS version=\"2.1\" language=\"de\"><context><name>yarngap::app</name><message>"
            "<source>half way</source><translation>auf halbem Weg</translation></message></context></TS>");
        out.close();
        const Outcome packed = runProgram(QStringLiteral(YARNGAP_LRELEASE),
                                          {QStringLiteral("-silent"), texts, QStringLiteral("-qm"),
                                           folder + QStringLiteral("/yarngap_de.qm")});
        QVERIFY2(packed.status == 0, packed.told());
        qputenv("XDG_DATA_HOME", clips_.path(QStringLiteral("data")).toUtf8());
        const QLocale before;
        QLocale::setDefault(locale);
        const QList<QTranslator*> there = qApp->findChildren<QTranslator*>();
        applyLanguage(*qApp);
        const QString chosen = translated("half way");
        const QString left = translated("a quarter"); // nobody has translated that
        // A class that shows a text which was found under none has it too.
        const QString elsewhere = QCoreApplication::translate("yarngap::app::GapView", "half way");
        for (QTranslator* added : qApp->findChildren<QTranslator*>())
            if (!there.contains(added)) delete added;
        QLocale::setDefault(before);
        qunsetenv("XDG_DATA_HOME");
        QCOMPARE(chosen, halfWay);
        QCOMPARE(elsewhere, halfWay);
        QCOMPARE(left, QStringLiteral("a quarter"));
        QCOMPARE(translated("half way"), QStringLiteral("half way"));
    }

    void everyTextCanBeTranslated() {
        QVERIFY(QCoreApplication::installTranslator(&long_));
        window_.open(clips_.moving(QStringLiteral("heron.mp4"), 24,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
        std::set<QString> found;
        walkScreens(window_, [&](const QString&) {
            settleLayout();
            gather(found);
        });
        for (const QString& one : found) // a message of the test would be cut
            qWarning("%s", qPrintable(one));
        QVERIFY(found.empty());
    }

    void longerTextsHaveRoom_data() {
        QTest::addColumn<QSize>("size");
        QTest::newRow("1024x768") << QSize(1024, 768);
        QTest::newRow("1280x800") << QSize(1280, 800);
        QTest::newRow("1920x1080") << QSize(1920, 1080);
    }
    void longerTextsHaveRoom() {
        QFETCH(QSize, size);
        QVERIFY(QCoreApplication::installTranslator(&long_));
        window_.open(clips_.moving(QStringLiteral("heron.mp4"), 24,
                                   {QStringLiteral("-c:v"), QStringLiteral("libx264")}));
        window_->resize(size);
        std::set<QString> found;
        walkScreens(window_, [&](const QString& where) {
            QStringList faults;
            [[maybe_unused]] const bool isClean = QTest::qWaitFor(
                [&] {
                    settleLayout();
                    faults = faultsOf(*window_.operator->(), true);
                    return faults.isEmpty();
                },
                1000);
            for (const QString& fault : faults)
                found.insert(where + QStringLiteral(": ") + fault);
        });
        for (const QString& one : found) // a message of the test would be cut
            qWarning("%s", qPrintable(one));
        QVERIFY(found.empty());
    }
};

QTEST_MAIN(TestLanguage)
#include "test_language.moc"
