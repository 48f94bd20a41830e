#include "app/steps/render_wish.h"

#include "core/error.h"
#include "core/media/frame_writer.h"
#include "core/render/file_names.h"

#include <QObject>

namespace yarngap::app {

namespace {

WorkShot workShotOf(const Shot& shot, Document& document, const std::optional<Rate>& rate) {
    const auto& index = document.media().state(shot.media).index;
    const auto axis = document.axisOf(shot);
    if (!index || !axis)
        throw Error(shot.name + " is not ready yet, or its file is missing. Look at its card in the list.");
    validate(shot.interpretation, *index);
    WorkShot work{.shot = shot, .timing = shot.timing(axis->facts().rate, axis->frames())};
    work.shot.identity = index->identity; // of what is there now
    if (rate) work.timing = withOutputRate(work.timing, *rate);
    work.found = document.gapFindingsOf(shot);
    return work;
}

/// The same name with the ending of a second format.
std::filesystem::path besides(const std::filesystem::path& file, OutputFormat format) {
    std::filesystem::path other = file;
    other.replace_extension(extension(format));
    if (other == file) other.replace_filename(file.stem().string() + "_2" + std::string(extension(format)));
    return other;
}

} // namespace

std::vector<RenderWork> worksFor(const RenderWish& wish, Document& document) {
    const std::vector<Shot>& shots = document.project().shots;
    const Shot& current = *document.current();
    std::vector<RenderWork> works;
    const auto add = [&](const std::string& name, std::vector<WorkShot> of) {
        RenderWork& work = works.emplace_back();
        work.name = name;
        work.shots = std::move(of);
        work.settings = wish.settings;
        work.spared = filesToKeep(document);
        refuseScanAt(work.settings.scan, work.rate());
    };
    switch (wish.scope) {
    case RenderScope::each:
        for (const Shot& shot : shots)
            add(shot.name, {workShotOf(shot, document, {})});
        if (works.size() > 1 && !namesShots(wish.pattern))
            throw Error("All shots would get one name. Put {shot} or {version} into it.");
        break;
    case RenderScope::reel: {
        std::vector<WorkShot> all;
        all.reserve(shots.size());
        for (const Shot& shot : shots)
            all.push_back(workShotOf(shot, document, document.currentTiming()->outputRate));
        add(QObject::tr("reel").toStdString(), std::move(all));
        break;
    }
    case RenderScope::edit: // goes its own way, see EditReturn
    case RenderScope::loop:
    case RenderScope::shot: {
        WorkShot work = workShotOf(current, document, {});
        work.timing = *document.currentTiming();
        if (wish.loop && wish.scope == RenderScope::loop) {
            work.first = wish.loop->first;
            work.last = wish.loop->second;
        }
        add(current.name, {work});
        break;
    }
    }
    return works;
}

bool countsVersions(const RenderWish& wish) {
    return wish.pattern.find("{version") != std::string::npos;
}

void giveNames(std::vector<RenderWork>& works, const RenderWish& wish,
               std::set<std::filesystem::path> taken) {
    for (RenderWork& work : works) {
        const WorkShot& first = work.shots.front();
        // Shots of one name get different ones; a name that was typed whole is taken as it is.
        const bool apart = works.size() > 1 || countsVersions(wish);
        const std::filesystem::path file =
            apart ? fileApart(wish.pattern, first.shot, first.timing, taken)
                  : std::filesystem::absolute(fileNamed(wish.pattern, first.shot, first.timing));
        refuseEnding(file, wish.settings.format.format);
        work.targets = {{file, wish.settings.format, wish.replace}};
        if (wish.also) work.targets.push_back({besides(file, *wish.also), *wish.also, wish.replace});
        if (apart) continue;
        for (const RenderTarget& target : work.targets)
            if (taken.contains(target.file))
                throw Error(target.file.filename().string() +
                            " is going to be written by a render in the queue. Choose another name, or put "
                            "{version} into it.");
    }
}

QString whatIsThere(const std::vector<RenderWork>& works) {
    int files = 0;
    int pictures = 0;
    for (const RenderWork& work : works)
        for (const RenderTarget& target : work.targets) {
            std::error_code ec;
            try {
                if (!isSequence(target.format.format))
                    files += std::filesystem::exists(target.file, ec) ? 1 : 0;
                else
                    pictures += static_cast<int>(picturesThere(target.file).size());
            } catch (const Error&) {
                // Rendering tells what is wrong with the name.
            }
        }
    if (pictures > 0)
        return QObject::tr("%n pictures of that name exist and will be replaced.", nullptr, pictures);
    return files > 0 ? QObject::tr("%n of these files exist and will be replaced.", nullptr, files)
                     : QString();
}

std::vector<std::filesystem::path> filesToKeep(const Document& document) {
    std::vector<std::filesystem::path> files{document.file().toStdString()};
    for (const Shot& shot : document.project().shots) {
        files.push_back(shot.media);
        files.push_back(shot.matte.pictures);
        if (shot.edit) files.push_back(shot.edit->list);
    }
    std::erase_if(files, [](const std::filesystem::path& file) { return file.empty(); });
    return files;
}

} // namespace yarngap::app
