#pragma once

#include <optional>
#include <vector>

#include "app/widget/floating_card.h"
#include "app/widget/push_button.h"
#include "core/method/reference_level.h"

namespace heron {

/// Output of one tone against its drive, the knee where it follows no more, and what a pair of
/// tones is set to from there.
class KneeCard : public FloatingCard {
  Q_OBJECT
 public:
  explicit KneeCard(QWidget* window);
  /// `level`: what the hook-up adds to the uncertainty of the output.
  void set_points(const std::vector<DrivePoint>& points, bool is_over,
                  const std::vector<Contribution>& level);
  const std::optional<FullOutput>& found() const { return found_; }
  QString text() const { return text_; }
  PushButton* use_button() { return use_; }

 signals:
  /// A step of the ladder at full output is wanted.
  void step_wanted(double output_dbm);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  std::vector<DrivePoint> points_;
  std::optional<FullOutput> found_;
  QString text_;
  PushButton* use_;
};

}  // namespace heron
