#include "report/spectrum_picture.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {

SpectrumPicture spectrum_picture(const TwoToneAnalysis& a, const std::string& convention,
                                 const std::optional<Limit>& limit) {
  SpectrumPicture picture;
  const bool is_pep = convention == kRePep;
  const double reference = a.tones.size() == 2 ? (is_pep ? a.pep_dbfs : a.one_tone_dbfs) : 0.0;
  picture.y_title =
      a.tones.size() == 2 ? (is_pep ? "dB relative to PEP" : "dB relative to one tone") : "dBFS";
  picture.curve = a.spectrum;
  for (float& y : picture.curve.y) y -= static_cast<float>(reference);
  picture.curve.y_unit = "dB";
  picture.conditions = fmt::format("{} per point", engineering_text(a.rbw_hz, "Hz", 2));
  if (a.capture.center_hz) {
    picture.conditions = "centre " + engineering_text(*a.capture.center_hz, "Hz", 7) + " \u00b7 " +
                         picture.conditions;
  }
  const double half_band = a.capture.sample_rate_hz / 2.0;
  picture.x_from_hz = a.capture.is_complex ? -half_band : 0.0;
  picture.x_to_hz = half_band;
  for (const TestTone& tone : a.tones)
    picture.tones.emplace_back(tone.frequency_hz, tone.level_dbfs - reference);
  if (a.tones.size() == 2) {
    const double spacing = a.tones[1].frequency_hz - a.tones[0].frequency_hz;
    const double middle = (a.tones[0].frequency_hz + a.tones[1].frequency_hz) / 2.0;
    picture.x_from_hz = std::max(picture.x_from_hz, middle - 6.7 * spacing);
    picture.x_to_hz = std::min(picture.x_to_hz, middle + 6.7 * spacing);
  }
  const TwoToneProduct* worst = a.worst();
  std::vector<double> floors;
  for (const TwoToneProduct& p : a.products) {
    const double level = is_pep ? p.level_db_pep : p.level_dbc;
    floors.push_back(p.floor_dbc - (p.level_dbc - level));
    const double shown_at = a.capture.is_complex ? p.frequency_hz : std::abs(p.frequency_hz);
    picture.flags.push_back(
        {p.order, p.side == Side::upper, shown_at, level, p.is_bound, &p == worst});
  }
  if (!floors.empty()) {
    std::nth_element(floors.begin(),
                     floors.begin() + static_cast<std::ptrdiff_t>(floors.size() / 2), floors.end());
    picture.floor_db = floors[floors.size() / 2];
  }
  if (a.carrier_dbc && !a.products.empty()) {
    const double level = *a.carrier_dbc - (is_pep ? a.pep_over_tone_db() : 0.0);
    if (level > picture.floor_db + 6.0) picture.carrier = std::pair(a.carrier_hz, level);
  }
  if (limit && worst != nullptr) {
    picture.limit_db = in_convention(*limit, convention, a.pep_over_tone_db()).value;
    picture.limit_words =
        "Limit " +
        number_text(*picture.limit_db,
                    std::abs(*picture.limit_db - std::round(*picture.limit_db)) < 0.005 ? 0 : 1) +
        " dB";
    picture.worst_verdict = judge(product_figure(a, *worst, limit->convention), *limit).verdict;
  }
  return picture;
}

}  // namespace heron
