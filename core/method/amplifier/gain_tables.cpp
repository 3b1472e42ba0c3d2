#include "core/method/amplifier/gain_tables.h"

#include <algorithm>
#include <cmath>

#include "core/method/amplifier/gain_harmonics.h"
#include "core/method/amplifier/gain_plot.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

class GainTables {
 public:
  explicit GainTables(const GainCase& of) : c_(of), a_(of.amplifier) {}

  ResultTable gain_table() const {
    ResultTable t;
    t.title = "Drive steps";
    t.view = kGainView;
    t.margin_span = kGainMarginSpanDb;
    const std::string u = c_.unit();
    t.columns = {{"step", "Drive step", CellKind::name, 82},
                 {"input", "In, " + u, CellKind::figure, 62},
                 {"expected", "Expected", CellKind::figure, 64, 1200},
                 {"output", "Output, " + u, CellKind::figure, 106},
                 {"gain", "Gain, dB", CellKind::figure, 60},
                 {"down", "dB down", CellKind::figure, 62},
                 {"volts", "V", CellKind::figure, 42, 1200},
                 {"amperes", "A", CellKind::figure, 44, 1200},
                 {"efficiency", "Eff., %", CellKind::figure, 52},
                 {"added", "PAE, %", CellKind::figure, 58, 1440},
                 {"heat", "Heat, W", CellKind::figure, 60, 1440},
                 {"key_down", "Key-down", CellKind::figure, 72, 1440},
                 {"rest", "Rest", CellKind::figure, 62, 1600},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      const bool is_beyond = r.compression && r.compression->value > c_.plan.linear_to_db;
      ResultTable::Row row{i, {}};
      row.cells = {
          {r.label},
          {r.input ? level_cell(r.input->value) : std::string()},
          {r.expected_dbm ? level_cell(*r.expected_dbm) : std::string()},
          r.output ? uncertain_cell(*r.output) : TableCell{},
          plain_cell(r.gain, 2),
          plain_cell(r.compression, 2),
          plain_cell(r.volts, 1),
          plain_cell(r.amperes, 2),
          plain_cell(r.efficiency, 0),
          plain_cell(r.added_efficiency, 0),
          plain_cell(r.heat, 0),
          {r.key_down_s ? duration_text(*r.key_down_s) : std::string()},
          {r.rest_s ? duration_text(*r.rest_s) : std::string()},
          {r.judgement ? number_text(r.judgement->margin, 2, true) : std::string(), r.judgement},
          verdict_of(i)};
      if (r.gain) row.cells[4].figure = r.gain;
      if (r.compression) row.cells[5].figure = r.compression;
      if (r.efficiency) row.cells[8].figure = r.efficiency;
      if (r.added_efficiency) row.cells[9].figure = r.added_efficiency;
      if (r.heat) row.cells[10].figure = r.heat;
      row.cells[5].is_deciding = is_beyond;
      row.cells[3].is_deciding = r.judgement.has_value();
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Expected: drive and specified gain, up to the rated output. dB down: below small-signal "
        "gain. V and A at "
        "the amplifier\u2019s terminals.";
    return t;
  }

  ResultTable heat_table() const {
    ResultTable t;
    t.title = "DC power and heat";
    t.view = kHeatView;
    t.columns = {{"step", "Drive step", CellKind::name, 78},
                 {"output", "Output, W", CellKind::figure, 92},
                 {"volts", "V", CellKind::figure, 54},
                 {"amperes", "A", CellKind::figure, 52},
                 {"dc", "DC, W", CellKind::figure, 58},
                 {"heat", "Heat, W", CellKind::figure, 88},
                 {"efficiency", "Eff., %", CellKind::figure, 78},
                 {"added", "PAE, %", CellKind::figure, 78},
                 {"case", "Case, \u00b0C", CellKind::figure, 66},
                 {"key_down", "Key-down", CellKind::figure, 72},
                 {"rest", "Rest", CellKind::figure, -1, 1440}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      const auto cell = [](const std::optional<Figure>& f) {
        return f ? TableCell{figure_cell(*f, 1), std::nullopt, false, f} : TableCell{};
      };
      ResultTable::Row row{i, {}};
      row.cells = {
          {r.label},
          r.output ? TableCell{figure_cell(in_watts(*r.output), 1), std::nullopt, false, r.output}
                   : TableCell{},
          plain_cell(r.volts, 2),
          plain_cell(r.amperes, 2),
          {r.volts && r.amperes ? number_text(r.volts->value * r.amperes->value, 1)
                                : std::string()},
          cell(r.heat),
          cell(r.efficiency),
          cell(r.added_efficiency),
          {r.temperature_c ? number_text(*r.temperature_c, 1) : std::string()},
          {r.key_down_s ? duration_text(*r.key_down_s) : std::string()},
          {r.rest_s ? duration_text(*r.rest_s) : std::string()}};
      t.rows.push_back(std::move(row));
    }
    t.note = "Heat: DC power and drive less output. PAE: output less drive over DC power.";
    return t;
  }

  ResultTable harmonic_table() const {
    ResultTable t;
    t.title = "Harmonics";
    t.view = kHarmonicsView;
    t.margin_span = kGainMarginSpanDb;
    t.columns = {{"step", "Drive step", CellKind::name, 90},
                 {"output", "Output, " + std::string(c_.unit()), CellKind::figure, 120},
                 {"second", "2nd, dBc", CellKind::figure, 96},
                 {"third", "3rd, dBc", CellKind::figure, 96},
                 {"limit", "Limit, dBc", CellKind::figure, 90},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 111}};
    for (const std::size_t i : falling()) {
      const DrivenRow& r = a_.rows[i];
      const std::vector<StepHarmonic> harmonics = harmonics_of(r, c_);
      ResultTable::Row row{
          i, {{r.label}, r.output ? uncertain_cell(*r.output) : TableCell{}, {}, {}, {}, {}, {}}};
      std::optional<Judgement> worst;
      for (const StepHarmonic& h : harmonics) {
        row.cells[static_cast<std::size_t>(h.order)] = {number_text(h.level.value, 1), std::nullopt,
                                                        false, h.level};
        if (h.limit_dbc) row.cells[4] = {number_text(*h.limit_dbc, 1)};
        if (h.judgement && (!worst || is_worse(*h.judgement, *worst))) worst = h.judgement;
      }
      if (worst) row.cells[5] = {number_text(worst->margin, 1, true), worst};
      row.cells[6] = verdict_cell(worst, !harmonics.empty(), c_.evidence.steps[i].is_damaged);
      t.rows.push_back(std::move(row));
    }
    t.note = "Relative to the carrier of the same step. Limit: " + c_.mask.name + "; " +
             kOwnLicence + ".";
    return t;
  }

 private:
  std::string level_cell(double dbm) const {
    if (!c_.settings.is_in_watts) return number_text(dbm, 2, true);
    const double w = to_watt(Dbm{dbm}).value;
    return number_text(w, w < 0.1 ? 4 : w < 1.0 ? 3 : w < 10.0 ? 2 : 1);
  }

  /// Of a level two decimals, so that output less input is the gain.
  TableCell uncertain_cell(const Figure& dbm) const {
    TableCell cell;
    if (c_.settings.is_in_watts)
      cell.text = figure_cell(in_watts(dbm), 2);
    else
      cell.text = number_text(dbm.value, 2, true) +
                  (dbm.u() > 0.0 ? " \u00b1 " + number_text(dbm.expanded(), 2) : "");
    cell.figure = dbm;
    return cell;
  }

  static TableCell plain_cell(const std::optional<Figure>& f, int decimals) {
    return {f ? number_text(f->value, decimals) : std::string()};
  }

  /// The highest drive first; planned ones where they will be.
  std::vector<std::size_t> falling() const {
    std::vector<std::size_t> order(a_.rows.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t x, std::size_t y) {
      return a_.rows[x].input_dbm.value_or(-999.0) > a_.rows[y].input_dbm.value_or(-999.0);
    });
    return order;
  }

  TableCell verdict_of(std::size_t i) const {
    const DrivenRow& row = a_.rows[i];
    if (!row.refusal.empty()) return {"left out"};
    return verdict_cell(row.judgement, row.is_taken(), c_.evidence.steps[i].is_damaged);
  }

  const GainCase& c_;
  const Amplification& a_;
};

}  // namespace

std::vector<ResultTable> gain_tables(const GainCase& of) {
  const GainTables tables(of);
  const auto any = [&](auto has) {
    return std::any_of(of.amplifier.rows.begin(), of.amplifier.rows.end(), has);
  };
  std::vector<ResultTable> all{tables.gain_table()};
  if (!of.changes.empty())
    all.push_back(
        comparison_table(of.changes, of.evidence.compared_name, of.evidence.is_compared_on_same));
  if (any([](const DrivenRow& r) { return r.amperes.has_value(); }))
    all.push_back(tables.heat_table());
  if (any([](const DrivenRow& r) { return r.second_dbc || r.third_dbc; }))
    all.push_back(tables.harmonic_table());
  return all;
}

}  // namespace heron
