#include "report/gather.h"

#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/method_table.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/quantity/budget.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "report/section.h"
#include "report/section_parts.h"
#include "report/spectrum_picture.h"
#include "store/clock.h"
#include "store/device.h"
#include "store/loaded.h"

namespace heron {
namespace {

std::string cell(const TwoToneAnalysis& a, int order, const std::string& convention) {
  const TwoToneProduct* p = a.worse_side(order);
  return p == nullptr
             ? "\u2013"
             : format_figure(product_figure(a, *p, convention), Rounding::compact, 1).bound +
                   (p->is_bound ? " " : "") +
                   number_text(convention == kRePep ? p->level_db_pep : p->level_dbc, 1);
}

std::string output_text(const TwoToneTest& t, std::size_t i) {
  const auto& row = t.ladder.rows[i];
  if (!row.output_dbm) return "\u2013";
  return engineering_text(std::pow(10.0, *row.output_dbm / 10.0 - 3.0), "W", 3);
}

ReportTable ladder_table(const TwoToneTest& t, const std::string& convention) {
  ReportTable table;
  table.heads = {"Drive step", "Output PEP", "IM3, dB",   "IM5, dB",
                 "IM7, dB",    "IM9, dB",    "Worst, dB", "Verdict"};
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const auto& a = t.analyses[i];
    std::vector<std::string> row{t.steps[i].label, output_text(t, i)};
    if (a && !a->products.empty()) {
      for (const int order : {3, 5, 7, 9}) row.push_back(cell(*a, order, convention));
      Figure worst = product_figure(*a, *a->worst(), convention);
      worst.unit.clear();
      row.push_back(figure_text(worst));
    } else {
      row.insert(row.end(),
                 {"\u2013", "\u2013", "\u2013", "\u2013", a ? "no products" : "not measured"});
    }
    const Verdict verdict = t.ladder.rows[i].judgement.verdict;
    row.push_back(t.test.limit || !t.ladder.rows[i].worst ? verdict_word(verdict) : "no limit");
    table.rows.push_back(row);
    table.verdicts.push_back(verdict);
  }
  table.note = "Each order by its worse side, " + convention + ".";
  if (t.ladder.sweet_spot) {
    table.note +=
        fmt::format(" Highest output that passes: {}.", t.ladder.rows[*t.ladder.sweet_spot].label);
  }
  if (t.ladder.quietest)
    table.note += fmt::format(" Quietest step: {}.", t.ladder.rows[*t.ladder.quietest].label);
  return table;
}

void add_figures(ReportDocument& doc, const TwoToneTest& t) {
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const auto& a = t.analyses[i];
    if (const auto& output = t.outputs[i])
      doc.figures.push_back({t.test.title, t.steps[i].label, *output, "", ""});
    if (!a) continue;
    doc.inputs.push_back(a->input);
    for (const char* convention : {kReOneTone, kRePep}) {
      for (const TwoToneProduct& p : a->products) {
        ReportFigure f{t.test.title, t.steps[i].label, product_figure(*a, p, convention), "", ""};
        if (t.test.limit && t.test.limit->convention == convention) {
          f.limit = limit_text(*t.test.limit);
          f.verdict = verdict_id(judge(f.figure, *t.test.limit).verdict);
        }
        doc.figures.push_back(f);
      }
    }
  }
}

void add_recording(ReportSection& s, const TwoToneAnalysis& a) {
  if (a.rbw_hz == 0.0) {
    s.conditions.emplace_back("Readings", "typed by hand");
    return;
  }
  s.conditions.emplace_back("Tones",
                            fmt::format("{} and {} Hz", number_text(a.tones[0].frequency_hz, 1),
                                        number_text(a.tones[1].frequency_hz, 1)));
  s.conditions.emplace_back("Recording",
                            fmt::format("{}, {}, {}", a.capture.name, a.capture.format,
                                        engineering_text(a.capture.sample_rate_hz, "Hz", 4)));
  s.conditions.emplace_back("Resolution",
                            fmt::format("{} noise bandwidth, {} averages, {} window",
                                        engineering_text(a.rbw_hz, "Hz", 3), a.averages, a.window));
}

ReportSection two_tone_section(const TwoToneTest& t) {
  const auto judged_step = t.headline_step();
  double frequency = t.test.drive ? t.test.drive->frequency_hz : 0.0;
  std::optional<HookupVersion> on;
  if (judged_step) on = t.taken_on[*judged_step];
  if (judged_step && t.analyses[*judged_step])
    frequency = center_of(*t.analyses[*judged_step], t.test.drive).value_or(frequency);
  ReportSection s = section_head(t, on, frequency);
  const std::string convention = t.test.convention.empty() ? kRePep : t.test.convention;
  s.conditions.emplace_back("Convention", "dB " + convention);
  if (t.test.limit)
    s.limit =
        t.test.limit->name + ", " + limit_text(*t.test.limit) + " " + t.test.limit->convention;
  s.conditions.emplace_back("Limit", s.limit.empty() ? "none chosen" : s.limit);
  s.table = ladder_table(t, convention);

  const auto& step = judged_step;
  if (!step) {
    s.answer = "not measured";
    return s;
  }
  const TwoToneAnalysis& a = *t.analyses[*step];
  const TwoToneProduct& worst = *a.worst();
  add_recording(s, a);
  s.conditions.emplace_back("\u00b1 of the answer",
                            budget_words(product_figure(a, worst, convention)));
  if (t.outputs[*step] && t.outputs[*step]->u() > 0.0)
    s.conditions.emplace_back("\u00b1 of the output", budget_words(*t.outputs[*step]));
  s.answer = figure_text(product_figure(a, worst, convention)) + " " + convention;
  s.answer_label = fmt::format("At {}. Worst: {} order, {} side", t.steps[*step].label,
                               ordinal(worst.order), worst.side == Side::upper ? "upper" : "lower");
  s.judgement = t.ladder.rows[*step].judgement;
  s.judgement_sentence = t.test.limit ? verdict_sentence(s.judgement, "dB")
                                      : "No limit was chosen, so nothing is judged.";
  if (!a.spectrum.y.empty()) s.picture = spectrum_picture(a, convention, t.test.limit);
  s.picture_caption = fmt::format("Spectrum at {}. Flags: product order and level, {}.",
                                  t.steps[*step].label, convention);
  s.remarks = a.remarks;
  const std::string judged = t.test.limit ? t.test.limit->convention : std::string(kRePep);
  const auto advice = advise_ladder(ladder_traces(t.evidence(), judged), t.test.limit,
                                    t.ladder_settings.ceiling_dbm, t.driven, t.amplifier_name);
  const std::vector<Remark> of_ladder = ladder_remarks(t.ladder.remarks, advice);
  s.remarks.insert(s.remarks.end(), of_ladder.begin(), of_ladder.end());
  return s;
}

void add_section(ReportDocument& doc, const Test&, const TwoToneTest& t) {
  doc.sections.push_back(two_tone_section(t));
  add_figures(doc, t);
}

void add_section(ReportDocument& doc, const Test&, const GeneralTest& t) {
  add_section_of(doc, t);
}

void add_section(ReportDocument& doc, const Test& t, const std::monostate&) {
  const Characteristic* c = find_characteristic(t.characteristic);
  ReportSection s;
  s.title = t.title;
  s.question = c == nullptr ? "" : std::string(c->question);
  s.answer = "not measured";
  s.note = t.note;
  doc.sections.push_back(s);
}

}  // namespace

ReportDocument gather_report(const Shack& shack, Id id) {
  const Evaluation e = evaluation(shack, id);
  const Device d = device(shack, e.device_id);
  ReportDocument doc;
  doc.title = d.name + ", " + e.title;
  doc.place = shack.place();
  doc.operator_name = shack.operator_name();
  doc.made_at = utc_now();
  doc.device = {{"Device", d.name},
                {"Kind", d.kind},
                {"Serial", d.serial},
                {"Evaluation", e.title},
                {"Started", readable_time(e.started_at)},
                {"Place", doc.place}};
  if (!doc.operator_name.empty()) doc.device.emplace_back("Operator", doc.operator_name);
  if (!d.note.empty()) doc.device.emplace_back("Note", d.note);
  for (const JournalEntry& entry : journal(shack, d.id)) {
    doc.device.emplace_back("Done " + entry.at.substr(0, 10), entry.text);
  }
  for (const Test& t : tests(shack, id)) {
    const std::size_t before = doc.figures.size();
    const LoadedTest loaded_test = load_test(shack, t.id);
    std::visit([&](const auto& loaded) { add_section(doc, t, loaded); }, loaded_test);
    for (std::size_t i = before; i < doc.figures.size(); ++i) {
      doc.figures[i].signature = t.is_signed() ? t.signed_by + ", " + t.signed_at : "";
      if (t.drive) doc.figures[i].carrier_hz = t.drive->frequency_hz;
      const auto* general = std::get_if<GeneralTest>(&loaded_test);
      if (general != nullptr && general->result.carrier_hz)
        doc.figures[i].carrier_hz = general->result.carrier_hz;
    }
  }
  doc.conventions = reading_rules();
  return doc;
}

}  // namespace heron
