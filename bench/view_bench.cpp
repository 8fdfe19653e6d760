// How long the window takes to show a large part and to draw a frame of it: zither-view-bench FILE (under Xvfb for a
// machine without a display; then llvmpipe draws).
#include <QApplication>
#include <QElapsedTimer>
#include <algorithm>
#include <iostream>

#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "tests/window_driver.h"

namespace {

// Median milliseconds of a repaint while the camera turns.
double turningMs(zither::tests::WindowDriver& d, int frames) {
    auto& view = d.window().viewport();
    std::vector<double> times;
    const QPointF middle(view.width() / 2.0, view.height() / 2.0);
    for (int i = 0; i < frames; ++i) {
        d.drag(&view, middle, middle + QPointF(8, 2), Qt::RightButton);
        QElapsedTimer timer;
        timer.start();
        view.grabFramebuffer();  // draws at once; a repaint would only be put on the list
        times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    std::nth_element(times.begin(), times.begin() + frames / 2, times.end());
    return times[static_cast<std::size_t>(frames / 2)];
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application);
    if (argc != 2) {
        std::cerr << "usage: zither-view-bench FILE\n";
        return 2;
    }
    zither::tests::WindowDriver d;
    QElapsedTimer timer;
    timer.start();
    d.open({argv[1]});
    std::cout << "read, judged and shown after " << timer.elapsed() << " ms\n";
    QTest::qWait(2000);
    std::cout << "a frame of the full part: " << d.window().viewport().fullFrameMs() << " ms\n";
    constexpr int frames = 21;
    std::cout << "a frame while turning: " << turningMs(d, frames) << " ms, stand-in "
              << (d.window().viewport().drawsStandIn() ? "drawn" : "not needed") << "\n";
    return 0;
}
