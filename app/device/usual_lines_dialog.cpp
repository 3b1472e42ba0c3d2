#include "app/device/usual_lines_dialog.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/qt_text.h"
#include "app/widget/float_frame.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"
#include "core/method/specification.h"

namespace heron {

UsualLinesDialog::UsualLinesDialog(const DeviceKind& kind, const std::vector<SpecLine>& there,
                                   QWidget* parent)
    : QDialog(parent, Qt::Dialog | Qt::FramelessWindowHint), list_(new CheckList(false)) {
  constexpr int kWidth = 460;
  setObjectName("ask");
  const QString heading =
      tr("Lines %1s usually have").arg(qt_text(std::string(kind.name)).toLower());
  setWindowTitle(heading);
  setFixedWidth(kWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 18);
  column->setSpacing(8);
  column->addWidget(new Words(heading, Type::heading));
  auto* words = new Words(tr("Values are only usual ones: type those of its maker or handbook over "
                             "them."),
                          Type::body, Tone::slate);
  words->setWordWrap(true);
  words->setMinimumHeight(words->heightForWidth(kWidth - 40));
  column->addWidget(words);
  list_->setAccessibleName(heading);
  int offered = 0;
  for (const UsualLine& line : usual_lines(kind)) {
    const bool is_there = std::any_of(there.begin(), there.end(), [&](const SpecLine& l) {
      return l.characteristic == line.characteristic;
    });
    const Characteristic* c = find_characteristic(line.characteristic);
    if (is_there || c == nullptr) continue;
    const Limit limit = spec_limit(line.characteristic, std::string(line.limit));
    list_->add(qt_text(std::string(c->test)),
               qt_text(spec_text(limit) + ", " + std::string(line.condition)),
               qt_text(std::string(line.characteristic)), false);
    ++offered;
  }
  list_->setFixedHeight(std::max(1, offered) * CheckList::kRowHeight + 2);
  list_->setCurrentRow(0);
  column->addWidget(list_);
  if (offered == 0)
    column->addWidget(new Words(tr("It has all of them already."), Type::body, Tone::slate));
  list_->setVisible(offered > 0);
  auto* row = new QHBoxLayout;
  row->addStretch();
  auto* leave = new PushButton(tr("Cancel"), ButtonRank::secondary);
  auto* go = new PushButton(tr("Add the ticked ones"), ButtonRank::primary);
  go->setEnabled(false);
  row->addWidget(leave);
  row->addWidget(go);
  column->addLayout(row);
  connect(list_, &QListWidget::itemChanged, this,
          [this, go] { go->setEnabled(!list_->taken().isEmpty()); });
  connect(leave, &QAbstractButton::clicked, this, &QDialog::reject);
  connect(go, &QAbstractButton::clicked, this, &QDialog::accept);
}

void UsualLinesDialog::paintEvent(QPaintEvent*) {
  QPainter p(this);
  draw_float_frame(p, *this);
}

}  // namespace heron
