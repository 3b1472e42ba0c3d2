#include "app/live/level_keeper.h"

#include <cmath>

#include "core/method/live_quantity.h"
#include "core/method/meter_reading.h"
#include "instrument/live_reading.h"

namespace heron {

LevelKeeper::LevelKeeper(const GeneralTest& test, RunRecipe::Levels levels, std::vector<int> steps,
                         std::vector<ReadingRole> roles, bool is_by_meter)
    : method_(test.method),
      levels_(std::move(levels)),
      steps_(std::move(steps)),
      roles_(std::move(roles)),
      is_by_meter_(is_by_meter),
      evidence_(test.evidence) {}

ReadingKeeper::Kept LevelKeeper::keep(const TakenStep& taken) {
  Kept kept;
  const ReadingRole role = roles_.at(taken.index);
  const auto reading = [&](const std::string& quantity, double value, const char* unit,
                           const std::string& instrument) {
    Reading r = live_reading(quantity, value, instrument);
    r.unit = unit;
    r.role = role;
    return r;
  };
  if (taken.shown_dbm) {
    Reading level = reading(role == ReadingRole::at ? levels_.output : levels_.drive,
                            *taken.shown_dbm, "dBm", taken.shown_by);
    // A sampler shows samples; its level is worked out of them.
    if (!is_by_meter_) level.source = ReadingSource::derived;
    refer_to_device(level, evidence_.hookup, evidence_.drive ? evidence_.drive->frequency_hz : 0.0,
                    levels_.u_db);
    kept.readings.push_back(std::move(level));
    if (is_by_meter_)
      kept.readings.push_back(reading(kPowerMeter, *taken.shown_dbm, "dBm", taken.shown_by));
  }
  if (taken.shown_dbm && levels_.drive_over_generator_db) {
    Reading drive = reading(levels_.drive, taken.generator_dbm + *levels_.drive_over_generator_db,
                            "dBm", taken.driven_by);
    drive.role = ReadingRole::before;
    drive.source = ReadingSource::derived;
    drive.u = levels_.u_db;
    kept.readings.push_back(std::move(drive));
  }
  for (std::size_t i = 0; i < taken.harmonics_dbc.size() && i < levels_.harmonics.size(); ++i) {
    Reading r = reading(levels_.harmonics[i], taken.harmonics_dbc[i], "dB", taken.harmonics_by);
    r.source = ReadingSource::derived;
    kept.readings.push_back(std::move(r));
  }
  if (taken.shown_dbm && role != ReadingRole::at)
    kept.readings.push_back(reading(kGeneratorLevel, taken.generator_dbm, "dBm", taken.driven_by));
  // The power meter stands there already, at its role.
  for (Reading r : taken.readings) {
    if (r.quantity == kPowerMeter && is_by_meter_) continue;
    for (const TypedField& f : method_->fields)
      if (f.live == r.quantity && f.quantity == r.quantity)
        r.u = reading_of_field(f, r, std::nullopt, 0.0).u;
    kept.readings.push_back(std::move(r));
  }
  if (role == ReadingRole::at && taken.rested_s > 0.0)
    kept.conditions.push_back({levels_.rest, std::round(taken.rested_s), "s", ""});
  if (role == ReadingRole::at && taken.keyed_s > 0.0)
    kept.conditions.push_back({levels_.key_down, std::round(taken.keyed_s * 10.0) / 10.0, "s", ""});
  EvidenceStep& step = evidence_.steps.at(static_cast<std::size_t>(steps_[taken.index]));
  step.readings.insert(step.readings.end(), kept.readings.begin(), kept.readings.end());
  return kept;
}

std::string LevelKeeper::objection(std::size_t run_step) const {
  if (method_->stop_before == nullptr || roles_.at(run_step) != ReadingRole::at) return "";
  return method_->stop_before(evidence_,
                              evidence_.steps.at(static_cast<std::size_t>(steps_[run_step])).label);
}

}  // namespace heron
