#pragma once

#include <qcustomplot.h>

#include "store/spread_test.h"

namespace heron {

/// What the plot of spectra shows.
struct SpreadPicture {
  struct Trace {
    QString name;
    Curve curve;
    double peak_dbfs = 0.0;  ///< where it stands at 0 dB
  };
  std::vector<Trace> traces;
  int chosen = -1;                    ///< into `traces`
  std::optional<WidthAtLevel> width;  ///< of the chosen one
  QString width_words;
  double channel_hz = 0.0;
  double channel_middle_hz = 0.0;
  std::optional<std::pair<double, double>> notch_hz;
  QString empty_words;
  QString note;
};

/// Spectra of several steps, each relative to its own peak, with the chosen one's occupied band,
/// the channel and what stands beside it.
class SpreadPlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit SpreadPlot(QWidget* parent = nullptr);
  void set_picture(SpreadPicture picture);
  const SpreadPicture& picture() const { return picture_; }

 signals:
  void trace_chosen(int trace);

 protected:
  void changeEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  friend class SpreadOverlay;
  void follow_theme();
  SpreadPicture picture_;
};

/// The shown tests' traces by its steps; `hold` chooses average or max-hold.
SpreadPicture spread_picture(const SpreadTest& test, int step, Hold hold);

}  // namespace heron
