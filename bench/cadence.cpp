// What the program takes real clips for once they were telecined and interlaced: each clip is put through
// FFmpeg's `telecine`, `tinterlace` and `phase`, coded as MPEG-2 for fields, measured and taken apart again.
//
//     bench_cadence FOLDER CLIP[@LINES[@MEGABITS]]...
//
// FOLDER keeps what was made, so that a second run is quick. What lies on which field is read from numbered
// grey pictures that go through the same filters. A case is right when the kind and order of the fields are,
// every film frame of which both fields lie on one side of the break comes back, and no frame of two moments
// is passed off as whole; "quiet" when the program says that it cannot tell.

#include "core/inspection/proposals.h"
#include "core/media/interpreted_source.h"
#include "core/media/library_messages.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QRegularExpression>

#include <cstdio>
#include <map>
#include <set>
#include <stdexcept>

using namespace yarngap;

namespace {

constexpr int most = 96;       // film frames taken of a clip
constexpr int breakAt = 20;    // coded frame before which three are cut out
constexpr int numberSide = 16; // of the numbered pictures

struct Case {
    const char* name;
    CadenceKind kind;
    bool topFirst;
    const char* filter;
};

const std::vector<Case>& cases() {
    using enum CadenceKind;
    static const std::vector<Case> all{
        {"progressive", progressive, true, "null"},
        {"23, top first", pulldown32, true, "telecine=first_field=top:pattern=23"},
        {"23, bottom first", pulldown32, false, "telecine=first_field=bottom:pattern=23"},
        {"23, broken", pulldown32, true,
         "telecine=first_field=top:pattern=23,select='not(between(n,20,22))'"},
        {"2332, top first", pulldown2332, true, "telecine=first_field=top:pattern=2332"},
        {"2332, bottom first", pulldown2332, false, "telecine=first_field=bottom:pattern=2332"},
        {"2332, broken", pulldown2332, false,
         "telecine=first_field=bottom:pattern=2332,select='not(between(n,20,22))'"},
        {"interlaced, top first", interlaced, true, "tinterlace=interleave_top"},
        {"interlaced, bottom first", interlaced, false, "tinterlace=interleave_bottom"},
        {"2:2 shifted", shifted22, true, "phase=mode=t"},
    };
    return all;
}

/// A clip and how it is to be coded.
struct Base {
    QString file;
    QString name;
    int lines = 576;
    QString megabits = QStringLiteral("9");
};

Base baseFrom(const QString& text) {
    const QStringList parts = text.split(QLatin1Char('@'));
    Base base;
    base.file = parts[0];
    base.name = QFileInfo(base.file).completeBaseName();
    if (parts.size() > 1) base.lines = parts[1].toInt();
    if (parts.size() > 2) base.megabits = parts[2];
    return base;
}

QByteArray run(const QStringList& arguments) {
    QProcess ffmpeg;
    ffmpeg.setProcessChannelMode(QProcess::SeparateChannels);
    ffmpeg.start(QStringLiteral("ffmpeg"), QStringList{QStringLiteral("-v"), QStringLiteral("error"),
                                                       QStringLiteral("-nostdin"), QStringLiteral("-y")} +
                                               arguments);
    if (!ffmpeg.waitForFinished(-1) || ffmpeg.exitCode() != 0)
        throw std::runtime_error("ffmpeg: " + ffmpeg.readAllStandardError().toStdString());
    return ffmpeg.readAllStandardOutput();
}

struct Fields {
    int top, bottom;
};

/// Film frames of the fields of each coded frame, from numbered pictures sent through the filter of a case.
std::vector<Fields> fieldsOf(const Case& made, const QString& folder) {
    const QString numbered = QDir(folder).filePath(QStringLiteral("numbered.yuv"));
    QFile file(numbered);
    if (!file.open(QIODevice::WriteOnly)) throw std::runtime_error("The folder cannot be written.");
    constexpr int luma = numberSide * numberSide;
    for (int n = 0; n < most; ++n)
        file.write(QByteArray(luma, static_cast<char>(n + 16)) +
                   QByteArray(luma / 2, static_cast<char>(128)));
    file.close();
    const QByteArray raw =
        run(QStringLiteral("-f rawvideo -pix_fmt yuv420p -s 16x16 -r 25 -i").split(QLatin1Char(' ')) +
            QStringList{numbered, QStringLiteral("-vf"), QString::fromLatin1(made.filter)} +
            QStringLiteral("-vsync passthrough -f rawvideo -pix_fmt yuv420p -").split(QLatin1Char(' ')));
    std::vector<Fields> fields;
    for (qsizetype at = 0; at + luma * 3 / 2 <= raw.size(); at += luma * 3 / 2)
        fields.push_back({static_cast<unsigned char>(raw[at]) - 16,
                          static_cast<unsigned char>(raw[at + numberSide]) - 16});
    return fields;
}

QString codedClip(const Base& base, const Case& made, const QString& folder) {
    QString label = QString::fromLatin1(made.name);
    label.replace(QRegularExpression(QStringLiteral("[^a-z0-9]+")), QStringLiteral("_"));
    QString clip = QDir(folder).filePath(
        QStringLiteral("%1_%2_%3_%4.mpg").arg(base.name).arg(base.lines).arg(base.megabits, label));
    if (QFile::exists(clip)) return clip;
    const QString film = QStringLiteral("scale=-4:%1,setpts=N/25/TB,trim=end_frame=%2,format=yuv420p,%3")
                             .arg(base.lines)
                             .arg(most)
                             .arg(QString::fromLatin1(made.filter));
    const bool onFields = made.kind != CadenceKind::progressive;
    QStringList arguments{QStringLiteral("-i"), base.file, QStringLiteral("-vf"),
                          film + QStringLiteral(",setpts=N/25/TB")};
    arguments += QStringLiteral("-an -r 25 -c:v mpeg2video -g 12 -bf 2 -f mpeg").split(QLatin1Char(' '));
    arguments << QStringLiteral("-b:v") << base.megabits + QStringLiteral("M") << QStringLiteral("-maxrate")
              << base.megabits + QStringLiteral("M") << QStringLiteral("-bufsize") << QStringLiteral("2M");
    if (onFields)
        arguments << QStringLiteral("-flags") << QStringLiteral("+ilme+ildct") << QStringLiteral("-top")
                  << QString::number(made.topFirst ? 1 : 0);
    run(arguments + QStringList{clip + QStringLiteral(".part")});
    QFile::rename(clip + QStringLiteral(".part"), clip);
    return clip;
}

/// Which film frames have both fields on one side of the break.
std::set<int> recoverable(const Case& made, const std::vector<Fields>& fields, std::size_t frames) {
    std::set<int> whole;
    const bool isBroken = std::string_view(made.name).find("broken") != std::string_view::npos;
    std::map<std::pair<int, bool>, int> seen;
    for (std::size_t n = 0; n < std::min(frames, fields.size()); ++n) {
        const bool behind = isBroken && n >= breakAt;
        seen[{fields[n].top, behind}] |= 1;
        seen[{fields[n].bottom, behind}] |= 2;
    }
    for (const auto& [at, both] : seen)
        if (both == 3) whole.insert(at.first);
    return whole;
}

struct Verdict {
    enum class What { right, quiet, wrong } what = What::wrong;
    std::string told;
};

Verdict judge(const Base& base, const Case& made, const QString& folder) {
    const std::vector<Fields> fields = fieldsOf(made, folder);
    const QString clip = codedClip(base, made, folder);
    const auto index = std::make_shared<const MediaIndex>(buildIndex(clip.toStdString()));
    const ShotFindings findings = inspectShot(index);
    Verdict verdict;
    verdict.told = findings.describe();
    bool isQuiet = true;
    for (const CadenceRun& r : findings.cadence)
        isQuiet = isQuiet && r.evidence == 0;
    if (isQuiet) {
        verdict.what = Verdict::What::quiet;
        return verdict;
    }
    // What the program does not claim to know is not held against it.
    std::set<int> untold;
    for (const CadenceRun& r : findings.cadence)
        for (auto n = static_cast<std::size_t>(r.first);
             r.evidence == 0 && n <= static_cast<std::size_t>(r.last); ++n)
            if (n < fields.size()) untold.insert({fields[n].top, fields[n].bottom});
    const Interpretation taken = measuredInterpretation(*index, findings);
    std::set<int> got;
    int mixed = 0;
    for (const FrameRecipe& recipe : recipesFor(*index, taken)) {
        const auto top = static_cast<std::size_t>(recipe.top);
        const auto bottom =
            static_cast<std::size_t>(recipe.kind == FrameRecipe::Kind::woven ? recipe.bottom : recipe.top);
        if (recipe.kind == FrameRecipe::Kind::field || top >= fields.size() || bottom >= fields.size())
            continue;
        if (fields[top].top == fields[bottom].bottom)
            got.insert(fields[top].top);
        else
            mixed += untold.count(fields[top].top) || untold.count(fields[bottom].bottom) ? 0 : 1;
    }
    const auto is = [&](const CadenceRun& r) { return r.kind == made.kind && r.topFirst == made.topFirst; };
    if (made.kind == CadenceKind::interlaced) {
        const bool right = std::all_of(findings.cadence.begin(), findings.cadence.end(), is);
        verdict.what = right ? Verdict::What::right : Verdict::What::wrong;
        return verdict;
    }
    int lost = 0;
    for (const int frame : recoverable(made, fields, static_cast<std::size_t>(index->frames())))
        lost += got.count(frame) == 0 && untold.count(frame) == 0 ? 1 : 0;
    const bool invented = made.kind == CadenceKind::progressive && taken.fields != FieldUse::asCoded;
    if (lost == 0 && mixed == 0 && !invented) verdict.what = Verdict::What::right;
    verdict.told += " — " + std::to_string(lost) + " lost, " + std::to_string(mixed) + " mixed;";
    for (const CadenceRun& r : findings.cadence)
        verdict.told += " " + std::to_string(r.first) + " " + std::string(name(r.kind)) +
                        (r.topFirst ? " t" : " b") + std::to_string(r.phase);
    return verdict;
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        std::fprintf(stderr, "Usage: bench_cadence FOLDER CLIP[@LINES[@MEGABITS]]...\n");
        return 2;
    }
    silenceMediaLibraries();
    const QString folder = QString::fromLocal8Bit(argv[1]);
    QDir().mkpath(folder);
    std::array<int, 3> sums{};
    try {
        for (int i = 2; i < argc; ++i) {
            const Base base = baseFrom(QString::fromLocal8Bit(argv[i]));
            std::array<int, 3> counts{};
            std::string wrong;
            for (const Case& made : cases()) {
                const Verdict verdict = judge(base, made, folder);
                ++counts.at(static_cast<std::size_t>(verdict.what));
                ++sums.at(static_cast<std::size_t>(verdict.what));
                if (verdict.what == Verdict::What::wrong)
                    wrong += std::string("    ") + made.name + ": " + verdict.told + "\n";
                if (verdict.what == Verdict::What::quiet)
                    wrong += std::string("    (quiet) ") + made.name + ": " + verdict.told + "\n";
            }
            std::printf("%s, %d lines, %s Mb/s: %d right, %d too quiet, %d wrong\n%s", qPrintable(base.name),
                        base.lines, qPrintable(base.megabits), counts[0], counts[1], counts[2],
                        wrong.c_str());
            std::fflush(stdout);
        }
    } catch (const std::exception& error) {
        std::fprintf(stderr, "%s\n", error.what());
        return 1;
    }
    std::printf("all: %d right, %d too quiet, %d wrong\n", sums[0], sums[1], sums[2]);
    return 0;
}
