#include "app/sheet/readings_card.h"

#include <QEvent>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/method/live_quantity.h"
#include "report/document.h"

namespace heron {

ReadingsCard::ReadingsCard(QWidget* parent)
    : Card(parent),
      head_(new Words(tr("Output of this step"), Type::label, Tone::mute)),
      output_(new QuantityField(tr("Output power of this step"), Quantity::level)),
      note_(new QPlainTextEdit),
      read_along_(new Words({}, Type::label, Tone::slate)),
      signature_(new Words({}, Type::body, Tone::slate)),
      take_back_(new PushButton(tr("Withdraw the signature"), ButtonRank::link)) {
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
  QuantityOptions watts;
  watts.default_unit = "W";
  watts.is_two_tone = true;
  output_->set_options(watts);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 10, 16, 10);
  column->setSpacing(4);
  column->addWidget(head_);
  column->addWidget(output_);
  read_along_->setWordWrap(true);
  column->addWidget(read_along_);
  column->addSpacing(4);
  column->addWidget(new Words(tr("Note"), Type::label, Tone::mute));
  note_->setFixedHeight(44);
  note_->setAccessibleName(tr("Note"));
  note_->setTabChangesFocus(true);
  note_->setPlaceholderText(tr("What was set, changed or noticed"));
  note_->setFont(type_font(Type::body));
  note_->installEventFilter(this);
  column->addWidget(note_);
  signature_->setWordWrap(true);
  column->addWidget(signature_);
  column->addWidget(take_back_);
  // What is typed is on disk a second after the last key, not only when the field is left.
  note_timer_.setSingleShot(true);
  note_timer_.setInterval(1000);
  connect(note_, &QPlainTextEdit::textChanged, &note_timer_, qOverload<>(&QTimer::start));
  connect(&note_timer_, &QTimer::timeout, this, &ReadingsCard::flush_note);
  connect(output_, &QuantityField::entered, this, &ReadingsCard::output_entered);
  connect(output_, &QuantityField::cleared, this, &ReadingsCard::output_cleared);
  connect(take_back_, &QAbstractButton::clicked, this, &ReadingsCard::signature_taken_back);
}

void ReadingsCard::set_test(const PlannedTest* test, int step, bool read_only) {
  const bool has_step = test != nullptr && step >= 0 && step < static_cast<int>(test->steps.size());
  const bool is_signed = test != nullptr && test->test.is_signed();
  output_->setEnabled(has_step && !read_only && !is_signed);
  note_->setReadOnly(read_only || is_signed);
  note_->setEnabled(test != nullptr);
  const Id test_id = test != nullptr ? test->test.id : 0;
  const Id step_id = has_step ? test->steps[static_cast<std::size_t>(step)].id : 0;
  const bool other_step = step_id != shown_step_;
  const bool other_test = test_id != shown_test_;
  shown_step_ = step_id;
  shown_test_ = test_id;
  if (has_step) {
    const Step& s = test->steps[static_cast<std::size_t>(step)];
    head_->setText(tr("Output at %1, PEP").arg(qt_text(s.label)));
    output_->set_typed(s.output ? qt_text(s.output->typed) : QString(), other_step);
  } else {
    head_->setText(tr("Output of this step"));
    output_->set_typed({}, other_step);
  }
  const QString along =
      has_step ? qt_text(live_readings_text(test->steps[static_cast<std::size_t>(step)].readings))
               : QString();
  read_along_->setText(along.isEmpty() ? along : tr("Read with it: %1").arg(along));
  read_along_->setVisible(!along.isEmpty());
  stored_note_ = test != nullptr ? qt_text(test->test.note) : QString();
  if ((other_test || !note_->hasFocus()) && note_->toPlainText() != stored_note_)
    note_->setPlainText(stored_note_);
  signature_->setVisible(is_signed);
  take_back_->setVisible(is_signed && !read_only);
  if (is_signed) {
    signature_->setText(
        tr("Signed off by %1, %2")
            .arg(qt_text(test->test.signed_by), qt_text(readable_time(test->test.signed_at))));
  }
}

QString ReadingsCard::read_along() const {
  return read_along_->text();
}

void ReadingsCard::show_output(bool shown) {
  head_->setVisible(shown);
  output_->setVisible(shown);
}

void ReadingsCard::flush() {
  if (output_->isEnabled()) output_->commit();
  flush_note();
}

void ReadingsCard::flush_note() {
  if (!note_->isReadOnly() && note_->toPlainText() != stored_note_) {
    stored_note_ = note_->toPlainText();
    emit note_written(stored_note_);
  }
}

bool ReadingsCard::eventFilter(QObject* watched, QEvent* event) {
  if (watched == note_ && event->type() == QEvent::FocusOut) flush_note();
  return Card::eventFilter(watched, event);
}

}  // namespace heron
