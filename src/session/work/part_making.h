// Parts made of parts: taken apart, joined, copied. The parts that they come from stay.
#pragma once

#include <QObject>
#include <vector>

#include "project/parting.h"
#include "session/state/bench.h"
#include "session/state/judging.h"
#include "session/state/looks.h"
#include "session/state/notice.h"
#include "session/state/picking.h"

namespace zither::session {

class PartMaking : public QObject {
    Q_OBJECT
public:
    PartMaking(const Bench& bench, const Judging& judging, const Picking& picking);

    // The part in front, as it stands.
    void splitByBody();
    void splitByRegion();
    void splitOffPick();
    void copy();
    // Every part that is open.
    void joinAll();

private:
    void split(const QString& what, std::vector<project::Piece> (*apart)(const check::Surveyed&, const check::Survey&,
                                                                         const mesh::Pick&, const std::string&));
    void bringIn(const Part& like, std::vector<project::Piece> pieces, const QString& said);

    Parts& parts_;
    const Judging& judging_;
    const Picking& picking_;
    Jobs& jobs_;
    Notice& notice_;
};

}  // namespace zither::session
