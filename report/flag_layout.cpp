#include "report/flag_layout.h"

#include <algorithm>
#include <numeric>

#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kFlagHeight = kPennantHeight + 16.0;
constexpr double kAbovePeak = 40.0;
constexpr double kAboveLimit = 46.0;

/// Indices of the flags in the order in which they choose their places: the worst, then by level.
std::vector<std::size_t> by_precedence(const std::vector<SpectrumFlag>& flags) {
  std::vector<std::size_t> order(flags.size());
  std::iota(order.begin(), order.end(), 0U);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return flags[a].is_worst != flags[b].is_worst ? flags[a].is_worst
                                                  : flags[a].level_db > flags[b].level_db;
  });
  return order;
}

}  // namespace

bool SpectrumFrame::shows(double frequency_hz) const {
  const double x = x_of(frequency_hz);
  return x > left + 2.0 && x < right - 2.0;
}

std::string flag_words(const SpectrumFlag& flag) {
  return (flag.is_bound ? "\u2264 " : "") + number_text(flag.level_db, 1);
}

std::vector<LabelBox> place_flags(const SpectrumPicture& picture, const SpectrumFrame& frame,
                                  const std::vector<LabelBox>& tones,
                                  const std::function<double(const std::string&)>& word_width) {
  const double limit_y = picture.limit_db ? frame.y_of(*picture.limit_db) : 0.0;
  std::vector<LabelBox> boxes;
  for (const SpectrumFlag& flag : picture.flags) {
    double top = frame.y_of(flag.level_db) - kAbovePeak;
    if (picture.limit_db)
      top = flag.level_db > *picture.limit_db - 3.0 ? std::min(top, limit_y - kAboveLimit)
                                                    : std::max(top, limit_y + 5.0);
    const double width = std::max(kPennantWidth, word_width(flag_words(flag)) + 6.0);
    const double x = frame.x_of(flag.frequency_hz);
    boxes.push_back({flag.is_upper ? x : x - width, top, width, kFlagHeight});
  }
  std::vector<LabelBox> obstacles = tones;
  if (picture.limit_db)
    obstacles.push_back({frame.left, limit_y - 2.0, frame.right - frame.left, 4.0});
  std::vector<LabelBox*> shown;
  for (const std::size_t i : by_precedence(picture.flags)) {
    if (frame.shows(picture.flags[i].frequency_hz)) shown.push_back(&boxes[i]);
  }
  spread_labels(shown, std::move(obstacles), frame.top - 6.0, frame.bottom - 1.0);
  return boxes;
}

}  // namespace heron
