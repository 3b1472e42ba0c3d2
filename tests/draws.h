#pragma once

#include <algorithm>
#include <cmath>

namespace heron::testing {

/// Under the sanitizers, which look for other faults, Monte Carlo tests draw a few times only.
#ifdef HERON_FEW_DRAWS
inline constexpr bool kFewDraws = true;
#else
inline constexpr bool kFewDraws = false;
#endif

/// How often to draw where the whole test draws `all` times.
constexpr int draws(int all) {
  return kFewDraws ? std::max(3, all / 20) : all;
}

/// Whether `inside` of `all` is at least this share; of a few draws, chance may take three standard
/// deviations off.
inline bool is_share(int inside, int all, double least) {
  const double chance = kFewDraws ? 3.0 * std::sqrt(all * least * (1.0 - least)) : 0.0;
  return all > 0 && inside >= least * all - chance;
}

/// The same with an upper end, which a few draws cannot show.
inline bool is_share_between(int inside, int all, double least, double most) {
  return is_share(inside, all, least) && (kFewDraws || inside < most * all);
}

}  // namespace heron::testing
