#include "core/method/amplifier/supply_law.h"

#include <algorithm>
#include <cmath>

namespace heron {

Figure CurrentLaw::at(double output_w) const {
  const double root = std::sqrt(std::max(0.0, output_w));
  Figure f;
  f.id = "supply_current";
  f.label = "Supply current";
  f.unit = "A";
  f.value = idle_a + slope_a * root;
  const double variance =
      u_idle_a * u_idle_a + 2.0 * root * covariance + root * root * u_slope_a * u_slope_a;
  f.contributions = {{"current readings", std::sqrt(std::max(0.0, variance)), Scope::common}};
  if (scatter_a > 0.0)
    f.contributions.push_back({"way from step to step", scatter_a, Scope::common});
  // A stage that saturates may draw otherwise: a fifth of what is added beyond the steps.
  const double beyond = slope_a * (root - std::sqrt(most_w));
  if (beyond > 0.0) f.contributions.push_back({"beyond the steps", 0.2 * beyond, Scope::common});
  return f;
}

double CurrentLaw::output_at(double amperes) const {
  const double root = (amperes - idle_a) / slope_a;
  return root > 0.0 ? root * root : 0.0;
}

std::optional<CurrentLaw> current_law(std::span<const DrawnCurrent> drawn) {
  double w = 0.0;
  double wx = 0.0;
  double wy = 0.0;
  double wxx = 0.0;
  double wxy = 0.0;
  CurrentLaw law;
  law.least_w = 1e300;
  for (const DrawnCurrent& d : drawn) {
    const double u = std::max(d.u_amperes, 1e-3 + 1e-3 * std::abs(d.amperes));
    const double x = std::sqrt(std::max(0.0, d.output_w));
    const double weight = 1.0 / (u * u);
    w += weight;
    wx += weight * x;
    wy += weight * d.amperes;
    wxx += weight * x * x;
    wxy += weight * x * d.amperes;
    law.least_w = std::min(law.least_w, d.output_w);
    law.most_w = std::max(law.most_w, d.output_w);
  }
  const double determinant = w * wxx - wx * wx;
  if (drawn.size() < 2 || law.most_w < 1.1 * law.least_w || determinant <= 1e-9 * w * wxx)
    return std::nullopt;
  law.slope_a = (w * wxy - wx * wy) / determinant;
  law.idle_a = (wy - law.slope_a * wx) / w;
  if (law.slope_a <= 0.0) return std::nullopt;
  law.u_slope_a = std::sqrt(w / determinant);
  law.u_idle_a = std::sqrt(wxx / determinant);
  law.covariance = -wx / determinant;
  double squares = 0.0;
  for (const DrawnCurrent& d : drawn)
    squares +=
        std::pow(d.amperes - law.idle_a - law.slope_a * std::sqrt(std::max(0.0, d.output_w)), 2);
  if (drawn.size() > 2) law.scatter_a = std::sqrt(squares / static_cast<double>(drawn.size() - 2));
  return law;
}

}  // namespace heron
