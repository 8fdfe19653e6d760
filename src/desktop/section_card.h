// The numbers of the cut that is moved: where it lies, how thick a slab it leaves, what it shows. It lies over the edge
// of the view while there is a cut.
#pragma once

#include <QFrame>

#include "session/workshop.h"

class QComboBox;
class QDoubleSpinBox;
class QHBoxLayout;
class QLabel;

namespace zither::desktop {

class SectionCard : public QFrame {
    Q_OBJECT
public:
    explicit SectionCard(session::Workshop& workshop, QWidget* parent = nullptr);

private:
    void refresh();
    void refreshChips();
    void refreshNumbers(const session::Sectioning::Cut& cut);
    void layAs(int way);

    session::Workshop& workshop_;
    QHBoxLayout* chips_;  // one for each cut
    QComboBox* lies_;
    QDoubleSpinBox* at_;
    QDoubleSpinBox* thickness_;
    QLabel* figures_;
};

}  // namespace zither::desktop
