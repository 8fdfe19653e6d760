// A button for each lens of the catalogue.
#include "desktop/lens_bar.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

LensBar::LensBar(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("lenses");
    setFixedHeight(30);
    setAutoFillBackground(true);
    QPalette p = palette();
    p.setColor(QPalette::Window, workshop_.paper().sheet);
    setPalette(p);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(14, 1, 8, 1);
    row->setSpacing(2);
    auto* title = new QLabel("lens");
    title->setObjectName("quiet");
    row->addWidget(title);
    for (const session::Lens& lens : session::lenses()) {
        auto* button = new QToolButton;
        button->setText(session::text(lens.name));
        button->setToolTip(session::text(lens.help));
        button->setObjectName("lens-" + session::text(lens.name));
        connect(button, &QToolButton::clicked, this, [this, &lens] { workshop_.coating().setLens(lens); });
        row->addWidget(button);
        buttons_.emplace_back(&lens, button);
    }
    kinds_ = new QComboBox;
    kinds_->setObjectName("lens-kind");
    kinds_->setFont(typeface(11));
    connect(kinds_, &QComboBox::activated, this, [this](int kind) {
        workshop_.coating().setLens(workshop_.coating().lens(), static_cast<std::size_t>(kind));
    });
    row->addWidget(kinds_);
    row->addStretch(1);
    connect(&workshop_.coating(), &session::Coating::changed, this, &LensBar::refresh);
    refresh();
}

void LensBar::refresh() {
    for (const auto& [lens, button] : buttons_) {
        const bool chosen = lens == &workshop_.coating().lens();
        button->setFont(typeface(12, chosen ? QFont::DemiBold : QFont::Normal));
        button->setStyleSheet(
            chosen ? QString("border-bottom: 2px solid %1; border-radius: 0;").arg(workshop_.paper().spruce.name())
                   : QString());
    }
    const auto kinds = workshop_.coating().lens().kinds;
    kinds_->setVisible(!kinds.empty());
    if (static_cast<std::size_t>(kinds_->count()) != kinds.size()) {
        kinds_->clear();
        for (const std::string_view kind : kinds) kinds_->addItem(session::text(kind));
    }
    kinds_->setCurrentIndex(static_cast<int>(workshop_.coating().kind()));
}

}  // namespace zither::desktop
