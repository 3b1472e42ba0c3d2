#include "app/widget/sheet_title.h"

#include <QEvent>
#include <QHBoxLayout>

#include "app/widget/words.h"

namespace heron {
namespace {

constexpr int kOneLineHead = 72;
constexpr int kTwoLineHead = 92;

}  // namespace

SheetTitle::SheetTitle(const QString& question, const QString& action, QWidget* parent)
    : QWidget(parent),
      title_(new Words({}, Type::title)),
      tag_(new Tag),
      question_(new Words(question, Type::question, Tone::slate)),
      primary_(new PushButton(action, ButtonRank::primary)),
      cancel_(new PushButton(QObject::tr("Cancel"), ButtonRank::secondary)),
      consequence_(new Words({}, Type::label, Tone::mute)) {
  static_cast<Words*>(title_)->elide();
  setFixedHeight(kOneLineHead);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(19, 13, 19, 0);
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  auto* top = new QHBoxLayout;
  top->setSpacing(10);
  top->addWidget(title_, 0);
  top->addWidget(tag_);
  top->addStretch();
  tag_->hide();
  words->addLayout(top);
  words->addWidget(question_);
  words->addStretch();
  row->addLayout(words, 1);
  auto* side = new QVBoxLayout;
  side_ = side;
  side->setSpacing(3);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  buttons->addStretch();
  buttons->addWidget(cancel_);
  buttons->addWidget(primary_);
  cancel_->hide();
  side->addLayout(buttons);
  side->addWidget(consequence_, 0, Qt::AlignRight);
  side->addStretch();
  row->addLayout(side);
}

/// A question that is longer than its room has a second line.
void SheetTitle::fit() {
  const int room = width() - 38 - side_->sizeHint().width() - 8;
  const bool has_two_lines =
      question_->fontMetrics().horizontalAdvance(question_->text()) > room && room > 0;
  question_->setWordWrap(has_two_lines);
  setFixedHeight(has_two_lines ? kTwoLineHead : kOneLineHead);
}

void SheetTitle::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  fit();
}

bool SheetTitle::event(QEvent* event) {
  const bool is_handled = QWidget::event(event);
  if (event->type() == QEvent::LayoutRequest) fit();
  return is_handled;
}

QHBoxLayout* sheet_controls(QWidget* box) {
  box->setFixedHeight(42);
  auto* row = new QHBoxLayout(box);
  row->setContentsMargins(19, 2, 19, 14);
  row->setSpacing(6);
  return row;
}

}  // namespace heron
