#pragma once

#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// Plot-ready samples at even steps; NaN where nothing is known.
struct Curve {
  std::string id;
  std::string label;
  std::string x_unit;
  std::string y_unit;
  double x_start = 0.0;
  double x_step = 1.0;
  std::vector<float> y;
  double x(std::size_t i) const { return x_start + x_step * static_cast<double>(i); }
};

/// What every method returns, so that the rail, the shack, the report and the command line are
/// written once. The headline is the figure that the verdict is about.
struct Result {
  std::string method;
  std::vector<std::string> inputs;
  std::vector<Figure> figures;
  std::string headline_id;
  std::vector<Curve> curves;
  std::vector<Remark> remarks;

  const Figure* headline() const;
};

inline const Figure* Result::headline() const {
  for (const Figure& figure : figures) {
    if (figure.id == headline_id) return &figure;
  }
  return nullptr;
}

}  // namespace heron
