// Commands are found by their names and by what people call them (the property "words"); the best runs on Return.
#include "desktop/command_finder.h"

#include <QKeyEvent>
#include <QVBoxLayout>
#include <algorithm>

#include "desktop/theme.h"
#include "session/reading/word_search.h"

namespace zither::desktop {

CommandFinder::CommandFinder(const QList<QAction*>& commands, QWidget* parent) : QFrame(parent), commands_(commands) {
    setObjectName("card");
    setFixedSize(440, 330);
    auto* layout = new QVBoxLayout(this);
    input_ = new QLineEdit;
    input_->setObjectName("find-command");
    input_->setPlaceholderText("Find a command");
    input_->setFont(typeface(14));
    list_ = new QListWidget;
    layout->addWidget(input_);
    layout->addWidget(list_);
    input_->installEventFilter(this);
    connect(input_, &QLineEdit::textChanged, this, &CommandFinder::filter);
    connect(list_, &QListWidget::itemClicked, this, &CommandFinder::runChosen);
    hide();
}

void CommandFinder::open() {
    move((parentWidget()->width() - width()) / 2, 90);
    input_->clear();
    filter({});
    show();
    raise();
    input_->setFocus();
}

void CommandFinder::filter(const QString& letters) {
    list_->clear();
    struct Found {
        int rank;
        QAction* command;
        QString through;
    };
    std::vector<Found> found;
    for (QAction* command : commands_)
        if (const auto match = session::matchWords(letters, QString(command->text()).remove('&'),
                                                   command->property("words").toStringList()))
            found.push_back({match->rank, command, match->through});
    std::stable_sort(found.begin(), found.end(), [](const Found& a, const Found& b) { return a.rank < b.rank; });
    for (const Found& f : found) {
        QString name = QString(f.command->text()).remove('&');
        if (!f.through.isEmpty()) name += QString("  ·  %1").arg(f.through);
        const QString key = f.command->shortcut().toString(QKeySequence::NativeText);
        auto* item = new QListWidgetItem(key.isEmpty() ? name : QString("%1     %2").arg(name, key));
        item->setData(Qt::UserRole, QVariant::fromValue(f.command));
        if (!f.command->isEnabled()) item->setFlags(Qt::NoItemFlags);
        list_->addItem(item);
    }
    list_->setCurrentRow(0);
}

void CommandFinder::runChosen() {
    QListWidgetItem* item = list_->currentItem();
    hide();
    parentWidget()->setFocus();
    if (item) item->data(Qt::UserRole).value<QAction*>()->trigger();
}

bool CommandFinder::eventFilter(QObject*, QEvent* event) {
    if (event->type() == QEvent::FocusOut) {
        // A click on the list takes the focus from the line, and must still run the command.
        if (!list_->hasFocus()) hide();
        return false;
    }
    if (event->type() == QEvent::ShortcutOverride) {
        // While the finder is open its keys are its own, Escape above all.
        event->accept();
        return true;
    }
    if (event->type() != QEvent::KeyPress) return false;
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Escape) {
        hide();
        parentWidget()->setFocus();
    } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
        runChosen();
    } else if (key == Qt::Key_Down || key == Qt::Key_Up) {
        const int count = std::max(1, list_->count());
        list_->setCurrentRow((list_->currentRow() + (key == Qt::Key_Down ? 1 : count - 1)) % count);
    } else {
        return false;
    }
    return true;
}

}  // namespace zither::desktop
