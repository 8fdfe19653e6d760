// What several tests of the window read and click.
#pragma once

#include <QAbstractButton>
#include <QAction>
#include <QLabel>
#include <QLineEdit>

#include "desktop/strings_panel.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"
#include "tests/window_driver.h"

namespace zither::tests {

inline QString rig(const QString& part) {
    return QString(ZITHER_RIG) + "/" + part + ".stl";
}

// In the driver's folder, as its name says.
inline QString write(WindowDriver& d, const QString& name, const Mesh& m) {
    const QString file = d.folder() + "/" + name;
    const auto path = file.toStdString();
    EXPECT_TRUE(io::writeSurface(m, path, {*io::formatForWriting(path)}, silent()));
    return file;
}

inline bool openMesh(WindowDriver& d, const char* name, const Mesh& m) {
    return d.open({write(d, name, m)});
}

// Runs a command of the menus by its name, to its end.
inline bool runCommand(WindowDriver& d, const QString& name) {
    for (QAction* action : d.window().commands())
        if (action->text() == name) action->trigger();
    return d.settle();
}

// Tries a step out at the desk and keeps it.
inline bool keepStep(WindowDriver& d, const QString& step) {
    const auto keeps = [&] {
        auto* keep = d.button("Keep");
        return keep && keep->isEnabled() && d.workshop().trial().current().has_value();
    };
    return d.openStep(step) && d.waitFor(keeps) && d.clickButton("Keep") && d.settle();
}

// By the window that Ctrl+E opens; not waited for.
inline bool exportTo(WindowDriver& d, const QString& file) {
    d.key(Qt::Key_E, Qt::ControlModifier);
    auto* folder = d.find<QLineEdit>("export.folder");
    if (!folder) return false;
    d.dialogs().toExport = file;
    return d.clickButton("Choose a file …") && (d.clickButton("Write it") || d.clickButton("Write it as it is"));
}

inline QString labelText(WindowDriver& d, const QString& name) {
    auto* l = d.find<QLabel>(name);
    return l ? l->text() : QString();
}

inline desktop::StringsPanel& strings(WindowDriver& d) {
    return *d.window().findChild<desktop::StringsPanel*>();
}

inline std::size_t rowOf(WindowDriver& d, const QString& id) {
    const auto& rows = strings(d).rows();
    for (std::size_t i = 0; i < rows.size(); ++i)
        if (rows[i].id == id) return i;
    return 0;
}

inline const session::StringRow& row(WindowDriver& d, const QString& id) {
    return strings(d).rows()[rowOf(d, id)];
}

inline std::uint64_t openEdges(WindowDriver& d) {
    return d.workshop().looks().kept()->survey->counts.boundaryEdges;
}

inline void clickMark(WindowDriver& d, const QString& id, std::size_t mark) {
    const std::size_t r = rowOf(d, id);
    d.click(&strings(d),
            QPointF(strings(d).xOf(strings(d).rows()[r].marks[mark].at), strings(d).rowRect(r).center().y()));
}

}  // namespace zither::tests
