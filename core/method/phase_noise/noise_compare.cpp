#include "core/method/phase_noise/noise_compare.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <span>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr std::size_t kRunning = 3;  ///< bins in a row before a range is called

bool same_offsets(const NoiseCurve& a, const NoiseCurve& b) {
  return a.points.size() == b.points.size() &&
         std::equal(a.points.begin(), a.points.end(), b.points.begin(),
                    [](const CurvePoint& p, const CurvePoint& q) {
                      return std::abs(p.offset_hz - q.offset_hz) <= kSameOffset * p.offset_hz;
                    });
}

NoiseChange said(const NoiseDifference& d) {
  if (!d.is_significant) return NoiseChange::none;
  return d.delta_db < 0.0 ? NoiseChange::better : NoiseChange::worse;
}

/// What each bin says once lone ones have taken their neighbours' word.
std::vector<NoiseChange> words_of(std::span<const NoiseDifference> all) {
  std::vector<NoiseChange> words;
  for (const NoiseDifference& d : all) words.push_back(said(d));
  for (bool has_changed = true; has_changed;) {
    has_changed = false;
    for (std::size_t i = 0; i < words.size();) {
      std::size_t end = i;
      while (end < words.size() && words[end] == words[i]) ++end;
      const bool is_short = end - i < kRunning && end - i < words.size();
      if (is_short) {
        // A stretch without a word of its own is part of what lies round it; else it is nothing.
        const bool has_left = i > 0;
        const bool has_right = end < words.size();
        const NoiseChange left = has_left ? words[i - 1] : words[end];
        const NoiseChange right = has_right ? words[end] : left;
        const NoiseChange word = left == right ? left : NoiseChange::none;
        if (word != words[i]) {
          std::fill(words.begin() + static_cast<std::ptrdiff_t>(i),
                    words.begin() + static_cast<std::ptrdiff_t>(end), word);
          has_changed = true;
        }
      }
      i = end;
    }
  }
  return words;
}

/// Of a stretch without bounds.
void add_ranges(std::span<const NoiseDifference> all, std::vector<NoiseRange>& ranges) {
  const std::vector<NoiseChange> words = words_of(all);
  for (std::size_t i = 0; i < words.size();) {
    std::size_t end = i;
    while (end < words.size() && words[end] == words[i]) ++end;
    NoiseRange r{all[i].offset_hz, all[end - 1].offset_hz, words[i], all[i].delta_db,
                 all[i].delta_db};
    for (std::size_t k = i; k < end; ++k) {
      r.delta_db_min = std::min(r.delta_db_min, all[k].delta_db);
      r.delta_db_max = std::max(r.delta_db_max, all[k].delta_db);
    }
    ranges.push_back(r);
    i = end;
  }
}

/// What is hidden belongs to no range, and no range runs across it.
std::vector<NoiseRange> ranges_of(const std::vector<NoiseDifference>& all) {
  std::vector<NoiseRange> ranges;
  if (std::any_of(all.begin(), all.end(), [](const auto& d) { return !d.has_u; })) return ranges;
  const std::size_t least = std::min(kRunning, all.size());
  for (std::size_t i = 0; i < all.size();) {
    std::size_t end = i;
    while (end < all.size() && !all[end].is_bound()) ++end;
    if (end - i >= least) add_ranges(std::span(all).subspan(i, end - i), ranges);
    i = end + 1;
  }
  return ranges;
}

bool has_line_at(const std::vector<NoiseSpur>& lines, const NoiseSpur& line) {
  return std::any_of(lines.begin(), lines.end(),
                     [&](const NoiseSpur& other) { return is_same_line(other, line); });
}

const NoiseRange* widest(const std::vector<NoiseRange>& all, NoiseChange change) {
  const NoiseRange* best = nullptr;
  for (const NoiseRange& r : all)
    if (r.change == change &&
        (best == nullptr || r.high_hz / r.low_hz > best->high_hz / best->low_hz))
      best = &r;
  return best;
}

/// The differences of a range, each the median of three.
std::vector<NoiseDifference> smoothed(const std::vector<NoiseDifference>& all,
                                      const NoiseRange& range) {
  std::vector<NoiseDifference> some;
  for (const NoiseDifference& d : all)
    if (d.offset_hz >= range.low_hz && d.offset_hz <= range.high_hz) some.push_back(d);
  std::vector<NoiseDifference> smooth = some;
  for (std::size_t i = 1; i + 1 < some.size(); ++i) {
    std::vector<double> three{some[i - 1].delta_db, some[i].delta_db, some[i + 1].delta_db};
    smooth[i].delta_db = median_of(three);
  }
  return smooth;
}

/// "13 to 350 kHz": the unit once where it is the same.
std::string span_words(double from, double to) {
  std::string a = offset_words(from);
  const std::string b = offset_words(to);
  const auto unit = [](const std::string& text) { return text.substr(text.find(' ')); };
  if (unit(a) == unit(b)) a = a.substr(0, a.find(' '));
  return a + " to " + b;
}

}  // namespace

std::string change_word(NoiseChange change) {
  switch (change) {
    case NoiseChange::none:
      return "no difference";
    case NoiseChange::better:
      return "better";
    case NoiseChange::worse:
      return "worse";
    case NoiseChange::unknown:
      break;
  }
  return {};
}

NoiseCurve without_floor(const NoiseCurve& curve, const NoiseCurve& floor) {
  constexpr double kUsualU = 0.5;  // of a floor that does not state its own
  NoiseCurve all = curve;
  std::size_t shared = 0;
  double closest_db = 1e9;
  double closest_hz = 0.0;
  for (CurvePoint& p : all.points) {
    const auto f = curve_at(floor.points, p.offset_hz);
    if (!f) continue;
    ++shared;
    const double whole = power_ratio_from_db(p.l_dbc_hz);
    const double own = power_ratio_from_db(f->l_dbc_hz);
    const double u_floor = floor.has_u ? f->u_db : kUsualU;
    const double u = kPowerPerDb * std::hypot(whole * p.u_db, own * u_floor);
    const double left = whole - own;
    if (p.l_dbc_hz - f->l_dbc_hz < closest_db) {
      closest_db = p.l_dbc_hz - f->l_dbc_hz;
      closest_hz = p.offset_hz;
    }
    if (left <= 2.0 * u || p.bound == Bound::upper) {
      // What is there is at most what was not explained.
      p.bound = Bound::upper;
      p.l_dbc_hz = db_from_power_ratio(std::max({left + 2.0 * u, 2.0 * u, 1e-3 * whole}));
      p.l_dbc_hz = std::min(p.l_dbc_hz, db_from_power_ratio(whole));
      continue;
    }
    p.l_dbc_hz = db_from_power_ratio(left);
    p.u_db = u / left / kPowerPerDb;
  }
  if (shared == 0)
    throw InputError(floor.name, "", "it shares no offset with " + curve.name,
                     "Record the floor over the same offsets");
  all.has_u = curve.has_u || floor.has_u;
  const bool is_hidden = std::any_of(all.points.begin(), all.points.end(),
                                     [](const auto& p) { return p.bound == Bound::upper; });
  if (closest_db < 10.0)
    all.remarks.push_back(
        {"floor_near", is_hidden ? Severity::caution : Severity::note,
         is_hidden ? fmt::format("At {} the floor hides the device: there only a bound is known.",
                                 frequency_text(closest_hz))
                   : fmt::format("At {} the floor is only {} dB lower: it is subtracted, with its "
                                 "own \u00b1.",
                                 frequency_text(closest_hz), number_text(closest_db, 1)),
         is_hidden ? "Measure after multiplication, or with a quieter instrument" : ""});
  return all;
}

CommonCurves common_points(const NoiseCurve& a, const NoiseCurve& b, int per_decade) {
  CommonCurves common;
  if (same_offsets(a, b)) return {a.points, b.points};
  if (a.per_decade > 0 && b.per_decade > 0) per_decade = std::min(a.per_decade, b.per_decade);
  const NoiseCurve ra = rebinned(a, per_decade);
  const NoiseCurve rb = rebinned(b, per_decade);
  const double low = std::max(a.low_hz(), b.low_hz());
  const double high = std::min(a.high_hz(), b.high_hz());
  if (!(low > 0.0) || high < low) return common;
  for (int k = static_cast<int>(std::ceil(std::log10(low) * per_decade - kSameOffset));
       k <= static_cast<int>(std::floor(std::log10(high) * per_decade + kSameOffset)); ++k) {
    const double hz = std::pow(10.0, static_cast<double>(k) / per_decade);
    // Wider bins may begin a little later than what they are made of.
    auto pa = curve_at(ra.points, hz);
    auto pb = curve_at(rb.points, hz);
    if (!pa) pa = curve_at(a.points, hz);
    if (!pb) pb = curve_at(b.points, hz);
    if (!pa || !pb) continue;
    common.a.push_back(*pa);
    common.b.push_back(*pb);
  }
  return common;
}

NoiseComparison compare_noise(const NoiseCurve& before, const NoiseCurve& after,
                              double repeats_db) {
  const bool are_unlike = before.detector != after.detector &&
                          before.detector != NoiseDetector::unknown &&
                          after.detector != NoiseDetector::unknown;
  NoiseComparison c;
  const CommonCurves common = common_points(before, after);
  if (common.a.empty())
    throw InputError(after.name, "", "it shares no offset with " + before.name,
                     "Compare curves over the same offsets");
  if (are_unlike)
    c.remarks.push_back(
        {"detectors", Severity::note,
         "One was averaged in power, the other in decibels: 2.5 dB are corrected, which holds for "
         "noise only.",
         "Take both with one detector"});
  for (std::size_t i = 0; i < common.a.size(); ++i) {
    const CurvePoint& b = common.a[i];
    const CurvePoint& a = common.b[i];
    NoiseDifference d;
    d.offset_hz = b.offset_hz;
    d.delta_db = a.l_dbc_hz - b.l_dbc_hz;
    d.has_u = before.has_u && after.has_u;
    d.u_db = std::sqrt(a.u_db * a.u_db + b.u_db * b.u_db + 2.0 * repeats_db * repeats_db);
    d.is_before_hidden = b.bound == Bound::upper;
    d.is_after_hidden = a.bound == Bound::upper;
    // At most what was there before is a gain of at least so much, and the other way round.
    const double by =
        d.is_bound() ? (d.is_before_hidden ? d.delta_db : -d.delta_db) : std::abs(d.delta_db);
    d.is_significant = d.has_u && !(d.is_before_hidden && d.is_after_hidden) && by > 2.0 * d.u_db;
    c.differences.push_back(d);
  }
  c.ranges = ranges_of(c.differences);
  for (const NoiseSpur& s : after.spurs)
    if (!has_line_at(before.spurs, s) && shows_line(before, s)) c.gained.push_back(s);
  for (const NoiseSpur& s : before.spurs)
    if (!has_line_at(after.spurs, s) && shows_line(after, s)) c.lost.push_back(s);
  if (!before.has_u || !after.has_u)
    c.remarks.push_back({"no_u", Severity::note,
                         "A curve without its own \u00b1 shows differences, not whether they mean "
                         "anything.",
                         "Add a column u_db"});
  return c;
}

std::string change_sentence(const NoiseComparison& comparison) {
  const auto& all = comparison.ranges;
  if (all.empty()) return {};
  const double low = all.front().low_hz;
  const double high = all.back().high_hz;
  const auto where = [&](double from, double to) {
    if (from <= low * (1.0 + kSameOffset) && to >= high * (1.0 - kSameOffset))
      return std::string("everywhere");
    if (from <= low * (1.0 + kSameOffset)) return "below " + offset_words(to);
    if (to >= high * (1.0 - kSameOffset)) return "above " + offset_words(from);
    return "from " + span_words(from, to);
  };
  std::vector<std::string> parts;
  for (const NoiseChange change : {NoiseChange::better, NoiseChange::worse}) {
    const NoiseRange* r = widest(all, change);
    if (r == nullptr) continue;
    // Where it is within a decibel of its best; a lone bin is not the best.
    const std::vector<NoiseDifference> inside = smoothed(comparison.differences, *r);
    double best = 0.0;
    for (const NoiseDifference& d : inside)
      if (change == NoiseChange::better ? d.delta_db < best : d.delta_db > best) best = d.delta_db;
    double from = 0.0;
    double to = 0.0;
    double least = std::abs(best);
    for (const NoiseDifference& d : inside) {
      if (std::abs(d.delta_db - best) > 1.0) continue;
      if (from == 0.0) from = d.offset_hz;
      to = d.offset_hz;
      least = std::min(least, std::abs(d.delta_db));
    }
    const std::string a = number_text(least, least < 10.0 && std::abs(best) < 3.0 ? 1 : 0);
    const std::string b = number_text(std::abs(best), std::abs(best) < 3.0 ? 1 : 0);
    parts.push_back(fmt::format("{} by {} dB {}", change_word(change),
                                a == b ? a : fmt::format("{} to {}", a, b), where(from, to)));
  }
  const NoiseRange* same = widest(all, NoiseChange::none);
  if (same != nullptr) parts.push_back("no difference " + where(same->low_hz, same->high_hz));
  std::string text;
  for (const std::string& part : parts) {
    if (!text.empty()) text += ", ";
    text += part;
  }
  return text;
}

}  // namespace heron
