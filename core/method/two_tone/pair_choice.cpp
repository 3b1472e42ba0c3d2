#include "core/method/two_tone/pair_choice.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kMostImbalanceDb = 7.0;
constexpr std::size_t kCandidates = 14;
/// A product stands at least so far below both tones.
constexpr double kBelowTones = 0.25;  // 6 dB
/// Other carriers in the band may be stronger than the tones, but not by more than 12 dB.
constexpr double kWeakest = 0.063;
constexpr double kTellsApart = 2.0;

/// Where the tones are looked for.
struct Field {
  double within_hz;                                   ///< of their places products are looked for
  double dc_hz = -1.0;                                ///< up to here around 0 Hz nothing is a tone
  std::optional<double> mains_bin_hz = std::nullopt;  ///< set: mains multiples are hum

  bool is_dc(const SpectralLine& line) const { return std::abs(line.frequency_hz) < dc_hz; }
  bool is_mains(const SpectralLine& line) const {
    return mains_bin_hz && is_mains_line(line.frequency_hz, *mains_bin_hz);
  }
};

struct Scored {
  LinePair pair;
  double score = 0.0;
};

/// What speaks for a pair: products at their places count by order, a line that is too strong for
/// one against it; a decibel of strength or of balance counts for a fraction.
double score_of(const LinePair& pair, const std::vector<SpectralLine>& lines, double strongest_db,
                double tolerance_hz) {
  constexpr double kWeights[] = {3.0, 2.0, 1.0};  // third, fifth, seventh order
  constexpr double kTooStrong = -3.0;
  const auto& [a, b] = pair;
  const double spacing = b.frequency_hz - a.frequency_hz;
  const double most = kBelowTones * std::min(a.power, b.power);
  double score = 0.3 * (db_from_power_ratio(a.power + b.power) - strongest_db) -
                 0.4 * std::abs(db_from_power_ratio(a.power / b.power));
  for (int k = 1; k <= 3; ++k) {
    for (const double place : {a.frequency_hz - k * spacing, b.frequency_hz + k * spacing}) {
      const auto line = std::find_if(lines.begin(), lines.end(), [&](const SpectralLine& l) {
        return std::abs(l.frequency_hz - place) < tolerance_hz;
      });
      if (line != lines.end()) score += line->power < most ? kWeights[k - 1] : kTooStrong;
    }
  }
  return score;
}

/// The most plausible pairs, best first; with `one_mains`, one of the two may lie on a multiple of
/// the mains frequency.
std::vector<Scored> scored_pairs(const Field& field, const std::vector<SpectralLine>& lines,
                                 bool one_mains) {
  std::vector<SpectralLine> candidates;
  for (const SpectralLine& line : lines) {
    if (field.is_dc(line)) continue;
    if (!one_mains && field.is_mains(line)) continue;
    candidates.push_back(line);
    if (candidates.size() == kCandidates) break;
  }
  std::vector<Scored> pairs;
  if (candidates.size() < 2) return pairs;
  // Two equal products of tones that are left out must not pass for tones.
  double strongest = 0.0;
  for (const SpectralLine& line : lines) {
    if (!field.is_dc(line)) strongest = std::max(strongest, line.power);
  }
  const double strongest_db = db_from_power_ratio(candidates[0].power + candidates[1].power);
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    for (std::size_t j = i + 1; j < candidates.size(); ++j) {
      SpectralLine a = candidates[i];
      SpectralLine b = candidates[j];
      if (db_from_power_ratio(a.power / b.power) > kMostImbalanceDb) continue;
      if (field.is_mains(a) && field.is_mains(b)) continue;
      if (std::max(a.power, b.power) < kWeakest * strongest) continue;
      if (a.frequency_hz > b.frequency_hz) std::swap(a, b);
      pairs.push_back({{a, b}, score_of({a, b}, lines, strongest_db, field.within_hz)});
    }
  }
  std::stable_sort(pairs.begin(), pairs.end(),
                   [](const Scored& x, const Scored& y) { return x.score > y.score; });
  return pairs;
}

PairChoice choice_of(const std::vector<Scored>& pairs) {
  PairChoice choice;
  if (pairs.empty()) return choice;
  for (const Scored& p : pairs) {
    if (p.score > pairs.front().score - kTellsApart) choice.rivals.push_back(p.pair);
  }
  if (choice.rivals.size() == 1) {
    choice.pair = choice.rivals.front();
    choice.rivals.clear();
  }
  return choice;
}

}  // namespace

PairChoice choose_tone_pair(const Spectrum& s, const std::vector<SpectralLine>& lines) {
  const double bin = s.bin_hz();
  const Field field{2.5 * bin, 4.0 * bin, bin};
  std::vector<Scored> pairs = scored_pairs(field, lines, false);
  // I/Q counts from the centre, where 240 Hz is as good a place for a tone as any; in audio it is
  // more likely hum.
  if (pairs.empty() && s.is_complex) pairs = scored_pairs(field, lines, true);
  return choice_of(pairs);
}

PairChoice choose_tone_pair(const std::vector<SpectralLine>& lines, double within_hz) {
  return choice_of(scored_pairs(Field{within_hz}, lines, false));
}

std::string rivals_text(const std::vector<LinePair>& rivals,
                        const std::function<std::string(const LinePair&)>& text) {
  constexpr std::size_t kNamed = 4;
  std::string list;
  for (std::size_t i = 0; i < std::min(kNamed, rivals.size()); ++i)
    list += (i == 0 ? "" : "; ") + text(rivals[i]);
  if (rivals.size() > kNamed) list += fmt::format("; and {} more pairs", rivals.size() - kNamed);
  return "Several pairs of lines could be the tones: " + list + ".";
}

AskedPair find_asked_pair(const std::vector<SpectralLine>& lines, double first_hz, double second_hz,
                          double resolution_hz) {
  constexpr double kLeastHz = 10.0;
  const double reach =
      std::max({kLeastHz, 3.0 * resolution_hz, 0.1 * std::abs(second_hz - first_hz)});
  // Lines come strongest first.
  const auto at = [&](double hz) {
    return std::find_if(lines.begin(), lines.end(), [&](const SpectralLine& line) {
      return std::abs(line.frequency_hz - hz) <= reach;
    });
  };
  AskedPair asked;
  asked.reach_hz = reach;
  const double lower = std::min(first_hz, second_hz);
  const double upper = std::max(first_hz, second_hz);
  const auto a = at(lower);
  const auto b = at(upper);
  if (a != lines.end() && b != lines.end() && a != b) asked.pair = LinePair{*a, *b};
  const auto mirror_a = at(-lower);
  const auto mirror_b = at(-upper);
  // As strong as tones: products stand there too.
  const bool mirrors = mirror_a != lines.end() && mirror_b != lines.end() &&
                       std::min(mirror_a->power, mirror_b->power) > 0.1 * lines.front().power;
  // An image stands far below its tone; where it is the other way round, the sides are exchanged.
  if (mirrors &&
      (!asked.pair || (mirror_a->power > 4.0 * a->power && mirror_b->power > 4.0 * b->power))) {
    asked.is_mirrored = true;
    asked.pair.reset();
  }
  if (!asked.pair) asked.missing_hz = a == lines.end() || asked.is_mirrored ? lower : upper;
  return asked;
}

}  // namespace heron
