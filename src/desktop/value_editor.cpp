// A box, a field or a list, by the kind of the parameter.
#include "desktop/value_editor.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "session/reading/palette.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using session::text;

namespace {

// The other parts that are open, by the files they were read from; or any file.
QWidget* fileEditor(const EditorContext& context, const steps::Parameter& parameter, const QString& file,
                    const std::function<void(const QString&)>& set) {
    auto* box = new QComboBox;
    box->addItem(parameter.optional ? "nothing else" : "choose a surface", QString());
    for (const auto& part : context.workshop.parts().all())
        if (part.get() != context.workshop.parts().current())
            box->addItem(QString::fromStdString(part->file.filename().string()),
                         QString::fromStdString(part->file.string()));
    if (!file.isEmpty() && box->findData(file) < 0) box->addItem(QFileInfo(file).fileName(), file);
    box->addItem("another file …", QString("?"));
    box->setCurrentIndex(std::max(0, box->findData(file)));
    QObject::connect(box, &QComboBox::activated, box,
                     [&dialogs = context.dialogs, box, set, before = box->currentIndex()](int index) {
                         QString chosen = box->itemData(index).toString();
                         if (chosen == "?") {
                             const QStringList files = dialogs.filesToOpen(box);
                             if (files.isEmpty()) {
                                 box->setCurrentIndex(before);
                                 return;
                             }
                             chosen = files.front();
                             box->insertItem(index, QFileInfo(chosen).fileName(), chosen);
                             box->setCurrentIndex(index);
                         }
                         set(chosen);
                     });
    return box;
}

QWidget* plainEditor(const EditorContext& context, const EditedValue& edited,
                     const std::function<void(const steps::Value&)>& set) {
    const auto& [step, parameter, value] = edited;
    if (parameter.kind == steps::ParameterKind::Flag) {
        auto* box = new QCheckBox;
        box->setChecked(value.number() != 0);
        QObject::connect(box, &QCheckBox::toggled, box, [set](bool on) { set(steps::Value(on ? 1.0 : 0.0)); });
        return box;
    }
    if (parameter.kind == steps::ParameterKind::Choice) {
        auto* box = new QComboBox;
        for (const std::string_view choice : parameter.choices) box->addItem(text(choice));
        box->setCurrentText(QString::fromStdString(value.text()));
        QObject::connect(box, &QComboBox::activated, box,
                         [set, box](int i) { set(steps::Value(box->itemText(i).toStdString())); });
        return box;
    }
    if (parameter.kind == steps::ParameterKind::Place || parameter.kind == steps::ParameterKind::Places) {
        auto* line = new QLineEdit(QString::fromStdString(value.text()));
        line->setPlaceholderText(text(steps::unitOf(parameter)));
        QObject::connect(
            line, &QLineEdit::editingFinished, line,
            [set, line, step = &step, p = &parameter, &preferences = context.workshop.preferences()] {
                const std::string typed = line->text().remove(' ').toStdString();
                const auto place = typed.empty() && p->optional ? mesh::Outcome<steps::Value>(steps::Value(typed))
                                                                : steps::parseValue(*step, *p, typed);
                line->setStyleSheet(place ? QString() : QString("color: %1;").arg(preferences.paper().fails.name()));
                if (place) set(*place);
            });
        return line;
    }
    if (parameter.kind == steps::ParameterKind::File)
        return fileEditor(context, parameter, QString::fromStdString(value.text()),
                          [set](const QString& file) { set(steps::Value(file.toStdString())); });
    const double number = value.number();
    auto* spin = new QDoubleSpinBox;
    spin->setButtonSymbols(QAbstractSpinBox::NoButtons);
    spin->setAlignment(Qt::AlignRight);
    spin->setKeyboardTracking(false);
    const bool count = parameter.kind == steps::ParameterKind::Count;
    // Digits enough to show a crack of micrometres in a part of metres, no more than the value needs.
    const int decimals = count                                           ? 0
                         : parameter.kind == steps::ParameterKind::Angle ? 2
                         : number > 0 ? std::clamp(3 - static_cast<int>(std::floor(std::log10(number))), 1, 9)
                                      : 4;
    spin->setDecimals(decimals);
    if (parameter.min == 0 && !parameter.zero.empty()) spin->setSpecialValueText(text(parameter.zero));
    spin->setRange(parameter.min, std::min(parameter.max, 1e9));
    spin->setValue(number);
    const session::Part* part = context.workshop.parts().current();
    const QString unit = part ? " " + part->unit().name : QString();
    spin->setSuffix(parameter.kind == steps::ParameterKind::Length    ? unit
                    : parameter.kind == steps::ParameterKind::Volume  ? unit + "\u00B3"
                    : parameter.kind == steps::ParameterKind::Percent ? " %"
                    : parameter.kind == steps::ParameterKind::Angle   ? "°"
                                                                      : "");
    QObject::connect(spin, &QDoubleSpinBox::valueChanged, spin, [set](double v) { set(steps::Value(v)); });
    return spin;
}

// What the pick says of a place that may be left out; none where there is nothing to say.
std::optional<std::string> placePicked(const session::Picking& picking, const steps::Parameter& parameter) {
    if (!parameter.optional || !steps::isText(parameter.kind)) return std::nullopt;
    if (parameter.kind == steps::ParameterKind::Places && !picking.places().empty())
        return steps::textOfPlaces(picking.places());
    if (parameter.kind != steps::ParameterKind::Place) return std::nullopt;
    if (parameter.means == steps::Parameter::Direction && picking.normal())
        return steps::textOfPlace(*picking.normal());
    if (parameter.means == steps::Parameter::Spot && picking.place()) return steps::textOfPlace(*picking.place());
    return std::nullopt;
}

}  // namespace

QWidget* takePlaceButton(const EditorContext& context, const EditedValue& edited,
                         const std::function<void(const steps::Value&)>& take) {
    const auto picked = placePicked(context.workshop.picking(), edited.parameter);
    if (!picked || *picked == edited.value.text()) return nullptr;
    const bool direction = edited.parameter.means == steps::Parameter::Direction;
    auto* button = new QPushButton(direction ? "Where the picked face faces"
                                   : edited.parameter.kind == steps::ParameterKind::Places ? "The picked points"
                                                                                           : "The picked point");
    button->setObjectName("take-" + text(edited.step.name) + "." + text(edited.parameter.name));
    button->setToolTip(QString("Sets %1 to %2, and lets the pick go.")
                           .arg(text(edited.parameter.name), QString::fromStdString(*picked)));
    QObject::connect(button, &QPushButton::clicked, button, [take, picked] { take(steps::Value(*picked)); });
    return button;
}

QWidget* valueEditor(const EditorContext& context, const EditedValue& edited,
                     const std::function<void(const steps::Value&)>& set) {
    QWidget* editor = plainEditor(context, edited, set);
    editor->setObjectName(text(edited.step.name) + "." + text(edited.parameter.name));
    editor->setToolTip(QString::fromStdString(steps::helpOf(edited.parameter)));
    return editor;
}

}  // namespace zither::desktop
