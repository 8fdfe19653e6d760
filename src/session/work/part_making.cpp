// What comes of it is judged beside the window, as a file that is read.
#include "session/work/part_making.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;
using project::Piece;

namespace {
// More are hardly meant: a scan's specks, say. They would each be looked at, and listed.
constexpr std::size_t mostPieces = 200;
}  // namespace

PartMaking::PartMaking(const Bench& bench, const Judging& judging, const Picking& picking)
    : parts_(bench.parts), judging_(judging), picking_(picking), jobs_(bench.jobs), notice_(bench.notice) {}

void PartMaking::splitByBody() {
    split("bodies", [](const check::Surveyed& part, const check::Survey& survey, const mesh::Pick&,
                       const std::string& name) { return project::apartByBody(part, survey, name); });
}

void PartMaking::splitByRegion() {
    split("regions", [](const check::Surveyed& part, const check::Survey&, const mesh::Pick&, const std::string& name) {
        return project::apartByRegion(part, name);
    });
}

void PartMaking::splitOffPick() {
    if (picking_.pick().everything()) {
        notice_.say("Pick some triangles first: they become a part, and so does the rest.");
        return;
    }
    split("picked triangles", [](const check::Surveyed& part, const check::Survey&, const mesh::Pick& pick,
                                 const std::string& name) { return project::apartByPick(part, pick, name); });
}

void PartMaking::copy() {
    const Part* part = parts_.current();
    if (!part) return;
    bringIn(*part, {{part->name.toStdString() + " copy", part->track.part()->mesh()}}, "Copied");
}

void PartMaking::joinAll() {
    if (parts_.all().size() < 2) {
        notice_.say("Open another part first: all that are open become one.");
        return;
    }
    std::vector<Piece> pieces;
    for (const auto& part : parts_.all()) pieces.push_back({part->name.toStdString(), part->track.part()->mesh()});
    bringIn(*parts_.all().front(), {{"joined", project::joined(pieces)}},
            QString("%1 parts joined, as they stand").arg(pieces.size()));
}

void PartMaking::split(const QString& what, std::vector<Piece> (*apart)(const check::Surveyed&, const check::Survey&,
                                                                        const mesh::Pick&, const std::string&)) {
    const Part* part = parts_.current();
    const Look* look = part ? part->look() : nullptr;
    if (!look) return;
    std::vector<Piece> pieces = apart(*look->part, *look->survey, picking_.pick(), part->name.toStdString());
    if (pieces.size() < 2) {
        notice_.say(QString("%1 has no several %2 to be taken apart by.").arg(part->name, what));
        return;
    }
    if (pieces.size() > mostPieces) {
        notice_.say(QString("%1 would come apart into %2 parts; the most is %3. Drop small shells first, or pick what "
                            "belongs together.")
                        .arg(part->name)
                        .arg(pieces.size())
                        .arg(mostPieces));
        return;
    }
    const QString said = QString("%1 came apart into %2 parts by its %3").arg(part->name).arg(pieces.size()).arg(what);
    bringIn(*part, std::move(pieces), said);
}

void PartMaking::bringIn(const Part& like, std::vector<Piece> pieces, const QString& said) {
    struct Ready {
        QString name;
        check::SurveyedPtr part;
        Look look;
    };
    using Result = std::shared_ptr<std::vector<Ready>>;
    const Unit unit = like.unit();
    const io::Format* format = like.format;
    jobs_.start<Result>(
        QString("Looking at %1").arg(pieces.size() == 1 ? QString::fromStdString(pieces.front().name) : "new parts"),
        Jobs::Lane::Work,
        [pieces = std::make_shared<std::vector<Piece>>(std::move(pieces)),
         options = judging_.options()](Progress& progress) -> Outcome<Result> {
            auto ready = std::make_shared<std::vector<Ready>>();
            const auto count = static_cast<double>(pieces->size());
            for (Piece& piece : *pieces) {
                const auto i = static_cast<double>(ready->size());
                mesh::PartOfProgress looking(progress, i / count, (i + 1) / count);
                auto part = std::make_shared<const check::Surveyed>(std::move(piece.mesh));
                auto look = lookAt(part, options, {}, looking);
                if (!look) return mesh::errorOf(look);
                ready->push_back({QString::fromStdString(piece.name), part, std::move(*look)});
            }
            return ready;
        },
        [this, unit, format, said](Outcome<Result> done) {
            if (!done) return notice_.failed(done.error());
            std::uint64_t first = 0;
            for (Ready& r : **done) {
                Part made{0,
                          r.name,
                          {},
                          format,
                          {},
                          {},
                          unit,
                          project::Track(r.part),
                          std::make_shared<steps::SeenOfImport>(r.part)};
                made.shown = std::move(r.look);
                const std::uint64_t id = parts_.add(std::move(made));
                if (first == 0) first = id;
            }
            parts_.chooseId(first);
            notice_.say(said + ".");
        });
}

}  // namespace zither::session
