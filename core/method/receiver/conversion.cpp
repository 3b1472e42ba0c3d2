#include "core/method/receiver/conversion.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>

#include "core/error.h"
#include "core/method/place_name.h"
#include "core/method/quantity_setting.h"
#include "core/method/receiver/if_level.h"
#include "core/method/receiver/receiver_step.h"
#include "core/method/receiver/receiver_way.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kConversionSpanDb = 20.0;
constexpr double kFrontEndDb = 3.0;  ///< below the middle of all bands it is worth a word
constexpr double kSeenDb = 1.0;      ///< to which a compression is to be known

struct ConversionRow {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<Figure> in;
  std::optional<Figure> out;
  std::optional<Figure> gain;
  std::optional<Figure> compression;  ///< gain at the lower level less gain
  std::optional<Judgement> judgement;
};

class ConversionResult {
 public:
  explicit ConversionResult(const Evidence& evidence) : evidence_(evidence) {
    const nlohmann::json& own = own_settings(evidence.settings, kConversionSettings);
    u_in_db_ = number_from(own, "u_in_db").value_or(0.9) / 2.0;
    u_out_db_ = number_from(own, "u_out_db").value_or(1.0) / 2.0;
    probe_db_ = probe_db(own);
    loading_db_ = number_from(own, "loading_db").value_or(0.0);
    full_scale_dbm_ = number_from(own, "full_scale_dbm");
    if (evidence.limit && evidence.limit->unit == "dB") limit_ = evidence.limit;
    for (const EvidenceStep& step : evidence.steps) rows_.push_back(row_of(step));
  }

  Result result() const {
    Result r;
    r.method = "conversion";
    r.remarks = remarks();
    r.tables.push_back(table());
    r.plots.push_back(plot());
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      ReceiverWay way;
      way.frequency_hz = rows_[i].frequency_hz;
      way.u_level_db = u_in_db_;
      way.set_source(find_reading(evidence_.steps[i].readings, kConversionIn));
      way.point = "input to IF";
      if (rows_[i].out) way.said = number_text(rows_[i].out->value, 1, true) + " dBm";
      way.meter = "Meter at the IF";
      if (recorded(evidence_.steps[i]) != nullptr &&
          find_reading(evidence_.steps[i].readings, kConversionOut) == nullptr)
        way.meter = "Recorder at the IF";
      way.meter_words = probe_db_ > 0.0 ? "behind a probe" : "in 50 \u03a9";
      r.item_level_plans.push_back(level_plan_of(way, evidence_));
    }
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < rows_.size(); ++i)
      if (rows_[i].gain) order.push_back(i);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      if (rows_[a].judgement && rows_[b].judgement)
        return is_worse(*rows_[a].judgement, *rows_[b].judgement);
      return rows_[a].gain->value < rows_[b].gain->value;
    });
    for (const std::size_t i : order) {
      const ConversionRow& row = rows_[i];
      Answer a;
      a.figure = *row.gain;
      a.where = row.label;
      a.head = "Conversion gain, " + row.label;
      a.label = arithmetic(row);
      a.limit = limit_;
      a.judgement = row.judgement;
      a.margin_span = kConversionSpanDb;
      a.sentence = row.judgement ? verdict_sentence(*row.judgement, "dB")
                                 : "No limit is chosen, so nothing is judged.";
      a.step = i;
      r.answers.push_back(a);
      r.step_figures.push_back({row.label, a.figure, limit_, a.judgement});
    }
    if (!r.answers.empty()) {
      r.figures.push_back(r.answers.front().figure);
      r.headline_id = r.figures.front().id;
    }
    return r;
  }

 private:
  /// "-14.1 dBm out - -53.0 dBm in", so that a slip is seen.
  static std::string arithmetic(const ConversionRow& row) {
    return number_text(row.out->value, 1, true) + " dBm out, " +
           number_text(row.in->value, 1, true) + " dBm in";
  }

  static Figure level_of(const Reading& read, const char* label, double u_db) {
    Figure f;
    f.label = label;
    f.unit = "dBm";
    f.value = read.value;
    f.contributions = {{label, u_db, Scope::common}};
    if (read.u > 0.0) f.contributions.push_back({"how it scatters", read.u, Scope::independent});
    return f;
  }

  /// Through the hook-up from the generator, where there is one.
  std::optional<Figure> level_in(const EvidenceStep& step, const char* quantity,
                                 std::optional<double> hz) {
    const Reading* read = find_reading(step.readings, quantity);
    if (read == nullptr) return std::nullopt;
    try {
      return at_receiver(level_of(*read, "input level", u_in_db_), evidence_, hz);
    } catch (const InputError& error) {
      unknown_ways_.push_back(unknown_way(step.label, error));
      return std::nullopt;
    }
  }

  static const IfLevel* recorded(const EvidenceStep& step) {
    return dynamic_cast<const IfLevel*>(step.analysis.get());
  }

  /// As it was typed or read, else as it was recorded.
  std::optional<Figure> level_at_if(const EvidenceStep& step, bool is_lower) const {
    const Reading* typed =
        find_reading(step.readings, is_lower ? kConversionLowOut : kConversionOut);
    const IfLevel* record = recorded(step);
    Reading read;
    if (typed != nullptr) {
      read = *typed;
    } else if (record != nullptr && full_scale_dbm_ && (!is_lower || record->lower_dbfs)) {
      read.value = *full_scale_dbm_ + (is_lower ? *record->lower_dbfs : record->dbfs);
      read.u = record->u_db;
    } else {
      return std::nullopt;
    }
    Figure out = level_of(read, "level at the IF", u_out_db_);
    out.value += probe_db_ + loading_db_;
    return out;
  }

  ConversionRow row_of(const EvidenceStep& step) {
    ConversionRow row;
    row.label = step.label;
    row.frequency_hz = named_frequency_hz(step.label);
    row.in = level_in(step, kConversionIn, row.frequency_hz);
    row.out = level_at_if(step, false);
    if (row.in && row.out) {
      row.gain = gain_of(*row.in, *row.out);
      if (limit_) row.judgement = judge(*row.gain, *limit_);
    }
    if (!row.gain) return row;
    const auto low_in = level_in(step, kConversionLowIn, row.frequency_hz);
    const auto low_out = level_at_if(step, true);
    if (low_in && low_out) {
      // Both scales are the same twice: only how they are read is left.
      constexpr double kReadDb = 0.2;
      Figure c;
      c.id = "compression";
      c.label = "Compression";
      c.unit = "dB";
      c.value = (low_out->value - low_in->value) - row.gain->value;
      c.contributions = {{"four readings", 2.0 * kReadDb, Scope::independent}};
      add_scatter_of(*row.out, c);
      add_scatter_of(*low_out, c);
      row.compression = c;
    }
    return row;
  }

  static void add_scatter_of(const Figure& level, Figure& to) {
    std::copy_if(level.contributions.begin(), level.contributions.end(),
                 std::back_inserter(to.contributions),
                 [](const Contribution& c) { return c.scope == Scope::independent; });
  }

  static Figure gain_of(const Figure& in, const Figure& out) {
    Figure g;
    g.id = "conversion_gain";
    g.label = "Conversion gain";
    g.unit = "dB";
    g.value = out.value - in.value;
    g.contributions = in.contributions;
    g.contributions.insert(g.contributions.end(), out.contributions.begin(),
                           out.contributions.end());
    return g;
  }

  void say_of_recording(const EvidenceStep& step, std::vector<Remark>& all) const {
    const IfLevel* record = recorded(step);
    if (record == nullptr) return;
    if (!full_scale_dbm_)
      all.push_back({"no_full_scale", Severity::caution,
                     fmt::format("{}: its carrier stands at {} dB re full scale, and what that is "
                                 "in dBm is not known.",
                                 step.label, number_text(record->dbfs, 1, true)),
                     "Set the full scale of the recorder"});
    if (find_reading(step.readings, kConversionIn) == nullptr)
      all.push_back({"no_input", Severity::note,
                     step.label + ": its IF is recorded, the level at the input is not known.",
                     "Type the generator's level"});
    else if (record->lower_dbfs && find_reading(step.readings, kConversionLowIn) == nullptr)
      all.push_back(
          {"no_lower_input", Severity::note,
           fmt::format("{}: {} dB lower is in the recording, too; what the input was then "
                       "is not known.",
                       step.label, number_text(record->dbfs - *record->lower_dbfs, 1)),
           "Type the lower input"});
    if (record->clipped > 0)
      all.push_back(
          {"clipped", Severity::caution,
           fmt::format("{}: {} samples of its recording are clipped: its gain is too low.",
                       step.label, record->clipped),
           "Record it again with less level"});
  }

  /// Many bands are looked at at once: each has to say it the more clearly.
  double said_from(const Figure& compression) const {
    const auto many = std::count_if(rows_.begin(), rows_.end(), [](const ConversionRow& r) {
      return r.compression.has_value();
    });
    return compression.u() * std::sqrt(4.0 + 2.0 * std::log(static_cast<double>(many)));
  }

  void say_of_compression(const ConversionRow& r, std::vector<Remark>& all) const {
    const Figure& c = *r.compression;
    if (c.value > said_from(c))
      all.push_back({"compressed", Severity::caution,
                     fmt::format("{}: at the lower level its gain is {} dB more: the higher one "
                                 "compresses, AGC is on, or the lower one is read in noise.",
                                 r.label, number_text(c.value, 1, true)),
                     "Switch AGC off, and measure at the lower level"});
    else if (c.value < -said_from(c))
      all.push_back({"expanded", Severity::caution,
                     fmt::format("{}: at the lower level its gain is {} dB less: one of the four "
                                 "levels is wrong, or the meter is at its end.",
                                 r.label, number_text(-c.value, 1)),
                     "Read all four again"});
    else if (c.expanded() > kSeenDb)
      all.push_back({"compression_unseen", Severity::note,
                     fmt::format("{}: its two gains are compared to \u00b1 {} dB: 1 dB of "
                                 "compression could not have been seen.",
                                 r.label, number_text(c.expanded(), 1)),
                     "Raise both levels, or take more readings"});
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all = unknown_ways_;
    if (evidence_.limit && !limit_)
      all.push_back({"limit_unit", Severity::caution,
                     "The limit is in " + evidence_.limit->unit + ": it judges no gain.",
                     "Choose a limit in dB"});
    for (const EvidenceStep& step : evidence_.steps) say_of_recording(step, all);
    std::vector<double> gains;
    for (const ConversionRow& r : rows_)
      if (r.gain) gains.push_back(r.gain->value);
    for (const ConversionRow& r : rows_) {
      if (r.compression) say_of_compression(r, all);
      if (!r.gain || gains.size() < 3) continue;
      std::vector<double> copy = gains;
      const double missing = median_of(copy) - r.gain->value;
      if (missing > kFrontEndDb)
        all.push_back(
            {"front_end", Severity::note,
             fmt::format("{} has {} dB less gain than the middle of all bands: it is lost "
                         "before the IF, which all of them share.",
                         r.label, number_text(missing, 1)),
             "Align its front end before a valve or transistor is blamed"});
    }
    const bool has_any = !gains.empty();
    const bool is_proved = std::any_of(rows_.begin(), rows_.end(), [](const ConversionRow& r) {
      return r.compression.has_value();
    });
    if (has_any && !is_proved)
      all.push_back({"not_repeated", Severity::note,
                     "No band was repeated 10 dB lower: compression could not have been seen.",
                     "Repeat one band 10 dB lower"});
    return all;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Conversion gain";
    t.tab = "gain";
    t.margin_span = kConversionSpanDb;
    t.columns = {{"band", "Band", CellKind::name, 130},
                 {"in", "Input, dBm", CellKind::figure, 96},
                 {"out", "At the IF, dBm", CellKind::figure, 106},
                 {"gain", "Gain, dB", CellKind::figure, 116},
                 {"compression", "10 dB lower, dB", CellKind::figure, 116},
                 {"margin", "Margin", CellKind::margin, -1},
                 {"verdict", "Verdict", CellKind::verdict, 108, 0, 100}};
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const ConversionRow& r = rows_[i];
      ResultTable::Row row{i, {{r.label}}};
      row.cells.push_back({r.in ? number_text(r.in->value, 1) : std::string()});
      row.cells.push_back({r.out ? number_text(r.out->value, 1) : std::string()});
      TableCell gain;
      if (r.gain) gain = {figure_cell(*r.gain, 1), std::nullopt, r.judgement.has_value(), r.gain};
      row.cells.push_back(std::move(gain));
      row.cells.push_back({r.compression ? figure_cell(*r.compression, 1, true) : std::string()});
      row.cells.push_back(
          {r.judgement ? number_text(r.judgement->margin, 1, true) : std::string(), r.judgement});
      row.cells.push_back(
          verdict_cell(r.judgement, r.gain.has_value(), evidence_.steps[i].is_damaged));
      t.rows.push_back(std::move(row));
    }
    t.note =
        "Gain = level at the IF, probe and loading counted in, less level at the input. 10 dB "
        "lower: how much more gain there is then; 0 means no compression.";
    return t;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Conversion gain over frequency";
    plot.x = {"Frequency", "Hz", true};
    plot.empty_words =
        "Nothing read yet. Put a carrier into the input, read its level at the IF with a probe, "
        "and type both into the grid below; once more 10 dB lower shows whether it compresses. A "
        "recording of the IF, or a generator and a meter that answer, do it too.";
    PlotPanel main{{"gain, dB", ""}, {}};
    PlotLayer gains{PlotLayer::Kind::trace, "gain", 1, false, {}};
    PlotLayer limits{PlotLayer::Kind::limit, "limit", 1, false, {}};
    limits.is_joined = false;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const ConversionRow& r = rows_[i];
      if (!r.frequency_hz || !r.gain) continue;
      gains.points.push_back({*r.frequency_hz, r.gain->value, r.gain->expanded(), Bound::none, i});
      if (limit_) limits.points.push_back({*r.frequency_hz, limit_->value, 0.0, Bound::none, i});
    }
    if (!limits.points.empty()) main.layers.push_back(std::move(limits));
    if (!gains.points.empty()) main.layers.push_back(std::move(gains));
    plot.panels.push_back(std::move(main));
    return plot;
  }

  const Evidence& evidence_;
  double u_in_db_ = 0.45;
  double u_out_db_ = 0.5;
  double probe_db_ = 0.0;
  double loading_db_ = 0.0;
  std::optional<double> full_scale_dbm_;
  std::optional<Limit> limit_;
  std::vector<ConversionRow> rows_;
  std::vector<Remark> unknown_ways_;
};

}  // namespace

double probe_db(const nlohmann::json& conversion) {
  return db_from_voltage_ratio(std::max(1e-6, number_from(conversion, "probe").value_or(1.0)));
}

Result evaluate_conversion(const Evidence& evidence) {
  return ConversionResult(evidence).result();
}

}  // namespace heron
