// Edits opened into the project.

#include "app/document/document.h"
#include "app/document/shots_command.h"
#include "core/files/write_failure.h"

#include <QFileInfo>

#include <algorithm>

namespace yarngap::app {

namespace {

/// The first few of many sentences.
QString shortened(const std::vector<std::string>& sentences) {
    constexpr std::size_t most = 4;
    QStringList told;
    for (std::size_t i = 0; i < std::min(most, sentences.size()); ++i)
        told << QString::fromStdString(sentences[i]);
    if (sentences.size() > most) told << Document::tr("%1 more.").arg(sentences.size() - most);
    return told.join(QLatin1Char('\n'));
}

} // namespace

void Document::openEditList(const QString& list, const QString& folder, const std::optional<Rate>& rate) {
    if (!rate && list.endsWith(QLatin1String(".edl"), Qt::CaseInsensitive)) {
        Q_EMIT edlNeedsRate(list);
        return;
    }
    edits_.run([this, list, folder, rate, known = media_.known()](const std::stop_token& stop) {
        try {
            const std::filesystem::path file = list.toStdString();
            const EditList read = loadEdit(file, rate.value_or(Rate()));
            const MediaFinder finder({folder.toStdString()}, stop);
            const OpenedEdit opened = openEdit(read, file, finder, *known, stop);
            postTo(this, [this, list, opened] { takeEdit(list, opened); });
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            postTo(this, [this, text = QString::fromStdString(sentenceOf(error))] { Q_EMIT trouble(text); });
        }
    });
}

void Document::takeEdit(const QString& list, const OpenedEdit& opened) {
    const std::filesystem::path file = list.toStdString();
    std::vector<Shot> ofList;
    std::vector<Shot> others;
    for (const Shot& shot : project_.shots)
        (shot.edit && shot.edit->list == file ? ofList : others).push_back(shot);
    const OpenedEdit now = ofList.empty() ? opened : withTreatment(opened, ofList);
    const bool isMissing = std::ranges::any_of(opened.problems, [](const std::string& problem) {
        return problem.find("is not in the folders given") != std::string::npos;
    });
    const QString told = shortened(now.problems);
    if (now.shots.empty()) {
        Q_EMIT editOpened(list,
                          tr("No event of %1 could be opened.").arg(QFileInfo(list).fileName()) +
                              QLatin1Char('\n') + told,
                          isMissing);
        return;
    }
    std::vector<Shot> shots = others;
    const auto first = static_cast<int>(shots.size());
    shots.insert(shots.end(), now.shots.begin(), now.shots.end());
    if (shots != project_.shots)
        undo_.push(new ShotsCommand(*this, tr("open %1").arg(QFileInfo(list).fileName()), shots, first, 0));
    if (!told.isEmpty())
        Q_EMIT editOpened(list,
                          tr("%n shots of %1 are open.", nullptr, static_cast<int>(now.shots.size()))
                                  .arg(QFileInfo(list).fileName()) +
                              QLatin1Char('\n') + told,
                          isMissing);
}

} // namespace yarngap::app
