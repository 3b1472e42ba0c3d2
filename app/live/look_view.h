#pragma once

#include <QWidget>

#include "app/live/look_plot.h"
#include "app/live/look_run.h"
#include "app/widget/chip.h"
#include "app/widget/push_button.h"
#include "app/widget/quantity_field.h"
#include "app/widget/segmented.h"

class QLabel;

namespace heron {

/// The live view for adjusting: spectrum, level, averaging, peak hold, and a key.
class LookView : public QWidget {
  Q_OBJECT
 public:
  LookView(Session& session, LiveInstruments& bench, QWidget* parent = nullptr);
  LookRun* run() { return run_; }
  LookPlot* plot() { return plot_; }
  PushButton* look_button() { return look_; }
  PushButton* key_button() { return key_; }
  QuantityField* drive() { return drive_; }
  Chip* averaging() { return averaging_; }
  Segmented* hold() { return hold_; }
  QString readout() const;
  bool is_armed() const { return is_armed_; }
  bool disarm();
  void refresh();

 protected:
  void hideEvent(QHideEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void press_key();
  void show_frame();
  Session& session_;
  LookRun* run_;
  LookPlot* plot_;
  PushButton* look_;
  PushButton* key_;
  QuantityField* drive_;
  Chip* averaging_;
  Chip* span_;
  Segmented* hold_;
  QLabel* readout_;
  bool is_armed_ = false;
};

}  // namespace heron
