// The editor of one parameter, by its kind.
#pragma once

#include <functional>

#include "desktop/dialogs.h"
#include "session/workshop.h"

namespace zither::desktop {

struct EditorContext {
    session::Workshop& workshop;
    Dialogs& dialogs;
};

struct EditedValue {
    const steps::Step& step;
    const steps::Parameter& parameter;
    const steps::Value& value;
};

// Named "step.parameter", with the parameter's help as its tip; calls `set` with each new value.
QWidget* valueEditor(const EditorContext& context, const EditedValue& edited,
                     const std::function<void(const steps::Value&)>& set);

// For a place that may be left out and that the pick can say: sets it to that. nullptr for others.
QWidget* takePlaceButton(const EditorContext& context, const EditedValue& edited,
                         const std::function<void(const steps::Value&)>& take);

}  // namespace zither::desktop
