#include "core/method/frequency/adjust_needle.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kHistoryS = 100.0;

std::string hz(double value) {
  return number_text(value, 1, true);
}

class AdjustNeedle {
 public:
  explicit AdjustNeedle(const AdjustState& state) : s_(state) {}

  Needle needle() const {
    Needle n;
    n.tolerance = s_.tolerance_hz();
    n.u_zero = s_.plan.u_shift_hz;
    n.reads_right = s_.plan.has_shift ? std::optional(s_.plan.shift_hz) : std::nullopt;
    if (s_.found) n.original = s_.to_hz(s_.found->value);
    // One count after letting go is all that is known of it; what was before is over.
    n.value = s_.hands.stretches.back().mean_hz.value_or(*s_.hands.last_hz) + s_.plan.shift_hz;
    n.readout = hz(*n.value);
    n.state = s_.hands.state == HandsOff::State::tool_on    ? Needle::State::tool_on
              : s_.hands.state == HandsOff::State::settling ? Needle::State::settling
                                                            : Needle::State::hands_off;
    if (s_.predicted)
      n.caption = fmt::format("settled, case closed \u00b1 {} Hz",
                              number_text(s_.to_hz(s_.predicted->expanded()), 1));
    say_state(n);
    say_order(n);
    add_facts(n);
    add_history(n);
    add_steps(n);
    return n;
  }

 private:
  void say_state(Needle& n) const {
    switch (s_.hands.state) {
      case HandsOff::State::tool_on:
        n.state_words = "Tool on";
        n.state_caption = "not counted; Space when you let go";
        if (s_.hands.jump) n.let_go_value = *n.value + s_.hands.jump->value;
        break;
      case HandsOff::State::settling:
        n.state_words = "Settling";
        n.state_caption = "the first seconds do not count";
        break;
      case HandsOff::State::hands_off:
      case HandsOff::State::none:
        n.state_words = "Hands off";
        n.state_caption = fmt::format("{} readings counted", s_.hands.stretches.back().counted);
        break;
    }
  }

  void say_order(Needle& n) const {
    if (s_.hands.state == HandsOff::State::tool_on) {
      // No advice under the tool, but where to aim.
      n.order = s_.hands.jump ? "Aim at " + hz(-s_.hands.jump->value) : "Turn";
      n.order_caption = s_.hands.jump ? "letting go adds " + hz(s_.hands.jump->value) + " Hz"
                                      : "the jump on letting go is not learnt yet";
      return;
    }
    if (s_.hands.state == HandsOff::State::settling) {
      n.order = "Wait";
      return;
    }
    const double off = *n.value;
    if (s_.hands.finest_hz && std::abs(off) < *s_.hands.finest_hz) {
      n.order = "Leave it";
      n.order_caption =
          fmt::format("less than your \u00b1 {} Hz", number_text(*s_.hands.finest_hz, 1));
      return;
    }
    // Nobody is asked for less than what it is compared with.
    const double u_outside =
        s_.plan.source_ppm ? s_.to_hz(2.0 * u_rectangular(*s_.plan.source_ppm)) : 0.0;
    if (std::abs(off) < std::min(u_outside, n.tolerance)) {
      n.order = "Leave it";
      n.order_caption =
          fmt::format("inside the \u00b1 {} Hz of the source", number_text(u_outside, 1));
      return;
    }
    if (std::abs(off) < 0.05 * n.tolerance) {
      n.order = "Leave it";
      n.order_caption = "well inside the limit";
      return;
    }
    n.order = fmt::format("{} {} Hz", off > 0.0 ? "Down" : "Up", number_text(std::abs(off), 1));
    n.order_caption =
        std::abs(off) < n.tolerance ? "inside the limit already" : "outside the limit";
  }

  void add_facts(Needle& n) const {
    n.facts.push_back({"Original setting",
                       s_.found ? hz(s_.to_hz(s_.found->value)) + " Hz" : std::string("not read"),
                       s_.plan.original.empty() ? "write it down first" : s_.plan.original});
    n.facts.push_back(
        {"New setting",
         s_.predicted ? hz(s_.to_hz(s_.predicted->value)) + " Hz" : std::string("\u2013"),
         s_.plan.renewed.empty() ? "not noted yet" : s_.plan.renewed});
    n.facts.push_back({"Zero shifted by",
                       s_.plan.has_shift ? fmt::format("{} \u00b1 {} Hz", hz(-s_.plan.shift_hz),
                                                       number_text(s_.plan.u_shift_hz, 1))
                                         : std::string("not known"),
                       !s_.plan.has_shift           ? "open and closed alike"
                       : s_.plan.is_shift_of_record ? "from the drift record"
                                                    : "as typed"});
    const auto jumps = std::count_if(s_.hands.stretches.begin(), s_.hands.stretches.end(),
                                     [](const HandStretch& s) { return s.jump_hz.has_value(); });
    n.facts.push_back({"Jump on letting go",
                       s_.hands.jump ? fmt::format("{} \u00b1 {} Hz", hz(s_.hands.jump->value),
                                                   number_text(s_.hands.jump->expanded(), 1))
                                     : std::string("not learnt"),
                       jumps == 1 ? "learnt once" : fmt::format("learnt from {} times", jumps)});
    n.facts.push_back({"Finest by hand",
                       s_.hands.finest_hz
                           ? fmt::format("\u00b1 {} Hz", number_text(*s_.hands.finest_hz, 1))
                           : std::string("not known"),
                       s_.hands.finest_hz ? "spread of the jumps" : "let go three times"});
  }

  void add_history(Needle& n) const {
    const double end = s_.record.samples.back().seconds;
    for (const HandStretch& s : s_.hands.stretches) {
      if (s.to_s < end - kHistoryS) continue;
      Needle::Stretch to{std::max(s.from_s - end, -kHistoryS), s.to_s - end, s.is_tool, {}};
      to.word = s.is_tool ? "tool on" : s.jump_hz ? "jump " + hz(*s.jump_hz) : "hands off";
      n.stretches.push_back(to);
    }
    for (const DriftSample& s : s_.record.samples) {
      if (s.seconds < end - kHistoryS) continue;
      const bool is_tool = s_.hands.at(s.seconds).is_tool;
      n.history.push_back({s.seconds - end, s.error_hz + s_.plan.shift_hz, !is_tool});
    }
  }

  void add_steps(Needle& n) const {
    const bool is_adjusted = !s_.plan.renewed.empty();
    const std::size_t checked = s_.bands_checked();
    const auto state = [](bool is_done, bool is_now) {
      return is_done  ? Needle::StepState::done
             : is_now ? Needle::StepState::now
                      : Needle::StepState::open;
    };
    n.steps.push_back({"Found", s_.found ? hz(s_.to_hz(s_.found->value)) + " Hz" : "type it below",
                       state(s_.found.has_value(), !s_.found)});
    n.steps.push_back({"Adjust", "hands off, case open",
                       state(is_adjusted || checked > 0, s_.found.has_value())});
    n.steps.push_back({"Wait", "no tool, let it warm", state(checked > 0, is_adjusted)});
    n.steps.push_back({"Close the case", "right way up", state(checked > 0, is_adjusted)});
    n.steps.push_back({"Re-check two bands",
                       s_.predicted
                           ? fmt::format("expect {} ppm", number_text(s_.predicted->value, 2, true))
                           : "",
                       state(checked >= AdjustState::kBandsToCheck, checked == 1)});
  }

  const AdjustState& s_;
};

}  // namespace

Needle adjust_needle(const AdjustState& state) {
  return AdjustNeedle(state).needle();
}

}  // namespace heron
