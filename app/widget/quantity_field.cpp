#include "app/widget/quantity_field.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPointer>
#include <QStyle>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/error.h"

namespace heron {
namespace {

QPointer<QuantityField>& remembered_field() {
  static QPointer<QuantityField> field;
  return field;
}

QString example_of(Quantity quantity) {
  switch (quantity) {
    case Quantity::level:
    case Quantity::power:
      return QObject::tr("such as 30 W or 44.8 dBm");
    case Quantity::frequency:
      return QObject::tr("such as 14.2 MHz");
    case Quantity::duration:
      return QObject::tr("such as 12 s or 2:10");
    case Quantity::gain:
      return QObject::tr("such as \u221240 dB or 10:1");
    case Quantity::uncertainty:
      return QObject::tr("such as 0.3 dB or 5 %");
    case Quantity::vswr:
      return QObject::tr("such as 1.2 or 20 dB");
    case Quantity::relative:
      return QObject::tr("such as 0.5 ppm");
    case Quantity::interval:
      return QObject::tr("such as 12 months");
    default:
      return {};
  }
}

}  // namespace

QuantityField* last_level_field() {
  return remembered_field();
}

QuantityField::QuantityField(const QString& name, Quantity quantity, Shape shape, QWidget* parent)
    : QWidget(parent),
      quantity_(quantity),
      shape_(shape),
      edit_(new QLineEdit),
      understood_(new Words({}, Type::label, Tone::slate)) {
  QBoxLayout* box = nullptr;
  if (shape == stacked)
    box = new QVBoxLayout(this);
  else
    box = new QHBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(shape == stacked ? 3 : 6);
  edit_->setFont(type_font(Type::figure));
  edit_->setFixedHeight(shape == stacked ? 28 : 26);
  edit_->setAccessibleName(name);
  edit_->setPlaceholderText(example_of(quantity));
  understood_->setWordWrap(shape == stacked);
  box->addWidget(edit_);
  box->addWidget(understood_);
  understood_->setVisible(shape != bare_box);
  if (shape == bare_box) setSizePolicy(QSizePolicy::Maximum, QSizePolicy::Fixed);
  setFocusProxy(edit_);
  connect(edit_, &QLineEdit::textEdited, this, &QuantityField::show_understanding);
  connect(edit_, &QLineEdit::editingFinished, this, &QuantityField::commit);
  if (quantity == Quantity::level || quantity == Quantity::power) {
    connect(edit_, &QLineEdit::selectionChanged, this, [this] { remembered_field() = this; });
    connect(edit_, &QLineEdit::cursorPositionChanged, this, [this] {
      if (edit_->hasFocus()) remembered_field() = this;
    });
  }
}

void QuantityField::set_options(const QuantityOptions& options) {
  options_ = options;
  show_understanding();
}

void QuantityField::set_typed(const QString& typed, bool other) {
  // Never take away what is being typed, and never carry it to another thing.
  if (!other && edit_->hasFocus() && edit_->isModified()) return;
  edit_->setText(typed);
  edit_->setCursorPosition(0);
  edit_->setModified(false);
  last_good_ = typed;
  show_understanding();
}

void QuantityField::show_understood(bool shown) {
  understood_->setVisible(shown);
}

void QuantityField::take(const QString& text) {
  edit_->setText(text);
  edit_->setModified(true);
  show_understanding();
  commit();
}

std::optional<double> QuantityField::value() const {
  try {
    return parse_quantity(edit_->text().trimmed().toStdString(), quantity_, options_).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

QString QuantityField::message() const {
  return understood_->toolTip();
}

void QuantityField::show_understanding() {
  const QString text = edit_->text().trimmed();
  bool invalid = false;
  QString words;
  if (text.isEmpty()) {
    words = shape_ == stacked ? tr("not typed") : QString();
  } else {
    try {
      words = reader_ ? reader_(text)
                      : qt_text(parse_quantity(text.toStdString(), quantity_, options_).understood);
    } catch (const InputError& error) {
      invalid = true;
      words = qt_text(error.reason + ". " + error.advice + ".");
      if (shape_ == inline_box) words = qt_text(error.advice);
    }
  }
  understood_->setText(is_short_ && !invalid ? words.section(", ", 0, 0) : words);
  understood_->setToolTip(words);
  setToolTip(invalid || shape_ != stacked ? words : QString());
  edit_->setAccessibleDescription(words);
  if (is_invalid() != invalid) {
    edit_->setProperty("invalid", invalid);
    edit_->style()->unpolish(edit_);
    edit_->style()->polish(edit_);
  }
}

void QuantityField::commit() {
  const QString text = edit_->text().trimmed();
  if (text == last_good_ || is_invalid()) return;
  edit_->setModified(false);
  last_good_ = text;
  if (text.isEmpty()) {
    emit cleared();
    return;
  }
  emit entered(text, reader_ ? 0.0 : parse_quantity(text.toStdString(), quantity_, options_).value);
}

}  // namespace heron
