// Makes the pictures of docs/screenshots from the Skerry rig: zither-shots RIG-FOLDER OUTPUT-FOLDER
#include <QAbstractButton>
#include <QApplication>
#include <QDir>
#include <iostream>

#include "check/catalogue.h"
#include "desktop/theme.h"
#include "desktop/viewport.h"
#include "tests/window_driver.h"

using zither::check::DefectClass;
using zither::tests::WindowDriver;

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application);
    if (argc != 3) {
        std::cerr << "usage: zither-shots RIG-FOLDER OUTPUT-FOLDER\n";
        return 2;
    }
    const QDir rig(argv[1]);
    const QDir out(argv[2]);
    bool good = true;
    const auto shot = [&](WindowDriver& d, const char* name) {
        good = d.saveShot(out.filePath(QString(name) + ".png")) && good;
    };
    {
        WindowDriver d;
        shot(d, "empty");
    }
    WindowDriver d;
    QStringList files;
    for (const QString& name : rig.entryList({"*.stl"})) files << rig.filePath(name);
    d.open(files);
    auto& w = d.workshop();
    const auto choose = [&](const QString& name) {
        for (std::size_t i = 0; i < w.parts().size(); ++i)
            if (w.parts()[i]->name == name) w.choosePart(i);
        d.settle();
    };
    choose("blade");
    shot(d, "overview");
    choose("hub");
    w.chooseClass(check::openEdges);
    w.preview({zither::steps::findStep("stitch"), {}});
    d.settle();
    shot(d, "preview");
    w.dropPreview();
    w.chooseClass(std::nullopt);
    choose("strainer");
    d.window().findChild<QAbstractButton*>("open-wrap")->click();
    d.waitFor([&] { return w.currentPreview().has_value(); });
    d.settle();
    shot(d, "wrap");
    w.dropPreview();
    choose("nacelle");
    for (auto* b : d.window().findChildren<QAbstractButton*>())
        if (b->isVisible() && b->text() == "Back to the whole part") b->click();
    d.settle();
    auto* view = d.window().findChild<zither::desktop::Viewport*>();
    d.click(view, QPointF(view->width() / 2.0, view->height() / 2.0));
    for (int i = 0; i < 3; ++i) w.growPick();
    d.settle();
    shot(d, "pick");
    w.setPick({});
    choose("blade");
    w.chooseClass(check::openEdges);
    // The largest of the torn holes.
    std::size_t largest = w.places(check::openEdges).front();
    const auto& list = w.kept()->survey->findings.list;
    for (const std::size_t i : w.places(check::openEdges))
        if (list[i].size > list[largest].size) largest = i;
    w.chooseFinding(largest);
    shot(d, "place");
    w.chooseClass(std::nullopt);
    choose("spinner");
    shot(d, "facing");
    choose("duct-frame");
    w.chooseClass(check::selfIntersections);
    const auto& box = w.kept()->survey->mass.size;
    w.setAxis(2);
    w.setSlab(zither::session::Slab{box.min.z() + 0.3 * box.extent().z(), box.min.z() + 0.62 * box.extent().z()});
    shot(d, "slab");
    w.setSlab(std::nullopt);
    w.setAxis(std::nullopt);
    w.setSection(box.centre()[w.axis()] + 0.21 * box.extent()[w.axis()]);
    d.settle();
    shot(d, "section");
    w.preview({zither::steps::findStep("fuse"), {}});
    d.settle();
    d.settle();
    shot(d, "fuse");
    w.dropPreview();
    w.setSection(std::nullopt);
    w.chooseClass(std::nullopt);
    w.setLens(zither::session::Lens::Shells);
    d.settle();
    shot(d, "shells");
    choose("blade");
    w.repair();
    d.settle();
    d.settle();
    w.setLens(zither::session::Lens::Change);
    d.settle();
    d.settle();
    w.dismissNotice();
    shot(d, "change");
    w.setLens(zither::session::Lens::Plain);
    choose("hub");
    w.repair();
    d.settle();
    d.settle();
    w.undo();
    d.settle();
    w.preview({zither::steps::findStep("fill"), {}});
    d.settle();
    w.keepPreview();
    d.settle();
    w.goTo(2);
    d.settle();
    w.exportTo(d.folder() + "/hub-mended.stl");
    d.settle();
    shot(d, "proved");
    w.dismissDelivered();
    choose("nacelle");
    w.preview({zither::steps::findStep("decimate"), {}});
    d.settle();
    w.keepPreview();
    w.setLens(zither::session::Lens::Deviation);
    d.settle();
    d.settle();
    shot(d, "deviation");
    return good ? 0 : 1;
}
