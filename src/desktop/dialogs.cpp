#include "desktop/dialogs.h"

#include <QFileDialog>

namespace zither::desktop {

namespace {
const char* const surfaces = "Surface files (*.stl *.STL *.obj *.OBJ *.ply *.PLY);;All files (*)";
}

QStringList SystemDialogs::filesToOpen(QWidget* parent) {
    return QFileDialog::getOpenFileNames(parent, "Open surface files", {}, surfaces);
}

QString SystemDialogs::fileToExport(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(
        parent, "Export the surface", suggested,
        "STL, binary (*.stl);;OBJ (*.obj);;PLY, binary with 64-bit coordinates (*.ply)");
}

QString SystemDialogs::recipeToSave(QWidget* parent, const QString& suggested) {
    return QFileDialog::getSaveFileName(parent, "Save the steps as a recipe", suggested, "Recipe (*.json)");
}

QString SystemDialogs::briefToOpen(QWidget* parent) {
    return QFileDialog::getOpenFileName(parent, "Open a brief", {}, "Brief (*.json)");
}

}  // namespace zither::desktop
