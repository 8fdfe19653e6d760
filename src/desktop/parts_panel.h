// Parts and the shells of the one in front that matter: size, volume, direction. It lies over the edge of the view, and
// folds away to its title.
#pragma once

#include <QWidget>

#include "session/workshop.h"

namespace zither::desktop {

class PartsPanel : public QWidget {
    Q_OBJECT
public:
    explicit PartsPanel(session::Workshop& workshop, QWidget* parent = nullptr);
    [[nodiscard]] QRectF partRect(std::size_t part) const;
    // As large as what it has to show.
    [[nodiscard]] QSize wantedSize() const;
    // Where it is folded away or unfolded.
    [[nodiscard]] QRectF titleRect() const;

Q_SIGNALS:
    void sizeChanged();

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
    [[nodiscard]] bool folded() const;
    void drawTitle(QPainter& painter) const;
    void drawLine(QPainter& painter, const Line& line) const;

    session::Workshop& workshop_;
    std::vector<Line> lines_;
    double scroll_ = 0;
    double contentHeight_ = 0;
};

}  // namespace zither::desktop
