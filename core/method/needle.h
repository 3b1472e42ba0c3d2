#pragma once

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// How the moments of a record call it when somebody turns, and when not.
inline constexpr const char* kToolOn = "tool on";
inline constexpr const char* kHandsOff = "hands off";

/// What a pointer shows while something is turned: readable from across the bench. Values are in
/// `unit`, 0 is where it should come to rest.
struct Needle {
  enum class State { none, hands_off, settling, tool_on, no_reading };
  State state = State::none;
  std::string unit = "Hz";
  double tolerance = 1.0;              ///< green up to there, both ways
  std::optional<double> value;         ///< where it points
  std::optional<double> let_go_value;  ///< under the tool: where it will jump to
  std::optional<double> reads_right;   ///< where the instrument itself would show nominal
  double u_zero = 0.0;                 ///< expanded, of the zero
  std::optional<double> original;      ///< before anything was turned
  std::string readout;                 ///< "−0.8"
  std::string caption;                 ///< what that is, with its ±
  std::string state_words;             ///< "Hands off"
  std::string state_caption;           ///< "9 readings counted"
  std::string order;                   ///< "Leave it", "Up 2.6 Hz"
  std::string order_caption;
  struct Fact {
    std::string head;
    std::string value;
    std::string caption;
  };
  std::vector<Fact> facts;
  struct Point {
    double seconds = 0.0;  ///< before now, negative
    double value = 0.0;
    bool is_counted = true;
  };
  std::vector<Point> history;
  struct Stretch {
    double from = 0.0;  ///< as of a point
    double to = 0.0;
    bool is_tool = false;
    std::string word;
  };
  std::vector<Stretch> stretches;
  enum class StepState { open, now, done };
  struct Step {
    std::string name;
    std::string line;
    StepState state = StepState::open;
  };
  std::vector<Step> steps;
};

/// What it sounds like to somebody who does not look: 660 Hz at rest, an octave for each four
/// tolerances, one and a half at most; under the tool where it will jump to. 0 = silence.
double needle_pitch_hz(const Needle& needle);

}  // namespace heron
