#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "app/widget/painted_button.h"
#include "core/method/analysis.h"
#include "core/method/result.h"
#include "store/planned.h"

namespace heron {

/// What the strip shows of a step.
struct StripContent {
  const PlannedTest* test = nullptr;
  std::size_t step = 0;
  std::optional<Figure> output;  ///< dBm at the device
  bool is_output_typed = false;
  bool is_taken = false;
  bool is_read_by_hand = false;  ///< a meter stands at its end, not a recorder
  QString read_by = {};          ///< the instrument that showed a reading
  QString logged_by = {};        ///< the instrument of a log stands at its end
  QString recorded = {};         ///< what was recorded there, all of it together
  std::optional<RecorderLoad> recorder;
  const std::vector<LevelPoint>* plan = nullptr;  ///< of levels, in place of the hook-up
};

/// From the device through the parts of the hook-up to the recorder: what was sent, the level
/// between, and how near each part is to its rating. A press opens the editor.
class HookupStrip : public PaintedButton {
  Q_OBJECT
 public:
  explicit HookupStrip(QWidget* parent = nullptr);
  void set_step(const QString& device, const StripContent& content);

 signals:
  /// The ± of a level was pressed: where it stands, and what it is made of.
  void uncertainty_asked(const QString& where, const heron::Figure& level);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;

 private:
  struct Node {
    QString name;
    QString line;
    QString small;
    QString note;                      ///< at the right, in the verdict's colour: "2:10 max"
    std::optional<double> place = {};  ///< in the window drawn in it, 0 to 1 = inside
    double fill = -1.0;                ///< of the load bar, the rating at kRatingAt; below 0 = none
    Verdict verdict = Verdict::not_taken;
    QString level;  ///< behind it, "+4.8 dBm"
    QString level_u;
    Figure figure;  ///< the level with its contributions
  };
  void add_chain(const StripContent& content);
  void set_plan(const QString& device, const std::vector<LevelPoint>& plan);
  void tell_nodes(const QString& what);
  void add_words(const StripContent& content);
  void add_recorder(const RecorderLoad& load);
  void paint_node(QPainter& p, const QRectF& box, const Node& node, bool is_small) const;
  std::vector<Node> nodes_;
  std::vector<QRectF> u_boxes_;  ///< one a node; empty where it has no ±
};

}  // namespace heron
