#include "app/document/media_library.h"

#include "core/background_priority.h"
#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/inspection/proposals.h"
#include "core/media/interpreted_source.h"

#include <QFileInfo>

#include <chrono>

namespace yarngap::app {

namespace {

// Ranks of tasks: a picture of every file comes before the count of any but the preferred one.
constexpr int firstPictures = 0;
constexpr int counting = 1;

constexpr Size thumbnailBox{100, 56};
constexpr Size firstPictureBox{1280, 800};

QImage pictureFor(const Image& image, const MediaFacts& facts, Size box) {
    const Size whole{image.width(), image.height()};
    const Size target = fitted(image.width(), image.height(), facts.pixelAspect.toDouble(),
                               {std::min(box.width, whole.width), std::min(box.height, whole.height)});
    return toQImage(toScreenRgb(image, facts.colour, target.width, target.height));
}

QString keyOf(const std::filesystem::path& path) {
    return QString::fromStdString(path.string());
}

} // namespace

QImage toQImage(const RgbPicture& picture) {
    return QImage(picture.bgra.data(), picture.width, picture.height, static_cast<qsizetype>(picture.stride),
                  QImage::Format_RGB32)
        .copy();
}

MediaLibrary::MediaLibrary(QObject* parent)
    : QObject(parent)
    , known_(knownMediaOfUser()) {
    connect(&folders_, &QFileSystemWatcher::directoryChanged, this, &MediaLibrary::lookAgainIn);
}

const MediaState& MediaLibrary::state(const std::filesystem::path& path) const {
    static const MediaState unknown;
    const auto it = states_.constFind(keyOf(path));
    return it == states_.constEnd() ? unknown : *it;
}

template <typename Change>
void MediaLibrary::update(const QString& path, Change change) {
    postTo(this, [this, path, change = std::move(change)] {
        change(states_[path]);
        Q_EMIT changed(path);
    });
}

void MediaLibrary::open(const std::filesystem::path& path) {
    const QString key = keyOf(path);
    if (const auto it = states_.constFind(key);
        it != states_.constEnd() && it->stage != MediaState::Stage::failed)
        return;
    states_[key] = {};
    states_[key].facts.path = path;
    tasks_.run([this, key](const std::stop_token& stop) { openFirstPicture(key, stop); }, firstPictures, key);
    const auto count = [this, key](const std::stop_token& stop) {
        const std::filesystem::path file = key.toStdString();
        auto lastShown = std::chrono::steady_clock::now();
        try {
            auto index = known_->index(
                file,
                [&](double share) {
                    const auto now = std::chrono::steady_clock::now();
                    if (now - lastShown < std::chrono::milliseconds(100)) return;
                    lastShown = now;
                    update(key, [share](MediaState& s) { s.progress = share; });
                },
                stop);
            update(key, [index](MediaState& s) {
                s.index = index;
                s.facts = index->facts;
                s.stage = MediaState::Stage::ready;
            });
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            std::error_code ec;
            const bool missing = !std::filesystem::exists(file, ec);
            QString text = QString::fromStdString(sentenceOf(error));
            if (missing && std::filesystem::is_directory(file.parent_path(), ec))
                text += QLatin1Char(' ') + tr("Once it is there, it opens by itself.");
            update(key, [text, missing](MediaState& s) {
                s.stage = MediaState::Stage::failed;
                s.trouble = text;
                s.isMissing = missing;
            });
            if (missing) postTo(this, [this, key] { watchFor(key); });
        }
    };
    tasks_.run(count, counting, key);
    Q_EMIT changed(key);
}

void MediaLibrary::watchFor(const QString& path) {
    folders_.addPath(QFileInfo(path).path());
    lookAgainIn(QFileInfo(path).path()); // it may have come meanwhile
}

void MediaLibrary::lookAgainIn(const QString& folder) {
    QStringList awaited;
    for (auto it = states_.cbegin(); it != states_.cend(); ++it)
        if (it->isMissing && QFileInfo(it.key()).path() == folder) awaited.append(it.key());
    if (awaited.isEmpty()) folders_.removePath(folder);
    tasks_.run([this, awaited](const std::stop_token&) {
        for (const QString& path : awaited)
            if (QFileInfo::exists(path))
                postTo(this, [this, path] {
                    if (states_[path].isMissing) openAgain(path.toStdString());
                });
    });
}

void MediaLibrary::openAgain(const std::filesystem::path& path) {
    states_.remove(keyOf(path));
    open(path);
}

void MediaLibrary::prefer(const std::filesystem::path& path) {
    tasks_.prefer(keyOf(path));
    measuring_.prefer(keyOf(path));
}

void MediaLibrary::measure(const std::filesystem::path& path) {
    const QString key = keyOf(path);
    const auto it = states_.find(key);
    if (it == states_.end() || !it->index || it->measured >= 0) return;
    it->measured = 0;
    const auto work = [this, key, index = it->index](const std::stop_token& stop) {
        yieldToInterface();
        auto lastShown = std::chrono::steady_clock::now();
        try {
            const auto findings = known_->findings(
                index,
                [&](double share) {
                    const auto now = std::chrono::steady_clock::now();
                    if (now - lastShown < std::chrono::milliseconds(250)) return;
                    lastShown = now;
                    update(key, [share](MediaState& s) { s.measured = share; });
                },
                stop);
            update(key, [findings](MediaState& s) {
                s.measured = 1;
                s.findings = findings;
            });
            const auto suitability = known_->suitability(index, *findings, stop);
            update(key, [suitability](MediaState& s) { s.suitability = suitability; });
        } catch (const std::exception&) {
            // Cancelled, or the file went away: reading its frames tells that where it matters.
        }
    };
    measuring_.run(work, 0, key);
}

void MediaLibrary::openFirstPicture(const QString& path, const std::stop_token& stop) {
    try {
        MediaFacts facts;
        const ImagePtr image = decodeFirstPicture(path.toStdString(), facts, stop);
        const QImage first = pictureFor(*image, facts, firstPictureBox);
        const QImage thumbnail = pictureFor(*image, facts, thumbnailBox);
        update(path, [facts, first, thumbnail](MediaState& s) {
            if (s.stage != MediaState::Stage::opening) return;
            s.facts = facts;
            s.firstPicture = first;
            s.thumbnail = thumbnail;
            s.stage = MediaState::Stage::indexing;
        });
    } catch (const std::exception&) {
        // Building the index meets the same trouble and reports it.
    }
}

} // namespace yarngap::app
