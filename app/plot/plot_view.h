#pragma once

#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/plot_scale.h"
#include "core/method/result.h"

namespace heron {

/// Any plot of a result: panels over one x axis, points with their ± and bounds, limits, names at
/// the right. Up and Down choose a step, the wheel, + and - look closer, Home shows all; where
/// there are curves Left and Right move a cursor, and where there is a handle they move that.
class PlotView : public QCustomPlot {
  Q_OBJECT
 public:
  explicit PlotView(QWidget* parent = nullptr);
  /// `chosen` is the step that is marked.
  void set_plot(const Plot& plot, std::optional<std::size_t> chosen);
  const Plot& plot() const { return plot_; }
  void show_all();
  /// What a table calls the chosen pennant; empty = none.
  void choose_mark(const std::string& mark);
  const std::string& mark() const { return mark_; }
  /// Whether the handle may be moved.
  void set_can_edit(bool can) { can_edit_ = can; }
  /// Where the axis can be either.
  void set_logarithmic(bool logarithmic);
  bool is_logarithmic() const { return plot_.x.is_logarithmic; }
  /// What curves over a logarithmic axis are where the cursor stands: "10 kHz, after \u221286.5,
  /// before \u221280.1"; empty without one.
  QString cursor_words() const;

 signals:
  void step_chosen(int step);
  void mark_chosen(const QString& mark);
  /// To where, as somebody would type it: "24.1 W".
  void handle_moved(const QString& setting, const QString& typed);
  /// A side of what is counted, by the key of its setting; while it is held, and when it is let go.
  void window_moved(const QString& setting, double to, bool is_held);
  /// What an axis shows is to be chosen: the key of its setting, and where on the screen.
  void axis_asked(const QString& setting, const QPoint& at);
  /// From where to where somebody dragged over the names of places, on x.
  void lane_dragged(double from, double to);

 protected:
  void changeEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;

 private:
  friend class PlotOverlay;
  void build_panels();
  void fill();
  const PlotAxis& x_axis(std::size_t panel) const;
  QRectF right_title(std::size_t panel) const;  ///< where it stands; empty = none
  const PlotAxis* axis_titled_at(QPointF point) const;
  bool has_x_words(std::size_t panel) const;
  bool has_curve() const;
  const PlotLayer* read_curve() const;  ///< that the cursor follows; nullptr where none is bold
  static std::vector<std::pair<const PlotLayer*, double>> values_at(const PlotPanel& panel,
                                                                    double x);
  void read_at(double x);
  bool read_by_key(const QKeyEvent& event);
  const PlotLayer* handle() const;
  bool is_on_handle(QPointF point) const;
  /// A side of a window that can be dragged.
  struct Grip {
    std::string setting;
    double at = 0.0;
  };
  std::vector<Grip> grips() const;
  std::optional<Grip> grip_at(QPointF point) const;
  double snapped(double x) const;  ///< to the points of the curve that is read
  bool move_grip(int key);
  std::optional<std::size_t> lanes_at(QPointF point) const;  ///< panel whose names stand there
  void choose_event(QPointF point);
  void move_cursor(double x);
  void move_handle(double by);
  void put_handle(double x);
  bool look_closer(int key);
  std::optional<std::size_t> moment_step() const;  ///< nearest to what is marked on x
  void follow_theme();
  std::vector<std::size_t> steps(bool only_bad) const;
  std::optional<std::size_t> next_step(bool is_on, bool only_bad) const;
  Plot plot_;
  std::vector<QCPAxisRect*> rects_;
  std::optional<std::size_t> chosen_;
  int right_ = 0;  ///< px beside the panels, for names
  std::string mark_;
  std::optional<bool> is_log_wanted_;
  std::optional<double> cursor_;
  std::optional<double> dragged_;  ///< where the handle is held
  bool is_dragging_ = false;
  std::optional<Grip> gripped_;
  std::optional<std::size_t> marked_in_;  ///< panel in which a place is dragged over
  bool can_edit_ = false;
  QPoint pressed_at_;
};

}  // namespace heron
