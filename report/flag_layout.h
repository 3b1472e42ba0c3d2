#pragma once

#include <functional>
#include <vector>

#include "report/document.h"
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
std::string flag_words(const SpectrumFlag& flag);

/// One box a flag, pennant and level together, standing on its pole's inner edge. Flags near the
/// limit fly above it, lower ones begin below; all give way to tones, to the limit and to each
/// other, the worst and the strongest keeping their places. `word_width` measures a level.
std::vector<LabelBox> place_flags(const SpectrumPicture& picture, const SpectrumFrame& frame,
                                  const std::vector<LabelBox>& tones,
                                  const std::function<double(const std::string&)>& word_width);

}  // namespace heron
