#include "app/stage/sheet_pictures.h"

#include "app/document/media_library.h"
#include "core/background_priority.h"
#include "core/files/write_failure.h"
#include "core/image/rgb_picture.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

SheetPictures::~SheetPictures() {
    stop_.request_stop();
}

void SheetPictures::setFootage(const Footage& footage) {
    footage_ = footage;
    wanted_.clear();
    stopReading(); // what is being made may be of no use now
    if (!footage.frames) return;
    const MediaFacts& facts = footage.frames->facts();
    aspect_ = std::clamp(facts.width * facts.pixelAspect.toDouble() / std::max(1, facts.height), 0.2, 5.0);
}

std::optional<SheetPictures::Place> SheetPictures::placeOf(const SheetPicture& which) const {
    if (!footage_.frames || which.frame < 0 || which.frame >= footage_.axis->interpretedFrames())
        return std::nullopt;
    Place place{footage_.interpreted, which.frame, {}};
    if (which.after) {
        const auto cleaned = footage_.axis->frameOf(which.frame);
        if (!cleaned) return std::nullopt; // it is taken out
        place = {footage_.frames, *cleaned, {}};
    }
    place.key = place.frames->identityOf(place.number) + (which.large ? ":large" : ":small");
    return place;
}

QImage SheetPictures::picture(const SheetPicture& which) {
    const auto place = placeOf(which);
    const auto made = place ? pictures_.find(place->key) : std::nullopt;
    return made ? made->image : QImage();
}

QString SheetPictures::troubleOf(const SheetPicture& which) {
    const auto place = placeOf(which);
    const auto made = place ? pictures_.find(place->key) : std::nullopt;
    return made ? made->trouble : QString();
}

void SheetPictures::want(std::vector<SheetPicture> pictures) {
    wanted_ = std::move(pictures);
    const auto isRunning = [this](const SheetPicture& which) {
        const auto place = placeOf(which);
        return place && place->key == running_;
    };
    // A frame that is made again takes its time; nobody waits for one that is on another page.
    if (reading_ && std::ranges::none_of(wanted_, isRunning)) stopReading();
    if (!reading_) readNext();
}

void SheetPictures::stopReading() {
    stop_.request_stop();
    stop_ = {};
}

void SheetPictures::readNext() {
    std::optional<Place> place;
    bool large = false;
    while (!wanted_.empty() && !place) {
        large = wanted_.front().large;
        place = placeOf(wanted_.front());
        wanted_.erase(wanted_.begin());
        if (place && pictures_.contains(place->key)) place.reset();
    }
    if (!place) return;
    reading_ = true;
    running_ = place->key;
    tasks_.run(
        [this, place = *place, large, aspect = aspect_, stop = stop_.get_token()](const std::stop_token&) {
            yieldToInterface();
            Made made;
            bool stopped = false;
            try {
                const ImagePtr image = place.frames->frame(place.number, stop);
                const int width = large ? std::min(largeWidth, image->width()) : smallWidth;
                const int height = std::max(1, static_cast<int>(std::lround(width / aspect)));
                made.image = toQImage(toScreenRgb(*image, place.frames->facts().colour, width, height));
            } catch (const Cancelled&) {
                stopped = true;
            } catch (const std::exception& error) {
                made.trouble = QString::fromStdString(sentenceOf(error));
            }
            postTo(this, [this, key = place.key, made, stopped] {
                reading_ = false;
                if (!stopped) {
                    pictures_.insert(key, made, static_cast<std::size_t>(made.image.sizeInBytes()) + 256);
                    Q_EMIT ready();
                }
                readNext();
            });
        });
}

} // namespace yarngap::app
