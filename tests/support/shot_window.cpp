#include "support/shot_window.h"

namespace yarngap::test {

void ShotWindow::open(const QString& clip) {
    window_ = std::make_unique<app::MainWindow>();
    window_->resize(1280, 800);
    window_->show();
    if (!QTest::qWaitForWindowExposed(window_.get())) qFatal("The window does not come");
    window_->document().openFiles({clip});
    if (!QTest::qWaitFor([this] { return window_->plan() != nullptr; }, 30'000))
        qFatal("There is no plan of the shot");
    Shot shot = *window_->document().current();
    shot.speed = Rational(1, 4);
    window_->document().edit(QStringLiteral("speed"), shot);
    QTest::mouseClick(find<app::StepCard>("inBetweensStep")->header(), Qt::LeftButton);
}

} // namespace yarngap::test
