#pragma once

#include "core/method/two_tone/pair_choice.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// What the spectrum showed beyond the products, for the remarks.
struct TwoToneObservations {
  std::optional<double> hum_dbc;  ///< strongest mains sideband of a tone
  double hum_offset_hz = 0.0;
  std::optional<double> rounding_dbc;    ///< what the recorder's rounding may put on a line
  double steps_of_a_tone = 0.0;          ///< from crest to crest
  std::optional<double> second_line_hz;  ///< one tone only: the next line, if there is one
  double second_line_db = 0.0;           ///< and how far below the tone it stands, negative
  std::vector<std::string> covered;      ///< products that fall on an image, the carrier or 0 Hz
  std::vector<int> outside;              ///< orders with a side outside the recording
  std::vector<LinePair> rivals;          ///< pairs of lines that nothing tells apart
  std::optional<double> missing_hz;      ///< a tone was asked for, and nothing stands here
  double reach_hz = 0.0;                 ///< nor so far beside it
  bool is_mirrored = false;              ///< both stand on the other side of 0 Hz
};

/// Judges the set-up and the device from a finished analysis; adds to analysis.remarks.
void add_two_tone_remarks(TwoToneAnalysis& analysis, const TwoToneSettings& settings,
                          const TwoToneObservations& seen);

}  // namespace heron
