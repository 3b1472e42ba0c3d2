#include "core/method/measure/ssb_suppression.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/convention.h"
#include "core/method/measure/line_power.h"
#include "core/method/measure/tone_finder.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

struct Tones {
  std::vector<SpectralLine> lines;
  Sideband sideband = Sideband::upper;
};

/// The wanted tones: the strongest line on either side of the carrier, and a second one on its side
/// if it is nearly as strong.
Tones find_tones(const Spectrum& s, const std::vector<SpectralLine>& lines,
                 const SsbSettings& settings) {
  Tones out;
  const double resolution = 4.0 * s.bin_hz();
  const auto is_on_side = [&](const SpectralLine& line) {
    const double offset = line.frequency_hz - settings.carrier_hz;
    return std::abs(offset) > resolution &&
           (!settings.sideband || (offset > 0.0) == (*settings.sideband == Sideband::upper));
  };
  if (!settings.tones_hz.empty()) {
    const auto level_on = [&](double direction) {
      double sum = 0.0;
      for (const double f : settings.tones_hz)
        sum += measure_line(s, settings.carrier_hz + direction * f, kLineHalfWidth, {}).power;
      return sum;
    };
    out.sideband = settings.sideband.value_or(level_on(1.0) >= level_on(-1.0) ? Sideband::upper
                                                                              : Sideband::lower);
    const double direction = out.sideband == Sideband::upper ? 1.0 : -1.0;
    for (const double f : settings.tones_hz) {
      const double place = settings.carrier_hz + direction * f;
      const auto near = std::find_if(lines.begin(), lines.end(), [&](const SpectralLine& l) {
        return std::abs(l.frequency_hz - place) < std::max(20.0, resolution);
      });
      if (near != lines.end()) out.lines.push_back(*near);
    }
    return out;
  }
  for (const SpectralLine& line : lines) {
    if (!is_on_side(line)) continue;
    if (out.lines.empty()) {
      out.sideband = line.frequency_hz > settings.carrier_hz ? Sideband::upper : Sideband::lower;
      out.lines.push_back(line);
      continue;
    }
    const bool same_side =
        (line.frequency_hz > settings.carrier_hz) == (out.sideband == Sideband::upper);
    if (same_side && line.power > 0.2 * out.lines.front().power) out.lines.push_back(line);
    if (out.lines.size() == 2) break;
  }
  return out;
}

}  // namespace

SsbSuppression measure_ssb_suppression(const CaptureOpener& whole, const SsbSettings& settings,
                                       const Progress& progress, const std::stop_token& stop) {
  SsbSuppression a;
  const CaptureInfo info = whole()->info();
  a.input = info.name;
  if (!info.is_complex && settings.carrier_hz <= 0.0)
    throw InputError(a.input, "carrier", "real audio has nothing on the other side of 0 Hz",
                     "Record I and Q, or with the carrier inside the band");
  MeasuredPart part = measured_part(whole, settings.part, settings.threads,
                                    progress_between(progress, 0.0, 0.2), stop);
  const CaptureOpener& open = part.open;
  a.linearity = recorder_linearity(settings.linearity_u_db, nullptr);
  a.remarks = std::move(part.remarks);
  add_linearity_remark(a.remarks, a.linearity, false);
  const double span = info.sample_rate_hz * (info.is_complex ? 1.0 : 0.5);
  const Spectrum s = spectrum_for_width(open, span, span / 6.0, settings.threads,
                                        progress_between(progress, 0.2, 1.0), stop);
  const std::vector<SpectralLine> lines = find_lines(s);
  const Tones tones = find_tones(s, lines, settings);
  if (tones.lines.empty()) {
    a.remarks.push_back({"no_tones", Severity::fault,
                         "There is no tone beside the carrier: nothing to compare with.",
                         "Drive the transmitter with one or two tones"});
    return a;
  }
  a.sideband = tones.sideband;
  const double direction = a.sideband == Sideband::upper ? 1.0 : -1.0;
  std::vector<LineSpan> spans;
  for (const SpectralLine& line : lines) spans.push_back({line.frequency_hz, kLineHalfWidth});
  double power = 0.0;
  double amplitudes = 0.0;
  double u_power = 0.0;
  for (const SpectralLine& tone : tones.lines) {
    a.tones_hz.push_back(direction * (tone.frequency_hz - settings.carrier_hz));
    const LinePower line = measure_line(s, tone.frequency_hz, kLineHalfWidth, spans);
    power += line.power;
    amplitudes += std::sqrt(std::max(line.power, 0.0));
    u_power = std::hypot(u_power, line.u_power);
  }
  const double one_tone = power / static_cast<double>(tones.lines.size());
  a.pep_over_tone_db = db_from_power_ratio(amplitudes * amplitudes / one_tone);
  const double tone_u_db = kDbPerRelativePower * u_power / power;

  const auto add = [&](const std::string& id, const std::string& label, double frequency) {
    const double reach = 0.49 * info.sample_rate_hz;
    if (frequency > reach || frequency < (info.is_complex ? -reach : 0.0)) {
      a.remarks.push_back(
          {"outside", Severity::caution,
           fmt::format("{}: {} Hz lies outside the recording.", label, number_text(frequency, 0)),
           "Record with a higher rate"});
      return;
    }
    std::vector<LineSpan> others;
    for (const LineSpan& span_of : spans) {
      if (std::abs(span_of.frequency_hz - frequency) > kLineHalfWidth * s.bin_hz())
        others.push_back(span_of);
    }
    const LinePower line = measure_line(s, frequency, kLineHalfWidth, others);
    SsbSuppression::Unwanted u{id, label, frequency, 0.0, 0.0, line.is_bound};
    const double level = line.is_bound ? line.upper_power : line.power;
    u.level_dbc = db_from_power_ratio(std::max(level, 1e-30) / one_tone);
    if (!line.is_bound)
      u.u_db = std::hypot(kDbPerRelativePower * line.u_power / line.power, tone_u_db);
    a.unwanted.push_back(u);
  };
  add("carrier", "Carrier", settings.carrier_hz);
  for (std::size_t i = 0; i < a.tones_hz.size(); ++i)
    add(fmt::format("opposite_{}", i + 1),
        fmt::format("Opposite sideband, {} Hz", number_text(a.tones_hz[i], 0)),
        settings.carrier_hz - direction * a.tones_hz[i]);
  if (info.is_complex && std::abs(settings.carrier_hz) < 4.0 * s.bin_hz())
    a.remarks.push_back(
        {"recorder_symmetry", Severity::caution,
         "The carrier lies on the recorder\u2019s own centre: its offset and mirror images fall on "
         "the same places and cannot be told apart.",
         "Record with the centre some kHz away from the carrier"});
  return a;
}

Result to_result(const SsbSuppression& a) {
  Result r;
  r.method = "ssb-suppression";
  r.inputs = {a.input};
  r.remarks = a.remarks;
  for (const SsbSuppression::Unwanted& u : a.unwanted) {
    for (const char* convention : {kReOneTone, kRePep}) {
      const bool is_pep = convention == std::string(kRePep);
      Figure f{u.id + (is_pep ? "_pep" : ""),
               u.label,
               u.level_dbc - (is_pep ? a.pep_over_tone_db : 0.0),
               "dB",
               convention,
               {},
               u.is_bound ? Bound::upper : Bound::none};
      if (!u.is_bound)
        f.contributions.push_back({"noise in the recording", u.u_db, Scope::independent});
      if (a.linearity.u_db > 0.0) f.contributions.push_back(a.linearity.contribution());
      r.figures.push_back(f);
    }
  }
  return r;
}

}  // namespace heron
