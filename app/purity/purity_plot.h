#pragma once

#include <optional>
#include <qcustomplot.h>

#include "core/method/purity.h"

namespace heron {

/// What the purity plot shows.
struct PurityPicture {
  std::optional<PurityAnalysis> analysis;
  Mask mask;
  double carrier_hz = 14.2e6;
  std::string empty_words;
};

/// Lines at the device re carrier over a logarithmic frequency axis, with the mask that they are
/// judged by; a tick where a line was read before the hook-up was taken into account.
class PurityPlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit PurityPlot(QWidget* parent = nullptr);
  void set_picture(PurityPicture picture);
  const PurityPicture& picture() const { return picture_; }
  /// Index into the analysis' lines; -1 = none.
  void choose_line(int index);
  int chosen_line() const { return chosen_; }

 signals:
  void line_chosen(int index);

 protected:
  void changeEvent(QEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  friend class PurityOverlay;
  void follow_theme();
  void fit();
  /// Lines that stand in the plot, from low to high.
  std::vector<int> shown_lines() const;
  PurityPicture picture_;
  int chosen_ = -1;
};

}  // namespace heron
