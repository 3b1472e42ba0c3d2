#include "app/live/heard_keeper.h"

#include <cmath>

#include "core/method/measure/audio_ratio.h"
#include "core/quantity/format.h"
#include "core/signal/median.h"
#include "instrument/live_reading.h"

namespace heron {
namespace {

constexpr double kBesideHz = 1000.0;

/// "48.2 50.1 46.9 mV"
std::string typed_volts(const std::vector<double>& volts) {
  std::string typed;
  for (const double v : volts) typed += number_text(1e3 * v, v < 0.01 ? 3 : 2) + " ";
  return typed + "mV";
}

Reading reading_of(const std::string& quantity, const std::vector<double>& volts,
                   const std::string& instrument) {
  const AudioLevel level = audio_level(volts, false);
  Reading r = live_reading(quantity, level.db, instrument);
  r.unit = "dB";
  r.u = level.u_db;
  r.typed = typed_volts(volts);
  return r;
}

Reading set_level(const std::string& quantity, double dbm, const std::string& generator) {
  Reading r = live_reading(quantity, dbm, generator);
  r.unit = "dBm";
  return r;
}

/// The mean power of what a meter showed a few times, and how well that is known by its scatter.
Reading level_of(const std::string& quantity, const std::vector<double>& dbm,
                 const std::string& instrument) {
  const AudioLevel level = audio_level(dbm, true);
  Reading r = set_level(quantity, std::round(100.0 * level.db) / 100.0, instrument);
  r.u = level.u_db;
  return r;
}

}  // namespace

ReadingKeeper::Kept HeardKeeper::keep(const TakenStep& taken) {
  Kept kept;
  if (taken.at_if && listen_.at_if) {
    kept.readings = {
        set_level(listen_.input, taken.generator_dbm, taken.driven_by),
        level_of(listen_.on, taken.at_if->shown, taken.shown_by),
        set_level(listen_.at_if->lower_input, taken.at_if->lower_generator_dbm, taken.driven_by),
        level_of(listen_.at_if->lower, taken.at_if->lower, taken.shown_by)};
    return kept;
  }
  const HeardStep& heard = *taken.heard;
  kept.readings = {set_level(listen_.input, taken.generator_dbm, taken.driven_by)};
  if (heard.off.empty()) return kept;  // its indicator was read, no audio
  kept.readings.push_back(reading_of(listen_.off, heard.off, taken.shown_by));
  Reading on = reading_of(listen_.on, heard.on, taken.shown_by);
  if (heard.is_deaf) {
    on.bound = Bound::lower;
    on.typed = "nothing";
  }
  kept.readings.push_back(on);
  if (!heard.half.empty())
    kept.readings.push_back(reading_of(listen_.half, heard.half, taken.shown_by));
  if (!heard.beside.empty() && !listen_.birdie.empty()) {
    std::vector<double> others;
    for (const auto& [moved_hz, volts] : heard.beside)
      if (std::abs(moved_hz) >= kBesideHz) others.push_back(volts);
    const double there = std::pow(10.0, audio_level(heard.off, false).db / 20.0);
    const double over = 20.0 * std::log10(there / median_of(others));
    kept.conditions.push_back({listen_.birdie, std::round(10.0 * over) / 10.0, "dB", ""});
  }
  return kept;
}

}  // namespace heron
