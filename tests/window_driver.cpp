// Synthetic clicks and keys, and waiting for the event loop.
#include "tests/window_driver.h"

#include <QAbstractButton>
#include <QApplication>
#include <QElapsedTimer>
#include <QLineEdit>

namespace zither::tests {

WindowDriver::WindowDriver(const QString& keepIn) {
    settings_ = std::make_unique<QSettings>(folder_.filePath("settings.ini"), QSettings::IniFormat);
    workshop_ = std::make_unique<session::Workshop>(*settings_, keepIn);
    window_ = std::make_unique<desktop::MainWindow>(*workshop_, dialogs_);
    window_->resize(1280, 800);
    window_->show();
    // There is no window manager under Xvfb to make the window the active one, and keys go only to that.
    QApplication::setActiveWindow(window_.get());
    [[maybe_unused]] const bool exposed = QTest::qWaitForWindowExposed(window_.get());
}

WindowDriver::~WindowDriver() = default;

bool WindowDriver::waitFor(const std::function<bool()>& condition, int milliseconds) {
#if defined(__SANITIZE_THREAD__) || defined(__SANITIZE_ADDRESS__)
    constexpr int slower = 10;
#else
    constexpr int slower = 1;
#endif
    return QTest::qWaitFor(condition, slower * milliseconds);
}

bool WindowDriver::settle(int milliseconds) {
    const bool done = waitFor(
        [&] { return !workshop_->jobs().busy() && (!workshop_->parts().current() || workshop_->looks().kept()); },
        milliseconds);
    // What that changed is laid out, too.
    QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
    QCoreApplication::processEvents();
    return done;
}

bool WindowDriver::open(const QStringList& files) {
    workshop_->opening().open(files);
    return settle(60000);
}

QAbstractButton* WindowDriver::button(const QString& text) {
    for (auto* b : window_->findChildren<QAbstractButton*>())
        if (b->text() == text && b->isVisible()) return b;
    return nullptr;
}

bool WindowDriver::clickButton(const QString& text) {
    QAbstractButton* b = button(text);
    if (!b || !b->isEnabled()) return false;
    QTest::qWait(50);  // until it has been scrolled into view
    // The desk may have been laid out anew meanwhile.
    b = button(text);
    if (!b || !b->isEnabled()) return false;
    QTest::mouseClick(b, Qt::LeftButton);
    return true;
}

bool WindowDriver::clickWhenReady(const QString& text) {
    constexpr int patienceMs = 60'000;  // under a sanitizer a preview takes its time
    return waitFor([&] { return clickButton(text); }, patienceMs);
}

bool WindowDriver::openStep(const QString& name) {
    if (!find<QLineEdit>("find-step") && clickButton("Back to the whole part")) settle();
    auto* input = find<QLineEdit>("find-step");
    if (!input) return false;
    input->clear();
    QTest::keyClicks(input, name);
    QAbstractButton* found = nullptr;
    const auto isThere = [&] {
        for (auto* b : window_->findChildren<QAbstractButton*>("open-" + name))
            if (b->isVisible()) found = b;
        return found != nullptr;
    };
    if (!waitFor(isThere)) return false;
    QTest::qWait(50);  // until it is laid out
    found = nullptr;
    if (!isThere()) return false;
    QTest::mouseClick(found, Qt::LeftButton);
    return true;
}

void WindowDriver::click(QWidget* widget, const QPointF& at, Qt::MouseButton mouseButton) {
    QTest::mouseClick(widget, mouseButton, Qt::NoModifier, at.toPoint());
}

void WindowDriver::press(QWidget* widget, const QPointF& at, Qt::MouseButton mouseButton) {
    QTest::mousePress(widget, mouseButton, Qt::NoModifier, at.toPoint());
}

void WindowDriver::move(QWidget* widget, const QPointF& at, Qt::MouseButton held, Qt::KeyboardModifiers modifiers) {
    // A synthetic move carries no buttons unless they are named.
    QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, held, modifiers);
    QApplication::sendEvent(widget, &move);
}

void WindowDriver::release(QWidget* widget, const QPointF& at, Qt::MouseButton mouseButton) {
    QTest::mouseRelease(widget, mouseButton, Qt::NoModifier, at.toPoint());
}

void WindowDriver::drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::MouseButton mouseButton) {
    press(widget, from, mouseButton);
    constexpr int steps = 8;
    for (int i = 1; i <= steps; ++i) move(widget, from + (to - from) * i / steps, mouseButton);
    release(widget, to, mouseButton);
}

void WindowDriver::key(Qt::Key k, Qt::KeyboardModifiers modifiers) {
    QTest::keyClick(window_.get(), k, modifiers);
}

bool WindowDriver::saveShot(const QString& file) {
    QTest::qWait(700);
    return window_->grab().save(file);
}

}  // namespace zither::tests
