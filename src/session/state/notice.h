// The last thing to tell the user: good news goes by itself, an error stays until it has been read.
#pragma once

#include <QObject>
#include <QString>

#include "mesh/outcome.h"

namespace zither::session {

class Notice : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;

    [[nodiscard]] const QString& text() const { return text_; }
    [[nodiscard]] bool isError() const { return isError_; }
    void say(const QString& text) { set(text, false); }
    void failed(const mesh::Error& error) {
        if (error.cancelled())
            say("Cancelled; everything is as it was.");
        else
            set(QString::fromStdString(error.message), true);
    }
    void dismiss() { set({}, false); }

Q_SIGNALS:
    void changed();

private:
    void set(const QString& text, bool error) {
        text_ = text;
        isError_ = error;
        Q_EMIT changed();
    }

    QString text_;
    bool isError_ = false;
};

}  // namespace zither::session
