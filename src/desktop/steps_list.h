// All steps in their families, which open; or, while something is typed, those that it may mean.
#pragma once

#include <QAction>
#include <QWidget>
#include <functional>
#include <set>

#include "session/reading/desk_model.h"

class QLineEdit;
class QVBoxLayout;

namespace zither::desktop {

class StepsList : public QWidget {
    Q_OBJECT
public:
    // What outlives a list when the desk is laid out anew.
    struct State {
        QString typed;
        std::set<const void*> open;  // steps::Family; one more for what only measures
    };
    // `measures`: commands that only look.
    StepsList(session::DeskModel& desk, const QList<QAction*>& measures, State& state);

Q_SIGNALS:
    void stepWanted(const steps::Step& step);

private:
    void rebuild();
    void addFound();
    void addFamilies();
    void addFamily(const void* key, const QString& title, const QStringList& names,
                   const std::function<void()>& addContent);
    void addStep(const steps::Step& step, const QString& through);

    session::DeskModel& desk_;
    const QList<QAction*>& measures_;
    State& state_;
    QLineEdit* input_;
    QWidget* content_;
    QVBoxLayout* layout_;
};

}  // namespace zither::desktop
