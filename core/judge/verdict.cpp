#include "core/judge/verdict.h"

#include <cmath>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {

Judgement judge(const Figure& figure, const Limit& limit) {
  if (figure.unit != limit.unit || figure.convention != limit.convention) {
    throw InputError("limit \u201c" + limit.name + "\u201d", "",
                     "it is in " + limit.unit + " " + limit.convention + ", the figure in " +
                         figure.unit + " " + figure.convention,
                     "Choose a limit in the figure's convention");
  }
  Judgement j;
  j.bound = figure.bound;
  j.expanded = figure.expanded();
  switch (limit.sense) {
    case Sense::at_most:
      j.margin = limit.value - figure.value;
      break;
    case Sense::at_least:
      j.margin = figure.value - limit.value;
      break;
    case Sense::within:
      j.margin = limit.value - std::abs(figure.value);
      break;
  }
  if (figure.bound != Bound::none) {
    const bool is_upper = figure.bound == Bound::upper;
    const bool good_side_known = limit.sense == (is_upper ? Sense::at_most : Sense::at_least);
    const bool bad_side_known = limit.sense == (is_upper ? Sense::at_least : Sense::at_most);
    // What is at least so bad fails, or nobody saw all of it.
    j.verdict = bad_side_known ? j.margin < -j.expanded ? Verdict::fail : Verdict::incomplete
                : good_side_known && j.margin > j.expanded ? Verdict::pass
                                                           : Verdict::too_close;
    return j;
  }
  if (j.margin > j.expanded)
    j.verdict = Verdict::pass;
  else if (j.margin < -j.expanded)
    j.verdict = Verdict::fail;
  else
    j.verdict = Verdict::too_close;
  return j;
}

std::string verdict_word(Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return "Pass";
    case Verdict::too_close:
      return "Too close";
    case Verdict::fail:
      return "Fail";
    case Verdict::stale:
      return "Out of date";
    case Verdict::not_taken:
      return "Not measured";
    case Verdict::incomplete:
      return "Not all judged";
    case Verdict::accepted:
      return "Accepted";
  }
  return "Not measured";
}

std::string verdict_word(Verdict verdict, bool is_provisional) {
  return verdict_word(verdict) + (is_provisional ? ", provisional" : "");
}

std::string verdict_id(Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return "pass";
    case Verdict::too_close:
      return "too_close";
    case Verdict::fail:
      return "fail";
    case Verdict::stale:
      return "stale";
    case Verdict::not_taken:
      return "not_taken";
    case Verdict::incomplete:
      return "incomplete";
    case Verdict::accepted:
      return "accepted";
  }
  return "not_taken";
}

std::string verdict_sentence(const Judgement& j, const std::string& unit) {
  const int decimals =
      j.expanded > 0.0 ? std::min(2, decimals_for(j.expanded, Rounding::compact)) : 1;
  // Of a bound that passes or fails, what is sure.
  const bool is_sure_part = j.bound != Bound::none && j.verdict != Verdict::incomplete;
  const double sure = std::abs(j.margin) - (is_sure_part ? j.expanded : 0.0);
  const std::string by = with_unit(number_text(std::abs(sure), decimals), unit);
  const bool at_limit = by.find_first_of("123456789") == std::string::npos;
  const std::string side = j.margin >= 0.0 ? " inside the limit" : " outside the limit";
  switch (j.verdict) {
    case Verdict::pass:
      return j.bound == Bound::none ? by + " inside the limit, more than the uncertainty."
                                    : "At least " + by + " inside the limit: noise hides the rest.";
    case Verdict::fail:
      return j.bound == Bound::none ? by + " outside the limit, more than the uncertainty."
                                    : "At least " + by + " outside the limit.";
    case Verdict::too_close:
      return j.bound == Bound::none
                 ? (at_limit ? "At the limit: the uncertainty reaches to both sides of it."
                             : by + side + ", but the uncertainty reaches across it.")
                 : "Noise hides whether the limit is met: lower the noise or raise the level.";
    case Verdict::stale:
      return "Something changed since this was measured.";
    case Verdict::not_taken:
      return "No figure yet.";
    case Verdict::incomplete:
      return "What was seen is " + by + side + ", but not everything was measured.";
    case Verdict::accepted:
      return by + side + ", accepted as good enough.";
  }
  return {};
}

Verdict worse(Verdict a, Verdict b) {
  const auto rank = [](Verdict v) {
    switch (v) {
      case Verdict::fail:
        return 6;
      case Verdict::too_close:
        return 5;
      case Verdict::stale:
        return 4;
      case Verdict::incomplete:
        return 3;
      case Verdict::not_taken:
        return 2;
      case Verdict::accepted:
        return 1;
      case Verdict::pass:
        return 0;
    }
    return 0;
  };
  return rank(a) >= rank(b) ? a : b;
}

bool is_worse(const Judgement& a, const Judgement& b) {
  if (a.verdict != b.verdict) return worse(a.verdict, b.verdict) == a.verdict;
  return a.margin < b.margin || (a.margin == b.margin && a.expanded > b.expanded);
}

}  // namespace heron
