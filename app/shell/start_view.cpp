#include "app/shell/start_view.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/widget/offer_card.h"
#include "app/widget/words.h"

namespace heron {
namespace {

constexpr int kWidth = 760;

}  // namespace

StartView::StartView(QWidget* parent)
    : QWidget(parent),
      make_(new PushButton(tr("Make a shack"), ButtonRank::primary)),
      open_(new PushButton(tr("Open a shack"), ButtonRank::secondary)),
      demo_(new PushButton(tr("Make the demo"), ButtonRank::secondary)),
      recent_(new QWidget) {
  auto* outer = new QHBoxLayout(this);
  outer->setContentsMargins(24, 16, 24, 16);
  outer->addStretch(1);
  auto* middle = new QWidget;
  middle->setMaximumWidth(kWidth);
  outer->addWidget(middle, 100);
  outer->addStretch(1);
  auto* column = new QVBoxLayout(middle);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(10);
  column->addStretch(2);
  column->addWidget(new Words(tr("What shall be measured?"), Type::title));
  auto* about = new Words(
      tr("A shack is a folder with everything in it: your devices with their specifications, your "
         "bench, and what was measured. It stays on this machine."),
      Type::question, Tone::slate);
  about->setWordWrap(true);
  column->addWidget(about);
  column->addSpacing(8);
  column->addWidget(new OfferCard(
      make_, tr("Begin with your own"),
      tr("Choose an empty folder and name the place. Then add a device, the parts of your "
         "bench, and start an evaluation.")));
  column->addWidget(
      new OfferCard(open_, tr("Go on with one"),
                    tr("Choose the folder of a shack; a copy on a memory stick will do.")));
  column->addWidget(new OfferCard(
      demo_, tr("Look around first"),
      tr("Two friends prepare a portable station for Skerry Point. All of it is invented, "
         "and made here in some seconds. The simulated bench answers, so that every "
         "measurement can be tried.")));
  auto* list = new QVBoxLayout(recent_);
  list->setContentsMargins(0, 8, 0, 0);
  list->setSpacing(4);
  list->addWidget(new Words(tr("Open before"), Type::heading));
  recent_rows_ = new QVBoxLayout;
  recent_rows_->setSpacing(2);
  list->addLayout(recent_rows_);
  column->addWidget(recent_);
  recent_->hide();
  column->addStretch(3);
  connect(make_, &QAbstractButton::clicked, this, &StartView::new_asked);
  connect(open_, &QAbstractButton::clicked, this, &StartView::open_asked);
  connect(demo_, &QAbstractButton::clicked, this, &StartView::demo_asked);
  setFocusProxy(make_);
}

void StartView::set_recent(const QStringList& folders) {
  while (QLayoutItem* item = recent_rows_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  int count = 0;
  for (const QString& folder : folders) {
    if (!QFileInfo::exists(folder + "/shack.sqlite")) continue;
    auto* button = new PushButton(QFileInfo(folder).fileName() + ", " + folder, ButtonRank::link);
    button->setAccessibleName(tr("Open %1").arg(folder));
    connect(button, &QAbstractButton::clicked, this, [this, folder] { emit recent_asked(folder); });
    recent_rows_->addWidget(button, 0, Qt::AlignLeft);
    ++count;
  }
  recent_->setVisible(count > 0);
}

}  // namespace heron
