// What the stage tells a screen reader.

#include "app/stage/picture_stage.h"

#include <cmath>

namespace yarngap::app {

void PictureStage::setSentence(const QString& sentence) {
    if (sentence_ == sentence) return;
    sentence_ = sentence;
    tellCurrentPart(*this);
}

int PictureStage::partCount() const {
    if (!plan_ || plan_->rows.empty()) return 0;
    const Flanks beside = sides();
    return 1 + (beside.before ? 1 : 0) + (beside.after ? 1 : 0);
}

DrawnPart PictureStage::part(int index) const {
    const Flanks beside = sides();
    if (index == 0)
        return {.name = sentence_,
                .description = tr("Arrow keys step"),
                .role = QAccessible::Slider,
                .place = pictureRect().intersected(pictureArea()),
                .value = DrawnPart::Value{static_cast<double>(player_.playhead()), 0,
                                          static_cast<double>(plan_->rows.size() - 1), 1},
                .canBeSet = true};
    const auto [before, after] = flankPlaces();
    const bool isBefore = index == 1 && beside.before;
    return {.name = isBefore ? tr("Source frame before: %1").arg(*beside.before)
                             : tr("Source frame after: %1").arg(*beside.after),
            .role = QAccessible::Graphic,
            .place = isBefore ? before : after};
}

void PictureStage::setPart(int index, double value) {
    if (index == 0) player_.goTo(std::llround(value));
}

} // namespace yarngap::app
