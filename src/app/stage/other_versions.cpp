#include "app/stage/other_versions.h"

namespace yarngap::app {

OtherVersions::OtherVersions(Player& player, QObject* parent)
    : QObject(parent)
    , player_(player) {
    connect(&player_, &Player::moved, this, [this] { want(player_.speed() < 0 ? -1 : 1); });
    connect(&player_, &Player::stateChanged, this, [this] {
        if (player_.speed() != 0) want(player_.speed());
    });
    connect(&player_, &Player::loopChanged, this, [this] {
        for (const auto& preview : previews_)
            preview->setLoop(player_.loop());
    });
}

void OtherVersions::want(int direction) {
    for (const auto& preview : previews_)
        preview->want(player_.clockFrame(), direction);
}

void OtherVersions::addPreview() {
    previews_.push_back(std::make_unique<Preview>());
    Preview* preview = previews_.back().get();
    const auto take = [this](qint64 output) {
        if (output == player_.playhead()) Q_EMIT pictureChanged();
    };
    connect(preview, &Preview::pictureReady, this, take);
    connect(preview, &Preview::draftReady, this, take);
    // What is there already, at a size had before, is not made again.
    connect(preview, &Preview::readyReset, this, &OtherVersions::pictureChanged);
}

void OtherVersions::show(const std::vector<OtherVersion>& versions) {
    // They stay, with nothing to do: to end their threads would mean to wait for them.
    for (std::size_t i = versions.size(); i < previews_.size(); ++i)
        previews_[i]->setShot(nullptr);
    while (previews_.size() < versions.size())
        addPreview();
    names_.clear();
    for (const OtherVersion& version : versions)
        names_.append(version.name);
    setMemory(bytes_);
    for (std::size_t i = 0; i < versions.size(); ++i) {
        previews_[i]->want(player_.playhead(), 1);
        previews_[i]->setLoop(player_.loop());
        previews_[i]->setShot(versions[i].frames);
    }
}

void OtherVersions::setMemory(std::size_t bytes) {
    bytes_ = bytes;
    const auto used = static_cast<std::size_t>(names_.size());
    for (std::size_t i = 0; i < previews_.size(); ++i)
        previews_[i]->setMemory(i < used ? bytes / used : 0, 0); // overlays tell of the present one alone
}

} // namespace yarngap::app
