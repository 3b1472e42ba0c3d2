#pragma once

#include <QDialog>
#include <functional>
#include <optional>

class QLineEdit;
class QLabel;

namespace heron {

/// A small floating card that asks for one text. Return accepts, Esc leaves.
class AskDialog : public QDialog {
  Q_OBJECT
 public:
  /// `complaint` says what is wrong with a text; an empty answer accepts it.
  using Complaint = std::function<QString(const QString&)>;
  AskDialog(const QString& heading, const QString& explanation, const QString& label,
            const QString& initial, const QString& button, Complaint complaint, QWidget* parent);
  QString text() const;
  /// Leaves out the field and "Leave": something to read, not to answer.
  void only_tell();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void try_accept();
  QLineEdit* edit_;
  QLabel* error_;
  QLabel* label_;
  QWidget* leave_;
  Complaint complaint_;
};

/// Shows the dialog; nullopt if left.
std::optional<QString> ask(QWidget* parent, const QString& heading, const QString& explanation,
                           const QString& label, const QString& initial, const QString& button,
                           AskDialog::Complaint complaint = {});

/// Something to read, on the same card.
void tell(QWidget* parent, const QString& heading, const QString& text, const QString& button);

}  // namespace heron
