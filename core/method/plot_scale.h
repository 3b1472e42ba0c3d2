#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/method/result.h"

namespace heron {

/// One axis of a plot: where a value stands and what is written beside it, the same on screen and
/// on paper.
class PlotScale {
 public:
  PlotScale(double from, double to, bool is_logarithmic,
            std::vector<std::pair<double, std::string>> names = {});
  double from() const { return from_; }
  double to() const { return to_; }
  bool is_logarithmic() const { return is_log_; }
  /// 0 at the beginning, 1 at the end.
  double share(double value) const;
  /// About so many, 1-2-5; of a logarithmic axis too. Those that have names are all there are.
  std::vector<double> ticks(int wanted) const;
  /// A tick in the unit with the prefix that suits the axis.
  std::string label(double tick) const;
  std::string unit(const std::string& base) const;  ///< "MHz" of "Hz"

 private:
  double from_;
  double to_;
  bool is_log_;
  std::vector<std::pair<double, std::string>> names_;
  int thousand_ = 0;      ///< power of a thousand in the labels
  bool is_wide_ = false;  ///< over so many decades that each label has its own
};

/// 1, 2 or 5 times a power of ten, so that a range has about so many of it.
double nice_step(double range, int wanted);
/// 1, 2 and 5 of each decade between two values above 0; where that is few, 1-2-3-4-5-6-8.
std::vector<double> decade_ticks(double from, double to, int wanted = 0);

/// The way from one point of a layer to the next, both ends included.
std::vector<std::pair<double, double>> line_between(const PlotLayer& layer, const PlotPoint& from,
                                                    const PlotPoint& to);

/// Where a handle stands, to the tenth that it is moved by: "24.1 W".
std::string handle_words(const PlotLayer& layer, double x);

/// Over everything in it with some room, or as it says itself.
PlotScale x_scale(const Plot& plot);
PlotScale y_scale(const PlotPanel& panel);
/// Of the layers that are read at the right.
PlotScale right_scale(const PlotPanel& panel);

}  // namespace heron
