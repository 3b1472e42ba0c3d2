#include "app/widget/level_field.h"

#include <QLabel>
#include <QStyle>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/error.h"

namespace heron {

LevelField::LevelField(const QString& name, const QString& default_unit, QWidget* parent)
    : QWidget(parent),
      default_unit_(default_unit.toStdString()),
      edit_(new QLineEdit),
      understood_(new Words({}, Type::label, Tone::slate)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(3);
  edit_->setFont(type_font(Type::figure));
  edit_->setFixedHeight(28);
  edit_->setAccessibleName(name);
  edit_->setPlaceholderText(tr("such as 30 W or 44.8 dBm"));
  understood_->setWordWrap(true);
  column->addWidget(edit_);
  column->addWidget(understood_);
  connect(edit_, &QLineEdit::textEdited, this, &LevelField::show_understanding);
  connect(edit_, &QLineEdit::editingFinished, this, &LevelField::commit);
}

void LevelField::set_typed(const QString& typed, bool other_step) {
  // Never take away what is being typed, and never carry it to another step.
  if (!other_step && edit_->hasFocus() && edit_->isModified()) return;
  edit_->setText(typed);
  edit_->setModified(false);
  last_good_ = typed;
  show_understanding();
}

QString LevelField::typed() const {
  return edit_->text();
}
QString LevelField::message() const {
  return understood_->text();
}

void LevelField::show_understanding() {
  const QString text = edit_->text().trimmed();
  bool invalid = false;
  if (text.isEmpty()) {
    understood_->setText(tr("not typed"));
  } else {
    try {
      LevelInputOptions options;
      options.default_unit = default_unit_;
      understood_->setText(
          "= " + qt_text(parse_level(text.toStdString(), options).understood).section(" = ", -1));
    } catch (const InputError& error) {
      invalid = true;
      understood_->setText(qt_text(error.reason + ". " + error.advice + "."));
    }
  }
  if (edit_->property("invalid").toBool() != invalid) {
    edit_->setProperty("invalid", invalid);
    edit_->style()->unpolish(edit_);
    edit_->style()->polish(edit_);
  }
}

void LevelField::commit() {
  const QString text = edit_->text().trimmed();
  if (text == last_good_ || edit_->property("invalid").toBool()) return;
  edit_->setModified(false);
  last_good_ = text;
  if (text.isEmpty()) {
    emit cleared();
    return;
  }
  LevelInputOptions options;
  options.default_unit = default_unit_;
  emit entered(text, parse_level(text.toStdString(), options).level.value);
}

}  // namespace heron
