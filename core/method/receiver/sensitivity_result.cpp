#include "core/method/receiver/sensitivity_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/error.h"
#include "core/method/receiver/heard_dial.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/receiver_way.h"
#include "core/method/receiver/sensitivity_evidence.h"
#include "core/method/receiver/sensitivity_plot.h"
#include "core/method/receiver/sensitivity_settings.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kSensitivitySpanDb = 20.0;
constexpr const char* kUsualPoint = "socket, 50";
constexpr double kQuietSetUpDb = 15.0;  // it adds 0.14 dB to the noise then

class SensitivityResult {
 public:
  explicit SensitivityResult(const Evidence& evidence)
      : evidence_(evidence), plan_(receiver_plan(evidence)) {
    // Once anything is read, what is not yet is told, too.
    const bool is_begun =
        std::any_of(evidence.steps.begin(), evidence.steps.end(), [](const EvidenceStep& s) {
          return !s.readings.empty() ||
                 dynamic_cast<const ReceiverAudio*>(s.analysis.get()) != nullptr;
        });
    if (!is_begun) return;
    for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
      ReceiverStepName name = receiver_step_name(evidence.steps[i].label);
      if (name.is_noise) continue;
      std::vector<Remark> own;
      SensitivityReading in = reading_of(i, own);
      const bool is_recorded = heard_.contains(i);
      SensitivityPlan plan = plan_.sensitivity;
      if (is_recorded) plan.u_audio_db = 0.0;  // one recorder, one setting
      if (is_recorded) plan.meter = AudioMeter::true_rms;
      SensitivityRow row = sensitivity_of(in, plan);
      row.remarks.insert(row.remarks.begin(), own.begin(), own.end());
      bands_.push_back({i, std::move(name), std::move(in), std::move(row)});
    }
  }

  Result result() const {
    Result r;
    r.method = "sensitivity";
    r.remarks = remarks();
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      r.items.push_back({bands_[k].row.label, bands_[k].step});
      r.item_level_plans.push_back(level_plan_of(way_of(k), evidence_));
    }
    if (bands_.empty()) r.level_plan = level_plan_of(way_of(std::nullopt), evidence_);
    r.tables.push_back(table());
    if (!dials_.empty()) r.tables.push_back(dial_table(dials_));
    add_plots(r);
    add_answers(r);
    for (const HeardDial& d : dials_)
      if (d.error) r.step_figures.push_back({d.band, *d.error});
    r.conditions = {{"Injected at", plan_.point.place + ", " + plan_.point.impedance},
                    {"Mode", plan_.mode},
                    {"Procedure", plan_.is_ten_db ? "level set for 10 dB (S+N)/N" : "fixed level"}};
    if (plan_.mode == "AM")
      r.conditions.emplace_back("Modulation", fmt::format("{} %, {}", number_text(plan_.depth, 0),
                                                          frequency_text(plan_.modulation_hz)));
    if (plan_.bandwidth_hz)
      r.conditions.emplace_back("Noise bandwidth", frequency_text(*plan_.bandwidth_hz));
    return r;
  }

 private:
  /// At the input: through the hook-up, and with what the impedance there makes of it.
  std::optional<Figure> level_of(const EvidenceStep& step, std::optional<double> hz,
                                 std::vector<Remark>& own) const {
    const Reading* typed = find_reading(step.readings, kInputReading);
    if (typed == nullptr) return std::nullopt;
    Figure f;
    f.id = "input";
    f.label = "Input";
    f.unit = "dBm";
    f.value = typed->value;
    f.contributions = {{"generator", plan_.u_level_db, Scope::common}};
    try {
      f = at_receiver(std::move(f), evidence_, hz);
    } catch (const InputError& error) {
      own.push_back(unknown_way(step.label, error));
      return std::nullopt;
    }
    f.value += plan_.point.shift_db;
    if (plan_.point.u_db > 0.0)
      f.contributions.push_back({"impedance at the input", plan_.point.u_db, Scope::common});
    return f;
  }

  /// Audio as it was typed; what is kept in the reading is its mean.
  std::optional<AudioLevel> audio_of(const EvidenceStep& step, const char* quantity) const {
    const Reading* r = find_reading(step.readings, quantity);
    if (r == nullptr || r->bound != Bound::none) return std::nullopt;
    AudioLevel level;
    level.db = r->value;
    level.u_db = r->u;
    level.count = r->u > 0.0 ? 2 : 1;
    return level;
  }

  const ReceiverAudio* noise_recording(const std::string& label) const {
    for (const EvidenceStep& s : evidence_.steps) {
      const ReceiverStepName name = receiver_step_name(s.label);
      if (name.is_noise && lower_case(name.band) == lower_case(normalised_typing(label)))
        if (const auto* a = dynamic_cast<const ReceiverAudio*>(s.analysis.get())) return a;
    }
    return nullptr;
  }

  SensitivityReading reading_of(std::size_t at, std::vector<Remark>& own) {
    const EvidenceStep& step = evidence_.steps[at];
    SensitivityReading in;
    in.label = step.label;
    in.frequency_hz = receiver_frequency_hz(step);
    in.level = level_of(step, in.frequency_hz, own);
    in.bandwidth_hz = plan_.bandwidth_hz;
    in.off = audio_of(step, kAudioOff);
    in.on = audio_of(step, kAudioOn);
    in.half = audio_of(step, kAudioHalf);
    if (const Reading* on = find_reading(step.readings, kAudioOn))
      in.is_deaf = on->bound == Bound::lower;
    if (const Condition* c = find_condition(step.conditions, kBirdie)) in.birdie_db = c->value;
    if (const Condition* c = find_condition(step.conditions, kSpecifiedSensitivity))
      in.specified_dbm = c->value;
    // What was heard says more than what it should have been.
    in.is_ten_db = plan_.is_ten_db && !in.is_deaf && !(in.off && in.on);
    const auto* signal = dynamic_cast<const ReceiverAudio*>(step.analysis.get());
    if (signal != nullptr) hear(at, *signal, in, own);
    if (!plan_.hears_carrier()) in.bandwidth_hz.reset();
    return in;
  }

  void hear(std::size_t at, const ReceiverAudio& signal, SensitivityReading& in,
            std::vector<Remark>& own) {
    const EvidenceStep& step = evidence_.steps[at];
    const ReceiverAudio* noise = noise_recording(step.label);
    if (noise == nullptr) {
      own.push_back({"noise_missing", Severity::note,
                     step.label + ": there is no recording of its noise alone.",
                     "Record it with the generator off, as \u201c" + step.label + ", noise\u201d"});
      return;
    }
    try {
      HeardRatio h = heard_ratio(*noise, signal);
      AudioLevel off;
      off.count = 2;
      AudioLevel on = off;
      on.db = h.sn_n_db;
      on.u_db = h.u_db;
      in.off = off;
      in.on = on;
      in.is_ten_db = false;
      if (!in.bandwidth_hz) in.bandwidth_hz = h.bandwidth_hz;
      if (const Condition* dial = find_condition(step.conditions, kReceiverDial);
          dial != nullptr && h.tone_hz && in.frequency_hz && plan_.hears_carrier()) {
        dials_.push_back(heard_dial(step.label, *in.frequency_hz, dial->value, *h.tone_hz, plan_));
        dials_.back().item = bands_.size();
      }
      for (Remark& r : h.remarks) {
        r.text = step.label + ": " + r.text;
        own.push_back(r);
      }
      heard_.emplace(at, std::move(h));
    } catch (const InputError& error) {
      own.push_back({"audio", Severity::caution, error.what_happened(), error.advice});
    }
  }

  ReceiverWay way_of(std::optional<std::size_t> k) const {
    ReceiverWay way;
    way.u_level_db = plan_.u_level_db;
    way.point = plan_.point.place + ", " + plan_.point.impedance;
    way.meter = "Audio meter";
    way.meter_words = plan_.reads_db                                   ? "shows dB"
                      : plan_.sensitivity.meter == AudioMeter::average ? "average-responding"
                                                                       : "true RMS";
    if (!k) return way;
    const EvidenceStep& step = evidence_.steps[bands_[*k].step];
    way.frequency_hz = bands_[*k].reading.frequency_hz;
    way.set_source(find_reading(step.readings, kInputReading));
    if (heard_.contains(bands_[*k].step)) {
      way.meter = "Recorder";
      way.meter_words = "two recordings";
      return way;
    }
    const auto words = [&](const std::optional<AudioLevel>& level) {
      return !level           ? std::string()
             : plan_.reads_db ? number_text(level->db, 1) + " dB"
                              : engineering_text(std::pow(10.0, level->db / 20.0), "V", 3);
    };
    way.said = bands_[*k].reading.is_deaf ? "nothing" : words(bands_[*k].reading.on);
    if (bands_[*k].reading.off) way.said_under = "noise " + words(bands_[*k].reading.off);
    return way;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    if (evidence_.limit && !plan_.sensitivity.limit)
      all.push_back({"limit_unit", Severity::caution,
                     "The limit is in " + evidence_.limit->unit + ": it judges no sensitivity.",
                     "Choose a limit in dBm or \u00b5V"});
    for (const SensitivityBand& b : bands_)
      all.insert(all.end(), b.row.remarks.begin(), b.row.remarks.end());
    if (bands_.empty()) return all;
    for (Remark& r : dial_remarks(dials_)) all.push_back(std::move(r));
    tell_repeats(all);
    tell_baseline(all);
    for (std::size_t k = 0; k < bands_.size(); ++k)
      if (bands_[k].reading.is_deaf && bands_[k].reading.level)
        all.push_back({"deaf", Severity::note,
                       fmt::format("{} hears nothing, not even {} dBm.", bands_[k].row.label,
                                   number_text(bands_[k].reading.level->value, 1)),
                       ""});
    if (plan_.point.u_db > 0.0)
      all.push_back({"impedance", Severity::caution,
                     "The impedance at the input is unknown: \u00b1 3 dB covers matched and open.",
                     "Inject at the antenna socket, or say the impedance"});
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      const Reading* typed = find_reading(evidence_.steps[bands_[k].step].readings, kInputReading);
      if (typed == nullptr || lower_case(typed->typed).find("emf") == std::string::npos) continue;
      const double uv = 1e6 * to_pd(to_watt(Dbm{typed->value})).value;
      all.push_back(
          {"emf", Severity::note,
           fmt::format("The dial means EMF: {} \u00b5V is {} \u00b5V PD, {} dBm.",
                       number_text(2.0 * uv, 2), number_text(uv, 2), number_text(typed->value, 1)),
           ""});
      break;
    }
    if (plan_.sensitivity.meter == AudioMeter::average)
      for (const auto& [step, name, reading, r] : bands_)
        if (r.read_db) {
          all.push_back(
              {"average", Severity::note,
               fmt::format("{}: an average-responding meter showed {} dB; corrected to {}.",
                           r.label, number_text(*r.read_db, 2), number_text(*r.sn_n_db, 2)),
               ""});
          break;
        }
    if (plan_.mode == "AM")
      all.push_back({"am", Severity::note,
                     fmt::format("In AM the modulation is switched, not the carrier: {} % at {}. "
                                 "That tells no noise figure.",
                                 number_text(plan_.depth, 0), frequency_text(plan_.modulation_hz)),
                     ""});
    return all;
  }

  /// What the set-up picks up by itself is in both readings, and makes every ratio look worse.
  void tell_baseline(std::vector<Remark>& all) const {
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      const Reading* zero = find_reading(evidence_.steps[bands_[k].step].readings, kAudioZero);
      if (zero == nullptr || !bands_[k].reading.off) continue;
      const double under = bands_[k].reading.off->db - zero->value;
      if (under > kQuietSetUpDb) continue;
      all.push_back({"baseline", Severity::caution,
                     fmt::format("{}: with the volume down the set-up still gives {} dB less than "
                                 "the noise: it counts as noise.",
                                 bands_[k].row.label, number_text(under, 1)),
                     "Turn the volume up, and look for hum and ground loops"});
    }
  }

  /// "14.2 MHz, after" is the same band once more, after something was moved.
  void tell_repeats(std::vector<Remark>& all) const {
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      const auto& [before, is_noise, is_after] = bands_[k].name;
      if (!is_after || !bands_[k].row.for_ten_db || bands_[k].reading.is_deaf) continue;
      const std::string before_key = lower_case(before);
      const auto was = std::find_if(bands_.begin(), bands_.end(), [&](const SensitivityBand& b) {
        return lower_case(normalised_typing(b.row.label)) == before_key;
      });
      if (was == bands_.end() || !was->row.for_ten_db ||
          was->row.for_ten_db->bound != Bound::none) {
        all.push_back({"no_before", Severity::note,
                       bands_[k].row.label + " has nothing to be compared with.",
                       "Read \u201c" + before + "\u201d first, as it was"});
        continue;
      }
      // One generator, one path: only what was read anew is left.
      const Figure d = difference(*bands_[k].row.for_ten_db, *was->row.for_ten_db);
      const bool is_same = is_no_difference(d);
      all.push_back(
          {"after", is_same ? Severity::note : Severity::caution,
           fmt::format("{}: {} dB against before{}.", bands_[k].row.label, figure_cell(d, 1, true),
                       is_same         ? ": no difference"
                       : d.value > 0.0 ? ": it hears less"
                                       : ": it hears more"),
           ""});
    }
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Sensitivity";
    t.tab = "sensitivity";
    t.margin_span = kSensitivitySpanDb;
    t.columns = {{"band", "Band", CellKind::name, -1},
                 {"input", "Input, dBm", CellKind::figure, 78},
                 {"ratio", "(S+N)/N, dB", CellKind::figure, 80},
                 {"sn", "S/N, dB", CellKind::figure, 66, heard_.empty() ? 1440 : 1280},
                 {"level", "For 10 dB, dBm", CellKind::figure, 112},
                 {"uv", "\u00b5V PD", CellKind::figure, 54, 1200},
                 {"mds", "MDS, dBm", CellKind::figure, 72},
                 {"nf", "NF, dB", CellKind::figure, 50},
                 {"margin", "Margin", CellKind::margin, 84, 0, 76},
                 {"verdict", "Verdict", CellKind::verdict, 96, 0, 94}};
    const auto sinad = t.columns.begin() + 4;
    if (!heard_.empty())
      t.columns.insert(sinad, {"sinad", "SINAD, dB", CellKind::figure, 78, 1200});
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      const SensitivityRow& r = bands_[k].row;
      ResultTable::Row row{k, {{r.label}}};
      const auto number = [&](const std::optional<double>& v) {
        row.cells.push_back({v ? number_text(*v, 1) : std::string()});
      };
      // A press tells their \u00b1.
      const auto figure = [&](const std::optional<Figure>& f) {
        row.cells.push_back(f ? TableCell{number_text(f->value, 1), std::nullopt, false, f}
                              : TableCell{});
      };
      row.cells.push_back({bands_[k].reading.level ? number_text(bands_[k].reading.level->value, 1)
                                                   : std::string()});
      number(r.sn_n_db);
      number(r.sn_db);
      if (!heard_.empty()) {
        const auto heard = heard_.find(bands_[k].step);
        number(heard == heard_.end() ? std::nullopt : heard->second.sinad_db);
      }
      TableCell level;
      if (r.for_ten_db) {
        level = {figure_cell(*r.for_ten_db, 1), std::nullopt, r.judgement.has_value(),
                 r.for_ten_db};
        if (bands_[k].reading.is_deaf) {
          row.cells.front().tag = "deaf";
          row.cells.front().tag_is = Verdict::fail;
        }
      }
      row.cells.push_back(std::move(level));
      const bool has = r.for_ten_db && !bands_[k].reading.is_deaf;
      row.cells.push_back({has ? microvolt_text(r.for_ten_db->value) : std::string()});
      figure(r.mds);
      figure(r.noise_figure);
      row.cells.push_back(
          {r.judgement ? number_text(r.judgement->margin, 1, true) : std::string(), r.judgement});
      row.cells.push_back(verdict_cell(r.judgement, r.for_ten_db.has_value(),
                                       evidence_.steps[bands_[k].step].is_damaged));
      t.rows.push_back(std::move(row));
    }
    t.note = "Level at the input for (S+N)/N = 10 dB; MDS: where signal and noise are equal.";
    return t;
  }

  /// All bands, and below what was read on the chosen one.
  void add_plots(Result& r) const {
    const Plot all = sensitivity_plot(bands_, plan_);
    r.plots.push_back(all);
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      std::optional<PlotPanel> evidence;
      const EvidenceStep& step = evidence_.steps[bands_[k].step];
      if (heard_.contains(bands_[k].step))
        evidence = audio_panel(*noise_recording(step.label),
                               dynamic_cast<const ReceiverAudio&>(*step.analysis));
      else
        evidence = readings_panel(step, bands_[k].reading, bands_[k].row);
      if (!evidence) continue;
      Plot own = all;
      own.step = k;
      own.panels.push_back(std::move(*evidence));
      r.plots.push_back(std::move(own));
    }
  }

  void add_answers(Result& r) const {
    std::vector<std::size_t> order;
    for (std::size_t k = 0; k < bands_.size(); ++k)
      if (bands_[k].row.for_ten_db) order.push_back(k);
    if (order.empty()) return;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      const SensitivityRow& x = bands_[a].row;
      const SensitivityRow& y = bands_[b].row;
      // The weakest that hears; those that hear nothing are named beside it.
      if (bands_[a].reading.is_deaf != bands_[b].reading.is_deaf) return bands_[b].reading.is_deaf;
      if (x.judgement && y.judgement) return is_worse(*x.judgement, *y.judgement);
      return x.for_ten_db->value > y.for_ten_db->value;
    });
    for (const std::size_t k : order) {
      const SensitivityRow& row = bands_[k].row;
      Answer a;
      a.figure = *row.for_ten_db;
      // Another point than usual goes along: it is compared with its like only.
      if (plan_.point.id != kUsualPoint) a.figure.convention = "at " + plan_.point.id;
      a.where = row.label;
      a.head = (k == order.front() && order.size() > 1 ? "Weakest, " : "") + row.label;
      a.label = bands_[k].reading.is_deaf
                    ? "nothing heard at this level"
                    : microvolt_text(row.for_ten_db->value) + " \u00b5V PD for 10 dB (S+N)/N";
      a.limit = row.limit;
      a.judgement = row.judgement;
      a.margin_span = kSensitivitySpanDb;
      a.sentence = row.judgement ? verdict_sentence(*row.judgement, "dB")
                                 : "No limit is chosen, so nothing is judged.";
      a.step = k;
      r.answers.push_back(a);
      r.step_figures.push_back({row.label, a.figure, a.limit, a.judgement});
      if (row.noise_figure) r.step_figures.push_back({row.label, *row.noise_figure});
    }
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.answers.front().figure.id;
    for (std::size_t k = 0; k < bands_.size(); ++k) {
      if (!bands_[k].row.half_costs_db) continue;
      FigureCard card;
      card.head = "Linear check, " + bands_[k].row.label;
      card.value = figure_text(*bands_[k].row.half_costs_db, Rounding::compact);
      card.caption = "half the input; 6.0 means linear";
      card.step = k;
      r.figure_cards.push_back(std::move(card));
    }
  }

  const Evidence& evidence_;
  ReceiverPlan plan_;
  std::vector<SensitivityBand> bands_;
  std::map<std::size_t, HeardRatio> heard_;
  std::vector<HeardDial> dials_;
};

}  // namespace

Result evaluate_sensitivity(const Evidence& evidence) {
  return SensitivityResult(evidence).result();
}

}  // namespace heron
