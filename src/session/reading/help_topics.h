// Help, made of what the catalogues say: the same words as in the docs and on the command line.
#pragma once

#include <QString>
#include <QStringList>
#include <vector>

#include "check/defect_class.h"
#include "session/reading/number_text.h"
#include "steps/step.h"

namespace zither::session {

struct HelpTopic {
    QString key;    // "step-fill", "check-open-edges"
    QString group;  // "Checks"
    QString title;
    QStringList words;  // what it is looked for by, besides
    QString html;
};

// Checks, steps by their families, lenses, briefs.
std::vector<HelpTopic> helpTopics(const Numbers& numbers);

QString helpKeyOf(const steps::Step& step);
QString helpKeyOf(check::DefectClass defect);

}  // namespace zither::session
