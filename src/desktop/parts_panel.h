// Parts and the shells of the one in front that matter. Parts are chosen by a click, several with Ctrl, named anew by a
// double click, ordered by a drag; shells are drawn full, as ghosts or not at all. It lies over the edge of the view,
// and folds away to its title.
#pragma once

#include <QWidget>

#include "session/reading/part_list.h"

class QLineEdit;

namespace zither::desktop {

class PartsPanel : public QWidget {
    Q_OBJECT
public:
    explicit PartsPanel(session::Workshop& workshop, QWidget* parent = nullptr);
    [[nodiscard]] QRectF partRect(std::size_t part) const;
    // Of a shell that is listed: its line, and what says how it is drawn.
    [[nodiscard]] QRectF shellRect(std::size_t shell) const;
    [[nodiscard]] QRectF eyeRect(std::size_t shell) const;
    // Where shells are ordered another way.
    [[nodiscard]] QRectF orderRect() const;
    // As large as what it has to show.
    [[nodiscard]] QSize wantedSize() const;
    // Where it is folded away or unfolded.
    [[nodiscard]] QRectF titleRect() const;

Q_SIGNALS:
    void sizeChanged();

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    enum class Kind { Part, Order, Shell, Rest, AllAgain };
    struct Line {
        Kind kind = Kind::Part;
        std::size_t part = 0;
        session::ShellLine shell = {};
        QString title;
        QString detail;
        double top = 0;
        double height = 0;
    };
    void refresh();
    void addShells(std::size_t part, double& y);
    [[nodiscard]] bool folded() const;
    [[nodiscard]] const Line* lineAt(const QPointF& at) const;
    [[nodiscard]] QRectF rectOf(const Line& line) const;
    [[nodiscard]] QRectF eyeOf(const Line& line) const;
    // The part that one dragged to there would stand before.
    [[nodiscard]] std::size_t placeAt(const QPointF& at) const;
    void click(const Line& line, const QMouseEvent& event);
    void showNext(const check::Shell& shell);
    void rename(const Line& line);
    void drawTitle(QPainter& painter) const;
    void drawLine(QPainter& painter, const Line& line) const;
    void drawEye(QPainter& painter, const Line& line) const;

    session::Workshop& workshop_;
    std::vector<Line> lines_;
    session::ShellOrder order_ = session::ShellOrder::Within;
    bool manyShells_ = false;            // more than a few by name
    std::optional<std::size_t> linked_;  // the shell that is chosen in the view
    double scroll_ = 0;
    double contentHeight_ = 0;
    QPointF pressed_;
    std::optional<std::size_t> dragged_;  // a part that is being moved along the list
    std::size_t dragTo_ = 0;
};

}  // namespace zither::desktop
