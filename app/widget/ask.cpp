#include "app/widget/ask.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPainter>
#include <QVBoxLayout>

#include "app/paint/verdict_mark.h"
#include "app/widget/float_frame.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"

namespace heron {
namespace {
constexpr int kAskWidth = 400;
}  // namespace

AskDialog::AskDialog(const QString& heading, const QString& explanation,
                     const std::vector<AskField>& fields, const QString& button,
                     Complaint complaint, QWidget* parent, bool can_cancel)
    : QDialog(parent, Qt::Dialog | Qt::FramelessWindowHint),
      error_(new Words({}, Type::label)),
      complaint_(std::move(complaint)) {
  setObjectName("ask");
  setWindowTitle(heading);
  setFixedWidth(kAskWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 18);
  column->setSpacing(8);
  column->addWidget(new Words(heading, Type::heading));
  auto* words = new Words(explanation, Type::body, Tone::slate);
  words->setWordWrap(true);
  words->setMinimumHeight(words->heightForWidth(kAskWidth - 40));
  column->addWidget(words);
  for (const AskField& field : fields) edits_.push_back(add_field(field));
  error_->setWordWrap(true);
  error_->hide();
  column->addWidget(error_);
  auto* row = new QHBoxLayout;
  row->addStretch();
  if (can_cancel) {
    auto* leave = new PushButton(tr("Cancel"), ButtonRank::secondary);
    row->addWidget(leave);
    connect(leave, &QAbstractButton::clicked, this, &QDialog::reject);
  }
  auto* go = new PushButton(button, ButtonRank::primary);
  row->addWidget(go);
  column->addSpacing(6);
  column->addLayout(row);
  connect(go, &QAbstractButton::clicked, this, &AskDialog::try_accept);
}

QLineEdit* AskDialog::add_field(const AskField& field) {
  auto* column = static_cast<QVBoxLayout*>(layout());
  column->addSpacing(4);
  column->addWidget(new Words(field.label, Type::label, Tone::mute));
  auto* edit = new QLineEdit(field.initial);
  edit->setFixedHeight(30);
  edit->setAccessibleName(field.label);
  edit->setFont(type_font(Type::body));
  edit->selectAll();
  column->addWidget(edit);
  connect(edit, &QLineEdit::returnPressed, this, &AskDialog::try_accept);
  connect(edit, &QLineEdit::textChanged, this, [this] { complain({}); });
  if (field.understanding) {
    auto* understood = new Words({}, Type::label);
    understood->setWordWrap(true);
    column->addWidget(understood);
    const auto show_it = [this, understood, edit, read = field.understanding] {
      understood->setText(read(edit->text().trimmed()));
      adjustSize();
    };
    connect(edit, &QLineEdit::textChanged, this, show_it);
    show_it();
  }
  return edit;
}

QStringList AskDialog::texts() const {
  QStringList all;
  for (const QLineEdit* edit : edits_) all.push_back(edit->text().trimmed());
  return all;
}

void AskDialog::complain(const QString& about) {
  error_->setText(about);
  error_->setVisible(!about.isEmpty());
  adjustSize();
  update();
}

void AskDialog::try_accept() {
  const QString wrong = complaint_ ? complaint_(texts()) : QString();
  if (wrong.isEmpty())
    accept();
  else
    complain(wrong);
}

void AskDialog::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme_of(this);
  draw_float_frame(p, *this);
  if (error_->isVisible())
    draw_verdict(p, {12.0, error_->geometry().top() + 8.0}, 8, Verdict::fail, t);
}

AskField quantity_field(const QString& label, const QString& initial, Quantity quantity,
                        const QuantityOptions& options) {
  return {label, initial, [=](const QString& text) -> QString {
            try {
              return qt_text(parse_quantity(text.toStdString(), quantity, options).understood);
            } catch (const InputError&) {
              return {};  // said when it is accepted, not while it is half typed
            }
          }};
}

std::optional<QString> ask(QWidget* parent, const QString& heading, const QString& explanation,
                           const QString& label, const QString& initial, const QString& button,
                           const std::function<QString(const QString&)>& complaint) {
  AskDialog::Complaint about;
  if (complaint) about = [&](const QStringList& texts) { return complaint(texts.front()); };
  AskDialog dialog(heading, explanation, {{label, initial}}, button, about, parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  return dialog.texts().front();
}

std::optional<AskedQuantity> ask_quantity(QWidget* parent, const QString& heading,
                                          const QString& explanation, const QString& label,
                                          const QString& initial, const QString& button,
                                          Quantity quantity, const QuantityOptions& options) {
  const auto value = [=](const QStringList& texts) {
    return parse_quantity(texts.front().toStdString(), quantity, options).value;
  };
  AskDialog dialog(heading, explanation, {quantity_field(label, initial, quantity, options)},
                   button, complaint_about(value), parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  return AskedQuantity{dialog.texts().front(), value(dialog.texts())};
}

bool confirm(QWidget* parent, const QString& heading, const QString& text, const QString& button) {
  return AskDialog(heading, text, {}, button, {}, parent).exec() == QDialog::Accepted;
}

void tell(QWidget* parent, const QString& heading, const QString& text, const QString& button) {
  AskDialog(heading, text, {}, button, {}, parent, false).exec();
}

QString not_empty_name(const QString& text) {
  return text.isEmpty() ? QObject::tr("Type a name.") : QString();
}

}  // namespace heron
