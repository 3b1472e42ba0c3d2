#include "core/method/two_tone/two_tone_remarks.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/two_tone/tone_pair.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

std::string db(double value, int decimals = 1) {
  return number_text(value, decimals);
}

std::string up_to(const std::string& text, const char* end) {
  return text.substr(0, text.find(end));
}

void level_remarks(TwoToneAnalysis& a, const TwoToneObservations& seen) {
  if (a.parts) add_clipping(a.remarks, *a.parts, "makes products of its own");
  if (a.clipped_samples == 0 && !a.tones.empty() && a.peak_dbfs < -50.0) {
    a.remarks.push_back(
        {"level_low", Severity::caution,
         fmt::format("The peak is only {} dBFS: {} dB of the recorder's range lie idle.",
                     db(a.peak_dbfs), db(-a.peak_dbfs, 0)),
         "Remove attenuation until the peak is near \u221210 dBFS"});
  }
  if (seen.rounding_dbc && *seen.rounding_dbc > -80.0)
    a.remarks.push_back(
        {"rounding", Severity::caution,
         fmt::format(
             "The recorder\u2019s rounding may put {} dBc on any line (a tone swings over {} "
             "of its steps): \u00b1 and floor hold that.",
             db(*seen.rounding_dbc, 0), number_text(seen.steps_of_a_tone, 0)),
         "Bring the level up"});
  for (const std::string& text : a.capture.cautions) {
    a.remarks.push_back({"file", Severity::caution, text, ""});
  }
}

void tone_remarks(TwoToneAnalysis& a, const TwoToneSettings& settings) {
  const double imbalance = std::abs(a.tones[0].level_dbfs - a.tones[1].level_dbfs);
  if (imbalance > 0.5) {
    const bool upper_low = a.tones[1].level_dbfs < a.tones[0].level_dbfs;
    a.remarks.push_back(
        {"unequal_tones", Severity::caution,
         fmt::format("The {} tone is {} dB lower: PEP is {} dB above one tone instead of 6.0.",
                     upper_low ? "upper" : "lower", db(imbalance), db(a.pep_over_tone_db())),
         "Make the tones equal within 0.5 dB"});
  }
  if (a.drift_hz > std::max(1.0, 0.25 * a.rbw_hz)) {
    a.remarks.push_back(
        {"drift", Severity::note,
         fmt::format("The tones drifted by {} Hz during the record: lines were measured "
                     "correspondingly wider.",
                     db(a.drift_hz)),
         ""});
  }
  if (a.capture.is_complex && !settings.tones_hz && a.tones[1].frequency_hz < settings.carrier_hz)
    a.remarks.push_back(
        {"lower_sideband", Severity::note,
         fmt::format("Both tones lie below the carrier, at {} and {} Hz: right for "
                     "lower sideband, else I and Q are exchanged.",
                     db(a.tones[0].frequency_hz, 0), db(a.tones[1].frequency_hz, 0)),
         ""});
  // Audio frequencies are known only where both tones lie on one side of the carrier.
  const double audio_1 = a.tones[0].frequency_hz - settings.carrier_hz;
  const double audio_2 = a.tones[1].frequency_hz - settings.carrier_hz;
  if (audio_1 * audio_2 > 0.0) {
    const double f1 = std::min(std::abs(audio_1), std::abs(audio_2));
    const double f2 = std::max(std::abs(audio_1), std::abs(audio_2));
    const auto collisions = tone_pair_collisions(std::round(f1), std::round(f2));
    if (!collisions.empty() && f2 < 5000.0) {
      a.remarks.push_back(
          {"tone_coincidence", Severity::caution,
           fmt::format(
               "The {} product falls on {} of the audio source: it may be the source's own.",
               up_to(collisions.front().product, ","), up_to(collisions.front().audio, " =")),
           "Use a pair without coincidences, such as 650 and 1850 Hz"});
    }
  }
}

void product_remarks(TwoToneAnalysis& a, const TwoToneObservations& seen) {
  std::string bounded;
  int bounds = 0;
  for (const TwoToneProduct& p : a.products) {
    if (!p.is_bound || p.is_covered) continue;
    ++bounds;
    if (bounds <= 3) bounded += (bounded.empty() ? "" : ", ") + product_name(p);
  }
  if (bounds > 0) {
    const std::string more = bounds > 3 ? fmt::format(" and {} more", bounds - 3) : "";
    a.remarks.push_back({"products_at_noise", Severity::note,
                         fmt::format("{}{} within 3 dB of the noise: reported as upper bound{}.",
                                     bounded, more, bounds == 1 ? "" : "s"),
                         ""});
  }
  for (int order = 3; order <= 7; order += 2) {
    const TwoToneProduct* lower = a.find(order, Side::lower);
    const TwoToneProduct* upper = a.find(order, Side::upper);
    if (lower == nullptr || upper == nullptr || lower->is_bound || upper->is_bound) continue;
    // Of unequal tones the product beside the stronger one is the stronger, by as much.
    const double unequal = a.tones[1].level_dbfs - a.tones[0].level_dbfs;
    const double difference = upper->level_dbc - lower->level_dbc - unequal;
    const double u = std::hypot(upper->u_db, lower->u_db);
    if (std::abs(difference) > 3.0 && std::abs(difference) > 2.0 * u) {
      a.remarks.push_back(
          {"asymmetry", Severity::note,
           fmt::format("IM{} differs by {} dB between the sides{}: memory in the amplifier, supply "
                       "or bias, or the set-up.",
                       order, db(std::abs(difference)),
                       std::abs(unequal) > 0.5 ? ", beyond what the unequal tones make" : ""),
           ""});
      break;
    }
  }
  if (a.image_dbc && *a.image_dbc > -40.0) {
    a.remarks.push_back(
        {"image", Severity::caution,
         fmt::format("The sampler's image is at {} dBc: it limits the usable range.",
                     db(*a.image_dbc)),
         "Balance I and Q, or tune the sampler so that the image falls elsewhere"});
  }
  if (seen.hum_dbc && *seen.hum_dbc > -60.0) {
    a.remarks.push_back(
        {"hum", Severity::note,
         fmt::format("Sidebands {} Hz from the tones at {} dBc: mains hum in the audio or supply.",
                     db(seen.hum_offset_hz, 0), db(*seen.hum_dbc, 0)),
         ""});
  }
  if (!seen.outside.empty()) {
    std::string names;
    for (const int order : seen.outside) {
      const std::string name = "IM" + std::to_string(order);
      if (names.find(name) == std::string::npos) names += (names.empty() ? "" : ", ") + name;
    }
    a.remarks.push_back({"outside", Severity::note,
                         names + " lies in part outside the recording: that side is not measured.",
                         "Record with a higher rate, or nearer to its centre"});
  }
  for (const std::string& text : seen.covered)
    a.remarks.push_back({"covered", Severity::caution, text, ""});
}

void no_pair_remark(TwoToneAnalysis& a, const TwoToneObservations& seen) {
  if (a.tones.empty()) {
    a.remarks.push_back({"no_tone", Severity::fault,
                         "No tone rises out of the noise: the recording shows no two-tone signal.",
                         "Check the hook-up and the centre frequency, then record again"});
    return;
  }
  const std::string at = db(a.tones[0].frequency_hz, 0);
  if (seen.is_mirrored) {
    a.remarks.push_back(
        {"tones_mirrored", Severity::fault,
         fmt::format("There is no line at {} Hz, but both tones lie on the other side of 0 Hz: the "
                     "other sideband is sent, or I and Q are exchanged.",
                     db(*seen.missing_hz, 0)),
         "Name the tones with the other sign, or exchange I and Q in the recorder"});
    return;
  }
  if (seen.missing_hz) {
    a.remarks.push_back(
        {"tone_missing", Severity::fault,
         fmt::format("There is no line within {} Hz of {} Hz, where a tone was asked "
                     "for; the strongest line is at {} Hz.",
                     db(seen.reach_hz, 0), db(*seen.missing_hz, 0), at),
         "Name the tones as they lie in the recording (0 Hz is its centre)"});
    return;
  }
  if (!seen.rivals.empty()) {
    const auto text = [](const LinePair& rival) {
      return fmt::format("{} and {} Hz", db(rival.first.frequency_hz, 0),
                         db(rival.second.frequency_hz, 0));
    };
    a.remarks.push_back({"pair_ambiguous", Severity::fault, rivals_text(seen.rivals, text),
                         "Name the tones, or record without the other carriers"});
    return;
  }
  if (seen.second_line_hz && seen.second_line_db > -7.0) {
    a.remarks.push_back(
        {"one_tone", Severity::fault,
         fmt::format("Lines at {} and {} Hz are nearly equal but lie on multiples of the mains "
                     "frequency: tones or hum cannot be told.",
                     at, db(*seen.second_line_hz, 0)),
         "Name the tones, or use a pair such as 650 and 1850 Hz"});
    return;
  }
  const std::string next =
      seen.second_line_hz ? fmt::format("the next line is {} dB lower", db(-seen.second_line_db, 0))
                          : "there is no second line";
  a.remarks.push_back(
      {"one_tone", Severity::fault,
       fmt::format("Only one tone was found, at {} Hz; {}: products need two nearly equal tones.",
                   at, next),
       "Switch the second tone on, or name the tones"});
}

}  // namespace

void add_two_tone_remarks(TwoToneAnalysis& a, const TwoToneSettings& settings,
                          const TwoToneObservations& seen) {
  level_remarks(a, seen);
  if (a.tones.size() < 2) {
    no_pair_remark(a, seen);
  } else {
    tone_remarks(a, settings);
    if (!a.products.empty()) product_remarks(a, seen);
  }
  sort_remarks(a.remarks);
}

}  // namespace heron
