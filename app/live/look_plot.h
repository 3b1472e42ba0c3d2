#pragma once

#include <qcustomplot.h>

#include "instrument/live_look.h"

namespace heron {

/// A live spectrum: the average and, if wanted, the peak hold, in dBm at the device.
class LookPlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit LookPlot(QWidget* parent = nullptr);
  void set_span(double center_hz, double rate_hz);
  void show_hold(bool shown);
  bool shows_hold() const { return hold_->visible(); }
  void show_frame(const LookFrame& frame);
  void set_empty(const QString& words);
  QString words() const { return words_; }

 protected:
  void changeEvent(QEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  friend class LookOverlay;
  void follow_theme();
  void fill(QCPGraph* graph, const std::vector<float>& power, double to_dbm);
  QCPGraph* hold_;
  QCPGraph* average_;
  double rate_hz_ = 1e6;
  double center_hz_ = 0.0;
  QString words_;  ///< at the top right
  QString empty_;
};

}  // namespace heron
