#include "core/method/two_tone/ladder_checks.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

bool is_recording(const LadderStep& step) {
  return step.analysis != nullptr && step.analysis->tones.size() == 2 &&
         step.analysis->capture.format != "typed";
}

void add_faults(std::vector<Remark>& remarks, const std::vector<LadderStep>& steps) {
  for (const LadderStep& step : steps) {
    if (step.analysis == nullptr) continue;
    for (const Remark& r : step.analysis->remarks) {
      if (r.severity != Severity::fault) continue;
      remarks.push_back({"step_fault", Severity::caution, step.label + ": " + r.text, r.action});
    }
  }
}

/// The same numbers to the last digit are the same recording.
bool is_same(const TwoToneAnalysis& a, const TwoToneAnalysis& b) {
  return a.tones[0].level_dbfs == b.tones[0].level_dbfs &&
         a.tones[1].level_dbfs == b.tones[1].level_dbfs &&
         a.tones[0].frequency_hz == b.tones[0].frequency_hz && a.capture.frames == b.capture.frames;
}

void add_duplicates(std::vector<Remark>& remarks, const std::vector<LadderStep>& steps) {
  for (std::size_t i = 0; i < steps.size(); ++i) {
    for (std::size_t j = i + 1; j < steps.size(); ++j) {
      if (!is_recording(steps[i]) || !is_recording(steps[j]) ||
          !is_same(*steps[i].analysis, *steps[j].analysis))
        continue;
      remarks.push_back(
          {"same_recording", Severity::caution,
           fmt::format("{} and {} are the same recording: one of them was not measured.",
                       steps[i].label, steps[j].label),
           "Choose the right recording for each"});
    }
  }
}

/// Recorded levels follow the outputs by one offset where nobody touched the gain. Two that fit
/// each other's output and not their own were swapped.
void add_swaps(std::vector<Remark>& remarks, const std::vector<LadderStep>& steps) {
  constexpr std::size_t kFewest = 3;
  constexpr double kOffDb = 2.0;
  constexpr double kFitsDb = 1.0;
  struct Level {
    std::size_t step;
    double recorded;
    double output;
  };
  std::vector<Level> levels;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    if (is_recording(steps[i]) && steps[i].output)
      levels.push_back({i, steps[i].analysis->pep_dbfs, steps[i].output->value});
  }
  if (levels.size() < kFewest) return;
  // Of three steps two may be the wrong ones: then the third is the offset, so try each.
  for (const Level& right : levels) {
    const double offset = right.recorded - right.output;
    for (std::size_t i = 0; i < levels.size(); ++i) {
      for (std::size_t j = i + 1; j < levels.size(); ++j) {
        const auto off = [&](const Level& recorded, const Level& output) {
          return std::abs(recorded.recorded - output.output - offset);
        };
        const bool others_fit = std::all_of(levels.begin(), levels.end(), [&](const Level& l) {
          return &l == &levels[i] || &l == &levels[j] || off(l, l) < kFitsDb;
        });
        if (!others_fit || off(levels[i], levels[i]) < kOffDb ||
            off(levels[j], levels[j]) < kOffDb || off(levels[i], levels[j]) > kFitsDb ||
            off(levels[j], levels[i]) > kFitsDb)
          continue;
        remarks.push_back(
            {"recordings_swapped", Severity::caution,
             fmt::format(
                 "{} and {}: each recording has the level of the other\u2019s output, {} dB "
                 "apart. Swapped?",
                 steps[levels[i].step].label, steps[levels[j].step].label,
                 number_text(std::abs(levels[i].output - levels[j].output), 1)),
             "Exchange the two recordings, or mend the outputs"});
        return;
      }
    }
  }
}

}  // namespace

std::vector<Remark> check_steps(const std::vector<LadderStep>& steps) {
  std::vector<Remark> remarks;
  add_faults(remarks, steps);
  add_duplicates(remarks, steps);
  add_swaps(remarks, steps);
  return remarks;
}

std::vector<int> missing_orders(const std::vector<LadderStep>& steps, std::size_t step) {
  std::vector<int> missing;
  const LadderStep& here = steps[step];
  if (here.analysis == nullptr || here.analysis->products.empty()) return missing;
  for (int order = 3; order <= kHighestNeededOrder; order += 2) {
    if (here.analysis->worse_side(order) != nullptr) continue;
    const bool is_elsewhere = std::any_of(steps.begin(), steps.end(), [&](const LadderStep& other) {
      return other.analysis != nullptr && other.analysis->worse_side(order) != nullptr;
    });
    if (is_elsewhere) missing.push_back(order);
  }
  return missing;
}

}  // namespace heron
