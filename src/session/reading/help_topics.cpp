// One page for each descriptor.
#include "session/reading/help_topics.h"

#include "check/catalogue.h"
#include "session/lens/lens.h"
#include "session/reading/desk_model.h"
#include "session/reading/number_text.h"
#include "session/reading/word_search.h"
#include "steps/brief.h"

namespace zither::session {
namespace {

QString html(std::string_view words) {
    return text(words).toHtmlEscaped();
}

HelpTopic topicOf(check::DefectClass defect) {
    const check::Limited& limited = defect->limited;
    QString page = QString("<p>%1</p>").arg(html(defect->sentence));
    QStringList helpful;
    for (const steps::Step* step : DeskModel::stepsFor(defect))
        helpful << QString("<a href=\"%1\">%2</a>").arg(helpKeyOf(*step), html(step->title));
    if (!helpful.isEmpty()) page += QString("<p>What helps: %1.</p>").arg(helpful.join(", "));
    page += QString("<p>In a brief, and in <code>check --json</code>: <code>%1</code>%2.</p>")
                .arg(html(limited.id), limited.atLeast ? ", which must not be less than its limit" : "");
    return {helpKeyOf(defect), "Checks", text(defect->name), {text(limited.title), text(limited.id)}, page};
}

QString rowOf(const steps::Parameter& p) {
    QString values;
    for (const std::string_view choice : p.choices)
        values += (values.isEmpty() ? "" : ", ") + QString("<code>%1</code>").arg(html(choice));
    if (values.isEmpty()) values = html(steps::unitOf(p));
    return QString(
               "<tr><td style=\"padding: 3px 14px 3px 0\"><b>%1</b><br>%2</td><td style=\"padding: 3px "
               "0\">%3</td></tr>")
        .arg(html(p.name), values, QString::fromStdString(steps::helpOf(p)).toHtmlEscaped());
}

HelpTopic topicOf(const steps::Step& step) {
    QString page = QString("<p>%1</p>").arg(html(step.summary));
    if (!step.wholeOnly.empty()) page += QString("<p>It works on the whole part: %1.</p>").arg(html(step.wholeOnly));
    if (step.needsPick) page += "<p>It works on what is picked.</p>";
    if (!step.parameters.empty()) {
        page += "<table>";
        for (const steps::Parameter& p : step.parameters)
            if (!p.retired) page += rowOf(p);
        page += "</table>";
    }
    QStringList words = wordsOf(step);
    page += QString("<p>On the command line: <code>--step \"%1 …\"</code>.<br>Also looked for as: %2.</p>")
                .arg(html(step.name), words.mid(1).join(", ").toHtmlEscaped());
    return {helpKeyOf(step), "Steps: " + text(step.family->title), text(step.title), words, page};
}

HelpTopic topicOf(const steps::Brief& brief, const Numbers& numbers) {
    QString page = "<table>";
    for (const steps::Requirement& r : brief.requirements) {
        const bool share = r.measure->unit == "share";
        page += QString("<tr><td style=\"padding: 2px 14px 2px 0\">%1</td><td>%2</td></tr>")
                    .arg(QString::fromStdString(steps::titleOf(r)).toHtmlEscaped(),
                         r.limit ? QString("%1 %2%3").arg(r.measure->atLeast ? "at least" : "at most",
                                                          numbers.shortNumber(share ? 100 * *r.limit : *r.limit),
                                                          share ? " %" : "")
                                 : QString("noted"));
    }
    return {"brief-" + text(brief.id), "Briefs", text(brief.title), {}, page + "</table>"};
}

}  // namespace

QString helpKeyOf(const steps::Step& step) {
    return "step-" + text(step.name);
}

QString helpKeyOf(check::DefectClass defect) {
    return "check-" + text(defect->key);
}

std::vector<HelpTopic> helpTopics(const Numbers& numbers) {
    std::vector<HelpTopic> topics;
    for (const check::DefectClass defect : check::catalogue()) topics.push_back(topicOf(defect));
    for (const steps::Family& family : steps::families())
        for (const steps::Step& step : steps::catalogue())
            if (step.family == &family) topics.push_back(topicOf(step));
    for (const Lens& lens : lenses())
        topics.push_back(
            {"lens-" + text(lens.name), "Lenses", text(lens.name), {}, QString("<p>%1</p>").arg(html(lens.help))});
    for (const steps::Brief& brief : steps::builtInBriefs()) topics.push_back(topicOf(brief, numbers));
    return topics;
}

}  // namespace zither::session
