// The settings of a render: format, quality and what else there is to choose.
#pragma once

#include "app/look/choice_box.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/render/render_settings.h"
#endif

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSlider>
#include <QWidget>

#include <optional>
#include <vector>

namespace yarngap::app {

class FoldHeader;

/// Shows settings and changes them by hand.
class OutputSettings : public QWidget {
    Q_OBJECT
  public:
    explicit OutputSettings(QWidget* parent = nullptr);

    /// As they stand; a start timecode that is none yet counts as that of the source.
    [[nodiscard]] RenderSettings settings() const;
    void setSettings(const RenderSettings& settings);
    void setFormat(OutputFormat format);
    [[nodiscard]] OutputFormat format() const { return settings_.format.format; }
    /// The second format that frames are written in; absent for none.
    [[nodiscard]] std::optional<OutputFormat> also() const;
    /// What the source has, for the fields that follow it.
    void showSource(bool hasSound, const QString& timecode, const QString& reel);

  Q_SIGNALS:
    void changed(); ///< by hand

  private:
    void layOut();
    void fillFormats();
    void connectParts();
    ChoiceBox* box(const char* name, const QString& accessibleName);
    void showFormat();
    void showRest();
    void fill(ChoiceBox* box, const QString& first, const std::vector<std::pair<QString, int>>& entries,
              int chosen);
    void take(const std::function<void(RenderSettings&)>& change);

    RenderSettings settings_;
    ChoiceBox* format_;
    QSlider* quality_;
    QLabel* qualityWords_;
    FoldHeader* header_;
    QWidget* more_;
    ChoiceBox* depth_;
    ChoiceBox* chroma_;
    ChoiceBox* compression_;
    ChoiceBox* scan_;
    ChoiceBox* sound_;
    ChoiceBox* soundFormat_;
    ChoiceBox* timecode_;
    QLineEdit* start_;
    QLineEdit* reel_;
    ChoiceBox* also_;
    QLabel* cost_;
    bool filling_ = false;
};

} // namespace yarngap::app
