// What a demo shot shows at a moment.
#pragma once

#include <QPainter>

#include <memory>

namespace yarngap::theatre {

/// A moving picture drawn at any moment. `draw` may be called from several threads at once.
class Scene {
  public:
    Scene() = default;
    Scene(const Scene&) = delete;
    Scene& operator=(const Scene&) = delete;
    Scene(Scene&&) = delete;
    Scene& operator=(Scene&&) = delete;
    virtual ~Scene() = default;

    /// Draws the picture at `seconds` on a painter of `width` x `height` pixels with antialiasing on.
    virtual void draw(QPainter& painter, double seconds) const = 0;
};

std::unique_ptr<Scene> heronGlide(int width, int height);
std::unique_ptr<Scene> foxOnTwos(int width, int height);
/// The same fox drawn anew in every moment: what the other would be without holds.
std::unique_ptr<Scene> foxOnOnes(int width, int height);
std::unique_ptr<Scene> bellSwing(int width, int height);
std::unique_ptr<Scene> lanternParade(int width, int height);
std::unique_ptr<Scene> toyBox(int width, int height);
std::unique_ptr<Scene> starWheel(int width, int height);

} // namespace yarngap::theatre
