#include "report/gather.h"

#include "core/method/method_table.h"
#include "report/section.h"
#include "store/clock.h"
#include "store/device.h"
#include "store/loaded.h"

namespace heron {
namespace {

/// Of a kind that this version does not measure.
void add_unmeasured(ReportDocument& doc, const Test& t) {
  const Characteristic* c = find_characteristic(t.characteristic);
  ReportSection s;
  s.title = t.title;
  s.question = c == nullptr ? "" : std::string(c->question);
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
  for (const auto& [head, value] :
       {std::pair{"Works on", d.facts.works_on}, std::pair{"Supply", d.facts.supply},
        std::pair{"Drive at most", d.facts.most_drive}})
    if (!value.empty()) doc.device.emplace_back(head, value);
  if (!e.goal.empty()) doc.device.emplace_back("Goal", e.goal);
  if (e.end) doc.device.emplace_back("End", readable_time(e.end->at) + ". " + e.end->words());
  if (!doc.operator_name.empty()) doc.device.emplace_back("Operator", doc.operator_name);
  if (!d.note.empty()) doc.device.emplace_back("Note", d.note);
  for (const Test& t : tests(shack, id)) {
    const std::size_t before = doc.figures.size();
    const LoadedTest loaded = load_test(shack, t.id);
    if (loaded)
      add_section_of(doc, *loaded);
    else
      add_unmeasured(doc, t);
    for (std::size_t i = before; i < doc.figures.size(); ++i) {
      doc.figures[i].signature = t.is_signed() ? t.signed_by + ", " + t.signed_at : "";
      if (t.drive) doc.figures[i].carrier_hz = t.drive->frequency_hz;
      if (loaded && loaded->result.carrier_hz)
        doc.figures[i].carrier_hz = loaded->result.carrier_hz;
    }
  }
  std::vector<OwnerTest> told;
  for (const ReportSection& s : doc.sections)
    told.push_back({s.title, s.is_measured ? s.answer : std::string(), s.limit, s.judgement.verdict,
                    s.is_provisional});
  std::vector<std::string> done;
  for (const JournalEntry& entry : journal(shack, d.id))
    done.push_back(entry.at.substr(0, 10) + ": " + entry.text);
  doc.owner = owner_page(told, done, e.end ? e.end->next : "");
  doc.conventions = reading_rules();
  return doc;
}

}  // namespace heron
