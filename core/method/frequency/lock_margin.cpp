#include "core/method/frequency/lock_margin.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

using Steps = std::span<const LockStep>;

std::string db(double value) {
  return number_text(value, value == std::round(value) ? 0 : 1) + " dB";
}

std::optional<double> mean_of(Steps steps, LockState state) {
  double sum = 0.0;
  double count = 0.0;
  for (const LockStep& s : steps) {
    if (s.state != state || !s.frequency_hz) continue;
    sum += *s.frequency_hz;
    count += 1.0;
  }
  return count > 0.0 ? std::optional(sum / count) : std::nullopt;
}

void judge_margin(LockMargin& m, const LockNeed& need) {
  Judgement j;
  j.margin = m.margin->value - need.needed_db;
  j.expanded = m.margin->expanded();
  j.bound = m.margin->bound;
  if (m.margin->value >= need.needed_db)
    j.verdict = Verdict::pass;
  else if (m.margin->bound == Bound::lower || m.margin->value >= need.least_db)
    j.verdict = Verdict::too_close;
  else
    j.verdict = Verdict::fail;
  m.judgement = j;
}

void remark(LockMargin& m, Steps up, Steps back) {
  const auto add = [&](const char* code, Severity severity, std::string text, const char* advice) {
    m.remarks.push_back({code, severity, std::move(text), advice});
  };
  if (!m.margin)
    add("never_held", Severity::caution,
        fmt::format("It is not held at {}, the least attenuation: there is no margin.",
                    db(up.front().attenuation_db)),
        "Raise the reference level, and compare it with the input window");
  else if (!m.lost_at_db)
    add("never_lost", Severity::note,
        fmt::format("Held up to {}, the most that was tried: this test could not have shown where "
                    "it is lost.",
                    db(m.margin->value)),
        "Add attenuation until it is lost");
  if (m.lost_at_db && back.empty())
    add("not_back", Severity::note, "Nobody has looked where it returns: hysteresis is not known.",
        "Take attenuation away again, step by step");
  if (m.lost_at_db && !back.empty() && !m.regained_at_db)
    add("not_regained", Severity::caution,
        fmt::format("It did not return down to {}.", db(back.back().attenuation_db)),
        "Take more attenuation away, or switch the device off and on");
  if (m.hysteresis_db && *m.hysteresis_db > 0.0)
    add("hysteresis", Severity::note,
        fmt::format("Lost at {}, back at {}: hysteresis {}.", db(*m.lost_at_db),
                    db(*m.regained_at_db), db(*m.hysteresis_db)),
        "");
  const auto disturbed = std::find_if(
      up.begin(), up.end(), [](const LockStep& s) { return s.state == LockState::disturbed; });
  if (disturbed != up.end())
    add("disturbed", Severity::note,
        fmt::format("Disturbed from {} on: it follows, with sidebands or scatter; that does not "
                    "count as held.",
                    db(disturbed->attenuation_db)),
        "");
  bool was_lost = false;
  for (const LockStep& s : up) {
    if (was_lost && s.state == LockState::held) {
      add("held_again", Severity::caution,
          fmt::format("Held again at {}, with more attenuation than where it was lost.",
                      db(s.attenuation_db)),
          "Wait longer at each step, and measure again");
      break;
    }
    was_lost = was_lost || s.state == LockState::lost;
  }
  if (m.held_hz && m.free_hz && std::abs(*m.held_hz - *m.free_hz) < 1e-9)
    add("no_offset", Severity::caution,
        "Held and free running are at the same frequency: loss could not have been seen.",
        "Offset the internal oscillator first, and restore it afterwards");
}

}  // namespace

LockMargin find_lock_margin(Steps steps, const LockNeed& need) {
  LockMargin m;
  if (steps.empty()) return m;
  const auto turn = std::max_element(steps.begin(), steps.end(), [](const auto& a, const auto& b) {
    return a.attenuation_db < b.attenuation_db;
  });
  const Steps up(steps.begin(), turn + 1);
  const Steps back(turn + 1, steps.end());
  const auto lost = std::find_if(up.begin(), up.end(),
                                 [](const LockStep& s) { return s.state != LockState::held; });
  if (lost != up.begin()) {
    const LockStep& last = *(lost - 1);
    Figure f;
    f.id = "margin";
    f.label = "Lock margin";
    f.unit = "dB";
    f.value = last.attenuation_db - up.front().attenuation_db;
    if (lost == up.end()) {
      f.bound = Bound::lower;
    } else {
      // It is lost somewhere between two steps.
      const double step = lost->attenuation_db - last.attenuation_db;
      f.contributions = {{"one step of attenuation", step / std::sqrt(12.0), Scope::independent}};
    }
    m.margin = std::move(f);
    judge_margin(m, need);
  }
  if (lost != up.end()) {
    m.lost_at_db = lost->attenuation_db;
    const auto regained = std::find_if(
        back.begin(), back.end(), [](const LockStep& s) { return s.state == LockState::held; });
    if (regained != back.end()) {
      m.regained_at_db = regained->attenuation_db;
      m.hysteresis_db = *m.lost_at_db - *m.regained_at_db;
    }
  }
  m.held_hz = mean_of(steps, LockState::held);
  m.free_hz = mean_of(steps, LockState::lost);
  remark(m, up, back);
  return m;
}

}  // namespace heron
