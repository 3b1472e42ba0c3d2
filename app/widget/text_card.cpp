#include "app/widget/text_card.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/error.h"

namespace heron {

TextCard::TextCard(const QString& heading, const QString& explanation, const QString& button,
                   QWidget* window)
    : FloatingCard(heading, window),
      name_label_(new Words({}, Type::label, Tone::mute)),
      name_(new QLineEdit),
      text_(new QPlainTextEdit),
      message_(new Words({}, Type::control, Tone::slate)),
      links_(new QHBoxLayout),
      use_(new PushButton(button, ButtonRank::secondary)) {
  setFixedWidth(460);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, kHead, 20, 16);
  column->setSpacing(8);
  auto* words = new Words(explanation, Type::control, Tone::slate);
  words->setWordWrap(true);
  column->addWidget(words);
  name_->setFixedHeight(28);
  column->addWidget(name_label_);
  column->addWidget(name_);
  name_label_->hide();
  name_->hide();
  text_->setFont(type_font(Type::figure));
  text_->setFixedHeight(150);
  text_->setTabChangesFocus(true);
  text_->setLineWrapMode(QPlainTextEdit::NoWrap);
  text_->setAccessibleName(heading);
  text_->installEventFilter(this);
  column->addWidget(text_);
  message_->setWordWrap(true);
  message_->setMinimumHeight(34);
  message_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  column->addWidget(message_);
  links_->addStretch();
  links_->addWidget(use_);
  column->addLayout(links_);
  setFocusProxy(text_);
  connect(text_, &QPlainTextEdit::textChanged, this, &TextCard::understand);
  connect(use_, &QAbstractButton::clicked, this, &TextCard::accept);
}

void TextCard::set_name(const QString& label, const QString& name) {
  name_label_->setText(label);
  name_->setText(name);
  name_->setAccessibleName(label);
  name_label_->show();
  name_->show();
}

PushButton* TextCard::add_link(const QString& words) {
  auto* link = new PushButton(words, ButtonRank::link);
  links_->insertWidget(links_->count() - 2, link);
  return link;
}

QString TextCard::message() const {
  return message_->text();
}

void TextCard::understand() {
  try {
    message_->setText(reader_ ? reader_(text()) : QString());
    is_understood_ = true;
  } catch (const InputError& error) {
    const QString where = error.place.empty() ? QString() : qt_text(error.place) + ": ";
    message_->setText(where + qt_text(error.reason + ". " + error.advice) + '.');
    is_understood_ = false;
  }
  use_->setEnabled(is_understood_);
}

void TextCard::accept() {
  understand();
  if (!is_understood_) return;
  emit accepted();
  close();
}

void TextCard::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return && event->modifiers() == Qt::ControlModifier)
    accept();
  else
    FloatingCard::keyPressEvent(event);
}

/// The text takes Return for itself, and hands on only the keys of the card.
bool TextCard::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    const bool is_use = key->key() == Qt::Key_Return && key->modifiers() == Qt::ControlModifier;
    if (is_use && event->type() == QEvent::ShortcutOverride) {
      event->accept();
      return true;
    }
    if (is_use) {
      accept();
      return true;
    }
  }
  return FloatingCard::eventFilter(watched, event);
}

}  // namespace heron
