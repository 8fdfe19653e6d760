// The application: its settings, its session, its window.
#include <QApplication>
#include <QSettings>
#include <QStandardPaths>
#include <csignal>
#include <memory>

#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "mesh/memory.h"
#include "project/journal.h"

int main(int argc, char** argv) {
    zither::mesh::returnFreedMemory();
    std::signal(SIGXFSZ, SIG_IGN);
    QApplication application(argc, argv);
    QApplication::setApplicationName("zither");
    QApplication::setOrganizationName("zither");
    QSettings settings;
    const QString data = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation);
    zither::project::journal::writeTo((data + "/journal").toStdString());
    zither::project::journal::note("Zither " ZITHER_VERSION " begins");
    zither::session::Workshop workshop(settings, data + "/unsaved");
    zither::desktop::SystemDialogs dialogs;
    std::unique_ptr<zither::desktop::MainWindow> window;
    // On other paper the window is made anew: the session goes on.
    const auto show = [&] {
        zither::desktop::applyTheme(application, workshop.paper());
        const QRect place = window ? window->geometry() : QRect();
        window = std::make_unique<zither::desktop::MainWindow>(workshop, dialogs);
        if (place.isValid()) window->setGeometry(place);
        window->show();
    };
    show();
    QObject::connect(&workshop.preferences(), &zither::session::Preferences::paperChanged, &application, show,
                     Qt::QueuedConnection);
    workshop.opening().open(QApplication::arguments().mid(1));
    const int code = QApplication::exec();
    zither::project::journal::note("Zither ends");
    return code;
}
