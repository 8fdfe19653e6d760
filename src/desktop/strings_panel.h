// The strings: a line for each requirement of the brief, laid along the part, with every finding as a mark. Hover
// names a place, a click flies there, a drag takes a slab.
#pragma once

#include <QWidget>

#include "session/reading/strings.h"

namespace zither::desktop {

class StringsPanel : public QWidget {
    Q_OBJECT
public:
    explicit StringsPanel(session::Workshop& workshop, QWidget* parent = nullptr);

    // Geometry of what is drawn, for clicks of people and of tests.
    [[nodiscard]] QRectF rowRect(std::size_t row) const;
    [[nodiscard]] double xOf(double along) const;  // along: 0 to 1
    [[nodiscard]] const std::vector<session::StringRow>& rows() const { return rows_; }

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    struct Hit {
        std::size_t row = 0;
        std::size_t mark = 0;
    };
    void refresh();
    void layOut();
    // Out of tune, chosen, or about to be another: it has its full height, the others lie close together.
    [[nodiscard]] bool rings(const session::StringRow& row) const;
    [[nodiscard]] bool folded() const;
    void drawTitle(QPainter& painter) const;
    void drawRow(QPainter& painter, std::size_t row) const;
    void drawThin(QPainter& painter, std::size_t row) const;
    void drawThinNames(QPainter& painter) const;
    [[nodiscard]] QString thinSummary() const;
    void drawMarks(QPainter& painter, const session::StringRow& row, const QRectF& rect) const;
    void drawSlab(QPainter& painter) const;
    [[nodiscard]] std::optional<std::size_t> rowAt(double y) const;
    [[nodiscard]] double stringWidth() const;
    [[nodiscard]] std::optional<Hit> markAt(const QPointF& at) const;
    // Of a mark on the string of what is lost.
    [[nodiscard]] const measure::LossPlace& lossPlaceOf(const Hit& hit) const;
    [[nodiscard]] QString tipOf(const Hit& hit) const;
    [[nodiscard]] double alongAt(double x) const;
    [[nodiscard]] double worldAt(double along) const;

    session::Workshop& workshop_;
    std::vector<session::StringRow> rows_;
    struct Place {
        double top = 0;
        double height = 0;
        bool thin = false;
    };
    std::vector<Place> places_;  // of the rows
    QRectF thin_;                // where the thin ones lie
    std::optional<std::size_t> hovered_;
    std::shared_ptr<const session::Display> comparedWith_;
    std::optional<double> dragFrom_;
    double dragTo_ = 0;
};

}  // namespace zither::desktop
