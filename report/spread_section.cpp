#include "report/spread_section.h"

#include "core/quantity/format.h"
#include "report/section_parts.h"

namespace heron {
namespace {

std::string bare_text(Figure figure) {
  figure.unit.clear();
  return figure_text(figure);
}

std::string width_text(const std::optional<WidthAtLevel>& w) {
  return w ? bare_text(width_figure(*w, Hold::average)) : "\u2013";
}

std::string beside_text(const BandwidthAnalysis& b) {
  const AdjacentPower* worst = worst_adjacent(b);
  return worst == nullptr ? "\u2013" : bare_text(adjacent_figure(*worst, b.hold, b.linearity));
}

}  // namespace

void add_spread_section(ReportDocument& doc, const SpreadTest& t) {
  const auto step = t.headline_step();
  ReportSection s = section_head(t, step ? t.taken_on[*step] : std::nullopt,
                                 t.test.drive ? t.test.drive->frequency_hz : 0.0);
  s.conditions.emplace_back("Played", spread_stimulus_words(t.settings));
  s.conditions.emplace_back("Channel", number_text(t.settings.channel_hz, 0) + " Hz");
  if (t.test.limit) s.limit = limit_text(*t.test.limit) + " " + t.test.limit->convention;
  s.conditions.emplace_back("Limit", s.limit.empty() ? "none chosen" : s.limit);
  // Each question has its own figures: noise its notch and what two tones gave, the bandwidth its
  // widths.
  const bool is_noise = t.test.characteristic == "noise";
  s.table.heads = is_noise ? std::vector<std::string>{"Step",      "Beside, dB",        "Held, dB",
                                                      "Notch, dB", "Two tones, dB PEP", "Verdict"}
                           : std::vector<std::string>{"Step",       "99 %, Hz", "\u221226 dB, Hz",
                                                      "Beside, dB", "Held, dB", "Verdict"};
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    std::vector<std::string> row{t.steps[i].label};
    Verdict verdict = Verdict::not_taken;
    if (const auto& a = t.analyses[i]) {
      const auto ratio = a->noise ? spread_figure("noise", *a) : std::nullopt;
      if (!is_noise) {
        row.push_back(width_text(a->average.occupied));
        row.push_back(width_text(a->average.x26));
      }
      row.push_back(beside_text(a->average));
      row.push_back(beside_text(a->max_hold));
      if (is_noise) {
        row.push_back(ratio ? bare_text(*ratio) : "\u2013");
        row.push_back(t.two_tone[i] ? bare_text(*t.two_tone[i]) : "\u2013");
      }
      if (t.judgements[i]) verdict = t.judgements[i]->verdict;
      row.push_back(t.judgements[i] ? verdict_word(verdict) : "no limit");
      doc.inputs.push_back(a->average.input);
      std::vector<Figure> figures = to_result(a->average).figures;
      if (ratio) figures.push_back(*ratio);
      for (const Figure& figure : figures) {
        ReportFigure f{t.test.title, t.steps[i].label, figure, "", ""};
        if (t.test.limit && t.test.limit->convention == figure.convention &&
            t.test.limit->unit == figure.unit) {
          f.limit = limit_text(*t.test.limit);
          f.verdict = verdict_id(judge(figure, *t.test.limit).verdict);
        }
        doc.figures.push_back(f);
      }
    } else {
      row.insert(row.end(), {"\u2013", "\u2013", "\u2013", "\u2013", "not taken"});
    }
    s.table.rows.push_back(row);
    s.table.verdicts.push_back(verdict);
  }
  s.table.note =
      "The same stimulus at every step. Beside: the stronger window next to the "
      "channel, relative to it, average; held: the same as max-hold.";
  s.answer = "not taken";
  if (step) {
    const Figure figure = *spread_figure(t.test.characteristic, *t.analyses[*step]);
    s.answer = figure_text(figure) + " " + figure.convention;
    s.answer_label = "At " + t.steps[*step].label + ". " + figure.label;
    s.judgement = t.judgements[*step].value_or(Judgement{});
    s.judgement_sentence = t.judgements[*step] ? verdict_sentence(s.judgement, figure.unit)
                                               : "No limit was chosen, so nothing is judged.";
    s.remarks = t.analyses[*step]->average.remarks;
    if (t.two_tone[*step])
      s.remarks.push_back({"beside_tones", Severity::note,
                           "Two tones at the same step: " + figure_text(*t.two_tone[*step]) + " " +
                               t.two_tone[*step]->convention + ". " + noise_against_tones(),
                           ""});
  }
  doc.sections.push_back(std::move(s));
}

}  // namespace heron
