// How the user wants the window: what is folded away, and how numbers and the view behave. Kept between sessions.
#pragma once

#include <QObject>
#include <QString>

#include "session/reading/number_text.h"
#include "session/reading/palette.h"

class QSettings;

namespace zither::session {

class Preferences : public QObject {
    Q_OBJECT
public:
    enum class Panel { Parts, Strings, Desk };

    Preferences(QSettings& settings, QObject* parent);

    // Strings that are folded are a thin strip.
    [[nodiscard]] bool isShown(Panel panel) const;
    void setShown(Panel panel, bool shown);
    // All of them away, or as they were before.
    [[nodiscard]] bool viewAlone() const { return viewAlone_; }
    void setViewAlone(bool alone);

    [[nodiscard]] const Paper& paper() const { return *paper_; }
    void setDarkPaper(bool dark);
    [[nodiscard]] const Numbers& numbers() const { return numbers_; }
    void setDigits(int digits);
    // Of files that do not say theirs: "mm" at first.
    [[nodiscard]] QString unitOfOthers() const;
    void setUnitOfOthers(const QString& unit);
    // The middle button turns and the right one moves; at first the other way round.
    [[nodiscard]] bool middleTurns() const;
    void setMiddleTurns(bool turns);
    // Rolling the wheel towards oneself comes nearer; at first it goes farther.
    [[nodiscard]] bool wheelPulls() const;
    void setWheelPulls(bool pulls);
    // So many milliseconds may a picture take while the part is turned: more are drawn coarsely.
    [[nodiscard]] int frameMs() const;
    void setFrameMs(int milliseconds);

Q_SIGNALS:
    void changed();
    void paperChanged();

private:
    void set(const char* key, const QVariant& value);

    QSettings& settings_;
    // Both are asked for with everything that is painted.
    const Paper* paper_;
    Numbers numbers_;
    bool viewAlone_ = false;
};

}  // namespace zither::session
