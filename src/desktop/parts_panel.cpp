// A list that is painted, and what the mouse does on it.
#include "desktop/parts_panel.h"

#include <QContextMenuEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>
#include <algorithm>
#include <utility>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

using session::Veil;

namespace {
constexpr double titleHeight = 26;
constexpr double firstY = 30;
constexpr int unfoldedWidth = 196;
constexpr int foldedWidth = 96;
constexpr double partHeight = 36;
constexpr double shellHeight = 33;
constexpr double smallHeight = 20;
constexpr double indentWidth = 10;
constexpr int deepestIndent = 5;
constexpr std::size_t fewShells = 6;
constexpr std::size_t mostShells = 60;
constexpr double dragStarts = 6;
}  // namespace

PartsPanel::PartsPanel(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("parts");
    setToolTip("Click: in front. Ctrl-click: chosen besides. Double click: name it. Drag: order. Right click: more.");
    connect(&workshop_.parts(), &session::Parts::changed, this, &PartsPanel::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &PartsPanel::refresh);
    connect(&workshop_.veil(), &Veil::changed, this, &PartsPanel::refresh);
    connect(&workshop_.preferences(), &session::Preferences::changed, this, &PartsPanel::refresh);
    const auto link = [this] {
        const auto shell = session::linkedShell(workshop_);
        if (std::exchange(linked_, shell) != shell) update();
    };
    connect(&workshop_.choice(), &session::Choice::changed, this, link);
    connect(&workshop_.picking(), &session::Picking::changed, this, link);
    refresh();
}

void PartsPanel::refresh() {
    lines_.clear();
    linked_ = session::linkedShell(workshop_);
    double y = firstY;
    for (std::size_t i = 0; i < workshop_.parts().all().size(); ++i) {
        const session::Part& part = *workshop_.parts().all()[i];
        lines_.push_back({Kind::Part, i, {}, part.name, session::detailOf(part), y, partHeight});
        y += partHeight + 3;
        if (workshop_.parts().currentIndex() == i) addShells(i, y);
    }
    contentHeight_ = y;
    Q_EMIT sizeChanged();
    scroll_ = std::clamp(scroll_, 0.0, std::max(0.0, contentHeight_ - height()));
    update();
}

// A few by name, the rest as one line: a frame of thousands of struts must stay readable.
void PartsPanel::addShells(std::size_t part, double& y) {
    const session::ShellList list = session::shellsOf(workshop_, order_, manyShells_ ? mostShells : fewShells);
    if (list.lines.empty() && list.rest == 0) return;
    const auto add = [&](Kind kind, const QString& title, double height) -> Line& {
        lines_.push_back({kind, part, {}, title, {}, y, height});
        y += height;
        return lines_.back();
    };
    if (list.lines.size() > 1 || order_ != session::ShellOrder::Within)
        add(Kind::Order, session::nameOf(order_) + " ▾", smallHeight);
    for (const session::ShellLine& shell : list.lines) {
        Line& line = add(Kind::Shell, shell.title, shellHeight);
        line.shell = shell;
        line.detail = shell.detail;
    }
    if (list.rest > 0)
        add(Kind::Rest,
            QString("%1 %2 %3")
                .arg(session::spaced(list.rest), list.lines.empty() ? "small" : "more",
                     list.rest == 1 ? "shell" : "shells"),
            smallHeight);
    if (workshop_.veil().any()) add(Kind::AllAgain, "show all of it again", smallHeight);
    y += 6;
}

// ---- geometry

bool PartsPanel::folded() const {
    return !workshop_.preferences().isShown(session::Preferences::Panel::Parts);
}

QSize PartsPanel::wantedSize() const {
    if (folded()) return {foldedWidth, static_cast<int>(titleHeight)};
    return {unfoldedWidth, static_cast<int>(contentHeight_) + 4};
}

QRectF PartsPanel::titleRect() const {
    return {0, 0, static_cast<double>(width()), titleHeight};
}

QRectF PartsPanel::rectOf(const Line& line) const {
    return {6, line.top - scroll_, width() - 12.0, line.height};
}

QRectF PartsPanel::eyeOf(const Line& line) const {
    return {width() - 34.0, line.top - scroll_ + 4, 24, 20};
}

QRectF PartsPanel::partRect(std::size_t part) const {
    for (const Line& line : lines_)
        if (line.part == part && line.kind == Kind::Part) return rectOf(line);
    return {};
}

QRectF PartsPanel::shellRect(std::size_t shell) const {
    for (const Line& line : lines_)
        if (line.kind == Kind::Shell && line.shell.shell == shell) return rectOf(line);
    return {};
}

QRectF PartsPanel::eyeRect(std::size_t shell) const {
    for (const Line& line : lines_)
        if (line.kind == Kind::Shell && line.shell.shell == shell) return eyeOf(line);
    return {};
}

QRectF PartsPanel::orderRect() const {
    for (const Line& line : lines_)
        if (line.kind == Kind::Order) return rectOf(line);
    return {};
}

const PartsPanel::Line* PartsPanel::lineAt(const QPointF& at) const {
    for (const Line& line : lines_)
        if (rectOf(line).contains(at)) return &line;
    return nullptr;
}

std::size_t PartsPanel::placeAt(const QPointF& at) const {
    std::size_t before = 0;
    for (const Line& line : lines_)
        if (line.kind == Kind::Part && rectOf(line).center().y() < at.y()) before = line.part + 1;
    return before;
}

// ---- drawing

void PartsPanel::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(workshop_.paper().line);
    painter.setBrush(workshop_.paper().ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    if (folded()) return drawTitle(painter);
    painter.save();
    painter.setClipRect(QRectF(1, titleHeight, width() - 2, height() - titleHeight - 3));
    for (const Line& line : lines_) drawLine(painter, line);
    if (dragged_) {
        const std::size_t last = workshop_.parts().all().size() - 1;
        const QRectF beside = partRect(std::min(dragTo_, last));
        const double y = dragTo_ > last ? beside.bottom() + 2 : beside.top() - 2;
        painter.setPen(QPen(workshop_.paper().spruce, 2));
        painter.drawLine(QPointF(8, y), QPointF(width() - 10, y));
    }
    painter.restore();
    drawTitle(painter);
}

void PartsPanel::drawTitle(QPainter& painter) const {
    painter.setFont(typeface(11, QFont::DemiBold));
    painter.setPen(workshop_.paper().quiet);
    const std::size_t count = workshop_.parts().all().size();
    const std::size_t chosen = workshop_.parts().chosenIds().size();
    QString title = "PARTS";
    if (chosen > 1)
        title += QString("  %1 of %2 chosen").arg(chosen).arg(count);
    else if (folded() && count > 1)
        title += QString(" %1").arg(count);
    painter.drawText(QPointF(12, 17), title);
    painter.setPen(QPen(workshop_.paper().quiet, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const double way = folded() ? 3 : -3;
    const QPointF tip(width() - 15 + way / 2, 13);
    painter.drawPolyline(QPolygonF({tip + QPointF(-way, -4), tip, tip + QPointF(-way, 4)}));
}

void PartsPanel::drawLine(QPainter& painter, const Line& line) const {
    const QRectF rect = rectOf(line);
    const bool isPart = line.kind == Kind::Part;
    const bool isShell = line.kind == Kind::Shell;
    const bool current = workshop_.parts().currentIndex() == line.part;
    const bool lit = isPart ? workshop_.parts().isChosen(line.part) : isShell && linked_ == line.shell.shell;
    if (lit) {
        painter.setPen(isPart && current ? QPen(workshop_.paper().spruce, 1) : QPen(Qt::NoPen));
        painter.setBrush(workshop_.paper().chosen);
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -2.5, -0.5), 4, 4);
    }
    const double left = isPart ? 18 : 32 + indentWidth * std::min(line.shell.indent, deepestIndent);
    const double room = width() - left - (isPart ? 30 : 40);
    painter.setFont(typeface(isPart || isShell ? 12 : 11, isPart    ? QFont::DemiBold
                                                          : isShell ? QFont::Medium
                                                                    : QFont::Normal));
    painter.setPen(!isPart && !isShell                     ? workshop_.paper().quiet
                   : line.shell.shown == Veil::Shown::Full ? workshop_.paper().ink
                                                           : workshop_.paper().quiet);
    const auto fitted = [&](const QString& text, double within) {
        return painter.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(within));
    };
    painter.drawText(QPointF(left, rect.top() + (isPart || isShell ? 15 : 14)), fitted(line.title, room));
    if (!isPart && !isShell) return;
    painter.setFont(typeface(11));
    painter.setPen(workshop_.paper().quiet);
    painter.drawText(QPointF(left, rect.top() + 29), fitted(line.detail, width() - left - 12));
    if (isShell) return drawEye(painter, line);
    painter.setPen(QPen(workshop_.paper().spruce, 1.3));
    painter.setBrush(current ? QBrush(workshop_.paper().spruce) : QBrush(Qt::NoBrush));
    painter.drawEllipse(QPointF(width() - 22, rect.center().y()), 4, 4);
}

// A leaf that is full, hollow, or only its stalk.
void PartsPanel::drawEye(QPainter& painter, const Line& line) const {
    const QPointF middle = eyeOf(line).center();
    painter.setPen(QPen(workshop_.paper().spruce, 1.3, Qt::SolidLine, Qt::RoundCap));
    if (line.shell.shown == Veil::Shown::Not) return painter.drawLine(middle - QPointF(5, 0), middle + QPointF(5, 0));
    QPainterPath leaf(middle - QPointF(6, 0));
    leaf.quadTo(middle - QPointF(0, 8), middle + QPointF(6, 0));
    leaf.quadTo(middle + QPointF(0, 8), middle - QPointF(6, 0));
    painter.setBrush(line.shell.shown == Veil::Shown::Full ? QBrush(workshop_.paper().spruce) : QBrush(Qt::NoBrush));
    painter.drawPath(leaf);
}

// ---- mouse

void PartsPanel::mousePressEvent(QMouseEvent* event) {
    pressed_ = event->position();
    if (event->button() == Qt::LeftButton && titleRect().contains(pressed_))
        workshop_.preferences().setShown(session::Preferences::Panel::Parts, folded());
}

void PartsPanel::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & Qt::LeftButton) || titleRect().contains(pressed_)) return;
    if (!dragged_ && (event->position() - pressed_).manhattanLength() > dragStarts) {
        const Line* line = lineAt(pressed_);
        if (line && line->kind == Kind::Part && workshop_.parts().all().size() > 1) dragged_ = line->part;
    }
    if (!dragged_) return;
    dragTo_ = placeAt(event->position());
    update();
}

void PartsPanel::mouseReleaseEvent(QMouseEvent* event) {
    if (const auto dragged = std::exchange(dragged_, std::nullopt)) {
        workshop_.parts().order(*dragged, placeAt(event->position()));
        return update();
    }
    if (event->button() != Qt::LeftButton || titleRect().contains(pressed_)) return;
    if (const Line* line = lineAt(event->position())) click(Line(*line), *event);
}

// The line is a copy: what it wishes makes the lines anew.
void PartsPanel::click(const Line& line, const QMouseEvent& event) {
    switch (line.kind) {
        case Kind::Part:
            if (event.modifiers() & Qt::ControlModifier) return workshop_.parts().toggleChosen(line.part);
            // Where it is in front alone already there is nothing to do: a second click names it.
            if (workshop_.parts().currentIndex() != line.part || workshop_.parts().chosenIds().size() > 1)
                workshop_.parts().choose(line.part);
            return;
        case Kind::Order:
            order_ = order_ == session::ShellOrder::Within   ? session::ShellOrder::Damage
                     : order_ == session::ShellOrder::Damage ? session::ShellOrder::Depth
                                                             : session::ShellOrder::Within;
            return refresh();
        case Kind::Rest:
            manyShells_ = !manyShells_;
            return refresh();
        case Kind::AllAgain:
            return workshop_.veil().showAll();
        case Kind::Shell:
            break;
    }
    const session::Look* look = workshop_.looks().kept();
    if (!look || line.shell.shell >= look->survey->shells.size()) return;
    if (eyeOf(line).contains(event.position()))
        showNext(look->survey->shells[line.shell.shell]);
    else
        workshop_.choice().chooseShell(line.shell.shell);
}

void PartsPanel::showNext(const check::Shell& shell) {
    const Veil::Shown now = workshop_.veil().of(shell);
    workshop_.veil().set(shell, now == Veil::Shown::Full    ? Veil::Shown::Ghost
                                : now == Veil::Shown::Ghost ? Veil::Shown::Not
                                                            : Veil::Shown::Full);
}

void PartsPanel::mouseDoubleClickEvent(QMouseEvent* event) {
    const Line* line = lineAt(event->position());
    if (line && line->kind == Kind::Part) rename(*line);
}

void PartsPanel::rename(const Line& line) {
    auto* name = new QLineEdit(line.title, this);
    name->setObjectName("part-name");
    name->setGeometry(rectOf(line).adjusted(4, 4, -20, -6).toRect());
    connect(name, &QLineEdit::editingFinished, this, [this, name, part = line.part] {
        name->deleteLater();
        workshop_.parts().rename(part, name->text());
    });
    name->show();
    name->selectAll();
    name->setFocus();
}

void PartsPanel::contextMenuEvent(QContextMenuEvent* event) {
    const Line* at = lineAt(event->pos());
    if (!at || (at->kind != Kind::Part && at->kind != Kind::Shell)) return;
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    if (at->kind == Kind::Part) {
        connect(menu->addAction("Name it …"), &QAction::triggered, this, [this, line = *at] { rename(line); });
        connect(menu->addAction("Choose all parts"), &QAction::triggered, this,
                [this] { workshop_.parts().chooseAll(); });
        connect(menu->addAction("Close it"), &QAction::triggered, this,
                [this, part = at->part] { workshop_.parts().close(part); });
    } else if (const session::Look* look = workshop_.looks().kept();
               look && at->shell.shell < look->survey->shells.size()) {
        const check::Shell shell = look->survey->shells[at->shell.shell];
        const auto add = [&](const QString& name, auto run) {
            connect(menu->addAction(name), &QAction::triggered, this, run);
        };
        add("Only this one, the others as ghosts", [this, shell] { workshop_.veil().only(shell, Veil::Shown::Ghost); });
        add("Only this one", [this, shell] { workshop_.veil().only(shell, Veil::Shown::Not); });
        add("As a ghost", [this, shell] { workshop_.veil().set(shell, Veil::Shown::Ghost); });
        add("Hide it", [this, shell] { workshop_.veil().set(shell, Veil::Shown::Not); });
        add("Show all again", [this] { workshop_.veil().showAll(); });
        menu->addSeparator();
        add("Pick it", [this, shell] { workshop_.picking().pickShellOf(shell.firstTriangle); });
    }
    menu->popup(event->globalPos());
}

void PartsPanel::wheelEvent(QWheelEvent* event) {
    scroll_ = std::clamp(scroll_ - event->angleDelta().y() / 2.0, 0.0, std::max(0.0, contentHeight_ - height()));
    update();
}

}  // namespace zither::desktop
