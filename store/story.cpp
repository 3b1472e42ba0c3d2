#include "store/story.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <set>

#include "core/judge/record_remarks.h"
#include "core/method/compare.h"
#include "core/method/device_remarks.h"
#include "core/method/measure/convention.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

std::string name_of(const std::string& characteristic) {
  const Characteristic* c = find_characteristic(characteristic);
  return c == nullptr ? characteristic : std::string(c->title);
}

/// The same ratio told in the other way; nullopt where they are not of one kind.
std::optional<Figure> told_like(Figure f, const Figure& other) {
  if (f.unit != other.unit) return std::nullopt;
  if (f.convention == other.convention) return f;
  const bool is_ratio = (f.convention == kReOneTone || f.convention == kRePep) &&
                        (other.convention == kReOneTone || other.convention == kRePep);
  if (!is_ratio) return std::nullopt;
  const double pep_over_tone_db = pep_over_one_tone(1.0).value;
  f.value += f.convention == kReOneTone ? -pep_over_tone_db : pep_over_tone_db;
  f.convention = other.convention;
  return f;
}

/// Which way is better follows from the limit; without one it is only more or less.
struct Change {
  Figure figure;
  std::string words;
};
Change change_of(const Figure& now, const Figure& then, const std::optional<Limit>& limit) {
  if (!limit) {
    const Figure change = change_between(now, then, false);
    return {change, change_words(change, std::nullopt, true)};
  }
  const bool is_error = limit->sense == Sense::within;
  const Figure change =
      is_error ? change_of_error(now, then, false) : change_between(now, then, false);
  return {change,
          change_words(change, (change.value > 0.0) == (limit->sense == Sense::at_least), true)};
}

/// With its size in U.
std::optional<std::pair<StoryEffect, double>> effect_between(const KnownFigure& before,
                                                             const KnownFigure& after) {
  const auto then = told_like(before.headline.figure, after.headline.figure);
  if (!then) return std::nullopt;
  const Figure& now = after.headline.figure;
  if (now.bound != Bound::none || then->bound != Bound::none) return std::nullopt;
  const auto [change, words] = change_of(now, *then, after.limit);
  StoryEffect e;
  const int decimals = decimals_for(std::max(change.expanded(), 0.05), Rounding::compact);
  e.what = fmt::format("{} {} \u2192 {} {}", name_of(after.characteristic),
                       number_text(then->value, std::max(0, decimals)),
                       number_text(now.value, std::max(0, decimals)), now.unit);
  e.words = words;
  if (!now.convention.empty()) e.words += ", " + now.convention;
  if (before.headline.is_provisional || after.headline.is_provisional) e.words += ", provisional";
  if (after.limit) {
    e.after = after.headline.judgement;
    e.span = after.limit->span;
    if (then->unit == after.limit->unit) {
      Limit limit = *after.limit;
      limit.convention = then->convention;
      e.before_margin = judge(*then, limit).margin;
    }
  }
  return std::pair(std::move(e), std::abs(change.value) / std::max(change.expanded(), 1e-12));
}

StoryRow row_of_evaluation(const Shack& shack, const Evaluation& e) {
  StoryRow row{StoryRow::Kind::evaluation, e.started_at, e.id, e.title, {}, Verdict::not_taken, {}};
  std::size_t measured = 0;
  std::map<Verdict, std::size_t> by_verdict;
  std::optional<Judgement> worst;
  const std::vector<Test> all = tests(shack, e.id);
  for (const Test& t : all) {
    if (!t.headline) continue;
    ++measured;
    if (!t.headline_limit()) continue;
    ++by_verdict[t.headline->judgement.verdict];
    if (!worst || is_worse(t.headline->judgement, *worst)) worst = t.headline->judgement;
  }
  row.detail = fmt::format("{} of {} measured", measured, all.size());
  const auto add = [&](Verdict v, const char* word) {
    if (by_verdict[v] > 0) row.detail += fmt::format(", {} {}", by_verdict[v], word);
  };
  add(Verdict::fail, by_verdict[Verdict::fail] == 1 ? "fails" : "fail");
  add(Verdict::too_close, "too close");
  add(Verdict::accepted, "accepted");
  if (e.end) row.detail += ". " + e.end->words();
  if (worst) row.verdict = worst->verdict;
  return row;
}

}  // namespace

std::vector<KnownFigure> known_figures(const Shack& shack, Id device, std::optional<Id> only) {
  std::vector<KnownFigure> all;
  for (const Evaluation& e : evaluations(shack, device)) {
    if (only && e.id != *only) continue;
    for (const Test& t : tests(shack, e.id))
      if (t.headline)
        all.push_back(
            {*t.headline, t.headline_limit(), t.characteristic, t.title, t.conditions, e.id, t.id});
  }
  return all;
}

std::optional<StoryEffect> effect_of(const std::vector<KnownFigure>& known,
                                     const std::vector<JournalEntry>& entries,
                                     const JournalEntry& work) {
  const auto is_disturbed = [&](const std::string& from, const std::string& to) {
    return std::any_of(entries.begin(), entries.end(), [&](const JournalEntry& e) {
      return e.work && e.id != work.id && e.at > from && e.at <= to;
    });
  };
  std::vector<KnownFigure> by_time = known;
  std::stable_sort(by_time.begin(), by_time.end(), [](const KnownFigure& a, const KnownFigure& b) {
    return a.headline.taken_at > b.headline.taken_at;
  });
  std::optional<StoryEffect> found;
  double most = -1.0;
  std::set<std::pair<std::string, std::string>> seen;
  for (const KnownFigure& before : by_time) {
    // The last figure before the work, and the first one after it of a test of the same name.
    if (before.headline.taken_at > work.at ||
        !seen.insert({before.characteristic, before.title}).second)
      continue;
    const KnownFigure* after = nullptr;
    for (const KnownFigure& k : by_time)  // newest first
      if (k.characteristic == before.characteristic && k.title == before.title &&
          k.headline.taken_at > work.at)
        after = &k;
    if (after == nullptr || is_disturbed(before.headline.taken_at, after->headline.taken_at))
      continue;
    auto effect = effect_between(before, *after);
    if (!effect || effect->second <= most) continue;
    most = effect->second;
    found = std::move(effect->first);
  }
  return found;
}

std::string beside_own(const OutsideFigure& outside, const std::vector<KnownFigure>& known) {
  const auto own = std::find_if(known.begin(), known.end(), [&](const KnownFigure& k) {
    return k.characteristic == outside.characteristic;
  });
  if (own == known.end()) return "";
  const auto theirs = told_like(outside.figure, own->headline.figure);
  if (!theirs) return "told in another way than the own figure";
  std::string words;
  if (!outside.conditions.empty() && !own->conditions.empty() &&
      lower_case(outside.conditions) != lower_case(own->conditions))
    words = "There " + outside.conditions + ", here " + own->conditions + ". ";
  words += "Own " + figure_cell(own->headline.figure, 1) + " " + own->headline.figure.unit;
  if (theirs->convention != outside.figure.convention)
    words += fmt::format(", theirs {} {}", number_text(theirs->value, 1), theirs->convention);
  return words + ": " + change_of(own->headline.figure, *theirs, own->limit).words;
}

std::vector<Remark> device_remarks(const Shack& shack, const Device& d) {
  std::vector<Remark> remarks;
  if (!d.damage.empty()) remarks.push_back(damaged_remark("This device", d.damage));
  const JournalEntry* last = nullptr;
  const std::vector<JournalEntry> entries = journal(shack, d.id);
  for (const JournalEntry& entry : entries)
    if (entry.work) last = &entry;  // rising in time
  const std::vector<KnownFigure> known = known_figures(shack, d.id);
  for (const SpecLine& line : d.specification) {
    const auto found = std::find_if(known.begin(), known.end(), [&](const KnownFigure& k) {
      return k.characteristic == line.characteristic;
    });
    if (last == nullptr || found == known.end() || found->headline.taken_at >= last->at) continue;
    remarks.push_back(older_than_work_remark(name_of(line.characteristic), last->work->what));
  }
  if (!d.retired_at.empty()) remarks.push_back(retired_remark(d.retired_at.substr(0, 10)));
  return remarks;
}

std::optional<Remark> limit_edited_remark(const Device& device, const Test& test) {
  if (test.is_signed() || !test.limit) return std::nullopt;
  const SpecLine* own = nullptr;
  for (const SpecLine& line : device.specification) {
    if (line.characteristic != test.characteristic) continue;
    const Limit& l = line.limit;
    // One of several lines is enough.
    if (l.value == test.limit->value && l.unit == test.limit->unit) return std::nullopt;
    if (l.name == test.limit->name) own = &line;
  }
  if (own == nullptr) return std::nullopt;
  return limit_edited_remark(own->limit, *test.limit);
}

std::vector<StoryRow> device_story(const Shack& shack, Id device) {
  const std::vector<KnownFigure> known = known_figures(shack, device);
  const std::vector<JournalEntry> entries = journal(shack, device);
  std::vector<StoryRow> all;
  for (const Evaluation& e : evaluations(shack, device)) all.push_back(row_of_evaluation(shack, e));
  for (const JournalEntry& entry : entries) {
    if (!entry.work) {
      all.push_back({StoryRow::Kind::note, entry.at, entry.id, entry.text, {}, {}, {}});
      continue;
    }
    std::string detail = entry.work->by.empty() ? "" : "by " + entry.work->by;
    if (!entry.work->part.empty()) detail += (detail.empty() ? "" : " \u00b7 ") + entry.work->part;
    all.push_back({StoryRow::Kind::work,
                   entry.at,
                   entry.id,
                   entry.work->title(),
                   detail,
                   {},
                   effect_of(known, entries, entry)});
  }
  for (const OutsideFigure& f : outside_figures(shack, device)) {
    std::string figure = figure_cell(f.figure, 1) + " " + f.figure.unit;
    if (!f.figure.convention.empty()) figure += " " + f.figure.convention;
    StoryRow row{StoryRow::Kind::outside, f.at, f.id, {}, beside_own(f, known), {}, {}};
    row.title = name_of(f.characteristic) + " " + figure + ", " + f.source;
    if (row.detail.empty()) row.detail = f.conditions;
    all.push_back(std::move(row));
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const StoryRow& a, const StoryRow& b) { return a.at > b.at; });
  return all;
}

}  // namespace heron
