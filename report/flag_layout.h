#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "core/method/result.h"
#include "report/label_layout.h"

namespace heron {

/// Where a spectrum is drawn, in the units of the picture (pixels, SVG units); y grows downward.
struct SpectrumFrame {
  std::function<double(double)> x_of;  ///< of a frequency, Hz
  std::function<double(double)> y_of;  ///< of a level, dB
  double left = 0.0;
  double right = 0.0;
  double top = 0.0;
  double bottom = 0.0;
  bool shows(double frequency_hz) const;
};

inline constexpr double kPennantWidth = 20.0;
inline constexpr double kPennantHeight = 14.0;  ///< the level stands in a line below it

/// "≤ −72.2"
std::string pennant_words(const PlotPoint& pennant);
/// Judged, and with its verdict's colour: the one that decides.
inline bool is_worst(const PlotPoint& pennant) {
  return pennant.verdict != Verdict::not_taken;
}
/// The level of the mask of a panel; nullopt without one.
std::optional<double> mask_level(const PlotPanel& panel);

/// One box a pennant, it and its level together, standing on its pole's inner edge. Those near the
/// limit fly above it, lower ones begin below; all give way to labels, to the limit and to each
/// other, the worst and the strongest keeping their places. `word_width` measures a level.
std::vector<LabelBox> place_pennants(const std::vector<PlotPoint>& pennants,
                                     std::optional<double> limit, const SpectrumFrame& frame,
                                     const std::vector<LabelBox>& labels,
                                     const std::function<double(const std::string&)>& word_width);

}  // namespace heron
