#include "core/method/frequency/hands_off.h"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double kSettlesS = 3.0;
constexpr std::size_t kLeastCounts = 2;

Figure mean_figure(const char* id, const char* label, const std::vector<double>& values) {
  double mean = 0.0;
  for (const double v : values) mean += v / static_cast<double>(values.size());
  double square = 0.0;
  for (const double v : values) square += (v - mean) * (v - mean);
  const auto n = static_cast<double>(values.size());
  const double u = values.size() > 1 ? std::sqrt(square / (n - 1.0) / n) : 0.0;
  Figure f;
  f.id = id;
  f.label = label;
  f.unit = "Hz";
  f.value = mean;
  f.contributions = {{"scatter of the readings", u, Scope::independent}};
  return f;
}

}  // namespace

const HandStretch& HandsOff::at(double seconds) const {
  const auto after = std::upper_bound(stretches.begin(), stretches.end(), seconds,
                                      [](double t, const HandStretch& s) { return t < s.from_s; });
  return after == stretches.begin() ? stretches.front() : *std::prev(after);
}

HandsOff watch_hands(std::span<const DriftSample> samples,
                     std::span<const DriftRecord::Moment> moments) {
  HandsOff h;
  if (samples.empty()) return h;
  std::vector<DriftRecord::Moment> turns;
  for (const DriftRecord::Moment& m : moments)
    if (m.text == kToolOn || m.text == kHandsOff) turns.push_back(m);
  std::stable_sort(turns.begin(), turns.end(),
                   [](const auto& a, const auto& b) { return a.seconds < b.seconds; });
  const double end = samples.back().seconds;
  h.stretches.push_back({samples.front().seconds, end, false});
  for (const DriftRecord::Moment& t : turns) {
    const bool is_tool = t.text == kToolOn;
    if (h.stretches.back().is_tool == is_tool) continue;
    h.stretches.back().to_s = t.seconds;
    h.stretches.push_back({t.seconds, std::max(end, t.seconds), is_tool});
  }
  std::optional<double> under_tool;
  std::vector<double> jumps;
  std::vector<double> rests;
  for (std::size_t i = 0; i < h.stretches.size(); ++i) {
    HandStretch& s = h.stretches[i];
    const double quiet_from = i == 0 || s.is_tool ? s.from_s : s.from_s + kSettlesS;
    std::vector<double> values;
    for (const DriftSample& one : samples) {
      if (&h.at(one.seconds) != &s) continue;
      if (s.is_tool)
        under_tool = one.error_hz;
      else if (one.seconds >= quiet_from)
        values.push_back(one.error_hz);
    }
    s.counted = values.size();
    if (s.is_tool || values.size() < kLeastCounts) continue;
    const Figure mean = mean_figure("let_go", "Let go", values);
    s.mean_hz = mean.value;
    s.u_hz = mean.u();
    if (i == 0) continue;
    rests.push_back(mean.value);
    if (!under_tool) continue;
    s.jump_hz = mean.value - *under_tool;
    jumps.push_back(*s.jump_hz);
  }
  h.last_hz = samples.back().error_hz;
  const HandStretch& last = h.stretches.back();
  h.state = last.is_tool                                              ? HandsOff::State::tool_on
            : h.stretches.size() > 1 && end < last.from_s + kSettlesS ? HandsOff::State::settling
                                                                      : HandsOff::State::hands_off;
  for (auto s = h.stretches.rbegin(); s != h.stretches.rend() && !h.mean; ++s) {
    if (!s->mean_hz) continue;
    Figure f;
    f.id = "let_go";
    f.label = "Let go";
    f.unit = "Hz";
    f.value = *s->mean_hz;
    f.contributions = {{"scatter of the readings", s->u_hz, Scope::independent}};
    h.mean = f;
  }
  if (!jumps.empty()) h.jump = mean_figure("jump", "Jump on letting go", jumps);
  if (rests.size() > 2) {
    // How well a hand comes to where it wants: from one try to the next.
    double square = 0.0;
    for (const double j : jumps) square += std::pow(j - h.jump->value, 2.0);
    const double spread =
        jumps.size() > 1 ? std::sqrt(square / static_cast<double>(jumps.size() - 1)) : 0.0;
    h.finest_hz = 2.0 * spread;
  }
  return h;
}

}  // namespace heron
