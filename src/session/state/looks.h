// What is seen: surveys and displays of the stops in front, made beside the window.
#pragma once

#include <QObject>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

#include "session/state/jobs.h"
#include "session/state/judging.h"
#include "session/state/notice.h"
#include "session/state/parts.h"

namespace zither::session {

// Survey, loss and display of a surface: what must be known before it can be shown.
mesh::Outcome<Look> lookAt(const check::SurveyedPtr& part, const check::SurveyOptions& options, const Origin& origin,
                           mesh::Progress& progress, const check::Surveyed::Heard& heard = {});

class Looks : public QObject {
    Q_OBJECT
public:
    Looks(Parts& parts, Judging& judging, Jobs& jobs, Notice& notice, QObject* parent);

    // Of the current stop; nullptr until it has been judged.
    [[nodiscard]] const Look* kept() const { return parts_.current() ? parts_.current()->look() : nullptr; }
    // What is shown: what is tried out where there is such, else the current stop.
    [[nodiscard]] const Look* shown() const { return tried_ ? tried_ : kept(); }
    // What of it can be drawn; before it has been judged, too.
    [[nodiscard]] std::shared_ptr<const Display> display() const;
    // What a check has told of the current stop while the others still listen; nothing before, and once all are done.
    [[nodiscard]] std::optional<double> heard(check::DefectClass defect) const;
    // Some check of the current stop is not done yet.
    [[nodiscard]] bool listening() const;
    // What is tried out instead of what is kept; nullptr: nothing.
    void show(const Look* tried);
    // Judges the current stop where that was not done, or not by this brief.
    void refresh();
    // Judges the current stop of a part, whichever is in front; `then` is called when that has come to an end.
    void judge(const Part& part, std::function<void()> then = {});
    // The brief is another one: all must be judged by it.
    void forget();

Q_SIGNALS:
    void changed();       // another surface is shown, or it has been judged
    void heardAnother();  // a check is done while others still listen

private:
    Parts& parts_;
    Judging& judging_;
    Jobs& jobs_;
    Notice& notice_;
    // What checks tell from threads of their own, until it is taken here.
    struct Inbox {
        std::mutex guard;
        std::vector<std::pair<check::DefectClass, double>> told;
    };
    // Of the stop that is being judged, by part.
    struct Listening {
        std::shared_ptr<const mesh::Mesh> mesh;
        check::SurveyOptions options;
        std::map<const check::DefectDescriptor*, double> heard;
        std::shared_ptr<std::vector<std::function<void()>>> then;  // to be called when it has come to an end
        std::shared_ptr<Inbox> inbox;
    };
    // Called by name from the threads of checks, so that what is told goes through the inbox alone.
    Q_INVOKABLE void hear();
    [[nodiscard]] const Listening* ofCurrent() const;

    const Look* tried_ = nullptr;
    std::map<std::uint64_t, Listening> listening_;
};

}  // namespace zither::session
