// Good news goes by itself; an error stays until it has been read.
#include "desktop/status_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/theme.h"

namespace zither::desktop {

namespace {
constexpr int readingMs = 6000;
// What takes no longer is not worth a number of seconds.
constexpr double worthSaying = 2;

QPushButton* smallButton(const QString& text) {
    auto* button = new QPushButton(text);
    button->setStyleSheet("padding: 3px 9px;");
    return button;
}

}  // namespace

StatusPanel::StatusPanel(session::Workshop& workshop, QWidget* parent) : QFrame(parent), workshop_(workshop) {
    setObjectName("status");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 7, 12, 8);
    column->setSpacing(6);

    job_ = new QWidget;
    auto* jobColumn = new QVBoxLayout(job_);
    jobColumn->setContentsMargins(0, 0, 0, 0);
    jobColumn->setSpacing(4);
    auto* jobRow = new QHBoxLayout;
    jobTitle_ = new QLabel;
    jobTitle_->setObjectName("job");
    jobTitle_->setFont(typeface(11));
    jobBar_ = new QProgressBar;
    jobBar_->setFixedHeight(4);
    jobBar_->setTextVisible(false);
    jobBar_->setRange(0, 1000);
    jobBar_->setAccessibleName("Share of the work that is done");
    jobBar_->setStyleSheet(QString("QProgressBar { background: %1; border: none; border-radius: 2px; } "
                                   "QProgressBar::chunk { background: %2; border-radius: 2px; }")
                               .arg(workshop_.paper().line.name(), workshop_.paper().wood.name()));
    auto* cancel = smallButton("Cancel");
    cancel->setObjectName("cancel");
    connect(cancel, &QPushButton::clicked, this, [this] { workshop_.cancelAll(); });
    takeBest_ = smallButton("Take the best so far");
    takeBest_->setObjectName("take-best");
    connect(takeBest_, &QPushButton::clicked, this, [this] { workshop_.jobs().takeBest(); });
    jobRow->addWidget(jobTitle_, 1);
    jobRow->addWidget(takeBest_);
    jobRow->addWidget(cancel);
    jobColumn->addLayout(jobRow);
    jobColumn->addWidget(jobBar_);
    column->addWidget(job_);

    notice_ = new QWidget;
    auto* noticeRow = new QHBoxLayout(notice_);
    noticeRow->setContentsMargins(0, 0, 0, 0);
    noticeText_ = new QLabel;
    noticeText_->setObjectName("notice");
    noticeText_->setWordWrap(true);
    noticeText_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* dismiss = smallButton("Dismiss");
    connect(dismiss, &QPushButton::clicked, &workshop_.notice(), &session::Notice::dismiss);
    noticeRow->addWidget(noticeText_, 1);
    noticeRow->addWidget(dismiss, 0, Qt::AlignTop);
    column->addWidget(notice_);

    noticeTimer_.setSingleShot(true);
    connect(&noticeTimer_, &QTimer::timeout, &workshop_.notice(), &session::Notice::dismiss);
    connect(&workshop_.notice(), &session::Notice::changed, this, &StatusPanel::refreshNotice);
    // Not at once: a progress bar paints the window where it stands, and others may not have heard yet of what began
    // the job.
    connect(&workshop_.jobs(), &session::Jobs::changed, this, &StatusPanel::refreshJobs, Qt::QueuedConnection);
    connect(&workshop_.jobs(), &session::Jobs::progress, this, &StatusPanel::refreshJobs);
    refreshNotice();
    refreshJobs();
}

QString StatusPanel::jobText() {
    const QString title = workshop_.jobs().title();
    if (std::exchange(timed_, title) != title) since_.start();
    const double share = workshop_.jobs().fraction();
    const double seconds = static_cast<double>(since_.elapsed()) / 1000;
    const double left = share > 0.03 ? seconds * (1 - share) / share : 0;
    return left > worthSaying ? QString("%1, %2 s left").arg(title).arg(std::ceil(left)) : title;
}

void StatusPanel::refreshJobs() {
    const bool busy = workshop_.jobs().busy();
    if (busy) {
        const QString text = jobText();
        const QString offered = workshop_.jobs().offered();
        takeBest_->setVisible(!offered.isEmpty());
        takeBest_->setToolTip(QString("Ends the search with what it has: %1.").arg(offered));
        const int buttons = offered.isEmpty() ? 110 : 110 + takeBest_->sizeHint().width();
        jobTitle_->setText(
            jobTitle_->fontMetrics().elidedText(text, Qt::ElideMiddle, std::max(120, width() - buttons)));
        jobTitle_->setToolTip(text);
        jobBar_->setValue(static_cast<int>(1000 * workshop_.jobs().fraction()));
    } else {
        timed_.clear();
    }
    job_->setVisible(busy);
    setVisible(busy || !workshop_.notice().text().isEmpty());
}

void StatusPanel::refreshNotice() {
    const session::Notice& notice = workshop_.notice();
    noticeText_->setText(notice.text());
    noticeText_->setStyleSheet(notice.isError() ? QString("color: %1;").arg(workshop_.paper().fails.name())
                                                : QString());
    notice_->setVisible(!notice.text().isEmpty());
    setVisible(workshop_.jobs().busy() || !notice.text().isEmpty());
    noticeTimer_.stop();
    if (!notice.isError() && !notice.text().isEmpty()) noticeTimer_.start(readingMs);
}

}  // namespace zither::desktop
