// The system's own file dialogs, with filters made from the catalogue of formats.
#include "desktop/dialogs.h"

#include <QFileDialog>

#include "io/format.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

namespace {

QString surfaces() {
    QStringList patterns;
    for (const io::Format& f : io::formats())
        if (!f.extension.empty()) {
            const QString extension = session::text(f.extension);
            patterns << "*" + extension << "*" + extension.toUpper();
        }
    return QString("Surfaces and projects (%1 *.zither);;Surface files (%1);;Projects (*.zither);;All files (*)")
        .arg(patterns.join(' '));
}

QString writable() {
    QStringList filters;
    for (const io::Format* f : io::writableFormats())
        filters << QString("%1, %2 (*%3)")
                       .arg(session::text(f->title), session::text(f->written), session::text(io::extensionOf(*f)));
    return filters.join(";;");
}

}  // namespace

QStringList SystemDialogs::filesToOpen(QWidget* parent) {
    return QFileDialog::getOpenFileNames(parent, "Open surface files", {}, surfaces());
}

QString SystemDialogs::fileToExport(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Export the surface", suggested, writable());
}

QString SystemDialogs::recipeToSave(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Save the steps as a recipe", suggested, "Recipe (*.json)");
}

QString SystemDialogs::recipeToRun(QWidget* parent) {
    return QFileDialog::getOpenFileName(parent, "Run a recipe", {}, "Recipe (*.json)");
}

QString SystemDialogs::pictureToSave(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Save a picture of the view", suggested, "Picture (*.png)");
}

QString SystemDialogs::projectToSave(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Save the project", suggested, "Project (*.zither)");
}

QString SystemDialogs::reportToSave(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Write a report", suggested,
                                        "Pages to print (*.pdf);;Page for a browser (*.html)");
}

QString SystemDialogs::briefToOpen(QWidget* parent) {
    return QFileDialog::getOpenFileName(parent, "Open a brief", {}, "Brief (*.json)");
}

}  // namespace zither::desktop
