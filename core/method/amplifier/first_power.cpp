#include "core/method/amplifier/first_power.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/live_quantity.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"

namespace heron {
namespace {

constexpr const char* kLoad = "Load connected and rated";
constexpr const char* kPads = "Pads and meter rated";
constexpr const char* kSupply = "Supply set, its current limited";
constexpr const char* kDamage = "Input damage level kept to";
constexpr const char* kCooling = "Cooling runs, air can pass";
constexpr const char* kIdle = "Quiescent current read without drive";
constexpr const char* kHands = "Cover on, hands out";

/// What a hook-up says about a rating; nullopt where it says nothing.
struct Known {
  std::string words;
  bool is_good = false;
};

std::optional<Known> known_of(const Evidence& e, bool is_load) {
  if (!e.hookup || e.hookup->parts.empty() || !e.drive) return std::nullopt;
  try {
    const ChainResult r = evaluate_chain(*e.hookup, *e.drive);
    const std::string planned = ", planned " + watts_text(e.drive->pep_dbm);
    const ChainNode& first = r.nodes.front();
    if (is_load) {
      if (!first.rating_dbm) return Known{first.name + ": no rating is entered", false};
      const bool is_good = first.margin_db && *first.margin_db > 2.0 * first.u_db;
      return Known{first.name + " " + watts_text(*first.rating_dbm) + planned, is_good};
    }
    if (!r.unrated.empty()) return Known{"no rating of " + r.unrated.front(), false};
    if (!r.is_safe) return Known{r.binding + " is over its rating" + planned, false};
    return Known{"all parts are within their ratings" + planned, true};
  } catch (const InputError& error) {
    return Known{error.reason, false};
  }
}

}  // namespace

std::vector<std::string> usual_power_checks() {
  return {kLoad, kPads, kSupply, kDamage, kCooling, kIdle, kHands};
}

std::vector<PowerCheck> power_checks(const Evidence& evidence) {
  std::vector<PowerCheck> checks;
  for (const EvidenceStep& step : evidence.steps) {
    PowerCheck c;
    c.label = step.label;
    if (const Reading* r = find_reading(step.readings, kCheckReading)) {
      c.state = r->value > 0.0 ? PowerCheck::State::done : PowerCheck::State::skipped;
      c.words = r->typed;
    }
    const bool is_load = step.label == kLoad;
    if (is_load || step.label == kPads) {
      if (const auto known = known_of(evidence, is_load)) {
        c.known = known->words;
        if (known->is_good && c.state == PowerCheck::State::open)
          c.state = PowerCheck::State::known;
        // Nobody ticks away what is known to be exceeded; it may be skipped with a reason.
        if (!known->is_good && c.state == PowerCheck::State::done && evidence.hookup)
          c.state = PowerCheck::State::open;
      } else {
        c.known = "no hook-up says it";
      }
    }
    if (step.label == kDamage)
      c.known = evidence.most_drive_dbm
                    ? "at most " + watts_text(*evidence.most_drive_dbm) + " by its card"
                    : "its card does not say";
    if (step.label == kIdle) {
      if (const Reading* a = find_reading(step.readings, kSupplyCurrent)) {
        c.known = number_text(a->value, 2) + " A read";
        if (c.state == PowerCheck::State::open) c.state = PowerCheck::State::known;
      } else {
        c.known = "type the current under A";
        if (c.state == PowerCheck::State::done) c.state = PowerCheck::State::open;
      }
    }
    checks.push_back(std::move(c));
  }
  return checks;
}

}  // namespace heron
