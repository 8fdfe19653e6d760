// The automatic repair of the part in front: each of its steps becomes a stop on the track.
#pragma once

#include <QObject>

#include "session/looks.h"

namespace zither::session {

class Mending : public QObject {
    Q_OBJECT
public:
    Mending(Parts& parts, const Judging& judging, Jobs& jobs, Notice& notice, QObject* parent);

    void start();

private:
    Parts& parts_;
    const Judging& judging_;
    Jobs& jobs_;
    Notice& notice_;
};

}  // namespace zither::session
