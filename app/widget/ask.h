#pragma once

#include <QDialog>
#include <functional>
#include <optional>
#include <vector>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/quantity/parse_quantity.h"

class QLineEdit;
class QLabel;

namespace heron {

/// One thing that is asked for.
struct AskField {
  QString label;
  QString initial;
  /// What a text is understood as, shown below the field while it is typed; may be left out.
  std::function<QString(const QString&)> understanding = {};
};
/// A number with a unit, in any unit of its quantity.
AskField quantity_field(const QString& label, const QString& initial, Quantity quantity,
                        const QuantityOptions& options = {});

/// A small floating card that asks for a few texts. Return accepts, Esc leaves.
class AskDialog : public QDialog {
  Q_OBJECT
 public:
  /// `complaint` says what is wrong with the texts; an empty answer accepts them.
  using Complaint = std::function<QString(const QStringList&)>;
  AskDialog(const QString& heading, const QString& explanation, const std::vector<AskField>& fields,
            const QString& button, Complaint complaint, QWidget* parent, bool can_cancel = true);
  QStringList texts() const;

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  QLineEdit* add_field(const AskField& field);
  void try_accept();
  void complain(const QString& about);
  std::vector<QLineEdit*> edits_;
  QLabel* error_;
  Complaint complaint_;
};

/// A complaint that tries to read the texts and tells what InputError says.
template <class Read>
AskDialog::Complaint complaint_about(const Read& read) {
  return [read](const QStringList& texts) -> QString {
    try {
      read(texts);
      return {};
    } catch (const InputError& error) {
      return qt_text(error.what_happened() + ". " + error.advice + ".");
    }
  };
}

/// Shows the dialog with one field; nullopt if left. `complaint` says what is wrong with the text.
std::optional<QString> ask(QWidget* parent, const QString& heading, const QString& explanation,
                           const QString& label, const QString& initial, const QString& button,
                           const std::function<QString(const QString&)>& complaint = {});

/// A number with a unit: what was typed, and its value.
struct AskedQuantity {
  QString typed;
  double value = 0.0;
};
std::optional<AskedQuantity> ask_quantity(QWidget* parent, const QString& heading,
                                          const QString& explanation, const QString& label,
                                          const QString& initial, const QString& button,
                                          Quantity quantity, const QuantityOptions& options = {});
/// What is wrong with a name that must not be empty; empty = nothing.
QString not_empty_name(const QString& text);
/// A question with nothing to type; false if cancelled.
bool confirm(QWidget* parent, const QString& heading, const QString& text, const QString& button);
/// Something to read, on the same card.
void tell(QWidget* parent, const QString& heading, const QString& text, const QString& button);

}  // namespace heron
