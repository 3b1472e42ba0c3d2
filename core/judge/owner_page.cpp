#include "core/judge/owner_page.h"

#include <algorithm>
#include <fmt/format.h>
#include <functional>

namespace heron {
namespace {

using Which = std::function<bool(const OwnerTest&)>;

bool is_measured(const OwnerTest& t) {
  return !t.answer.empty();
}

Which judged(Verdict verdict) {
  return [verdict](const OwnerTest& t) { return is_measured(t) && t.verdict == verdict; };
}

std::size_t count_of(const std::vector<OwnerTest>& tests, const Which& is_one) {
  return static_cast<std::size_t>(std::count_if(tests.begin(), tests.end(), is_one));
}

OwnerPart part_of(const char* head, const std::vector<OwnerTest>& tests, const Which& is_one) {
  OwnerPart part{head, {}};
  for (const OwnerTest& t : tests)
    if (is_one(t))
      part.lines.push_back(fmt::format("{}: {}{}{}", t.title, t.answer,
                                       t.limit.empty() ? "" : " (limit: " + t.limit + ")",
                                       t.is_provisional ? ", provisional" : ""));
  return part;
}

/// "Two-tone, Purity"
std::string titles(const std::vector<OwnerTest>& tests, const Which& is_one) {
  std::string all;
  for (const OwnerTest& t : tests)
    if (is_one(t)) all += (all.empty() ? "" : ", ") + t.title;
  return all;
}

std::string in_short(const std::vector<OwnerTest>& tests) {
  std::string words = fmt::format("{} of {} {} measured", count_of(tests, is_measured),
                                  tests.size(), tests.size() == 1 ? "test" : "tests");
  bool is_first = true;
  const auto add = [&](std::size_t n, const char* one, const char* more) {
    if (n == 0) return;
    words += fmt::format("{} {} {}", is_first ? ":" : ",", n, n == 1 ? one : more);
    is_first = false;
  };
  add(count_of(tests, judged(Verdict::pass)), "keeps to its limit", "keep to their limit");
  add(count_of(tests, judged(Verdict::fail)), "does not", "do not");
  add(count_of(tests, judged(Verdict::too_close)), "is too close to say", "are too close to say");
  add(count_of(tests, judged(Verdict::accepted)), "is accepted as good enough",
      "are accepted as good enough");
  return words + ".";
}

}  // namespace

std::vector<OwnerPart> owner_page(const std::vector<OwnerTest>& tests,
                                  const std::vector<std::string>& done, const std::string& wanted) {
  std::vector<OwnerPart> all;
  const auto add = [&all](OwnerPart part) {
    if (!part.lines.empty()) all.push_back(std::move(part));
  };
  if (!tests.empty()) add({"In short", {in_short(tests)}});
  add(part_of("Keeps to its limit", tests, judged(Verdict::pass)));
  add(part_of("Does not keep to its limit", tests, judged(Verdict::fail)));
  add(part_of("Too close to its limit to say", tests, judged(Verdict::too_close)));
  add(part_of("Accepted as good enough", tests, judged(Verdict::accepted)));
  add(part_of("Only partly judged", tests, judged(Verdict::incomplete)));
  add(part_of("Measured too long ago", tests, judged(Verdict::stale)));
  add(part_of("Measured, with nothing to keep to", tests, judged(Verdict::not_taken)));
  add({"Done to it", done});
  OwnerPart next{"What the next visit needs", {}};
  if (!wanted.empty()) next.lines.push_back(wanted + (wanted.ends_with('.') ? "" : "."));
  const auto need = [&](const char* what, const Which& is_one) {
    if (const std::string which = titles(tests, is_one); !which.empty())
      next.lines.push_back(fmt::format("{}: {}.", what, which));
  };
  need("Mend or adjust, then measure again", judged(Verdict::fail));
  need("Measure again, less uncertain", judged(Verdict::too_close));
  need("Measure what is missing", judged(Verdict::incomplete));
  need("Measure again", judged(Verdict::stale));
  need("Repeat, measured provisionally",
       [](const OwnerTest& t) { return is_measured(t) && t.is_provisional; });
  need("Not measured yet", [](const OwnerTest& t) { return !is_measured(t); });
  add(std::move(next));
  return all;
}

}  // namespace heron
