// How the user wants the window: what is folded away, and how numbers and the view behave. Kept between sessions.
#pragma once

#include <QObject>

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

Q_SIGNALS:
    void changed();

private:
    QSettings& settings_;
    bool viewAlone_ = false;
};

}  // namespace zither::session
