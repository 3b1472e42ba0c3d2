#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/frequency/oscillator_map.h"
#include "core/method/measure/reference_error.h"

namespace heron {

/// How somebody knows how far off a frequency reference is. Each ends in ppm (reference_error.h).
enum class AccuracyWay {
  counter,    ///< at a test point, or on the keyed transmitter
  beat_note,  ///< a carrier of known frequency, its tone in SSB
  zero_beat,  ///< the dial turned until it is heard without a beat
  generator   ///< the same as a beat note, from a generator of known accuracy
};

struct AccuracyReading {
  std::string label;
  std::optional<double> expected_hz;  ///< nominal, or the carrier's true frequency
  std::optional<double> dial_hz;
  std::optional<double> read_hz;    ///< by the counter, or the tone
  std::vector<double> counts = {};  ///< all that was read, where it was read again and again
  std::optional<double> u_tone_hz = std::nullopt;  ///< where a recording says it
  bool is_upper = true;                            ///< sideband
};

struct AccuracyPlan {
  AccuracyWay way = AccuracyWay::counter;
  CounterSetting counter;
  std::optional<double> carrier_ppm;  ///< limit of the outside source; nullopt = not known
  double path_ppm = 0.0;              ///< standard, of propagation
  double tone_u_hz = 0.5;
  double dial_step_hz = 10.0;
  double least_beat_hz = 20.0;  ///< slowest beat that is still told from none
  bool is_shared = false;       ///< instrument and device share one source
  std::optional<Limit> limit;   ///< within so many ppm
  double most_ppm = 1000.0;     ///< further off, something else was read
  std::vector<double> bands_hz;
  OscillatorMap map;  ///< of a device with several oscillators
};

struct AccuracyRow {
  std::string label;
  std::optional<double> expected_hz;
  std::optional<double> error_hz;
  std::optional<Figure> error;  ///< ppm
  std::string refusal;          ///< why it cannot be used
  std::optional<Figure> off;    ///< ppm, from what all others together say
  std::optional<Judgement> judgement;
};

struct AccuracyBand {
  double frequency_hz = 0.0;
  Figure error;  ///< Hz
  std::optional<Judgement> judgement;
  const MappedBand* mapped = nullptr;  ///< of the plan's map
};

/// Readings together: their mean weighted by what each draws anew, with what is common to them; two
/// that differ by more than their U say so, and the verdict is too close at most. Without a known
/// source nothing is judged: changes only. With a map of several oscillators the error is that of
/// the first, and each band has what all of them make there.
struct Accuracy {
  std::vector<AccuracyRow> rows;  ///< as given
  std::optional<Figure> error;    ///< ppm
  std::optional<Judgement> judgement;
  std::vector<AccuracyBand> bands;
  OscillatorErrors oscillators;  ///< where the map tells them apart; the first is `error` then
  bool is_known = false;         ///< the source's own accuracy is
  std::vector<Remark> remarks;
};

Accuracy assess_accuracy(const std::vector<AccuracyReading>& readings, const AccuracyPlan& plan);

}  // namespace heron
