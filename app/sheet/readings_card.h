#pragma once

#include <QPlainTextEdit>
#include <QTimer>

#include "app/widget/card.h"
#include "app/widget/push_button.h"
#include "app/widget/quantity_field.h"
#include "store/planned.h"

namespace heron {

/// What a person adds to a step and a test: typed output power, a note, the signature.
class ReadingsCard : public Card {
  Q_OBJECT
 public:
  explicit ReadingsCard(QWidget* parent = nullptr);
  void set_test(const PlannedTest* test, int step, bool read_only);
  /// Whether an output is typed here; some tests have it in their grid.
  void show_output(bool shown);
  QuantityField* output() { return output_; }
  QPlainTextEdit* note() { return note_; }
  QString read_along() const;
  /// Hands over what is still being typed.
  void flush();

 signals:
  void output_entered(const QString& typed, double dbm);
  void output_cleared();
  void note_written(const QString& note);
  void signature_taken_back();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void flush_note();
  QLabel* head_;
  QuantityField* output_;
  QPlainTextEdit* note_;
  QLabel* read_along_;  ///< what instruments read with the recording
  QLabel* signature_;
  PushButton* take_back_;
  QString stored_note_;
  Id shown_test_ = 0;
  Id shown_step_ = 0;
  QTimer note_timer_;
};

}  // namespace heron
