// The application: its settings, its session, its window.
#include <QApplication>
#include <QSettings>
#include <csignal>

#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "mesh/memory.h"

int main(int argc, char** argv) {
    zither::mesh::returnFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN);
    QApplication application(argc, argv);
    QApplication::setApplicationName("zither");
    QApplication::setOrganizationName("zither");
    zither::desktop::applyTheme(application);
    QSettings settings;
    zither::session::Workshop workshop(settings);
    zither::desktop::SystemDialogs dialogs;
    zither::desktop::MainWindow window(workshop, dialogs);
    window.show();
    workshop.opening().open(QApplication::arguments().mid(1));
    return QApplication::exec();
}
