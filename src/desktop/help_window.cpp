// The list on the left finds pages by what people call things; the sheet of keys is made from the commands.
#include "desktop/help_window.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "session/reading/word_search.h"

namespace zither::desktop {

namespace {

const QString keysKey = "keys";

QString row(const QString& name, const QString& keys) {
    return QString("<tr><td style=\"padding: 2px 26px 2px 0\">%1</td><td><b>%2</b></td></tr>")
        .arg(name.toHtmlEscaped(), keys.toHtmlEscaped());
}

QString sheetOfKeys(const QList<QAction*>& commands) {
    QString page = "<h3>Mouse over the part</h3><table>";
    for (const auto& [name, keys] : {std::pair{"pick a triangle, or the place under a glyph", "click"},
                                     {"pick what a rectangle holds", "drag"},
                                     {"pick what a line goes around", "Ctrl and drag"},
                                     {"add to the pick", "Shift and click, or draw over"},
                                     {"take from the pick", "Alt and drag"},
                                     {"pick the whole shell", "double click"},
                                     {"turn, about what is under the pointer", "right drag"},
                                     {"move", "middle drag"},
                                     {"nearer and farther, to the pointer", "wheel"},
                                     {"the whole part", "double click with the middle button"}})
        page += row(name, keys);
    page += "</table><h3>Strings</h3><table>";
    for (const auto& [name, keys] : {std::pair{"fly to a place", "click a mark"},
                                     {"take a slab of the part", "drag along"},
                                     {"look at all of a kind", "click a string"},
                                     {"hold a stop of the track against what is in front", "Shift and click it"}})
        page += row(name, keys);
    page += "</table><h3>Keys</h3><table>";
    for (const QAction* command : commands)
        if (!command->shortcut().isEmpty())
            page += row(QString(command->text()).remove('&'), command->shortcut().toString(QKeySequence::NativeText));
    return page + "</table>";
}

}  // namespace

HelpWindow::HelpWindow(const QList<QAction*>& commands, const session::Preferences& preferences, QWidget* parent)
    : QWidget(parent, Qt::Tool), commands_(commands), topics_(session::helpTopics(preferences.numbers())) {
    setObjectName("help");
    setWindowTitle("Help");
    resize(760, 520);
    auto* row = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    find_ = new QLineEdit;
    find_->setObjectName("find-help");
    find_->setPlaceholderText("a word: holes, decimate …");
    find_->setClearButtonEnabled(true);
    list_ = new QListWidget;
    list_->setObjectName("help-list");
    list_->setFixedWidth(230);
    find_->setFixedWidth(230);
    left->addWidget(find_);
    left->addWidget(list_);
    page_ = new QTextBrowser;
    page_->setObjectName("help-page");
    page_->setOpenLinks(false);
    page_->setStyleSheet(QString("border: none; background: %1; padding: 8px;").arg(preferences.paper().sheet.name()));
    row->addLayout(left);
    row->addWidget(page_, 1);
    connect(find_, &QLineEdit::textChanged, this, &HelpWindow::list);
    connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (item && item->data(Qt::UserRole).isValid()) showPage(item->data(Qt::UserRole).toString());
    });
    connect(page_, &QTextBrowser::anchorClicked, this, [this](const QUrl& to) { open(to.toString()); });
    list();
}

void HelpWindow::open(const QString& key) {
    find_->clear();
    const QString wanted = key.isEmpty() ? keysKey : key;
    for (int i = 0; i < list_->count(); ++i)
        if (list_->item(i)->data(Qt::UserRole).toString() == wanted) list_->setCurrentRow(i);
    showPage(wanted);
    show();
    raise();
    activateWindow();
}

void HelpWindow::list() {
    list_->clear();
    const auto add = [&](const QString& title, const QString& key) {
        auto* item = new QListWidgetItem(title);
        item->setData(Qt::UserRole, key);
        list_->addItem(item);
    };
    const QString typed = find_->text();
    if (session::matchWords(typed, "Mouse and keys", {"shortcuts", "hotkeys"})) add("Mouse and keys", keysKey);
    QString group;
    for (const session::HelpTopic& topic : topics_) {
        if (!session::matchWords(typed, topic.title, topic.words)) continue;
        if (std::exchange(group, topic.group) != topic.group) {
            auto* heading = new QListWidgetItem(topic.group);
            heading->setFlags(Qt::NoItemFlags);
            heading->setFont(typeface(11, QFont::DemiBold));
            list_->addItem(heading);
        }
        add(topic.title, topic.key);
    }
}

void HelpWindow::showPage(const QString& key) {
    if (key == keysKey) return page_->setHtml("<h2>Mouse and keys</h2>" + sheetOfKeys(commands_));
    for (const session::HelpTopic& topic : topics_)
        if (topic.key == key) page_->setHtml(QString("<h2>%1</h2>%2").arg(topic.title.toHtmlEscaped(), topic.html));
}

}  // namespace zither::desktop
