// Questions to the user that the system asks: behind an interface, so that tests can answer.
#pragma once

#include <QString>
#include <QStringList>

class QWidget;

namespace zither::desktop {

class Dialogs {
public:
    virtual ~Dialogs() = default;
    // Empty where the user changed their mind.
    virtual QStringList filesToOpen(QWidget* parent) = 0;
    virtual QString fileToExport(QWidget* parent, const QString& suggested) = 0;
    virtual QString recipeToSave(QWidget* parent, const QString& suggested) = 0;
    virtual QString recipeToRun(QWidget* parent) = 0;
    virtual QString pictureToSave(QWidget* parent, const QString& suggested) = 0;
    virtual QString briefToOpen(QWidget* parent) = 0;
    virtual QString projectToSave(QWidget* parent, const QString& suggested) = 0;
    virtual QString reportToSave(QWidget* parent, const QString& suggested) = 0;
};

class SystemDialogs final : public Dialogs {
public:
    QStringList filesToOpen(QWidget* parent) override;
    QString fileToExport(QWidget* parent, const QString& suggested) override;
    QString recipeToSave(QWidget* parent, const QString& suggested) override;
    QString recipeToRun(QWidget* parent) override;
    QString pictureToSave(QWidget* parent, const QString& suggested) override;
    QString briefToOpen(QWidget* parent) override;
    QString projectToSave(QWidget* parent, const QString& suggested) override;
    QString reportToSave(QWidget* parent, const QString& suggested) override;
};

}  // namespace zither::desktop
