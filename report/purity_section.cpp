#include "report/purity_section.h"

#include <fmt/format.h>

#include "core/judge/mask_text.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/section_parts.h"

namespace heron {
namespace {

std::string purity_line_name(const PurityLine& l) {
  return l.kind == LineKind::harmonic ? ordinal(l.harmonic) + " harmonic" : line_kind_name(l.kind);
}

ReportTable lines_table(const PurityAnalysis& a) {
  ReportTable table;
  table.words = {1};
  table.heads = {"MHz", "What it is", "As measured", "Path corr., dB",
                 "dBc", "dBm",        "Limit, dBc",  "Verdict"};
  for (const PurityLine& l : a.lines) {
    const std::string bound = l.is_bound ? "\u2264 " : "";
    Figure figure = line_figure(l);
    figure.unit.clear();
    const bool is_carrier = l.kind == LineKind::carrier;
    table.rows.push_back(
        {number_text(l.frequency_hz / 1e6, 4), purity_line_name(l),
         bound + number_text(l.as_read_dbm, 1) + (a.is_absolute ? " dBm" : " dBFS"),
         number_text(l.correction_db, 2, true), is_carrier ? "0" : figure_text(figure),
         a.is_absolute ? bound + number_text(l.level_dbm, 1, true) : "\u2013",
         l.limit_dbc ? number_text(*l.limit_dbc, 1) : "\u2013",
         is_carrier    ? "reference"
         : l.judgement ? verdict_word(l.judgement->verdict)
                       : "not judged"});
    table.verdicts.push_back(l.judgement ? l.judgement->verdict : Verdict::not_taken);
  }
  table.note =
      "Levels re carrier at the device, each line through the hook-up at its own "
      "frequency.";
  return table;
}

}  // namespace

void add_purity_section(ReportDocument& doc, const PurityTest& t) {
  std::optional<HookupVersion> on;
  for (const auto& taken : t.taken_on) {
    if (taken) on = taken;
  }
  ReportSection s = section_head(t, on, t.carrier_hz);
  s.conditions.emplace_back("Carrier", frequency_text(t.carrier_hz));
  if (t.settings.power_dbm) s.conditions.emplace_back("Its power", t.settings.power_typed);
  s.limit = t.mask.is_none() ? "" : t.mask.name;
  s.conditions.emplace_back("Mask",
                            t.mask.is_none() ? "none chosen" : t.mask.name + "; " + kOwnLicence);
  s.answer = "not measured";
  const PurityLine* worst = t.analysis ? t.analysis->worst() : nullptr;
  if (worst != nullptr) {
    const Figure figure = line_figure(*worst);
    s.answer = figure_text(figure) + " " + kReCarrier;
    s.answer_label = fmt::format("Worst: {}, {}", purity_line_name(*worst),
                                 engineering_text(worst->frequency_hz, "Hz", 6));
    if (!figure.contributions.empty())
      s.conditions.emplace_back("\u00b1 of the answer", budget_words(figure));
    if (const auto judged = t.analysis->judgement()) {
      s.judgement = *judged;
      s.judgement_sentence = verdict_sentence(*judged, "dB");
    } else {
      s.judgement_sentence = "Nothing was judged.";
    }
    s.table = lines_table(*t.analysis);
    s.remarks = t.analysis->remarks;
    for (const std::string& input : t.analysis->inputs) doc.inputs.push_back(input);
    if (t.analysis->carrier_dbm) {
      const Result result = to_result(*t.analysis);
      doc.figures.push_back({t.test.title, "carrier", result.figures.front(), "", ""});
    }
    for (const PurityLine& l : t.analysis->lines) {
      if (l.kind == LineKind::carrier) continue;
      ReportFigure f{t.test.title, purity_line_name(l), line_figure(l), "", ""};
      if (l.limit_dbc) f.limit = number_text(*l.limit_dbc, 1) + " dB";
      if (l.judgement) f.verdict = verdict_id(l.judgement->verdict);
      doc.figures.push_back(f);
    }
    if (const FilterAdvice* best = lowest_enough(t.filters))
      s.remarks.push_back(
          {"filter", Severity::note,
           fmt::format(
               "A low-pass filter of order {} with {} dB ripple and its cut-off at {} would "
               "bring {} to {} dBc.",
               best->order, kFilterRippleDb, engineering_text(best->cutoff_hz, "Hz", 3),
               engineering_text(best->worst_hz, "Hz", 4), number_text(best->worst_after_dbc, 1)),
           ""});
  } else if (!t.obstacle.empty()) {
    s.remarks.push_back({"obstacle", Severity::caution, t.obstacle + ".", t.advice});
  }
  doc.sections.push_back(std::move(s));
}

}  // namespace heron
