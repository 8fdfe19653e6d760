#include "desktop/lens_bar.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

#include "desktop/theme.h"

namespace zither::desktop {

LensBar::LensBar(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("lenses");
    setFixedHeight(34);
    setAutoFillBackground(true);
    QPalette p = palette();
    p.setColor(QPalette::Window, session::paper::sheet);
    setPalette(p);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 4, 8, 2);
    row->setSpacing(2);
    auto* title = new QLabel("lens");
    title->setObjectName("quiet");
    row->addWidget(title);
    for (const LensName& lens : lensNames) {
        auto* button = new QToolButton;
        button->setText(lens.name);
        button->setObjectName(QString("lens-") + lens.name);
        connect(button, &QToolButton::clicked, this, [this, l = lens.lens] { workshop_.setLens(l); });
        row->addWidget(button);
        buttons_.emplace_back(lens.lens, button);
    }
    row->addStretch(1);
    connect(&workshop_, &session::Workshop::coatChanged, this, &LensBar::refresh);
    refresh();
}

void LensBar::refresh() {
    for (const auto& [lens, button] : buttons_) {
        const bool chosen = lens == workshop_.lens();
        button->setFont(typeface(12, chosen ? QFont::DemiBold : QFont::Normal));
        button->setStyleSheet(
            chosen ? QString("border-bottom: 2px solid %1; border-radius: 0;").arg(session::paper::spruce.name())
                   : QString());
    }
}

}  // namespace zither::desktop
