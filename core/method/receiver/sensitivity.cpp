#include "core/method/receiver/sensitivity.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kLowestRatioDb = 6.0;
constexpr double kHighestRatioDb = 20.0;
constexpr double kBirdieDb = 1.0;
constexpr double kHalfVoltageDb = 6.0206;

/// The rise between two audio levels as it truly is, with its standard uncertainty.
struct Rise {
  double db = 0.0;
  double read_db = 0.0;
  double u_db = 0.0;
};

Rise rise_of(const AudioLevel& off, const AudioLevel& on, const SensitivityPlan& plan) {
  Rise r;
  r.read_db = on.db - off.db;
  r.db = plan.meter == AudioMeter::average ? true_rise_db(r.read_db) : r.read_db;
  r.u_db = std::sqrt(off.u_db * off.u_db + on.u_db * on.u_db + plan.u_audio_db * plan.u_audio_db);
  return r;
}

Figure at_level(const Figure& level, const char* id, const char* label, double shift_db,
                double u_ratio_db) {
  Figure f = level;
  f.id = id;
  f.label = label;
  f.value += shift_db;
  f.contributions.push_back({"audio readings", u_ratio_db, Scope::independent});
  return f;
}

/// Nothing was heard: its sensitivity is above that level.
void tell_deaf(const SensitivityReading& in, SensitivityRow& row) {
  Figure f = *in.level;
  f.id = "sensitivity";
  f.label = "Level for 10 dB";
  f.bound = Bound::lower;
  row.for_ten_db = f;
  row.sn_n_db = 0.0;
}

}  // namespace

SensitivityRow sensitivity_of(const SensitivityReading& in, const SensitivityPlan& plan) {
  SensitivityRow row;
  row.label = in.label;
  row.frequency_hz = in.frequency_hz;
  const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
    row.remarks.push_back({code, severity, in.label + ": " + std::move(text), std::move(todo)});
  };
  if (plan.limit) row.limit = plan.limit;
  if (in.specified_dbm) {
    Limit own = plan.limit.value_or(Limit{"specification", Sense::at_most, 0.0, "dBm", "", 20.0});
    own.name = "specification";
    own.value = *in.specified_dbm;
    own.typed.clear();
    row.limit = own;
  }
  if (!in.level) {
    row.refusal = "no input level";
    return row;
  }
  std::optional<double> sn;
  double u_sn = 0.0;
  if (in.is_deaf) {
    tell_deaf(in, row);
  } else if (in.is_ten_db) {
    row.sn_n_db = 10.0;
    sn = kTenDbSn;
    u_sn = plan.u_ten_db * sn_slope(10.0);
  } else {
    if (!in.off || !in.on) {
      row.refusal = in.off ? "no audio with the signal" : "no audio without the signal";
      return row;
    }
    const Rise rise = rise_of(*in.off, *in.on, plan);
    row.sn_n_db = rise.db;
    if (plan.meter == AudioMeter::average) row.read_db = rise.read_db;
    sn = sn_of_sn_n(rise.db);
    if (!sn) {
      row.refusal = "the audio does not rise with the signal";
      say("no_rise", Severity::fault,
          fmt::format("the audio changes by {} dB with the signal: it hears nothing of it.",
                      number_text(rise.db, 1, true)),
          "Look whether it is tuned to the generator, or raise the level");
      return row;
    }
    u_sn = rise.u_db * sn_slope(rise.db);
    if (rise.db < kLowestRatioDb || rise.db > kHighestRatioDb)
      say("ratio_range", Severity::caution,
          fmt::format("(S+N)/N is {} dB; from 6 to 20 dB it tells the level for 10 dB best.",
                      number_text(rise.db, 1)),
          rise.db < kLowestRatioDb ? "Raise the generator, and read again"
                                   : "Lower the generator, and read again");
    if (in.off->count == 1 && in.on->count == 1)
      say("one_reading", Severity::note,
          "one reading of noise does not show how far it moves: \u00b1 is too small.",
          "Read five times, or the lowest and the highest");
    if (in.half) {
      // Half the input voltage takes 6.02 dB off S/N where nothing regulates.
      const Rise less = rise_of(*in.off, *in.half, plan);
      if (const auto sn_half = sn_of_sn_n(less.db)) {
        Figure f;
        f.id = "half_costs";
        f.label = "Half the input costs";
        f.unit = "dB";
        f.value = *sn - *sn_half;
        // Both are over the same noise.
        const double a = sn_slope(rise.db);
        const double b = sn_slope(less.db);
        f.contributions = {
            {"audio with the signal", a * std::hypot(in.on->u_db, plan.u_audio_db),
             Scope::independent},
            {"audio with half of it", b * std::hypot(in.half->u_db, plan.u_audio_db),
             Scope::independent},
            {"noise under both", std::abs(b - a) * in.off->u_db, Scope::independent}};
        row.half_costs_db = f;
        if (std::abs(f.value - kHalfVoltageDb) > f.expanded())
          say("not_linear", Severity::caution,
              fmt::format("half the input costs {} dB of S/N instead of 6.0: AGC, a birdie or the "
                          "meter.",
                          figure_text(f, Rounding::compact)
                              .substr(0, figure_text(f, Rounding::compact).rfind(' '))),
              "Switch AGC off, or read at a lower level");
      }
    }
  }
  if (in.birdie_db && *in.birdie_db > kBirdieDb)
    say("birdie", Severity::caution,
        fmt::format("noise at the test frequency is {} dB above that beside it: a birdie.",
                    number_text(*in.birdie_db, 1)),
        "Choose another frequency some kHz away");
  if (sn) {
    row.sn_db = sn;
    row.for_ten_db = at_level(*in.level, "sensitivity", "Level for 10 dB", kTenDbSn - *sn, u_sn);
    row.mds = at_level(*in.level, "mds", "MDS", -*sn, u_sn);
    if (in.bandwidth_hz) {
      Figure nf = *row.mds;
      nf.id = "noise_figure";
      nf.label = "Noise figure";
      nf.unit = "dB";
      nf.value += -kThermalDbmHz - db_from_power_ratio(*in.bandwidth_hz);
      row.noise_figure = nf;
      if (nf.value < -nf.expanded())
        say("below_thermal", Severity::fault,
            fmt::format("its noise figure would be {} dB: nothing hears below thermal noise.",
                        number_text(nf.value, 1)),
            "Look at EMF against PD, at pads that were forgotten, and at leakage past them");
    }
  }
  if (row.for_ten_db && row.limit) row.judgement = judge(*row.for_ten_db, *row.limit);
  // What is not heard at all is no bound that might still pass.
  if (in.is_deaf && row.judgement && row.for_ten_db->value > row.limit->value)
    row.judgement->verdict = Verdict::fail;
  return row;
}

}  // namespace heron
