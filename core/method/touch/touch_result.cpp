#include "core/method/touch/touch_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/touch/touch_plot.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kTouchMainsHz[] = {50.0, 60.0};
constexpr double kMainsNearHz = 1.5;
constexpr double kNoiseWorthDb = 1.0;
constexpr double kTouchSpanDb = 20.0;

/// The last recording of the test.
struct Shown {
  const TouchRecord* record = nullptr;
  std::size_t step = 0;
  std::vector<TouchBeside> beside = {};  ///< the others, in their order
};
Shown shown_record(const Evidence& evidence) {
  Shown s;
  for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
    const auto* record = dynamic_cast<const TouchRecord*>(evidence.steps[i].analysis.get());
    if (record == nullptr) continue;
    if (s.record != nullptr) s.beside.push_back({evidence.steps[s.step].label, s.record});
    s.record = record;
    s.step = i;
  }
  return s;
}

bool is_mains(double offset_hz) {
  return std::any_of(std::begin(kTouchMainsHz), std::end(kTouchMainsHz), [&](double mains) {
    const double n = std::round(offset_hz / mains);
    return n >= 1.0 && n <= 20.0 && std::abs(offset_hz - n * mains) < kMainsNearHz;
  });
}

std::string hertz(double offset_hz) {
  return frequency_text(std::round(offset_hz));
}

std::string capital(std::string text) {
  if (!text.empty() && text.front() >= 'a' && text.front() <= 'z')
    text.front() = static_cast<char>(text.front() - 'a' + 'A');
  return text;
}

/// "37 dB", "at least 37 dB".
std::string by_words(const Figure& change) {
  const std::string db = number_text(std::abs(change.value), std::abs(change.value) < 10.0 ? 1 : 0);
  return (change.bound == Bound::none ? "" : "at least ") + db + " dB";
}

class TouchResult {
 public:
  explicit TouchResult(const Evidence& evidence)
      : evidence_(evidence), plan_(touch_plan(evidence)), shown_(shown_record(evidence)) {
    if (evidence.limit && evidence.limit->unit == "dB") limit_ = evidence.limit;
    if (shown_.record == nullptr) return;
    test_ = touch_test(*shown_.record, plan_, limit_ ? std::optional(limit_->value) : std::nullopt);
    for (const TouchReading& r : test_.readings) {
      judgements_.emplace_back();
      if (limit_ && r.line() != nullptr) judgements_.back() = judge(r.line()->level, *limit_);
    }
  }

  Result result() const {
    Result r;
    r.method = "touch";
    r.remarks = remarks();
    r.tables.push_back(table());
    if (shown_.record == nullptr) {
      r.plots.push_back(empty_touch_plot(plan_));
      return r;
    }
    const PlotPicture picture = touch_picture(*shown_.record, plan_);
    for (std::size_t i = 0; i < test_.readings.size(); ++i) {
      r.items.push_back({capital(test_.readings[i].event.words), shown_.step});
      r.plots.push_back(
          touch_plot(*shown_.record, plan_, test_, i, limit_, picture, shown_.beside));
    }
    add_answers(r);
    add_reference_card(r);
    r.carrier_hz = shown_.record->rf_hz;
    r.conditions = {
        {"Seen through", number_text(shown_.record->band_for(plan_.span_hz).rbw_hz, 0) + " Hz"},
        {"Lines from", frequency_text(plan_.least_hz)},
        {"Length", duration_text(std::round(shown_.record->length_s))}};
    return r;
  }

 private:
  /// The event with the worst verdict; without a limit the one with the highest line.
  std::optional<std::size_t> worst() const {
    std::optional<std::size_t> at;
    for (std::size_t i = 0; i < test_.readings.size(); ++i) {
      const TouchLine* line = test_.readings[i].line();
      if (line == nullptr) continue;
      if (!at) {
        at = i;
        continue;
      }
      const TouchLine* other = test_.readings[*at].line();
      const bool is_more =
          judgements_[i] && judgements_[*at] ? is_worse(*judgements_[i], *judgements_[*at])
          : (line->level.bound == Bound::none) != (other->level.bound == Bound::none)
              ? line->level.bound == Bound::none
              : line->level.value > other->level.value;
      if (is_more) at = i;
    }
    return at;
  }

  static std::string detector_words(const TouchReading& r, const TouchRecord& record) {
    return r.event.is_tap() ? "highest " + number_text(record.frame_s, 2) + " s" : "mean";
  }

  Answer answer_of(std::size_t i) const {
    const TouchReading& r = test_.readings[i];
    Answer a;
    a.head = capital(r.event.words);
    a.where = r.event.words;
    a.step = i;
    a.margin_span = kTouchSpanDb;
    a.limit = limit_;
    if (r.line() == nullptr) {
      a.figure.id = "line";
      a.figure.label = "Line";
      a.figure.unit = "dB";
      a.figure.convention = "re carrier";
      a.label = "no line stands out";
      return a;
    }
    a.figure = r.line()->level;
    a.figure.label = "Line at " + hertz(r.line()->offset_hz);
    a.label = (a.figure.bound == Bound::none ? "" : "nothing seen at ") +
              hertz(r.line()->offset_hz) + ", " + detector_words(r, *shown_.record);
    a.judgement = judgements_[i];
    if (a.judgement) a.sentence = verdict_sentence(*a.judgement, "dB");
    if (!a.judgement && r.line()->against) a.sentence = change_sentence(r);
    return a;
  }

  static std::string change_sentence(const TouchReading& r) {
    const TouchLine& line = *r.line();
    if (!line.is_changed()) return "No difference to hands off.";
    return capital(by_words(*line.against)) +
           (line.against->value > 0.0 ? " above hands off." : " below hands off.");
  }

  void add_answers(Result& r) const {
    const auto first = worst();
    if (!first) return;
    r.answers.push_back(answer_of(*first));
    for (std::size_t i = 0; i < test_.readings.size(); ++i) {
      if (i != *first) r.answers.push_back(answer_of(i));
      const TouchLine* line = test_.readings[i].line();
      if (line == nullptr) continue;
      r.step_figures.push_back(
          {test_.readings[i].event.words, line->level, limit_, judgements_[i]});
    }
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.figures.front().id;
  }

  void add_reference_card(Result& r) const {
    if (!test_.reference || test_.readings.size() < 2) return;
    const TouchReading& quiet = test_.readings[*test_.reference];
    if (quiet.line() == nullptr) return;
    FigureCard card;
    card.head = capital(quiet.event.words);
    card.value = figure_cell(quiet.line()->level, 1) + " dBc";
    card.caption = hertz(quiet.line()->offset_hz) +
                   (is_mains(quiet.line()->offset_hz) ? ", a multiple of the mains" : "");
    card.judgement = judgements_[*test_.reference];
    card.margin_span = kTouchSpanDb;
    r.figure_cards.push_back(std::move(card));
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "What was touched";
    t.columns = {{"what", "What was done", CellKind::name, -1, 0, 0, true},
                 {"span", "From\u2013to, s", CellKind::figure, 92, 0, 84, true},
                 {"line", "Line, Hz", CellKind::figure, 68},
                 {"level", "Level, dBc", CellKind::figure, 100},
                 {"against", "Against hands off, dB", CellKind::figure, 132, 0, 126},
                 {"margin", "", CellKind::margin, 100, 0, 84},
                 {"verdict", "Verdict", CellKind::verdict, 92, 0, 88}};
    t.margin_span = kTouchSpanDb;
    for (std::size_t i = 0; i < test_.readings.size(); ++i) {
      const TouchReading& r = test_.readings[i];
      ResultTable::Row row{i, {}};
      TableCell name{capital(r.event.words)};
      row.cells = {name,
                   {number_text(r.event.from_s, 1) + "\u2013" + number_text(r.event.to_s, 1)}};
      const TouchLine* line = r.line();
      if (line == nullptr) {
        row.cells.push_back({"none"});
        row.cells.resize(t.columns.size() - 2);
      } else {
        TableCell level{figure_cell(line->level, 1)};
        level.figure = line->level;
        level.is_deciding = true;
        row.cells.push_back({number_text(line->offset_hz, 0)});
        row.cells.push_back(std::move(level));
        row.cells.push_back({against_text(*line)});
      }
      TableCell margin;
      margin.judgement = judgements_[i];
      row.cells.push_back(std::move(margin));
      row.cells.push_back(verdict_cell(judgements_[i], line != nullptr, false));
      t.rows.push_back(std::move(row));
    }
    if (shown_.record != nullptr) {
      t.new_row = "9-14 tap the lid";
      t.note = "Taps: highest " + number_text(shown_.record->frame_s, 2) +
               " s; the rest: mean. Drag over the picture for a time, then name what was done.";
    }
    return t;
  }

  static std::string against_text(const TouchLine& line) {
    if (!line.against) return {};
    if (!line.is_changed()) return "no difference";
    return figure_cell(*line.against, 1, true);
  }

  /// The highest that an event lifts, or takes away.
  static const TouchLine* changed(const TouchReading& r, bool is_up) {
    for (const TouchLine& l : r.lines)
      if (l.is_changed() && (l.against->value > 0.0) == is_up) return &l;
    return nullptr;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    if (shown_.record == nullptr) return all;
    all = shown_.record->remarks;
    if (evidence_.limit && !limit_)
      all.push_back({"limit_unit", Severity::caution,
                     "The limit is in " + evidence_.limit->unit + ": it judges no line.",
                     "Choose a limit in dBc"});
    if (!shown_.beside.empty())
      all.push_back({"recordings", Severity::note,
                     fmt::format("Events are those of the last of {} recordings, \u201c{}\u201d; "
                                 "the spectra of the others stand beside it.",
                                 shown_.beside.size() + 1, evidence_.steps[shown_.step].label),
                     ""});
    for (const TouchEvent& e : test_.left_out)
      all.push_back(
          {"event_outside", Severity::caution,
           fmt::format("\u201c{}\u201d at {} s is less than half a second of the "
                       "recording, which ends at {} s.",
                       e.words, number_text(e.from_s, 1), number_text(shown_.record->length_s, 1)),
           "Correct its times"});
    if (plan_.span_hz > shown_.record->band_for(plan_.span_hz).reach_hz() * 1.001)
      all.push_back(
          {"span", Severity::note,
           "The recording reaches only " +
               frequency_text(std::round(shown_.record->band_for(plan_.span_hz).reach_hz() / 10.0) *
                              10.0) +
               " from the carrier.",
           ""});
    if (plan_.events.empty() && shown_.record->frames == 1) return all;
    if (plan_.events.empty()) {
      all.push_back({"no_events", Severity::note,
                     "No event is noted: what changes cannot be told from what is always there.",
                     "Drag over the picture where something was touched, and name it"});
      return all;
    }
    if (!test_.reference)
      all.push_back({"no_hands_off", Severity::caution,
                     "No second of it is without an event: there is nothing to hold them against.",
                     "Record again, hands off for some seconds first"});
    tell_taps(all);
    tell_supply(all);
    tell_noise(all);
    tell_unseen(all);
    return all;
  }

  void tell_taps(std::vector<Remark>& all) const {
    const TouchReading* most = nullptr;
    std::string others;
    for (const TouchReading& r : test_.readings) {
      if (!r.event.is_tap() || changed(r, true) == nullptr) continue;
      if (most == nullptr || changed(r, true)->level.value > changed(*most, true)->level.value)
        most = &r;
    }
    if (most != nullptr) {
      for (const TouchReading& r : test_.readings)
        if (&r != most && r.event.is_tap() && changed(r, true) != nullptr)
          others += fmt::format("; {}: {} by {}", r.event.words, hertz(changed(r, true)->offset_hz),
                                by_words(*changed(r, true)->against));
      all.push_back({"microphonic", Severity::note,
                     fmt::format("\u201c{}\u201d lifts {} by {}{}.", capital(most->event.words),
                                 hertz(changed(*most, true)->offset_hz),
                                 by_words(*changed(*most, true)->against), others),
                     "Mount what was tapped on foam, or fasten it, and test again"});
    }
    for (const TouchReading& r : test_.readings) {
      if (r.taps_db.size() < 2) continue;
      const auto [low, high] = std::minmax_element(r.taps_db.begin(), r.taps_db.end());
      all.push_back({"tap_spread", Severity::caution,
                     fmt::format("{} taps (\u201c{}\u201d) differ by {} dB: a hand is no shaker.",
                                 r.taps_db.size(), r.event.words, number_text(*high - *low, 1)),
                     "Compare lines, not levels"});
      return;
    }
    if (std::any_of(test_.readings.begin(), test_.readings.end(),
                    [](const TouchReading& r) { return r.event.is_tap(); }))
      all.push_back({"one_tap", Severity::caution,
                     "One tap does not show how differently a hand taps.",
                     "Tap four times, a second apart"});
  }

  void tell_supply(std::vector<Remark>& all) const {
    for (const TouchReading& r : test_.readings) {
      if (!r.event.is_supply()) continue;
      const TouchLine* up = changed(r, true);
      const TouchLine* down = changed(r, false);
      if (up != nullptr && is_mains(up->offset_hz))
        all.push_back(
            {"supply_up", Severity::note,
             fmt::format("\u201c{}\u201d lifts {} by {}: the mains comes in by the "
                         "supply.",
                         capital(r.event.words), hertz(up->offset_hz), by_words(*up->against)),
             "Look how much voltage its regulator has in hand"});
      else if (down != nullptr && is_mains(down->offset_hz))
        all.push_back(
            {"supply_down", Severity::note,
             fmt::format("\u201c{}\u201d takes {} off {}: that much came from the "
                         "supply, or the loop that its ground makes.",
                         capital(r.event.words), by_words(*down->against), hertz(down->offset_hz)),
             ""});
    }
  }

  void tell_noise(std::vector<Remark>& all) const {
    for (const TouchReading& r : test_.readings) {
      if (std::abs(r.noise_db) < kNoiseWorthDb || std::abs(r.noise_db) < 3.0 * r.u_noise_db)
        continue;
      all.push_back({"noise", Severity::note,
                     fmt::format("\u201c{}\u201d changes the noise beyond {} by {} dB.",
                                 capital(r.event.words), frequency_text(plan_.span_hz / 2.0),
                                 number_text(r.noise_db, 1, true)),
                     ""});
    }
  }

  void tell_unseen(std::vector<Remark>& all) const {
    const bool is_all_same =
        std::all_of(test_.readings.begin(), test_.readings.end(), [](const TouchReading& r) {
          return changed(r, true) == nullptr && changed(r, false) == nullptr;
        });
    if (!is_all_same || test_.readings.size() < 2) return;
    all.push_back({"nothing_changed", Severity::note,
                   fmt::format("Nothing that was done changed a line from {} to {}. Nearer to the "
                               "carrier this test could not have shown it.",
                               frequency_text(plan_.least_hz), frequency_text(plan_.span_hz)),
                   ""});
  }

  const Evidence& evidence_;
  TouchPlan plan_;
  Shown shown_;
  std::optional<Limit> limit_;
  TouchTest test_;
  std::vector<std::optional<Judgement>> judgements_;
};

/// Of the row as it stands in the table: the event that it is of; nullopt of hands off that nobody
/// typed.
std::optional<std::size_t> event_of_row(const Evidence& evidence, const TouchPlan& plan,
                                        std::size_t row, TouchEvent& event) {
  const Shown shown = shown_record(evidence);
  if (shown.record == nullptr) return std::nullopt;
  const TouchTest test = touch_test(*shown.record, plan, std::nullopt);
  if (row >= test.readings.size()) return std::nullopt;
  event = test.readings[row].event;
  for (std::size_t i = 0; i < plan.events.size(); ++i)
    if (plan.events[i].from_s == event.from_s && plan.events[i].words == event.words) return i;
  return std::nullopt;
}

nlohmann::json with_events(const Evidence& evidence, const std::vector<TouchEvent>& events) {
  nlohmann::json all = evidence.settings;
  if (!all[kTouchSettings].is_object()) all[kTouchSettings] = usual_touch_settings();
  // Read again as typed lines are, so that they stand in their order.
  all[kTouchSettings][kTouchEvents] = to_json(parse_touch_events(touch_events_text(events)));
  return all;
}

}  // namespace

Result evaluate_touch(const Evidence& evidence) {
  return TouchResult(evidence).result();
}

nlohmann::json touch_typed(const Evidence& evidence, const TypedCell& cell) {
  TouchPlan plan = touch_plan(evidence);
  std::vector<TouchEvent> events = plan.events;
  TouchEvent event;
  const std::string typed = normalised_typing(cell.typed);
  const auto at = event_of_row(evidence, plan, cell.row, event);
  const auto tenth = [](double s) { return std::round(s * 10.0) / 10.0; };
  if (cell.span) {
    events.push_back({std::max(0.0, tenth(cell.span->first)), tenth(cell.span->second),
                      "event " + std::to_string(events.size() + 1)});
  } else if (event.words.empty()) {
    // A new row, or nothing is recorded yet: all of it is typed at once.
    const auto more = parse_touch_events(cell.typed);
    events.insert(events.end(), more.begin(), more.end());
  } else if (cell.column == "what" && typed.empty()) {
    if (at) events.erase(events.begin() + static_cast<std::ptrdiff_t>(*at));
  } else {
    if (cell.column == "what") {
      event.words = cell.typed;
    } else {
      const auto times = parse_touch_events(cell.typed + " " + event.words);
      if (times.size() != 1)
        throw InputError("Times", "", "they are not two", "Type from and to, such as 9-14");
      event = times.front();
    }
    if (at)
      events[*at] = event;
    else
      events.push_back(event);
  }
  return with_events(evidence, events);
}

nlohmann::json touch_noted(const Evidence& evidence, double from_s, double to_s,
                           const std::string& words) {
  std::vector<TouchEvent> events = touch_plan(evidence).events;
  events.push_back({from_s, to_s, words});
  return with_events(evidence, events);
}

}  // namespace heron
