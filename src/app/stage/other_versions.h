// The frames of versions that the present one is compared with.
#pragma once

#include "app/playing/player.h"
#include "app/playing/preview.h"

#include <QObject>
#include <QStringList>

#include <memory>
#include <vector>

namespace yarngap::app {

/// A version to compare with; its frames are null while its media is being opened.
struct OtherVersion {
    OutputFramesPtr frames;
    QString name;
};

/// Makes the frames of up to three other versions, at the playhead and where it goes.
class OtherVersions : public QObject {
    Q_OBJECT
  public:
    OtherVersions(Player& player, QObject* parent);

    void show(const std::vector<OtherVersion>& versions);
    [[nodiscard]] bool isEmpty() const { return names_.isEmpty(); }
    [[nodiscard]] qsizetype count() const { return names_.size(); }
    [[nodiscard]] Preview* preview(qsizetype i) const { return previews_[static_cast<std::size_t>(i)].get(); }
    [[nodiscard]] const QString& name(qsizetype i) const { return names_[i]; }
    /// Bytes for their pictures, all together.
    void setMemory(std::size_t bytes);

  Q_SIGNALS:
    void pictureChanged(); ///< there is another picture for the playhead

  private:
    void want(int direction);
    void addPreview();
    Player& player_;
    std::vector<std::unique_ptr<Preview>> previews_; ///< made when first needed, and kept
    QStringList names_;
    std::size_t bytes_ = Preview::defaultPictureBytes;
};

} // namespace yarngap::app
