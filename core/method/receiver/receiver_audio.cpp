#include "core/method/receiver/receiver_audio.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/median.h"
#include "core/signal/welch.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kLeastAudioS = 1.0;
constexpr double kWantedBinHz = 2.0;
constexpr double kAudioFromHz = 40.0;  ///< below, a sound interface has its own noise
constexpr double kAudioToHz = 8000.0;  ///< a receiver's audio ends there
constexpr int kToneBins = 4;           ///< bins, Blackman-Harris
constexpr double kHumDb = 8.0;         ///< over what is beside it
constexpr double kToneDb = 10.0;
constexpr double kMains[] = {50.0, 60.0};
constexpr double kHumToHz = 1000.0;

double power_at(const ReceiverAudio& a, std::size_t k) {
  return power_ratio_from_db(static_cast<double>(a.power_db[k]));
}

std::size_t first_bin(const ReceiverAudio& a) {
  return static_cast<std::size_t>(std::ceil(kAudioFromHz / a.bin_hz));
}
std::size_t last_bin(const ReceiverAudio& a) {
  return std::min(a.power_db.size(), static_cast<std::size_t>(kAudioToHz / a.bin_hz));
}

/// The middle of what is on both sides of a lobe.
double beside(const ReceiverAudio& a, std::size_t k) {
  std::vector<double> some;
  for (int d = kToneBins + 1; d <= kToneBins + 14; ++d) {
    if (k >= first_bin(a) + static_cast<std::size_t>(d))
      some.push_back(power_at(a, k - static_cast<std::size_t>(d)));
    if (k + static_cast<std::size_t>(d) < last_bin(a))
      some.push_back(power_at(a, k + static_cast<std::size_t>(d)));
  }
  return some.empty() ? 0.0 : median_of(some);
}

/// Power of a line round a bin, over the noise beside it.
double line_power(const ReceiverAudio& a, std::size_t k) {
  const double noise = beside(a, k);
  double sum = 0.0;
  for (std::size_t i = k > kToneBins ? k - kToneBins : 0;
       i <= std::min(last_bin(a) - 1, k + kToneBins); ++i)
    sum += power_at(a, i) - noise;
  return std::max(0.0, sum);
}

/// Bins in which the mains hums, by the noise alone.
std::vector<std::size_t> hum_bins(const ReceiverAudio& noise) {
  std::vector<std::size_t> all;
  for (const double mains : kMains)
    for (double hz = mains; hz <= kHumToHz; hz += mains) {
      const auto k = static_cast<std::size_t>(std::lround(hz / noise.bin_hz));
      if (k <= first_bin(noise) + 1 || k + 1 >= last_bin(noise)) continue;
      const double over =
          std::max({power_at(noise, k - 1), power_at(noise, k), power_at(noise, k + 1)});
      if (over > beside(noise, k) * power_ratio_from_db(kHumDb) &&
          std::none_of(all.begin(), all.end(), [&](std::size_t other) {
            return (other > k ? other - k : k - other) <= kToneBins;
          }))
        all.push_back(k);
    }
  return all;
}

/// All power but what hums; `kept` is a bin that is no hum whatever stands there.
double power_without(const ReceiverAudio& a, const std::vector<std::size_t>& hum,
                     std::optional<std::size_t> kept) {
  double sum = 0.0;
  for (std::size_t k = first_bin(a); k < last_bin(a); ++k) sum += power_at(a, k);
  for (const std::size_t k : hum) {
    if (kept && (k > *kept ? k - *kept : *kept - k) <= static_cast<std::size_t>(2) * kToneBins)
      continue;
    sum -= line_power(a, k);
  }
  return std::max(sum, 1e-30);
}

/// All of the noise over its density at the tone, which is what a signal there is seen against;
/// else over the middle of what is within 3 dB of the highest.
double noise_bandwidth(const ReceiverAudio& a, const std::vector<std::size_t>& hum,
                       std::optional<std::size_t> tone) {
  constexpr double kSmoothHz = 60.0;  // to each side
  std::vector<double> density;
  for (std::size_t k = first_bin(a); k < last_bin(a); ++k) density.push_back(power_at(a, k));
  for (const std::size_t k : hum)
    for (std::size_t i = k - std::min(k, static_cast<std::size_t>(kToneBins)); i <= k + kToneBins;
         ++i)
      if (i >= first_bin(a) && i < last_bin(a)) density[i - first_bin(a)] = beside(a, k);
  const auto reach = static_cast<std::size_t>(std::max(2.0, kSmoothHz / a.bin_hz));
  std::vector<double> sums(density.size() + 1, 0.0);
  for (std::size_t i = 0; i < density.size(); ++i) sums[i + 1] = sums[i] + density[i];
  std::vector<double> smooth;
  for (std::size_t i = 0; i + 2 * reach < density.size(); ++i)
    smooth.push_back((sums[i + 2 * reach] - sums[i]) / static_cast<double>(2 * reach));
  if (smooth.empty()) return 0.0;
  const double highest = *std::max_element(smooth.begin(), smooth.end());
  std::vector<double> passed;
  for (const double d : smooth)
    if (d > highest / 2.0) passed.push_back(d);
  double reference = median_of(passed);
  if (tone && *tone >= first_bin(a) + reach && *tone - first_bin(a) - reach < smooth.size())
    reference = smooth[*tone - first_bin(a) - reach];
  return reference > 0.0 ? sums.back() / reference * a.bin_hz : 0.0;
}

std::optional<std::size_t> tone_bin(const ReceiverAudio& signal, const ReceiverAudio& noise) {
  std::optional<std::size_t> best;
  double most = 0.0;
  for (std::size_t k = first_bin(signal) + 1; k + 1 < last_bin(signal); ++k) {
    const double gained =
        power_at(signal, k) - power_at(noise, std::min(k, noise.power_db.size() - 1));
    if (gained > most) {
      most = gained;
      best = k;
    }
  }
  if (!best || power_at(signal, *best) < beside(signal, *best) * power_ratio_from_db(kToneDb))
    return std::nullopt;
  return best;
}

/// The strongest line in noise alone that is no hum: something inside that oscillates, or a
/// station.
std::optional<std::size_t> birdie_bin(const ReceiverAudio& noise,
                                      const std::vector<std::size_t>& hum) {
  std::optional<std::size_t> best;
  double most = 0.0;
  for (std::size_t k = first_bin(noise) + kToneBins; k + kToneBins < last_bin(noise); ++k) {
    const bool is_hum = std::any_of(hum.begin(), hum.end(), [&](std::size_t h) {
      return (h > k ? h - k : k - h) <= static_cast<std::size_t>(2) * kToneBins;
    });
    if (is_hum || power_at(noise, k) <= most) continue;
    if (power_at(noise, k) < beside(noise, k) * power_ratio_from_db(kToneDb)) continue;
    most = power_at(noise, k);
    best = k;
  }
  return best;
}

double tone_place_hz(const ReceiverAudio& a, std::size_t k) {
  double sum = 0.0;
  double moment = 0.0;
  const double noise = beside(a, k);
  for (std::size_t i = k - 2; i <= k + 2; ++i) {
    const double over = std::max(0.0, power_at(a, i) - noise);
    sum += over;
    moment += over * static_cast<double>(i);
  }
  return a.bin_hz * (sum > 0.0 ? moment / sum : static_cast<double>(k));
}

}  // namespace

ReceiverAudio receiver_audio(const CaptureOpener& open, const Progress& progress,
                             const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  if (info.is_complex)
    throw InputError(info.name, "", "it is I and Q, not a receiver\u2019s audio",
                     "Record the loudspeaker or headphone output as one channel");
  if (info.duration_s() < kLeastAudioS)
    throw InputError(info.name, "",
                     fmt::format("it is only {} s long", number_text(info.duration_s(), 2)),
                     "Record five seconds or more of each");
  WelchSettings settings;
  settings.segment = 256;
  while (info.sample_rate_hz / static_cast<double>(settings.segment) > kWantedBinHz &&
         static_cast<std::int64_t>(4 * settings.segment) <= info.frames)
    settings.segment *= 2;
  settings.slices = 1;
  const Spectrum s = welch_spectrum(open, settings, progress, stop);
  ReceiverAudio a;
  a.name = info.name;
  a.length_s = info.duration_s();
  a.bin_hz = s.bin_hz();
  const auto used = std::min(s.power.size(), static_cast<std::size_t>(kAudioToHz / a.bin_hz) + 1);
  for (std::size_t k = 0; k < used; ++k)
    a.power_db.push_back(
        static_cast<float>(db_from_power_ratio(std::max(1e-24, static_cast<double>(s.power[k])))));
  const RecorderLoad load = recorder_load(open, stop);
  a.peak_dbfs = load.peak_dbfs;
  a.clipped = load.clipped_samples;
  return a;
}

json to_json(const ReceiverAudio& a) {
  std::vector<int> hundredths;
  for (const float db : a.power_db)
    hundredths.push_back(static_cast<int>(std::lround(100.0 * static_cast<double>(db))));
  return {{"format", kReceiverAudioFormat}, {"version", 1},        {"name", a.name},
          {"length_s", a.length_s},         {"bin_hz", a.bin_hz},  {"power", hundredths},
          {"peak_dbfs", a.peak_dbfs},       {"clipped", a.clipped}};
}

AnalysisPtr read_receiver_audio(const json& from) {
  auto a = std::make_shared<ReceiverAudio>();
  try {
    if (from.at("format") != kReceiverAudioFormat) refuse_damaged("it is another record");
    a->name = from.at("name");
    a->length_s = from.at("length_s");
    a->bin_hz = from.at("bin_hz");
    for (const int v : from.at("power").get<std::vector<int>>())
      a->power_db.push_back(static_cast<float>(v) / 100.0F);
    a->peak_dbfs = from.at("peak_dbfs");
    a->clipped = whole_from(from, "clipped", 0, 1e15);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (!(a->bin_hz > 0.01) || !(a->bin_hz < 1e3) || !(a->length_s > 0.0) ||
      static_cast<double>(a->power_db.size()) * a->bin_hz < 3.0 * kAudioFromHz)
    refuse_damaged("it holds no spectrum of audio");
  return a;
}

HeardRatio heard_ratio(const ReceiverAudio& noise, const ReceiverAudio& signal) {
  if (std::abs(noise.bin_hz / signal.bin_hz - 1.0) > 1e-3)
    throw InputError(signal.name, "",
                     "it was recorded at another rate, or much shorter, than " + noise.name,
                     "Record both with the same settings, and as long");
  HeardRatio h;
  const std::vector<std::size_t> hum = hum_bins(noise);
  const auto tone = tone_bin(signal, noise);
  const double quiet = power_without(noise, hum, std::nullopt);
  const double loud = power_without(signal, hum, tone);
  h.sn_n_db = db_from_power_ratio(loud / quiet);
  h.bandwidth_hz = noise_bandwidth(noise, hum, tone);
  // Power of noise over so long: one part in the root of bandwidth times length.
  const auto u_of = [&](double length_s, double share) {
    return kDbPerRelativePower * std::sqrt(share / std::max(1.0, h.bandwidth_hz * length_s));
  };
  const double noise_share = std::min(1.0, quiet / loud);
  h.u_db = std::hypot(u_of(noise.length_s, 1.0), u_of(signal.length_s, noise_share));
  double hums = 0.0;
  for (const std::size_t k : hum) hums += line_power(noise, k);
  const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
    h.remarks.push_back({code, severity, std::move(text), std::move(todo)});
  };
  if (hums > 0.0) {
    h.hum_db = db_from_power_ratio(hums / quiet);
    say("hum", Severity::note,
        fmt::format("Mains hum, {} dB re the noise, is left out of both.",
                    number_text(h.hum_db, 1, true)),
        "Look at ground loops between receiver and recorder");
  }
  if (const auto birdie = birdie_bin(noise, hum)) {
    const double over = db_from_power_ratio(std::max(1e-30, line_power(noise, *birdie)) / quiet);
    say("birdie", Severity::caution,
        fmt::format("A line at {} Hz, {} dB re the noise, is in the noise alone: a birdie.",
                    number_text(tone_place_hz(noise, *birdie), 0), number_text(over, 1, true)),
        "Move the test frequency by some kHz, and record both again");
  }
  if (tone) {
    h.tone_hz = tone_place_hz(signal, *tone);
    const double wanted = line_power(signal, *tone);
    h.sinad_db = db_from_power_ratio(loud / std::max(loud - wanted, loud * 1e-9));
  } else {
    say("no_tone", Severity::caution, "No tone stands out of " + signal.name + ".",
        "Tune the generator to where the receiver hears it");
  }
  for (const ReceiverAudio* a : {&noise, &signal})
    if (a->clipped > 0)
      say("clipped", Severity::fault, fmt::format("{} is clipped {} times.", a->name, a->clipped),
          "Turn the recorder down, not the receiver, and record both again");
  return h;
}

}  // namespace heron
