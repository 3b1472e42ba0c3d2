#pragma once

#include <QLineEdit>
#include <QPlainTextEdit>
#include <functional>

#include "app/widget/floating_card.h"
#include "app/widget/push_button.h"

class QLabel;
class QHBoxLayout;

namespace heron {

/// A few lines of text that mean something: what was understood, or what is wrong, stands below
/// while they are typed. Ctrl+Return uses them, Esc leaves.
class TextCard : public FloatingCard {
  Q_OBJECT
 public:
  /// Gives what was understood; throws InputError.
  using Reader = std::function<QString(const QString& text)>;
  TextCard(const QString& heading, const QString& explanation, const QString& button,
           QWidget* window);
  void set_reader(Reader reader) { reader_ = std::move(reader); }
  /// A name above the text; hidden until it is given.
  void set_name(const QString& label, const QString& name);
  void set_text(const QString& text) { text_->setPlainText(text); }
  /// One more thing to do, as a link beside the button.
  PushButton* add_link(const QString& words);
  QString name() const { return name_->text().trimmed(); }
  QString text() const { return text_->toPlainText(); }
  bool is_understood() const { return is_understood_; }
  QString message() const;
  QPlainTextEdit* edit() { return text_; }
  PushButton* button() { return use_; }

 signals:
  void accepted();

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void understand();
  void accept();
  Reader reader_;
  QLabel* name_label_;
  QLineEdit* name_;
  QPlainTextEdit* text_;
  QLabel* message_;
  QHBoxLayout* links_;
  PushButton* use_;
  bool is_understood_ = false;
};

}  // namespace heron
