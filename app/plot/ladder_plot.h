#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_between.h"

namespace heron {

/// Each product order against output power.
struct LadderPicture {
  std::vector<LadderTrace> traces;
  QString y_title;  ///< "dB relative to PEP, the worse side"
  std::optional<double> limit_db;
  QString limit_words;
  struct Crossing {
    double dbm = 0.0;
    double expanded_db = 0.0;
    QString words;  ///< "IM5 overtakes IM3 at 23.4 ± 1.5 W"
  };
  std::vector<Crossing> crossings;
  std::optional<double> sweet_dbm;
  std::optional<double> quiet_dbm;
  std::optional<double> ceiling_dbm;
  std::optional<double> chosen_dbm;  ///< the selected step
  DrivenAmplifier driven;
  QString driven_words;  ///< "with Curlew 120 behind, predicted"
  QString empty_words;
  bool can_move_ceiling = true;
};

/// The ladder of a two-tone test as a chart: measured marks with their ±, bounds as open rings, the
/// limit, where the strongest order changes, the sweet spot, a movable ceiling, and the band that a
/// driven amplifier makes of it.
class LadderPlot : public QCustomPlot {
  Q_OBJECT
 public:
  explicit LadderPlot(QWidget* parent = nullptr);
  void set_picture(const LadderPicture& picture);
  const LadderPicture& picture() const { return picture_; }
  void set_logarithmic(bool logarithmic);
  bool is_logarithmic() const { return is_log_; }
  bool save_picture(const QString& path, QString* reason);

 signals:
  void ceiling_moved(double dbm);
  void step_chosen(int row);

 protected:
  void changeEvent(QEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  friend class LadderBackdrop;
  friend class LadderOverlay;
  void follow_theme();
  void fill_graphs();
  bool is_on_ceiling(QPointF point) const;
  double x_of(double dbm) const;
  LadderPicture picture_;
  bool is_log_ = false;
  bool axis_was_chosen_ = false;
  bool is_dragging_ = false;
  std::optional<double> dragged_dbm_;
  QPoint pressed_at_;
};

}  // namespace heron
