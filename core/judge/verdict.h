#pragma once

#include <optional>
#include <string>

#include "core/judge/limit.h"
#include "core/quantity/figure.h"

namespace heron {

enum class Verdict { pass, too_close, fail, stale, not_taken, incomplete, accepted };

/// A figure against a limit with a guard band of its own uncertainty (JCGM 106): pass only if the
/// whole interval value +- U is on the good side, fail only if the whole is on the bad side. A
/// bound holds the noise at 95 % already; what else its figure carries is its guard band, and it
/// never fails. Incomplete: nothing failed, and not everything that the limit covers was judged.
/// Accepted: it misses its limit, and somebody finds it good enough; never a result of judging.
struct Judgement {
  Verdict verdict = Verdict::not_taken;
  double margin = 0.0;    ///< positive on the good side
  double expanded = 0.0;  ///< U, k = 2
  Bound bound = Bound::none;
  bool is_provisional = false;  ///< of a figure that is to be measured again; never by judging
};

/// Throws InputError if figure and limit differ in unit or convention: convert first.
Judgement judge(const Figure& figure, const Limit& limit);

std::string verdict_word(Verdict verdict);                       ///< "Pass", "Too close", "Fail"
std::string verdict_word(Verdict verdict, bool is_provisional);  ///< "Pass, provisional"
/// "pass", "too_close", "fail", "stale", "not_taken", "incomplete".
std::string verdict_id(Verdict verdict);
std::string verdict_sentence(const Judgement& judgement, const std::string& unit);

/// The worse of two: fail, too close, stale, not judged completely, not taken, pass.
Verdict worse(Verdict a, Verdict b);
/// Whether `a` is worse than `b`: by verdict, then by margin, then by uncertainty.
bool is_worse(const Judgement& a, const Judgement& b);

}  // namespace heron
