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

}  // namespace zither::desktop
