#include "core/method/receiver/receiver_way.h"

#include <cmath>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// "1.0 \u00b5V EMF on the dial" of what was typed as "1.0 uV emf".
std::string as_written(std::string typed) {
  for (const auto& [from, to] : {std::pair("uV", "\u00b5V"), {"emf", "EMF"}, {" pd", " PD"}})
    if (const auto at = typed.find(from); at != std::string::npos)
      typed.replace(at, std::string(from).size(), to);
  return typed;
}

}  // namespace

void ReceiverWay::set_source(const Reading* generator) {
  if (generator == nullptr) return;
  level = generator->value;
  if (!generator->typed.empty()) dial = generator->typed + " on the dial";
}

std::vector<LevelPoint> level_plan_of(const ReceiverWay& way, const Evidence& evidence) {
  std::vector<LevelPoint> plan;
  LevelPoint source{"Generator", as_written(way.dial)};
  Figure level;
  level.id = "level";
  level.label = "Level";
  level.unit = "dBm";
  level.contributions = {{"generator", way.u_level_db, Scope::common}};
  if (way.level) level.value = *way.level;
  if (source.line.empty())
    source.line = way.level ? number_text(*way.level, 1, true) + " dBm set" : "level not typed";
  if (way.level) source.level = level;
  const bool has_path = evidence.hookup && !evidence.hookup->parts.empty();
  if (!has_path) source.small = "Press to build the hook-up";
  plan.push_back(std::move(source));
  bool is_known = way.level && way.frequency_hz;
  for (const Part& part : has_path ? evidence.hookup->parts : std::vector<Part>{}) {
    if (find_part_kind(part.kind)->ends_chain) continue;
    LevelPoint p{part.name};
    try {
      const double gain = part.gain.at(
          way.frequency_hz.value_or(evidence.drive ? evidence.drive->frequency_hz : 14.2e6),
          part.name);
      p.line = (gain <= 0.0 ? "loses " : "adds ") + number_text(std::abs(gain), 1) + " dB";
      level.value += gain;
      level.contributions.push_back({part.name, part.u_db, Scope::common});
    } catch (const InputError& error) {
      p.line = error.reason;
      p.verdict = Verdict::too_close;
      is_known = false;  // nor is what comes behind it
    }
    if (is_known) p.level = level;
    plan.push_back(std::move(p));
  }
  LevelPoint receiver{"", way.point};
  receiver.said = way.said;
  receiver.said_under = way.said_under;
  plan.push_back(std::move(receiver));
  if (!way.meter.empty()) plan.push_back({way.meter, way.meter_words});
  return plan;
}

}  // namespace heron
