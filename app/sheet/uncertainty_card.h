#pragma once

#include <QString>
#include <optional>

#include "app/widget/floating_card.h"
#include "core/quantity/budget.h"

namespace heron {

/// Uncertainty budget: the budget of one figure, ranked, with what would help most.
class UncertaintyCard : public FloatingCard {
  Q_OBJECT
 public:
  /// `margin` is the figure's distance from its limit, where it has one.
  UncertaintyCard(const Figure& figure, const QString& where, std::optional<double> margin,
                  QWidget* window);
  QString text() const;

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  double paint_rows(QPainter& p, double y) const;
  void paint_axis(QPainter& p, double y) const;
  double x_of(double value) const;
  Figure figure_;
  QString where_;
  std::optional<double> margin_;
  Budget budget_;
  double reach_ = 1.0;
};

}  // namespace heron
