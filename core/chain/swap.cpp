#include "core/chain/swap.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

bool is_pad(const Part& part) {
  return part.kind == "attenuator" || part.kind == "load" || part.kind == "tap";
}

/// 0 where the end sits in the middle of its best window, 1 at its edge.
double distance_from_window(const Part& end, double level_dbm) {
  if (!end.best_input_dbm) return 0.0;
  const auto [low, high] = *end.best_input_dbm;
  return std::abs(level_dbm - (low + high) / 2.0) / ((high - low) / 2.0);
}

struct Rating {
  bool is_safe;
  double distance;
  double end_level_dbm;
};

std::optional<Rating> rate(const Chain& chain, const Drive& drive) {
  try {
    const ChainResult result = evaluate_chain(chain, drive);
    const Part* end = recorder_of(chain);
    if (end == nullptr) return std::nullopt;
    const double level = result.nodes.back().level_dbm;
    return Rating{result.is_known_safe(), distance_from_window(*end, level), level};
  } catch (const InputError&) {
    return std::nullopt;  // a part without a place at this frequency
  }
}

std::string sentence_of(const ChainSwap& swap, const Rating& now, const Rating& then,
                        const Part& end) {
  const std::string change = swap.is_added
                                 ? fmt::format("Put {} behind {}", swap.put_in, swap.taken_out)
                                 : fmt::format("Swap {} for {}", swap.taken_out, swap.put_in);
  const std::string level = number_text(then.end_level_dbm, 1, true) + " dBm";
  if (!now.is_safe && then.distance <= 1.0)
    return fmt::format("{}: every part is within its rating, and {} receives {}.", change, end.name,
                       level);
  if (!now.is_safe) return fmt::format("{}: every part is within its rating.", change);
  return fmt::format("{}: {} is inside its input range at {}.", change, end.name, level);
}

}  // namespace

std::optional<ChainSwap> suggest_swap(const Chain& chain, const Drive& drive,
                                      const std::vector<Part>& bench) {
  const auto now = rate(chain, drive);
  if (!now || (now->is_safe && now->distance <= 1.0)) return std::nullopt;
  const Part& end = chain.parts.back();
  std::optional<ChainSwap> best;
  Rating best_rating{false, 0.0, 0.0};
  const auto consider = [&](ChainSwap candidate) {
    const auto then = rate(candidate.chain, drive);
    if (!then || !then->is_safe) return;
    const bool helps = !now->is_safe || then->distance <= 1.0;
    if (!helps || then->distance > now->distance + 3.0) return;
    // Swapping is less work than adding; among equals the level in the middle wins.
    const auto worth = [](const Rating& r, bool added) {
      return (r.distance <= 1.0 ? 0.0 : 10.0) + r.distance + (added ? 0.5 : 0.0);
    };
    if (best && worth(best_rating, best->is_added) <= worth(*then, candidate.is_added)) return;
    best_rating = *then;
    best = std::move(candidate);
  };
  for (const Part& other : bench) {
    // Nobody knows what a part without a rating stands.
    if (!is_pad(other) || !other.is_rated()) continue;
    const bool is_there = std::any_of(chain.parts.begin(), chain.parts.end(), [&](const Part& p) {
      return p.bench_id.empty() ? p.name == other.name : p.bench_id == other.bench_id;
    });
    if (is_there) continue;
    for (std::size_t i = 0; i + 1 < chain.parts.size(); ++i) {
      if (is_pad(chain.parts[i])) {
        ChainSwap swap{chain, i, false, chain.parts[i].name, other.name, 0.0, {}};
        swap.chain.parts[i] = other;
        consider(std::move(swap));
      }
      ChainSwap added{chain, i + 1, true, chain.parts[i].name, other.name, 0.0, {}};
      added.chain.parts.insert(added.chain.parts.begin() + static_cast<std::ptrdiff_t>(i) + 1,
                               other);
      consider(std::move(added));
    }
  }
  if (best) {
    best->end_level_dbm = best_rating.end_level_dbm;
    best->sentence = sentence_of(*best, *now, best_rating, end);
  }
  return best;
}

}  // namespace heron
