// What is seen: surveys and displays of the stops in front, made beside the window.
#pragma once

#include <QObject>

#include "session/jobs.h"
#include "session/judging.h"
#include "session/notice.h"
#include "session/parts.h"

namespace zither::session {

// Survey, loss and display of a surface: what must be known before it can be shown.
mesh::Outcome<Look> lookAt(const check::SurveyedPtr& part, const check::SurveyOptions& options, const Origin& origin,
                           mesh::Progress& progress);

class Looks : public QObject {
    Q_OBJECT
public:
    Looks(Parts& parts, Judging& judging, Jobs& jobs, Notice& notice, QObject* parent);

    // Of the current stop; nullptr until it has been judged.
    [[nodiscard]] const Look* kept() const { return parts_.current() ? parts_.current()->look() : nullptr; }
    // What is shown: what is tried out where there is such, else the current stop.
    [[nodiscard]] const Look* shown() const { return tried_ ? tried_ : kept(); }
    // What is tried out instead of what is kept; nullptr: nothing.
    void show(const Look* tried);
    // Judges the current stop where that was not done, or not by this brief.
    void refresh();
    // The brief is another one: all must be judged by it.
    void forget();

Q_SIGNALS:
    void changed();  // another surface is shown, or it has been judged

private:
    Parts& parts_;
    Judging& judging_;
    Jobs& jobs_;
    Notice& notice_;
    const Look* tried_ = nullptr;
};

}  // namespace zither::session
