#include "app/plot/tickers.h"

#include <cmath>

#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {

double DecibelTicker::getTickStep(const QCPRange& range) {
  step_ = range.size() > 45.0 ? 10.0 : range.size() > 20.0 ? 5.0 : range.size() > 8.0 ? 2.0 : 1.0;
  return step_;
}

QString DecibelTicker::getTickLabel(double tick, const QLocale&, QChar, int) {
  const long index = std::lround(tick / step_);
  return index % 2 == 0 ? qt_text(number_text(tick, 0)) : QString();
}

double FrequencyTicker::unit_for(const QCPRange& range) {
  const double largest = std::max(std::abs(range.lower), std::abs(range.upper));
  return largest >= 2e6 ? 1e6 : largest >= 2e3 ? 1e3 : 1.0;
}

QString FrequencyTicker::unit_name(double unit) {
  return unit == 1e6 ? "MHz" : unit == 1e3 ? "kHz" : "Hz";
}

double FrequencyTicker::getTickStep(const QCPRange& range) {
  const double step = QCPAxisTicker::getTickStep(range);
  unit_ = unit_for(range);
  // As many decimals as the step itself needs: 2.5 kHz is not 2.
  decimals_ = 0;
  double shown = step / unit_;
  while (decimals_ < 6 && std::abs(shown - std::round(shown)) > 1e-6 * std::abs(shown)) {
    shown *= 10.0;
    ++decimals_;
  }
  return step;
}

QString FrequencyTicker::getTickLabel(double tick, const QLocale&, QChar, int) {
  return qt_text(number_text(tick / unit_, decimals_, true));
}

}  // namespace heron
