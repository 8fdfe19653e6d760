// Finding something by what people call it.
#pragma once

#include <QString>
#include <QStringList>
#include <optional>
#include <vector>

#include "steps/step.h"

namespace zither::session {

struct WordMatch {
    int rank = 0;     // lower is better
    QString through;  // the word that was meant, where the title does not say it
};
// Every word of `typed` has to occur in the title or in one of the words. Nothing typed matches everything.
std::optional<WordMatch> matchWords(const QString& typed, const QString& title, const QStringList& words);

// What a step can be found by, besides its title.
QStringList wordsOf(const steps::Step& step);

struct FoundStep {
    const steps::Step* step;
    QString through;
};
// Best first; steps that match alike stand in catalogue order.
std::vector<FoundStep> findSteps(const QString& typed);

}  // namespace zither::session
