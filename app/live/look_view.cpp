#include "app/live/look_view.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QTimer>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

LookView::LookView(Session& session, LiveInstruments& bench, QWidget* parent)
    : QWidget(parent),
      session_(session),
      run_(new LookRun(session, bench, this)),
      plot_(new LookPlot),
      look_(new PushButton(tr("Live view"), ButtonRank::secondary)),
      key_(new PushButton(tr("Key"), ButtonRank::secondary)),
      drive_(new QuantityField(tr("Drive"), Quantity::level, QuantityField::bare_box)),
      averaging_(new Chip(tr("Average"))),
      span_(new Chip(tr("Span"))),
      hold_(new Segmented(tr("Peak hold"), {tr("no hold"), tr("peak hold")})),
      readout_(new Words({}, Type::control_chosen)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  row->addWidget(look_);
  row->addWidget(key_);
  row->addWidget(new Words(tr("Drive"), Type::control, Tone::mute));
  drive_->setFixedWidth(96);
  drive_->set_typed(QStringLiteral("-50 dBm"));
  drive_->edit()->installEventFilter(this);
  row->addWidget(drive_);
  row->addStretch();
  row->addWidget(averaging_);
  row->addWidget(span_);
  column->addLayout(row);
  auto* second = new QHBoxLayout;
  second->addWidget(readout_, 1);
  second->addWidget(hold_);
  column->addLayout(second);
  column->addWidget(plot_, 1);
  for (const unsigned n : {1U, 4U, 8U, 32U, 128U})
    averaging_->menu()->addAction(n == 1 ? tr("off") : tr("%1 segments").arg(n), this, [this, n] {
      run_->set_averages(n);
      refresh();
    });
  averaging_->menu()->addSeparator();
  averaging_->menu()->addAction(tr("Restart averaging"), QKeySequence("Backspace"), run_,
                                &LookRun::clear);
  for (const double khz : {48.0, 250.0, 1000.0})
    span_->menu()->addAction(qt_text(frequency_text(khz * 1e3)), this, [this, khz] {
      run_->set_rate(khz * 1e3);
      plot_->set_span(run_->center_hz(), run_->rate_hz());
      refresh();
    });
  // What stops RF stays where it is, whatever is written on it.
  key_->keep_room_for({tr("Key"), tr("Press again to transmit"), tr("RF off")});
  look_->keep_room_for({tr("Live view"), tr("Stop")});
  connect(look_, &QAbstractButton::clicked, this, [this] {
    if (run_->is_running())
      run_->end();
    else
      run_->start();
    plot_->set_span(run_->center_hz(), run_->rate_hz());
    refresh();
  });
  connect(key_, &QAbstractButton::clicked, this, &LookView::press_key);
  connect(drive_, &QuantityField::entered, this,
          [this](const QString&, double dbm) { run_->set_level(dbm); });
  connect(hold_, &Segmented::chosen, this, [this](int i) {
    run_->clear();
    plot_->show_hold(i == 1);
  });
  connect(run_, &LookRun::changed, this, &LookView::refresh);
  connect(run_, &LookRun::updated, this, &LookView::show_frame);
  refresh();
}

QString LookView::readout() const {
  return readout_->text();
}

/// Keying needs two presses, so that no slip of a key puts power out.
void LookView::press_key() {
  constexpr int kArmedMs = 6000;
  if (run_->is_keyed()) {
    run_->key(false);
    return;
  }
  if (!run_->is_running()) {
    look_->click();
    return;
  }
  if (!is_armed_) {
    is_armed_ = true;
    QTimer::singleShot(kArmedMs, this, [this] { disarm(); });
    refresh();
    return;
  }
  is_armed_ = false;
  run_->key(true);
  refresh();
}

bool LookView::disarm() {
  const bool was = is_armed_;
  is_armed_ = false;
  if (was) refresh();
  return was;
}

void LookView::refresh() {
  const Refusal no = run_->obstacle();
  const Refusal no_key = run_->key_obstacle();
  look_->setText(run_->is_running() ? tr("Stop") : tr("Live view"));
  look_->setEnabled(run_->is_running() || no.what.isEmpty());
  key_->setText(run_->is_keyed() ? tr("RF off")
                : is_armed_      ? tr("Press again to transmit")
                                 : tr("Key"));
  key_->setEnabled(run_->is_running() && (run_->is_keyed() || no_key.what.isEmpty()));
  key_->setToolTip(no_key.what.isEmpty() ? tr("Keys the transmitter; Esc switches RF off at once")
                                         : no_key.what + ' ' + no_key.what_to_do);
  averaging_->set_value(run_->averages() == 1 ? tr("none") : QString::number(run_->averages()));
  span_->set_value(qt_text(frequency_text(run_->rate_hz())));
  if (run_->is_running()) return;
  plot_->set_empty(no.what.isEmpty() ? tr("The live view shows what the sampler receives, many "
                                          "times a second, while you adjust.")
                                     : no.what + ' ' + no.what_to_do + '.');
  readout_->setText({});
}

void LookView::show_frame() {
  const LookFrame& f = run_->frame();
  plot_->show_frame(f);
  QStringList words;
  constexpr double kNothingDbm = -150.0;
  words << (f.pep_dbm > kNothingDbm ? tr("%1 dBm PEP").arg(qt_text(number_text(f.pep_dbm, 1, true)))
                                    : tr("no signal"));
  if (f.pep_dbm > -10.0) words << qt_text(engineering_text(to_watt(Dbm{f.pep_dbm}).value, "W", 3));
  if (may_be_on(f.rf) && f.generator_dbm > kNothingDbm)
    words << tr("drive %1 dBm").arg(qt_text(number_text(f.generator_dbm, 1, true)));
  if (f.left_s)
    words << tr("%1 of key-down left").arg(qt_text(duration_text(std::floor(*f.left_s))));
  if (!may_be_on(f.rf) && f.rest_s > 0.5)
    words << tr("rest %1").arg(qt_text(duration_text(std::ceil(f.rest_s))));
  if (f.is_over_range) words << tr("at full scale");
  readout_->setText(words.join(QString::fromUtf8("   ")));
}

/// Nobody looks any more: nothing stays keyed.
void LookView::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  is_armed_ = false;
  run_->end();
}

/// Up and down change the drive by 1 dB, with Shift by 0.1 dB.
bool LookView::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    const int way = key->key() == Qt::Key_Up ? 1 : key->key() == Qt::Key_Down ? -1 : 0;
    if (way != 0) {
      const double step = key->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
      run_->set_level(run_->level_dbm() + way * step);
      drive_->set_typed(QStringLiteral("%1 dBm").arg(run_->level_dbm(), 0, 'f', 1), true);
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace heron
