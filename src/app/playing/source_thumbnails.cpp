#include "app/playing/source_thumbnails.h"

#include "app/document/media_library.h"
#include "app/look/theme.h"
#include "core/background_priority.h"
#include "core/image/rgb_picture.h"

#include <cmath>
#include <utility>

namespace yarngap::app {

SourceThumbnails::SourceThumbnails(QObject* parent)
    : QObject(parent) {}

void SourceThumbnails::setShot(const MediaFacts& facts, Open open) {
    ++shot_;
    open_ = std::move(open);
    facts_ = facts;
    const double high = std::max(1, facts.height);
    aspect_ = std::clamp(facts.width * facts.pixelAspect.toDouble() / high, 0.4, 3.0);
    frames_ = std::make_shared<std::shared_ptr<ShotFrames>>();
    pictures_.clear();
    wanted_.clear();
    Q_EMIT ready();
}

QImage SourceThumbnails::picture(std::int64_t n) {
    return pictures_.find(n).value_or(QImage());
}

void SourceThumbnails::want(std::vector<std::int64_t> frames) {
    wanted_ = std::move(frames);
    if (!reading_) readNext();
}

void SourceThumbnails::readNext() {
    if (wanted_.empty() || !open_) return;
    const std::int64_t n = wanted_.front();
    wanted_.erase(wanted_.begin());
    if (pictures_.contains(n)) {
        readNext();
        return;
    }
    reading_ = true;
    tasks_.run([this, n, shot = shot_, open = open_, holder = frames_, facts = facts_,
                wide = aspect_](const std::stop_token& stop) {
        yieldToInterface();
        // What cannot be read leaves its place empty; the picture stage says why when the playhead is there.
        QImage picture(1, 1, QImage::Format_RGB32);
        picture.fill(shades().paper);
        try {
            if (!*holder) *holder = open();
            const ImagePtr image = (*holder)->frame(n, stop);
            const int width = std::max(1, static_cast<int>(std::lround(height * wide)));
            picture = toQImage(toScreenRgb(*image, facts.colour, width, height));
        } catch (const std::exception&) { // stopped, or unreadable
        }
        postTo(this, [this, n, shot, picture] {
            reading_ = false;
            if (shot == shot_) {
                pictures_.insert(n, picture, static_cast<std::size_t>(picture.sizeInBytes()));
                Q_EMIT ready();
            }
            readNext();
        });
    });
}

} // namespace yarngap::app
