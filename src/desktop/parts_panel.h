// Parts and their shells: size, volume, direction, what encloses them.
#pragma once

#include <QWidget>

#include "session/workshop.h"

namespace zither::desktop {

class PartsPanel : public QWidget {
    Q_OBJECT
public:
    explicit PartsPanel(session::Workshop& workshop, QWidget* parent = nullptr);
    [[nodiscard]] QRectF partRect(std::size_t part) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    // One line of the list: a part, or a shell of the current one.
    struct Line {
        std::size_t part = 0;
        std::optional<std::size_t> shell;
        QString title;
        QString detail;
        double top = 0;
        double height = 0;
    };
    void refresh();
    void addShells(std::size_t part, double& y);
    void drawLine(QPainter& painter, const Line& line) const;

    session::Workshop& workshop_;
    std::vector<Line> lines_;
    double scroll_ = 0;
    double contentHeight_ = 0;
};

}  // namespace zither::desktop
