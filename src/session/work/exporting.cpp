// Everything is worked out anew when it is asked: parts come and go while the window is open.
#include "session/work/exporting.h"

#include <QDir>
#include <QFileInfo>
#include <QLocale>
#include <algorithm>
#include <cmath>

#include "mesh/precision.h"
#include "session/reading/number_text.h"
#include "session/reading/strings.h"
#include "session/state/preferences.h"

namespace zither::session {

Exporting::Exporting(const Bench& bench, const Judging& judging, HandingOver& handingOver)
    : parts_(bench.parts),
      judging_(judging),
      handingOver_(handingOver),
      preferences_(bench.preferences),
      format_(io::writableFormats().front()) {}

void Exporting::setWhich(Which which) {
    which_ = which;
    Q_EMIT changed();
}
void Exporting::setFormat(const io::Format& format) {
    format_ = &format;
    Q_EMIT changed();
}
void Exporting::setFolder(const QString& folder) {
    folder_ = folder;
    Q_EMIT changed();
}
void Exporting::setPattern(const QString& pattern) {
    pattern_ = pattern;
    Q_EMIT changed();
}
void Exporting::setTogether(bool together) {
    together_ = together;
    Q_EMIT changed();
}

void Exporting::setFile(const QString& file) {
    const QFileInfo info(file);
    folder_ = info.absolutePath();
    pattern_ = info.completeBaseName();
    // Of several that end alike the one that is chosen already.
    const std::string suffix = "." + info.suffix().toLower().toStdString();
    if (io::extensionOf(*format_) != suffix)
        for (const io::Format* f : io::writableFormats())
            if (f->extension == suffix) format_ = f;
    Q_EMIT changed();
}

bool Exporting::canBeTogether() const {
    return which_ != Which::Front && format_->keepsRegions;
}

std::vector<const Part*> Exporting::chosen() const {
    std::vector<const Part*> parts;
    for (std::size_t i = 0; i < parts_.all().size(); ++i) {
        const Part* part = parts_.all()[i].get();
        if (which_ == Which::All || (which_ == Which::Front ? part == parts_.current() : parts_.isChosen(i)))
            parts.push_back(part);
    }
    return parts;
}

QString Exporting::pathOf(const Part& part) const {
    const QString beside =
        part.file.empty() ? QDir::homePath() : QFileInfo(QString::fromStdString(part.file.string())).absolutePath();
    const QString step = QString::fromStdString(part.track.stop(part.track.current()).label);
    QString name = pattern_;
    name.replace("{name}", part.name).replace("{step}", step);
    // Names come from users and files: they must not lead elsewhere.
    name.replace('/', '_');
    return (folder_.isEmpty() ? beside : folder_) + "/" + name + text(io::extensionOf(*format_));
}

std::vector<Exporting::File> Exporting::files() const {
    std::vector<File> files;
    for (const Part* part : chosen()) {
        if (together() && !files.empty()) {
            files.front().parts.push_back(part->id);
            continue;
        }
        const QString path = pathOf(*part);
        files.push_back({path, {part->id}, QFileInfo::exists(path)});
    }
    return files;
}

QString Exporting::problem() const {
    const std::vector<File> all = files();
    if (all.empty()) return "There is no part to be exported.";
    if (pattern_.trimmed().isEmpty()) return "Give the files a name.";
    // One file has one unit: numbers of another would stand for other lengths.
    if (together())
        for (const Part* part : chosen())
            if (part->unit().name != chosen().front()->unit().name)
                return QString(
                           "One file has one unit, and %1 has another than %2: export them apart, or scale it first.")
                    .arg(part->name, chosen().front()->name);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const QFileInfo info(all[i].path);
        if (!QFileInfo(info.absolutePath()).isDir()) return QString("There is no folder %1.").arg(info.absolutePath());
        for (std::size_t k = 0; k < i; ++k)
            if (all[k].path == all[i].path)
                return QString("Two parts would be written to %1: put {name} into the name.").arg(info.fileName());
    }
    return {};
}

QStringList Exporting::remarks() const {
    QStringList said;
    QStringList assumed;
    for (const Part* part : chosen()) {
        const mesh::Mesh& m = part->track.part()->mesh();
        const std::string unit = part->unit().known();
        QStringList lost;
        for (const std::string& what : io::lossesOf(m, {*format_, unit})) lost << QString::fromStdString(what);
        for (const std::string& what : part->notKept) lost << QString::fromStdString(what);
        if (!lost.isEmpty()) said << QString("%1: the file will not hold %2.").arg(part->name, lost.join(", "));
        if (format_->keepsUnit && part->unit().assumed)
            assumed << QString("%1 in %2").arg(part->name, part->unit().name);
        const mesh::Box box = mesh::boxOf(m);
        if (format_->floats && !box.empty() && !mesh::fitsPrecision(m, mesh::Precision::Single))
            said << QString("%1: coordinates are rounded by up to %2 %3.")
                        .arg(part->name,
                             preferences_.numbers().shortNumber(
                                 mesh::unitInLastPlace(mesh::Precision::Single, box.farthest()) / 2),
                             part->unit().name);
    }
    if (!assumed.isEmpty())
        said << QString(
                    "Nobody has said the unit, which the file holds: it is written as assumed (%1). It is set beside "
                    "the part's name at the top.")
                    .arg(assumed.join(", "));
    for (const Part* part : chosen()) {
        const QString imported = QString::fromStdString(part->file.string());
        if (!imported.isEmpty() && QFileInfo(pathOf(*part)) == QFileInfo(imported))
            said << QString("%1 is the file that the part was read from: what came in will be gone.")
                        .arg(QFileInfo(imported).fileName());
    }
    for (const File& file : files())
        if (file.isThere)
            said << QString("%1 is there already (%2), and will be replaced once the new one is proved.")
                        .arg(QFileInfo(file.path).fileName(),
                             QLocale::c().formattedDataSize(QFileInfo(file.path).size()));
    return said;
}

QStringList Exporting::failing() const {
    QStringList fails;
    for (const Part* part : chosen()) {
        const Look* look = part->look();
        if (!look) {
            fails << QString("%1 – not judged yet").arg(part->name);
            continue;
        }
        for (const steps::Judged& j : judging_.verdictOf(*look).judged)
            if (!j.met) fails << QString("%1 – %2").arg(part->name, failureText(j, preferences_.numbers()));
    }
    return fails;
}

void Exporting::write() {
    if (!problem().isEmpty()) return;
    std::vector<HandingOver::Wanted> wanted;
    for (const File& file : files()) wanted.push_back({file.parts, file.path, format_});
    handingOver_.exportThese(std::move(wanted));
}

}  // namespace zither::session
