// The frames of a file as its interpretation makes them.
#pragma once

#include "core/media/frame_source.h"
#include "core/media/interpretation.h"

namespace yarngap {

/// Frames of a file as interpreted: woven, deinterlaced, turned, renumbered. Thread-safe. Made frames are
/// kept within a limit of their own; coded ones stay in the cache of the FrameSource.
///
///     InterpretedSource film(source, index, {.fields = FieldUse::removePulldown, .pulldown = runs});
class InterpretedSource final : public ShotFrames {
  public:
    static constexpr std::size_t defaultCacheBytes = std::size_t{96} << 20;

    InterpretedSource(std::shared_ptr<FrameSource> coded, const std::shared_ptr<const MediaIndex>& index,
                      const Interpretation& interpretation, std::size_t cacheBytes = defaultCacheBytes);

    using ShotFrames::frame;
    using ShotFrames::identityOf;
    ImagePtr frame(std::int64_t n, const std::stop_token& stop) override;
    [[nodiscard]] const MediaFacts& facts() const override { return facts_; }
    [[nodiscard]] std::string identityOf(std::int64_t first, std::int64_t last) const override;
    [[nodiscard]] std::vector<std::filesystem::path> files() const override { return coded_->files(); }
    [[nodiscard]] std::optional<FrameTrouble> troubleOf(std::int64_t n) const override;

  private:
    [[nodiscard]] Image make(const FrameRecipe& recipe, const std::stop_token& stop);

    std::shared_ptr<FrameSource> coded_;
    MediaFacts facts_;
    std::vector<FrameRecipe> recipes_;
    bool topFirst_;
    int rotation_;
    std::string prefix_; ///< of identities: the file, and what goes for all its frames
    LruCache<std::int64_t, ImagePtr> cache_;
};

/// The frames of a shot: `coded` itself when there is nothing to interpret.
std::shared_ptr<ShotFrames> interpreted(const std::shared_ptr<FrameSource>& coded,
                                        const std::shared_ptr<const MediaIndex>& index,
                                        const Interpretation& interpretation,
                                        std::size_t cacheBytes = InterpretedSource::defaultCacheBytes);

/// The top lines of `top` and the bottom lines of `bottom`, in every plane. Same size and layout.
Image weave(const Image& top, const Image& bottom);
/// Turned clockwise by 90, 180 or 270 degrees; subsampling turns along.
Image turned(const Image& image, int degrees);

} // namespace yarngap
