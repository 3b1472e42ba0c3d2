#include "core/method/plot_curve.h"

#include <algorithm>
#include <cmath>

namespace heron {

Curve spectrum_curve(const Spectrum& spectrum, const std::vector<float>& power,
                     std::size_t points) {
  Curve curve;
  curve.id = "spectrum";
  curve.label = "Spectrum";
  curve.x_unit = "Hz";
  curve.y_unit = "dBFS";
  const std::size_t group = std::max<std::size_t>(1, (power.size() + points - 1) / points);
  const double middle = (static_cast<double>(group) - 1.0) / 2.0;
  curve.x_start = spectrum.frequency_hz(0) + middle * spectrum.bin_hz();
  curve.x_step = spectrum.bin_hz() * static_cast<double>(group);
  const auto enbw = static_cast<float>(enbw_bins(spectrum.window));
  for (std::size_t at = 0; at + group <= power.size(); at += group) {
    const float highest =
        *std::max_element(power.begin() + static_cast<std::ptrdiff_t>(at),
                          power.begin() + static_cast<std::ptrdiff_t>(at + group));
    curve.y.push_back(10.0F * std::log10(highest * enbw + 1e-25F));
  }
  return curve;
}

}  // namespace heron
