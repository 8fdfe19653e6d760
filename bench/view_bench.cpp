// How long the window takes to show a large part and to draw frames of it: zither-view-bench FILE [FOLDER], under Xvfb
// for a machine without a display. With a folder every frame of the turn is saved there.
#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
#include <algorithm>
#include <iostream>

#include "check/catalogue.h"
#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "tests/window_driver.h"

namespace {

// Milliseconds from frame to frame while a hand turns the part, each from the move of the pointer until the window
// shows it.
std::vector<double> turn(zither::tests::WindowDriver& d, int frames, const QString& folder) {
    auto& view = d.window().viewport();
    std::vector<double> times;
    QPointF at(view.width() / 2.0, view.height() / 2.0);
    d.press(&view, at, Qt::RightButton);
    for (int i = 0; i < frames; ++i) {
        QElapsedTimer timer;
        timer.start();
        at += QPointF(8, 2);
        d.move(&view, at, Qt::RightButton);
        QApplication::processEvents();
        times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        if (!folder.isEmpty()) view.grab().save(QString("%1/turn%2.png").arg(folder).arg(i, 2, 10, QChar('0')));
    }
    d.release(&view, at, Qt::RightButton);
    std::sort(times.begin(), times.end());
    return times;
}

// While a cut is moved through the part: until the picture shows it where it is, and until its ends are closed as well.
struct Cutting {
    std::vector<double> seen;
    std::vector<double> closed;
};
Cutting cut(zither::tests::WindowDriver& d, int frames) {
    auto& cuts = d.workshop().sectioning();
    cuts.begin();
    const auto isClosed = [&] { return cuts.active()->figures() != nullptr; };
    (void)d.waitFor(isClosed, 60000);
    const auto extent = cuts.extent();
    Cutting times;
    for (int i = 0; i < frames; ++i) {
        QElapsedTimer timer;
        timer.start();
        cuts.moveTo(extent.low + (extent.high - extent.low) * (0.3 + 0.4 * i / frames));
        QApplication::processEvents();
        times.seen.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
        while (!isClosed()) QApplication::processEvents();
        times.closed.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    cuts.clear();
    std::sort(times.seen.begin(), times.seen.end());
    std::sort(times.closed.begin(), times.closed.end());
    return times;
}

// The same while a stroke of the brush is drawn across the middle of the part.
std::vector<double> brush(zither::tests::WindowDriver& d, int frames) {
    for (QAction* action : d.window().commands())
        if (action->text() == "Brush over it") action->trigger();
    while (d.workshop().jobs().busy()) d.settle();
    auto& view = d.window().viewport();
    std::vector<double> times;
    QPointF at(0.4 * view.width(), view.height() / 2.0);
    d.press(&view, at, Qt::LeftButton);
    for (int i = 0; i < frames; ++i) {
        QElapsedTimer timer;
        timer.start();
        at += QPointF(3, 1);
        d.move(&view, at, Qt::LeftButton);
        QApplication::processEvents();
        times.push_back(static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    const auto& moved = view.brushing().moved();
    std::cout << "a stroke over " << (moved ? moved->sources.size() : 0) << " triangles\n";
    d.release(&view, at, Qt::LeftButton);
    std::sort(times.begin(), times.end());
    return times;
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application, zither::session::lightPaper());
    if (argc < 2 || argc > 3) {
        std::cerr << "usage: zither-view-bench FILE [FOLDER]\n";
        return 2;
    }
    zither::tests::WindowDriver d;
    QElapsedTimer timer;
    timer.start();
    d.workshop().opening().open({argv[1]});
    d.waitFor([&] { return d.workshop().looks().display() != nullptr; }, 120000);
    (void)d.window().grab();
    std::cout << "seen after " << timer.elapsed() << " ms\n";
    while (d.workshop().jobs().busy()) d.settle();
    std::cout << "read, judged and shown after " << timer.elapsed() << " ms\n";
    QTest::qWait(2000);
    const auto& view = d.window().viewport();
    std::cout << "the view: " << view.width() << " x " << view.height() << ", drawn by "
              << (view.drawsByRays() ? "rays" : "the card") << "\n";
    constexpr int frames = 40;
    const std::vector<double> times = turn(d, frames, argc == 3 ? argv[2] : "");
    std::cout << "a frame while turning: " << times[frames / 2] << " ms, the longest " << times.back() << " ms, "
              << view.rays().coarseness() << " pixels of the screen to the side for each that is drawn\n";
    d.workshop().choice().chooseClass(zither::check::selfIntersections);
    QTest::qWait(500);
    const std::vector<double> marked = turn(d, frames, "");
    std::cout << "a frame while turning with the marks of all crossings: " << marked[frames / 2] << " ms, the longest "
              << marked.back() << " ms\n";
    d.workshop().choice().chooseClass(std::nullopt);
    QTest::qWait(500);
    const Cutting cutting = cut(d, frames);
    std::cout << "a cut that is moved is seen after " << cutting.seen[frames / 2] << " ms (the longest "
              << cutting.seen.back() << "), closed after " << cutting.closed[frames / 2] << " ms (the longest "
              << cutting.closed.back() << ")\n";
    const std::vector<double> strokes = brush(d, frames);
    std::cout << "a frame while brushing: " << strokes[frames / 2] << " ms, the longest " << strokes.back() << " ms\n";
    timer.restart();
    while (d.workshop().jobs().busy()) d.settle();
    std::cout << "the stroke kept after " << timer.elapsed() << " ms\n";
    return 0;
}
