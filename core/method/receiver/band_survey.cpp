#include "core/method/receiver/band_survey.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/quantity_setting.h"
#include "core/method/receiver/receiver_step.h"
#include "core/method/receiver/receiver_way.h"
#include "core/method/receiver/shared_parts.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kSurveySettings = "survey";
constexpr const char* kSurveyParts = "parts";
constexpr const char* kSurveyDial = "dial";
constexpr const char* kLowest = "lowest";
constexpr const char* kIndication = "indication";
constexpr const char* kPosition = "position";
constexpr const char* kProvisional = "provisional";
constexpr const char* kNotes = "notes";
constexpr double kByEarU = 3.0;  ///< standard: ears, and a generator that nobody has checked
constexpr double kTriedDbm = -53.0;

bool is_nothing(const std::string& typed) {
  const std::string words = lower_case(normalised_typing(typed));
  return words.starts_with("nothing") || words == "none" || words == "deaf";
}

/// A level, or "nothing at -60 dBm": then it is at least that.
Reading read_lowest(const TypedField& field, const std::string& typed, const std::string&) {
  Reading r;
  r.quantity = field.quantity;
  r.unit = field.unit;
  r.typed = typed;
  r.u = kByEarU;
  QuantityOptions options;
  options.default_unit = "dBm";
  if (!is_nothing(typed)) {
    r.value = parse_quantity(typed, Quantity::level, options).value;
    return r;
  }
  r.bound = Bound::lower;
  const auto at = lower_case(typed).find(" at ");
  r.value = at == std::string::npos
                ? kTriedDbm
                : parse_quantity(typed.substr(at + 4), Quantity::level, options).value;
  return r;
}

Reading read_words(const TypedField& field, const std::string& typed, const std::string&) {
  Reading r;
  r.quantity = field.quantity;
  r.typed = typed;
  return r;
}

std::vector<TypedField> survey_fields() {
  using Kind = TypedField::Kind;
  const auto words = [](const char* quantity, const char* head, const char* hint, int width) {
    TypedField f;
    f.quantity = quantity;
    f.head = head;
    f.hint = hint;
    f.width = width;
    f.read = read_words;
    return f;
  };
  const auto place = [](const char* quantity, const char* head, const char* hint) {
    TypedField f;
    f.kind = Kind::condition;
    f.quantity = quantity;
    f.head = head;
    f.hint = hint;
    f.asked = Quantity::frequency;
    f.unit = "Hz";
    f.typed_unit = "MHz";
    f.width = 96;
    return f;
  };
  TypedField lowest;
  lowest.quantity = kLowest;
  lowest.head = "Lowest heard";
  lowest.hint =
      "At the generator; \u201cnothing at \u221253 dBm\u201d where not even that is heard";
  lowest.unit = "dBm";
  lowest.width = 110;
  lowest.read = read_lowest;
  return {
      place(kReceiverFrequency, "Generator", "Nothing is needed where the step is called by it"),
      place(kSurveyDial, "Dial there", "Where the dial stands at the signal"),
      lowest,
      words(kIndication, "Shows", "What the indicator shows at that level, or without", 76),
      words(kPosition, "Mode or filter", "As it stood", 110),
      words(kProvisional, "Provisional", "Why it is to be read again; empty if it is not", 110),
      words(kNotes, "Notes", "What was seen, heard or smelt", 150)};
}

struct SurveyRow {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<double> dial_hz;
  std::optional<Figure> lowest;
  std::optional<Remark> why_no_level;  ///< why there is no level at the receiver
  Hearing hearing = Hearing::unknown;
  std::string indication;
  std::string position;
  std::string provisional;
  std::string notes;
};

class Survey {
 public:
  explicit Survey(const Evidence& evidence) : evidence_(evidence) {
    const json& own = own_settings(evidence.settings, kSurveySettings);
    try {
      if (own.contains(kSurveyParts)) parts_ = band_parts_from_json(own.at(kSurveyParts));
    } catch (const json::exception& error) {
      refuse_damaged(error);
    }
    for (const EvidenceStep& step : evidence.steps) rows_.push_back(row_of(step));
  }

  Result result() const {
    Result r;
    r.method = "survey";
    r.remarks = remarks();
    r.tables.push_back(table());
    r.plots.push_back(plot());
    for (std::size_t i = 0; i < rows_.size(); ++i)
      r.item_level_plans.push_back(level_plan_of(way_of(i), evidence_));
    add_answers(r);
    return r;
  }

 private:
  SurveyRow row_of(const EvidenceStep& step) const {
    SurveyRow row;
    row.label = step.label;
    row.frequency_hz = receiver_frequency_hz(step);
    if (const Condition* d = find_condition(step.conditions, kSurveyDial)) row.dial_hz = d->value;
    const auto words = [&](const char* quantity) {
      const Reading* r = find_reading(step.readings, quantity);
      return r == nullptr ? std::string() : r->typed;
    };
    row.indication = words(kIndication);
    row.position = words(kPosition);
    row.provisional = words(kProvisional);
    row.notes = words(kNotes);
    const Reading* heard = find_reading(step.readings, kLowest);
    if (heard == nullptr) return row;
    row.hearing = heard->bound == Bound::lower ? Hearing::deaf : Hearing::hears;
    Figure f = to_figure(*heard, "Lowest level heard");
    f.id = "lowest_heard";
    f.unit = "dBm";
    f.contributions = {{"by ear", heard->u, Scope::independent}};
    try {
      row.lowest = at_receiver(std::move(f), evidence_, row.frequency_hz);
    } catch (const InputError& error) {
      row.why_no_level = unknown_way(step.label, error);
    }
    return row;
  }

  ReceiverWay way_of(std::size_t i) const {
    ReceiverWay way;
    const EvidenceStep& step = evidence_.steps[i];
    way.frequency_hz = rows_[i].frequency_hz;
    way.u_level_db = kByEarU;
    if (const Reading* heard = find_reading(step.readings, kLowest)) {
      way.level = heard->value;
      way.dial = heard->typed;
    }
    way.point = rows_[i].position;
    way.said = rows_[i].hearing == Hearing::deaf ? "nothing" : rows_[i].indication;
    way.meter = "By ear";
    way.meter_words = "headphones or loudspeaker";
    return way;
  }

  std::vector<Remark> remarks() const {
    std::vector<Remark> all;
    std::vector<TriedBand> tried;
    for (const SurveyRow& r : rows_)
      if (r.frequency_hz) tried.push_back({*r.frequency_hz, r.hearing});
    std::size_t provisional = 0;
    for (const SurveyRow& r : rows_) {
      if (!r.provisional.empty()) ++provisional;
      if (r.why_no_level) all.push_back(*r.why_no_level);
      if (r.hearing == Hearing::deaf)
        all.push_back(deaf_remark(r.label, r.frequency_hz, parts_, tried));
    }
    if (provisional > 0)
      all.push_back({"provisional", Severity::note,
                     fmt::format("{} of {} bands are provisional: they are to be read again.",
                                 provisional, rows_.size()),
                     ""});
    return all;
  }

  ResultTable table() const {
    ResultTable t;
    t.title = "Band survey";
    t.tab = "survey";
    t.columns = {{"band", "Band", CellKind::name, 138},
                 {"dial", "Dial there", CellKind::figure, 100},
                 {"off", "Dial off, Hz", CellKind::figure, 84},
                 {"lowest", "Lowest heard, dBm", CellKind::figure, 128},
                 {"shows", "Shows", CellKind::text, 52},
                 {"position", "Mode or filter", CellKind::text, 104, 1440},
                 {"notes", "Notes", CellKind::text, -1},
                 {"state", "State", CellKind::verdict, 96, 0, 94}};
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const SurveyRow& r = rows_[i];
      ResultTable::Row row{i, {{r.label}}};
      TableCell& name = row.cells.front();
      if (r.hearing == Hearing::deaf) {
        name.tag = "deaf";
        name.tag_is = Verdict::fail;
      } else if (!r.provisional.empty()) {
        name.tag = "provisional";
        name.tag_is = Verdict::too_close;
      }
      row.cells.push_back({r.dial_hz ? frequency_text(*r.dial_hz) : std::string()});
      row.cells.push_back({r.dial_hz && r.frequency_hz
                               ? number_text(*r.frequency_hz - *r.dial_hz, 0, true)
                               : std::string()});
      row.cells.push_back(r.lowest
                              ? TableCell{figure_cell(*r.lowest, 0), std::nullopt, true, r.lowest}
                              : TableCell{});
      row.cells.push_back({r.indication});
      row.cells.push_back({r.position});
      std::string notes = r.notes;
      if (!r.provisional.empty())
        notes = fmt::format("provisional: {}{}{}", r.provisional, notes.empty() ? "" : "; ", notes);
      row.cells.push_back({notes});
      row.cells.push_back(
          verdict_cell(std::nullopt, r.lowest.has_value(), evidence_.steps[i].is_damaged));
      t.rows.push_back(std::move(row));
    }
    t.note = "By ear, within some 6 dB: it says which bands to measure, and judges none.";
    return t;
  }

  Plot plot() const {
    Plot plot;
    plot.title = "Lowest level heard";
    plot.x = {"Frequency", "Hz", true};
    plot.empty_words =
        "Nothing heard yet. Add the bands, go through them with the generator, and type the lowest "
        "level that you hear on each, where the dial stands and what the indicator shows.";
    PlotPanel main{{"lowest level heard, dBm", ""}, {}};
    PlotLayer heard{PlotLayer::Kind::trace, "by ear", 1, false, {}};
    double low = 1e300;
    double high = 0.0;
    double least = 1e9;
    double most = -1e9;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
      const SurveyRow& r = rows_[i];
      if (!r.lowest || !r.frequency_hz || !(*r.frequency_hz > 0.0)) continue;
      heard.points.push_back(
          {*r.frequency_hz, r.lowest->value, r.lowest->expanded(), r.lowest->bound, i});
      low = std::min(low, *r.frequency_hz);
      high = std::max(high, *r.frequency_hz);
      least = std::min(least, r.lowest->value);
      most = std::max(most, r.lowest->value);
    }
    plot.x.range = heard.points.empty() ? std::pair(1.5e6, 31e6) : std::pair(low / 1.3, high * 1.3);
    main.y.range =
        heard.points.empty() ? std::pair(-130.0, -40.0) : std::pair(least - 12.0, most + 12.0);
    if (!heard.points.empty()) main.layers.push_back(std::move(heard));
    plot.panels.push_back(std::move(main));
    return plot;
  }

  void add_answers(Result& r) const {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < rows_.size(); ++i)
      if (rows_[i].lowest) order.push_back(i);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      const bool deaf_a = rows_[a].hearing == Hearing::deaf;
      // The weakest that hears; those that hear nothing are named in the remarks.
      if (deaf_a != (rows_[b].hearing == Hearing::deaf)) return !deaf_a;
      return rows_[a].lowest->value > rows_[b].lowest->value;
    });
    const auto heard = static_cast<std::size_t>(
        std::count_if(rows_.begin(), rows_.end(),
                      [](const SurveyRow& row) { return row.hearing == Hearing::hears; }));
    for (const std::size_t i : order) {
      const SurveyRow& row = rows_[i];
      Answer a;
      a.figure = *row.lowest;
      a.where = row.label;
      a.head = (i == order.front() && order.size() > 1 ? "Weakest, " : "") + row.label;
      a.label = row.hearing == Hearing::deaf ? "nothing heard at this level" : "heard by ear";
      a.sentence =
          fmt::format("{} of {} bands hear. A survey judges nothing.", heard, order.size());
      a.step = i;
      r.answers.push_back(a);
      r.step_figures.push_back({row.label, a.figure});
    }
    if (r.answers.empty()) return;
    r.figures.push_back(r.answers.front().figure);
    r.headline_id = r.figures.front().id;
  }

  const Evidence& evidence_;
  std::vector<BandParts> parts_;
  std::vector<SurveyRow> rows_;
};

std::string survey_parts_words(const Evidence& evidence) {
  return band_parts_words(own_settings(evidence.settings, kSurveySettings), kSurveyParts);
}

}  // namespace

const Method& band_survey_method() {
  static const Method method{
      .id = "survey",
      .step_head = "Band",
      .step_example = "14.2 MHz",
      .fields = survey_fields(),
      .settings_key = kSurveySettings,
      .settings = {band_parts_setting(kSurveyParts)},
      .usual_settings = [] { return json{{kSurveyParts, json::array()}}; },
      .setting_words = survey_parts_words,
      .caution =
          "A set that was not powered for years is brought up slowly, watched, and never alone: "
          "old capacitors burst and insulation fails. Mains and high voltage are inside; local "
          "codes and licensed practice come first.",
      .caution_head = "Before its first power",
      .plan = plan_receiver_bands,
      .evaluate = [](const Evidence& evidence) { return Survey(evidence).result(); }};
  return method;
}

}  // namespace heron
