#include "core/method/spread/noise_ratio.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/line_power.h"
#include "core/method/plot_curve.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kGuard = 0.1;

FrequencyRange shrunk(FrequencyRange range) {
  const double guard = kGuard * (range.second - range.first);
  return {range.first + guard, range.second - guard};
}

FrequencyRange at_carrier(FrequencyRange audio, const NoiseRatioSettings& s) {
  return s.sideband == Sideband::upper
             ? FrequencyRange{s.carrier_hz + audio.first, s.carrier_hz + audio.second}
             : FrequencyRange{s.carrier_hz - audio.second, s.carrier_hz - audio.first};
}

/// Mean power per bin over several ranges.
double density(const Spectrum& s, TraceView trace, const std::vector<FrequencyRange>& ranges) {
  double power = 0.0;
  double width = 0.0;
  for (const auto& [from, to] : ranges) {
    power += band_power(s, trace, from, to);
    width += to - from;
  }
  return power / (width / s.bin_hz());
}

}  // namespace

NoiseRatioAnalysis analyse_notched_noise(const CaptureOpener& open,
                                         const NoiseRatioSettings& settings,
                                         const Progress& progress, const std::stop_token& stop) {
  return analyse_notched_noise(measured_part(open, settings.part, settings.threads,
                                             progress_between(progress, 0.0, 0.2), stop),
                               settings, progress_between(progress, 0.2, 1.0), stop);
}

NoiseRatioAnalysis analyse_notched_noise(const MeasuredPart& part,
                                         const NoiseRatioSettings& settings,
                                         const Progress& progress, const std::stop_token& stop) {
  NoiseRatioAnalysis a;
  a.capture = part.recording;
  a.remarks = part.remarks;
  a.input = a.capture.name;
  const double notch_width = settings.notch_hz.second - settings.notch_hz.first;
  const bool is_inside = settings.band_hz.first < settings.notch_hz.first &&
                         settings.notch_hz.second < settings.band_hz.second && notch_width > 0.0;
  if (!is_inside)
    throw InputError(a.input, "notch", "it is not inside the band",
                     "Name both as they were played");
  const FrequencyRange band = at_carrier(settings.band_hz, settings);
  const double half = 0.49 * a.capture.sample_rate_hz;
  if (band.second > half || band.first < (a.capture.is_complex ? -half : 0.0))
    throw InputError(a.input, "band",
                     fmt::format("{} to {} Hz does not lie in the recording",
                                 number_text(band.first, 0), number_text(band.second, 0)),
                     "Check the carrier and the sideband, or record with a higher rate");

  const double span = a.capture.sample_rate_hz * (a.capture.is_complex ? 1.0 : 0.5);
  const Spectrum s =
      spectrum_for_width(part.open, notch_width, 64.0, settings.threads, progress, stop);
  a.rbw_hz = s.rbw_hz();
  a.averages = s.averages;
  a.clipped_samples = part.parts.clipped_samples;
  a.average = spectrum_curve(s, s.power, settings.plot_points);
  if (notch_width < 10.0 * s.rbw_hz())
    throw InputError(a.input, "",
                     fmt::format("it is too short to tell a notch of {:g} Hz", notch_width),
                     fmt::format("Record at least {:.1f} s", 100.0 / notch_width));

  const FrequencyRange notch = shrunk(at_carrier(settings.notch_hz, settings));
  const std::vector<FrequencyRange> pass{
      shrunk(at_carrier({settings.band_hz.first, settings.notch_hz.first}, settings)),
      shrunk(at_carrier({settings.notch_hz.second, settings.band_hz.second}, settings))};
  const double floor = quiet_floor(s, s.power);
  const double in_pass = density(s, s.power, pass);
  const double in_notch = density(s, s.power, {notch});
  a.density_dbfs_hz = db_from_power_ratio(std::max(in_pass, 1e-40) / s.bin_hz());
  a.floor_dbfs_hz = db_from_power_ratio(std::max(floor, 1e-40) / s.bin_hz());
  if (in_pass < 2.0 * floor || in_pass < 1.26 * in_notch) {
    a.remarks.push_back(
        {"no_notched_noise", Severity::fault,
         fmt::format("From {} to {} Hz there is no noise with a notch from {} to {} Hz.",
                     number_text(band.first, 0), number_text(band.second, 0),
                     number_text(at_carrier(settings.notch_hz, settings).first, 0),
                     number_text(at_carrier(settings.notch_hz, settings).second, 0)),
         "Check the carrier\u2019s place and the sideband"});
    return a;
  }
  // The floor beside the signal is taken off the notch; a floor that is not seen, because the band
  // fills the recording, is not.
  const double occupied = (band.second - band.first) / span;
  const double taken_off = occupied < 0.8 ? floor : 0.0;
  const auto ratio = [&](TraceView t) {
    return (density(s, t, {notch}) - taken_off) / (density(s, t, pass) - taken_off);
  };
  const double value = ratio(s.power);
  const double bins = (notch.second - notch.first) / s.rbw_hz();
  const double u =
      std::max(jackknife_u(s, Hold::average, [&](TraceView t) { return std::vector{ratio(t)}; })[0],
               in_notch / in_pass / std::sqrt(bins * s.statistics.k_eff));
  a.is_bound = value * in_pass < taken_off || value < 2.0 * u;
  const double shown = a.is_bound ? std::max(value, 0.0) + kOneSided95 * u : value;
  a.ratio_db = -db_from_power_ratio(std::max(shown, 1e-30));
  a.u_db = a.is_bound ? 0.0 : kDbPerRelativePower * u / value;
  add_clipping(a.remarks, part.parts, "fills the notch");
  if (a.is_bound)
    a.remarks.push_back(
        {"floor", Severity::caution,
         fmt::format("The recording\u2019s own floor fills the notch: at least {} dB.",
                     number_text(*a.ratio_db, 1)),
         "Bring the level nearer to full scale"});
  for (const std::string& text : a.capture.cautions)
    a.remarks.push_back({"recording", Severity::caution, text + ".", ""});
  sort_remarks(a.remarks);
  return a;
}

Result to_result(const NoiseRatioAnalysis& a) {
  Result r;
  r.method = "noise";
  r.inputs = {a.input};
  r.curves = {a.average};
  r.remarks = a.remarks;
  if (!a.ratio_db) return r;
  r.headline_id = "noise_power_ratio";
  Figure f{"noise_power_ratio",
           "Noise power ratio",
           *a.ratio_db,
           "dB",
           kNoisePowerRatio,
           {},
           a.is_bound ? Bound::lower : Bound::none};
  if (!a.is_bound)
    f.contributions.push_back(
        {"scatter between parts of the recording", a.u_db, Scope::independent});
  if (a.linearity.u_db > 0.0) f.contributions.push_back(a.linearity.contribution());
  r.figures.push_back(f);
  return r;
}

std::string noise_against_tones() {
  return "Two tones hold the transmitter at one envelope peak, noise and speech cover all levels "
         "up to it: they weight its transfer curve differently, so the figures differ and are not "
         "compared.";
}

}  // namespace heron
