#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"

namespace heron {

/// A quantity of a part over frequency with its ± band, and the frequency in use.
struct CurvePicture {
  QString y_title;                                ///< "Loss, dB"
  QString note;                                   ///< "between ports 1 and 2"
  std::vector<std::pair<double, double>> points;  ///< Hz, value
  double expanded = 0.0;                          ///< half width of the band
  std::optional<double> in_use_hz;
  QString in_use_words;
  QString empty_words;
};

/// The loss or match of a part, logarithmic in frequency; harmonics of the frequency in use stand
/// as ticks on the axis. The curve stops where its data do.
class CurvePlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit CurvePlot(QWidget* parent = nullptr);
  void set_picture(const CurvePicture& picture);
  const CurvePicture& picture() const { return picture_; }

 protected:
  void changeEvent(QEvent* event) override;

 private:
  void follow_theme();
  CurvePicture picture_;
  QCPGraph* low_;
  QCPGraph* band_;
  QCPGraph* curve_;
  QCPAbstractItem* overlay_;
};

}  // namespace heron
