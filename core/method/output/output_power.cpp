#include "core/method/output/output_power.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/measure/dc_power.h"
#include "core/method/station_power.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

std::optional<Figure> meter_error_of(const OutputReading& r) {
  if (!r.output || !r.forward_w || *r.forward_w <= 0.0) return std::nullopt;
  Figure f;
  f.id = "meter_error";
  f.label = "Error of the device\u2019s wattmeter";
  f.unit = "dB";
  f.value = to_dbm(Watt{*r.forward_w}).value - r.output->value;
  f.contributions = r.output->contributions;
  return f;
}

/// VSWR from forward and reflected power: |Gamma|^2 = P_r / P_f.
std::optional<double> indicated_vswr(const OutputReading& r) {
  if (!r.forward_w || !r.reflected_w || *r.forward_w <= *r.reflected_w || *r.reflected_w < 0.0)
    return std::nullopt;
  const double reflection = std::sqrt(*r.reflected_w / *r.forward_w);
  return (1.0 + reflection) / (1.0 - reflection);
}

/// The step's own specification, else the test's limit; none where that is no power.
std::optional<Limit> stated_limit(const OutputStep& step, const std::optional<Limit>& limit) {
  if (!step.specified_dbm) return limit && power_limit_dbm(*limit) ? limit : std::nullopt;
  Limit own = limit.value_or(Limit{"specification", Sense::at_least, 0.0, "W", "", 0.0});
  if (own.sense == Sense::within) own.sense = Sense::at_least;
  own.value = std::round(to_watt(Dbm{*step.specified_dbm}).value * 1e6) / 1e6;
  own.unit = "W";
  own.span = kPowerMarginSpanDb;
  own.typed.clear();
  return own;
}

OutputRow row_of(const OutputStep& step, const std::optional<Limit>& limit) {
  OutputRow row;
  row.label = step.label;
  row.frequency_hz = step.frequency_hz;
  row.stated = stated_limit(step, limit);
  if (row.stated) row.limit = power_limit_dbm(*row.stated);
  std::vector<const OutputReading*> read;
  for (const OutputReading& r : step.readings) {
    if (r.output) read.push_back(&r);
  }
  const auto first_with = [&](const auto& has) -> const OutputReading* {
    const auto found = std::find_if(step.readings.begin(), step.readings.end(), has);
    return found == step.readings.end() ? nullptr : &*found;
  };
  if (const auto* r = first_with([](const OutputReading& x) { return x.volts.has_value(); })) {
    row.volts = r->volts;
    const auto& last = step.readings.back();
    if (last.volts && &last != r) row.sag_v = last.volts->value - r->volts->value;
  }
  if (const auto* r = first_with([](const OutputReading& x) { return x.amperes.has_value(); }))
    row.amperes = r->amperes;
  if (const auto* r = first_with([](const OutputReading& x) { return x.reflected_w.has_value(); }))
    row.indicated_vswr = indicated_vswr(*r);
  if (read.empty()) return row;
  // The end of a key-down alone is no cold reading.
  const bool is_only_hot = read.size() == 1 && read.front() != &step.readings.front();
  if (!is_only_hot) row.cold = read.front()->output;
  for (const OutputReading* r : read) {
    if (!row.efficiency) row.efficiency = dc_efficiency(r->output, r->volts, r->amperes);
    if (!row.meter_error) row.meter_error = meter_error_of(*r);
  }
  if (read.size() > 1 || is_only_hot) {
    row.hot = read.back()->output;
    row.hot_after_s = read.back()->time_s - step.readings.front().time_s;
  }
  if (row.cold && row.hot) {
    row.droop = difference(*row.hot, *row.cold);
    row.droop->id = "droop";
    row.droop->label = "Droop";
    row.droop->unit = "dB";
    row.droop->convention.clear();
  }
  row.is_hot_judged = is_only_hot;
  if (row.limit) {
    row.judgement = judge_power(row.judged(), *row.limit);
    if (row.cold && row.hot) {
      const Judgement hot = judge_power(*row.hot, *row.limit);
      row.is_hot_judged = is_worse(hot, *row.judgement);
      if (row.is_hot_judged) row.judgement = hot;
    }
  }
  return row;
}

void remark_droop(const OutputRow& row, std::vector<Remark>& remarks) {
  constexpr double kWorthSayingDb = 0.2;
  if (!row.droop || is_no_difference(*row.droop) || std::abs(row.droop->value) < kWorthSayingDb)
    return;
  std::string text = fmt::format(
      "{}: output {} by {} dB in {}", row.label, row.droop->value < 0.0 ? "falls" : "rises",
      number_text(std::abs(row.droop->value), 2), duration_text(row.hot_after_s));
  std::string action;
  // Output of a saturated stage follows the square of its supply.
  if (row.sag_v && *row.sag_v < 0.0 && row.volts) {
    const double share = 20.0 * std::log10((row.volts->value + *row.sag_v) / row.volts->value);
    text += fmt::format("; the supply fell by {} V, which is worth {} dB",
                        number_text(-*row.sag_v, 2), number_text(share, 2));
    if (row.droop->value < 0.0 && share < std::min(0.5 * row.droop->value, -kWorthSayingDb))
      action =
          "Read the volts at the device\u2019s terminals, shorten the lead, and measure it again";
  }
  remarks.push_back({"droop", Severity::note, text + ".", action});
}

void remark_meter(const OutputRow& row, std::vector<Remark>& remarks) {
  constexpr double kWorthSayingDb = 0.5;
  if (row.meter_error && std::abs(row.meter_error->value) > kWorthSayingDb &&
      std::abs(row.meter_error->value) > row.meter_error->expanded()) {
    const double measured = row.cold ? row.cold->value : row.hot->value;
    remarks.push_back(
        {"meter_error", Severity::note,
         fmt::format("{}: the device\u2019s own wattmeter reads {} dB {} ({} for {}).", row.label,
                     number_text(std::abs(row.meter_error->value), 1),
                     row.meter_error->value > 0.0 ? "high" : "low",
                     watts_text(measured + row.meter_error->value), watts_text(measured)),
         ""});
  }
  constexpr double kGoodVswr = 1.3;
  if (row.indicated_vswr && *row.indicated_vswr > kGoodVswr)
    remarks.push_back(
        {"indicated_vswr", Severity::caution,
         fmt::format("{}: the device\u2019s meter shows VSWR {} into the load.", row.label,
                     number_text(*row.indicated_vswr, 1)),
         "Check the load and its connectors at this frequency; many devices reduce output then"});
}

void remark_efficiency(const OutputRow& row, std::vector<Remark>& remarks) {
  if (!row.efficiency) return;
  if (row.efficiency->value - row.efficiency->expanded() > 100.0)
    remarks.push_back(
        {"efficiency", Severity::fault,
         fmt::format("{}: {} % of the DC power cannot come out.", row.label,
                     number_text(row.efficiency->value, 0)),
         "Check amperes, the attenuation before the meter, and that power and amperes are both "
         "peak or both mean"});
}

/// A reading that nobody sends, or that is a pad off its specification.
void remark_outlier(const OutputRow& row, std::vector<Remark>& remarks) {
  if (!row.is_taken()) return;
  const double dbm = row.judged().value;
  if (dbm > kMostStationDbm)
    remarks.push_back(
        {"too_much", Severity::caution,
         fmt::format("{}: {} is more than any amateur station sends.", row.label, watts_text(dbm)),
         "Check the unit and the attenuation"});
  if (!row.limit) return;
  const double off = dbm - row.limit->value;
  for (const double db : {10.0, 20.0, 30.0, 40.0}) {
    if (std::abs(std::abs(off) - db) > 0.6) continue;
    remarks.push_back(
        {"offset", Severity::caution,
         fmt::format("{}: {} is {} dB {} the specification.", row.label, watts_text(dbm),
                     number_text(std::abs(off), 1), off > 0.0 ? "above" : "below"),
         fmt::format("Check that {} dB of attenuation is counted once", number_text(db, 0))});
  }
}

}  // namespace

std::vector<Contribution> meter_contributions(double u_db) {
  constexpr double kRepeatsU = 0.02;  // dB: half a per cent, the last digit of a hand-held meter
  return {{"power meter", u_db, Scope::common}, {"one reading", kRepeatsU, Scope::independent}};
}

Judgement judge_power(const Figure& level, Limit limit) {
  limit.convention = level.convention;
  return judge(level, limit);
}

std::optional<Limit> power_limit_dbm(const Limit& limit) {
  std::optional<Limit> level = limit_in_dbm(limit);
  if (level) level->span = kPowerMarginSpanDb;
  return level;
}

std::optional<std::size_t> OutputPower::headline() const {
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (!rows[i].is_taken()) continue;
    const bool is_worse_than_best =
        best && rows[i].judgement &&
        (!rows[*best].judgement || is_worse(*rows[i].judgement, *rows[*best].judgement));
    if (!best || is_worse_than_best) best = i;
  }
  return best;
}

OutputPower assess_output(const std::vector<OutputStep>& steps, const std::optional<Limit>& limit) {
  OutputPower all;
  for (const OutputStep& step : steps) all.rows.push_back(row_of(step, limit));
  for (const OutputRow& row : all.rows) {
    remark_droop(row, all.remarks);
    remark_meter(row, all.remarks);
    remark_efficiency(row, all.remarks);
    remark_outlier(row, all.remarks);
  }
  const auto taken = std::count_if(all.rows.begin(), all.rows.end(),
                                   [](const OutputRow& r) { return r.cold.has_value(); });
  const auto warmed = std::count_if(all.rows.begin(), all.rows.end(),
                                    [](const OutputRow& r) { return r.hot.has_value(); });
  if (taken > 0 && warmed == 0)
    all.remarks.push_back({"cold_only", Severity::note,
                           "Only cold readings: this test could not have shown droop.",
                           "Read output once more at the end of a key-down"});
  sort_remarks(all.remarks);
  return all;
}

}  // namespace heron
