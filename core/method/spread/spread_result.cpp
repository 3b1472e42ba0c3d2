#include "core/method/spread/spread_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/measure/recorder_linearity.h"
#include "core/method/spread/spread_analysis.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr const char* kViews[] = {"average", "max-hold"};

/// One step as it is evaluated: ratios carry how linear the recorder is.
struct SpreadStep {
  std::size_t index = 0;
  const EvidenceStep* evidence = nullptr;
  std::shared_ptr<const SpreadAnalysis> kept;
  BandwidthAnalysis average;
  BandwidthAnalysis max_hold;
  std::optional<Figure> ratio;  ///< noise power ratio
  std::vector<Remark> noise_remarks;

  const BandwidthAnalysis& of(Hold hold) const {
    return hold == Hold::average ? average : max_hold;
  }
  const Curve& curve(Hold hold) const {
    return hold == Hold::average ? kept->average.average : kept->max_hold.max_hold;
  }
};

/// Without its curves, which stay where they are kept.
BandwidthAnalysis figures_of(const BandwidthAnalysis& from, const RecorderLinearity& linearity,
                             bool has_path) {
  BandwidthAnalysis a;
  a.input = from.input;
  a.hold = from.hold;
  a.fraction = from.fraction;
  a.occupied = from.occupied;
  a.x26 = from.x26;
  a.channel_hz = from.channel_hz;
  a.channel_middle_hz = from.channel_middle_hz;
  a.adjacent = from.adjacent;
  a.linearity = linearity;
  a.remarks = from.remarks;
  add_linearity_remark(a.remarks, linearity, has_path);
  return a;
}

std::vector<SpreadStep> steps_of(const Evidence& evidence) {
  std::vector<SpreadStep> all;
  for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
    const EvidenceStep& e = evidence.steps[i];
    SpreadStep s;
    s.kept = std::dynamic_pointer_cast<const SpreadAnalysis>(e.analysis);
    if (!s.kept) continue;
    s.index = i;
    s.evidence = &e;
    const RecorderLinearity linearity =
        recorder_linearity(std::nullopt, e.path ? &*e.path : nullptr);
    s.average = figures_of(s.kept->average, linearity, e.path.has_value());
    s.max_hold = figures_of(s.kept->max_hold, linearity, e.path.has_value());
    if (s.kept->noise) {
      NoiseRatioAnalysis noise = *s.kept->noise;
      noise.linearity = linearity;
      const Result r = to_result(noise);
      if (const Figure* f = r.headline()) s.ratio = *f;
      s.noise_remarks = noise.remarks;
    }
    all.push_back(std::move(s));
  }
  return all;
}

/// The figure that the test is about.
std::optional<Figure> figure_of(const SpreadStep& s, bool is_width, Hold hold) {
  const BandwidthAnalysis& b = s.of(hold);
  if (is_width) {
    const Result r = to_result(b);
    return r.headline() != nullptr ? std::optional(*r.headline()) : std::nullopt;
  }
  if (s.kept->noise) return s.ratio;
  const AdjacentPower* worst = worst_adjacent(b);
  return worst != nullptr ? std::optional(adjacent_figure(*worst, hold, b.linearity))
                          : std::nullopt;
}

/// A limit for another stimulus says nothing about this figure.
std::optional<Judgement> judged(const std::optional<Figure>& figure,
                                const std::optional<Limit>& limit) {
  if (!figure || !limit || limit->convention != figure->convention) return std::nullopt;
  return judge(*figure, *limit);
}

Answer answer_of(const SpreadStep& s, const Figure& figure, const std::optional<Limit>& limit,
                 Hold hold) {
  Answer a;
  a.figure = figure;
  a.where = s.evidence->label;
  a.label = figure.label;
  a.step = s.index;
  a.view = hold_name(hold);
  a.judgement = judged(figure, limit);
  if (a.judgement) {
    a.limit = limit;
    a.margin_span = limit->span;
    a.sentence = verdict_sentence(*a.judgement, figure.unit);
  } else {
    a.sentence =
        limit ? "The limit is for " + limit->convention + ", so it does not judge this figure."
              : "No limit is chosen, so nothing is judged.";
  }
  return a;
}

/// Those of each view; the one that the verdict of the test is about comes first: the least margin,
/// without a limit the last measured.
std::vector<Answer> answers_of(const std::vector<SpreadStep>& steps, bool is_width,
                               const std::optional<Limit>& limit) {
  std::vector<Answer> all;
  for (const Hold hold : {Hold::average, Hold::max}) {
    for (const SpreadStep& s : steps) {
      if (const auto figure = figure_of(s, is_width, hold))
        all.push_back(answer_of(s, *figure, limit, hold));
    }
  }
  std::size_t best = 0;
  for (std::size_t i = 0; i < all.size() && all[i].view == kViews[0]; ++i) {
    const auto& now = all[i].judgement;
    const auto& before = all[best].judgement;
    if (!now || !before || is_worse(*now, *before)) best = i;
  }
  if (!all.empty())
    std::rotate(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(best),
                all.begin() + static_cast<std::ptrdiff_t>(best) + 1);
  return all;
}

std::string width_cell(const std::optional<WidthAtLevel>& width, Hold hold) {
  return width ? figure_cell(width_figure(*width, hold), 0) : std::string();
}

std::string adjacent_cell(const BandwidthAnalysis& b, bool is_upper) {
  const AdjacentPower* p = nearest_adjacent(b, is_upper);
  return p != nullptr ? figure_cell(adjacent_figure(*p, b.hold, b.linearity), 1) : std::string();
}

ResultTable table_of(const Evidence& evidence, const std::vector<SpreadStep>& steps, bool is_width,
                     Hold hold) {
  ResultTable table;
  table.title = "Steps with noise or speech";
  table.view = hold_name(hold);
  table.margin_span = evidence.limit ? evidence.limit->span : 20.0;
  table.margin_unit = is_width ? "Hz" : "dB";
  // Each question has its own figures: noise its notch and what two tones gave, the bandwidth its
  // widths.
  table.columns = {{"step", "Step", CellKind::name, is_width ? 132 : 110, 0, is_width ? 96 : 70}};
  if (is_width) {
    table.columns.push_back({"occupied", "99 %, Hz", CellKind::figure, 100, 0, 88});
    table.columns.push_back({"x26", "\u221226 dB, Hz", CellKind::figure, 100, 0, 88});
  }
  table.columns.push_back({"lower_adjacent", "Lower adj., dB", CellKind::figure, 108, 0, 100});
  table.columns.push_back({"upper_adjacent", "Upper adj., dB", CellKind::figure, 108, 0, 100});
  if (!is_width) {
    table.columns.push_back({"ratio", "NPR, dB", CellKind::figure, 96, 0, 84});
    table.columns.push_back({"tones", "Tones, dB PEP", CellKind::figure, 116, 0, 100});
  }
  table.columns.push_back({"margin", "Margin", CellKind::margin, -1});
  table.columns.push_back({"verdict", "Verdict", CellKind::verdict, 112, 0, 111});
  for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
    const EvidenceStep& e = evidence.steps[i];
    const auto found =
        std::find_if(steps.begin(), steps.end(), [&](const SpreadStep& s) { return s.index == i; });
    const SpreadStep* s = found == steps.end() ? nullptr : &*found;
    const auto text = [&](const auto& made) { return s != nullptr ? made(*s) : std::string(); };
    ResultTable::Row row{i, {{e.label}}};
    const auto add = [&](std::string words) { row.cells.push_back({std::move(words)}); };
    if (is_width) {
      add(text([&](const SpreadStep& x) { return width_cell(x.of(hold).occupied, hold); }));
      add(text([&](const SpreadStep& x) { return width_cell(x.of(hold).x26, hold); }));
    }
    add(text([&](const SpreadStep& x) { return adjacent_cell(x.of(hold), false); }));
    add(text([&](const SpreadStep& x) { return adjacent_cell(x.of(hold), true); }));
    if (!is_width) {
      add(text([](const SpreadStep& x) { return x.ratio ? figure_cell(*x.ratio, 1) : ""; }));
      add(e.beside ? figure_cell(*e.beside, 1) : "");
    }
    const auto j = s != nullptr ? judged(figure_of(*s, is_width, Hold::average), evidence.limit)
                                : std::nullopt;
    row.cells.push_back({j ? number_text(j->margin, is_width ? 0 : 1, true) : std::string(), j});
    row.cells.push_back(verdict_cell(j, s != nullptr, e.is_damaged));
    table.rows.push_back(std::move(row));
  }
  table.note =
      "The same stimulus at every step. Adjacent: power in the adjacent channel, relative "
      "to the channel, " +
      hold_name(hold) + ". The verdict is of the average.";
  return table;
}

Plot plot_of(const std::vector<SpreadStep>& steps, const SpreadSettings& settings, Hold hold) {
  Plot plot;
  plot.title = "Spectra of the steps";
  plot.view = hold_name(hold);
  plot.x = {"Frequency", "Hz"};
  plot.note =
      hold_name(hold) + " of " + spread_stimulus_words(settings) + ", the same for all steps";
  plot.empty_words =
      "Nothing measured yet. Play the same stimulus at every step, record it, and drop the "
      "recordings here. \u201cWrite a test signal\u201d under Ctrl K makes one.";
  PlotPanel panel{{"dB relative to each trace\u2019s own peak", ""}, {}};
  double low = -60.0;
  double from = 0.0;
  double to = 0.0;
  int trace = 0;
  for (const SpreadStep& s : steps) {
    const Curve& curve = s.curve(hold);
    const BandwidthAnalysis& b = s.of(hold);
    if (curve.y.empty()) continue;
    const float peak = *std::max_element(curve.y.begin(), curve.y.end());
    for (const float y : curve.y) {
      if (std::isfinite(y)) low = std::min(low, static_cast<double>(y - peak));
    }
    PlotLayer layer;
    layer.kind = PlotLayer::Kind::curve;
    layer.name = s.evidence->label;
    layer.trace = trace++ % 6 + 1;
    layer.curve = {s.kept, &curve};
    layer.curve_zero = static_cast<double>(peak);
    layer.step = s.index;
    panel.layers.push_back(std::move(layer));
    const double middle = b.occupied ? b.channel_middle_hz : 0.0;
    for (const int side : {-1, 0, 1})
      panel.ranges.push_back({middle + (side - 0.5) * settings.channel_hz,
                              middle + (side + 0.5) * settings.channel_hz,
                              side == 0 ? "channel" : "adjacent", side == 0, s.index});
    if (b.occupied)
      panel.brackets.push_back(
          {b.occupied->lower_hz, b.occupied->upper_hz,
           fmt::format("99 % of the power: {} Hz", number_text(b.occupied->width_hz(), 0)),
           s.index});
    const double reach = std::max(settings.channel_hz * 2.2, 3000.0);
    const double end = curve.x_start + curve.x_step * static_cast<double>(curve.y.size());
    const double left = std::max(curve.x_start, middle - reach);
    const double right = std::min(end, middle + reach);
    from = trace == 1 ? left : std::min(from, left);
    to = trace == 1 ? right : std::max(to, right);
  }
  panel.y.range = {std::max(-110.0, std::floor(low / 10.0) * 10.0), 12.0};
  plot.x.range = trace > 0 ? std::pair(from, to) : std::pair(-5000.0, 5000.0);
  plot.panels.push_back(std::move(panel));
  return plot;
}

std::vector<Remark> remarks_of(const SpreadStep& s, bool is_width, Hold hold) {
  std::vector<Remark> all = s.of(hold).remarks;
  all.insert(all.end(), s.noise_remarks.begin(), s.noise_remarks.end());
  if (const auto& tones = s.evidence->beside; tones && !is_width) {
    const auto noise = figure_of(s, false, Hold::average);
    all.push_back(
        {"beside_tones", Severity::note,
         "Two tones at " + s.evidence->label + ": " + figure_text(*tones, Rounding::compact) + " " +
             tones->convention +
             (noise ? "; here " + figure_text(*noise, Rounding::compact) + " " + noise->convention
                    : std::string()) +
             ". " + noise_against_tones(),
         ""});
  }
  sort_remarks(all);
  // The same remark from the average and from the notch is said once.
  all.erase(std::unique(all.begin(), all.end(),
                        [](const Remark& a, const Remark& b) { return a.text == b.text; }),
            all.end());
  return all;
}

void add_step_figures(Result& r, const SpreadStep& s, const std::optional<Limit>& limit) {
  std::vector<Figure> figures = to_result(s.average).figures;
  if (s.ratio) figures.push_back(*s.ratio);
  for (Figure& figure : figures) {
    StepFigure f{s.evidence->label, std::move(figure)};
    if (limit && limit->convention == f.figure.convention && limit->unit == f.figure.unit) {
      f.limit = limit;
      f.judgement = judge(f.figure, *limit);
    }
    r.step_figures.push_back(std::move(f));
  }
}

}  // namespace

Result evaluate_spread(const Evidence& evidence, bool is_width) {
  const SpreadSettings settings = spread_settings_from_json(evidence.settings);
  const std::vector<SpreadStep> steps = steps_of(evidence);
  Result r;
  r.method = is_width ? "bandwidth" : "noise";
  r.views = {kViews[0], kViews[1]};
  r.conditions = {{"Stimulus", spread_stimulus_words(settings)},
                  {"Channel", number_text(settings.channel_hz, 0) + " Hz"}};
  r.answers = answers_of(steps, is_width, evidence.limit);
  for (const Hold hold : {Hold::average, Hold::max}) {
    r.tables.push_back(table_of(evidence, steps, is_width, hold));
    r.plots.push_back(plot_of(steps, settings, hold));
    for (const SpreadStep& s : steps)
      r.step_remarks.push_back({s.index, hold_name(hold), remarks_of(s, is_width, hold)});
  }
  for (const SpreadStep& s : steps) {
    r.inputs.push_back(s.average.input);
    add_step_figures(r, s, evidence.limit);
  }
  if (!r.answers.empty()) {
    r.figures = {r.answers.front().figure};
    r.headline_id = r.figures.front().id;
  }
  return r;
}

}  // namespace heron
