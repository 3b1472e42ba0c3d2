#include "app/widget/ask.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
#include <QVBoxLayout>

#include "app/paint/verdict_mark.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"

namespace heron {
namespace {
constexpr int kWidth = 400;
}  // namespace

AskDialog::AskDialog(const QString& heading, const QString& explanation, const QString& label,
                     const QString& initial, const QString& button, Complaint complaint,
                     QWidget* parent)
    : QDialog(parent, Qt::Dialog | Qt::FramelessWindowHint),
      edit_(new QLineEdit(initial)),
      error_(new Words({}, Type::label)),
      complaint_(std::move(complaint)) {
  setObjectName("ask");
  setWindowTitle(heading);
  setFixedWidth(kWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 18);
  column->setSpacing(8);
  column->addWidget(new Words(heading, Type::heading));
  auto* words = new Words(explanation, Type::body, Tone::slate);
  words->setWordWrap(true);
  words->setMinimumHeight(words->heightForWidth(kWidth - 40));
  column->addWidget(words);
  column->addSpacing(4);
  label_ = new Words(label, Type::label, Tone::mute);
  column->addWidget(label_);
  edit_->setFixedHeight(30);
  edit_->setAccessibleName(label);
  edit_->setFont(type_font(Type::body));
  edit_->selectAll();
  column->addWidget(edit_);
  error_->setWordWrap(true);
  error_->hide();
  column->addWidget(error_);
  auto* row = new QHBoxLayout;
  row->addStretch();
  auto* leave = new PushButton(tr("Leave"), ButtonRank::secondary);
  leave_ = leave;
  auto* go = new PushButton(button, ButtonRank::primary);
  row->addWidget(leave);
  row->addWidget(go);
  column->addSpacing(6);
  column->addLayout(row);
  connect(leave, &QAbstractButton::clicked, this, &QDialog::reject);
  connect(go, &QAbstractButton::clicked, this, &AskDialog::try_accept);
  connect(edit_, &QLineEdit::returnPressed, this, &AskDialog::try_accept);
}

QString AskDialog::text() const {
  return edit_->text().trimmed();
}

void AskDialog::only_tell() {
  for (QWidget* w : {static_cast<QWidget*>(edit_), static_cast<QWidget*>(label_), leave_})
    w->hide();
}

void AskDialog::try_accept() {
  const QString wrong = complaint_ ? complaint_(text()) : QString();
  if (wrong.isEmpty()) {
    accept();
    return;
  }
  error_->setText(wrong);
  error_->show();
  adjustSize();
}

void AskDialog::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme_of(this);
  p.fillRect(rect(), t.raised);
  p.setPen(t.hairStrong);
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  if (error_->isVisible())
    draw_verdict(p, {12.0, error_->geometry().top() + 8.0}, 8, Verdict::fail, t);
}

std::optional<QString> ask(QWidget* parent, const QString& heading, const QString& explanation,
                           const QString& label, const QString& initial, const QString& button,
                           AskDialog::Complaint complaint) {
  AskDialog dialog(heading, explanation, label, initial, button, std::move(complaint), parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  return dialog.text();
}

void tell(QWidget* parent, const QString& heading, const QString& text, const QString& button) {
  AskDialog dialog(heading, text, {}, {}, button, {}, parent);
  dialog.only_tell();
  dialog.exec();
}

}  // namespace heron
