#include "core/method/amplifier/response.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kLevelledDb = 1.0;     // a driver that is not levelled better than that
constexpr double kBridgedDb = 1.0;      // between two points, so that an edge is interpolated
constexpr double kWorthSayingDb = 0.3;  // of compression

std::string refusal_of(const ResponseReading& r) {
  if (!r.refusal.empty()) return r.refusal;
  if (!r.output) return "";
  if (!r.frequency_hz || *r.frequency_hz <= 0.0) return "its frequency is missing";
  if (!r.input) return "its output was read, its drive was not";
  if (r.amperes && r.amperes->value < 0.0) return "its supply amperes are below 0";
  return "";
}

/// By drive, those within a decibel together.
std::vector<ResponseSweep> sweeps_of(const std::vector<ResponseReading>& readings,
                                     const std::vector<std::string>& refusals) {
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < readings.size(); ++i)
    if (readings[i].output && refusals[i].empty()) order.push_back(i);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return readings[a].input->value < readings[b].input->value;
  });
  std::vector<ResponseSweep> sweeps;
  double begins = 0.0;
  for (const std::size_t i : order) {
    const ResponseReading& r = readings[i];
    if (sweeps.empty() || r.input->value - begins > kLevelledDb) {
      sweeps.emplace_back();
      begins = r.input->value;
    }
    ResponsePoint p;
    p.frequency_hz = *r.frequency_hz;
    p.gain = gain_figure(*r.output, *r.input);
    p.output_dbm = r.output->value;
    p.amperes = r.amperes;
    p.reading = i;
    sweeps.back().drive_dbm += r.input->value;
    sweeps.back().points.push_back(std::move(p));
  }
  for (ResponseSweep& s : sweeps) {
    s.drive_dbm /= static_cast<double>(s.points.size());
    std::stable_sort(s.points.begin(), s.points.end(),
                     [](const auto& a, const auto& b) { return a.frequency_hz < b.frequency_hz; });
    s.highest = static_cast<std::size_t>(
        std::max_element(s.points.begin(), s.points.end(),
                         [](const auto& a, const auto& b) { return a.gain.value < b.gain.value; }) -
        s.points.begin());
  }
  return sweeps;
}

/// From the highest gain outwards, the first way down through a level.
std::optional<ResponseEdge> edge_of(const ResponseSweep& s, double down_db, bool is_lower) {
  const double level = s.points[s.highest].gain.value - down_db;
  const auto at = [&](std::size_t i) -> const ResponsePoint& { return s.points[i]; };
  std::size_t inner = s.highest;
  while (true) {
    if (is_lower ? inner == 0 : inner + 1 == s.points.size()) return std::nullopt;
    const std::size_t outer = is_lower ? inner - 1 : inner + 1;
    if (at(outer).gain.value > level) {
      inner = outer;
      continue;
    }
    const ResponsePoint& a = at(inner);
    const ResponsePoint& b = at(outer);
    ResponseEdge edge{down_db, is_lower, std::nullopt, 0.0, std::nullopt};
    const double drop = a.gain.value - b.gain.value;
    if (drop > kBridgedDb) {
      edge.between = std::minmax(a.frequency_hz, b.frequency_hz);
      return edge;
    }
    const double share = drop > 0.0 ? (a.gain.value - level) / drop : 1.0;
    const double gap = b.frequency_hz - a.frequency_hz;
    edge.hz = a.frequency_hz + share * gap;
    const double u_gain = std::hypot(a.gain.independent_u(), at(s.highest).gain.independent_u());
    edge.u_hz =
        std::hypot(drop > 0.0 ? std::min(u_gain / drop, 1.0) * std::abs(gap) : std::abs(gap),
                   0.1 * std::abs(gap) / std::sqrt(3.0));
    return edge;
  }
}

/// Highest less lowest gain: what is common to all points cancels.
Figure slope_of(const ResponsePoint& high, const ResponsePoint& low) {
  Figure f;
  f.id = "slope";
  f.label = "Slope over the band";
  f.unit = "dB";
  f.value = high.gain.value - low.gain.value;
  f.contributions = {{"highest gain", high.gain.independent_u(), Scope::independent},
                     {"lowest gain", low.gain.independent_u(), Scope::independent}};
  return f;
}

/// Of the point that is driven hardest at this frequency; else of the sweep itself.
DropReason reason_of(const ResponsePoint& low, const ResponsePoint& high, const Figure& slope) {
  if (slope.value <= std::max(slope.expanded(), 0.1)) return DropReason::flat;
  if (!low.amperes || !low.expected_a) return DropReason::unknown;
  const double u = std::max(low.amperes->expanded(), 0.02 * low.amperes->value);
  // Only a drop that current would follow visibly says why.
  if (high.expected_a && std::abs(*high.expected_a - *low.expected_a) < u)
    return DropReason::unknown;
  return low.amperes->value > *low.expected_a + u ? DropReason::output_network : DropReason::gain;
}

BandGain band_gain(const ResponseSweep& s, const ResponseSweep& hardest, const BandMarker& band,
                   const ResponsePlan& plan) {
  BandGain row;
  row.band = band;
  const auto inside = [&](const ResponseSweep& of) {
    std::vector<const ResponsePoint*> all;
    for (const ResponsePoint& p : of.points)
      if (p.frequency_hz >= band.from_hz - 1.0 && p.frequency_hz <= band.to_hz + 1.0)
        all.push_back(&p);
    return all;
  };
  const auto lower = [](const ResponsePoint* a, const ResponsePoint* b) {
    return a->gain.value < b->gain.value;
  };
  const auto points = inside(s);
  row.points = points.size();
  if (points.empty()) return row;
  const ResponsePoint& low = **std::min_element(points.begin(), points.end(), lower);
  const ResponsePoint& high = **std::max_element(points.begin(), points.end(), lower);
  row.lowest = low.gain;
  row.lowest->id = "lowest_gain";
  row.lowest->label = "Lowest gain in " + band.name;
  row.lowest_hz = low.frequency_hz;
  if (points.size() > 1) row.slope = slope_of(high, low);
  const auto driven = inside(hardest);
  if (!driven.empty()) {
    const ResponsePoint& d_low = **std::min_element(driven.begin(), driven.end(), lower);
    const ResponsePoint& d_high = **std::max_element(driven.begin(), driven.end(), lower);
    row.amperes = d_low.amperes;
    if (driven.size() > 1) row.drop = reason_of(d_low, d_high, slope_of(d_high, d_low));
  }
  if (plan.least_gain_db) {
    Limit limit{"", Sense::at_least, *plan.least_gain_db, "dB", "", kGainMarginSpanDb};
    row.judgement = judge(*row.lowest, limit);
  }
  if (plan.most_slope_db && row.slope) {
    Limit limit{"", Sense::at_most, *plan.most_slope_db, "dB", "", kGainMarginSpanDb};
    row.slope_judgement = judge(*row.slope, limit);
  }
  return row;
}

void remark_sweeps(const Response& r, const ResponsePlan& plan, std::vector<Remark>& to) {
  if (r.sweeps.empty()) return;
  const ResponseSweep& first = r.sweeps.front();
  if (first.down_db && *first.down_db > kWorthSayingDb)
    to.push_back({"in_compression", Severity::caution,
                  fmt::format("At {} of drive it is {} dB in compression: this is the response of "
                              "a compressed amplifier, "
                              "flatter than that of its gain.",
                              watts_text(first.drive_dbm), number_text(*first.down_db, 1)),
                  "Take it once more with 10 dB less drive"});
  if (first.points.size() < 3)
    to.push_back({"few_points", Severity::note,
                  fmt::format("{} {}: this test could not have shown what lies between.",
                              first.points.size(), first.points.size() == 1 ? "point" : "points"),
                  ""});
  for (const ResponseEdge& e : first.edges) {
    if (!e.between) continue;
    to.push_back(
        {"edge_between", Severity::note,
         fmt::format(
             "The {} {} dB edge lies between {} and {}: the points are too far apart for a figure.",
             e.is_lower ? "lower" : "upper", number_text(e.down_db, 0),
             megahertz_text(e.between->first), megahertz_text(e.between->second)),
         "Add points between them"});
  }
  const auto has_current = [](const ResponseSweep& s) {
    return std::any_of(s.points.begin(), s.points.end(),
                       [](const auto& p) { return p.amperes.has_value(); });
  };
  if (plan.series == nullptr || !plan.series->current) {
    if (has_current(r.sweeps.back()))
      to.push_back({"no_series", Severity::note,
                    "Whether gain or the output network makes it drop is not known without a drive "
                    "series of this amplifier.",
                    "Measure gain and compression first, with volts and amperes"});
  }
  for (const BandGain& b : r.bands) {
    constexpr double kDeepDb = 3.0;
    if (b.points == 0)
      to.push_back({"band_unread", Severity::note, "No point lies in " + b.band.name + ".",
                    "Add one, or remove the marker"});
    else if (b.slope && b.slope->value > kDeepDb)
      to.push_back({"deep", Severity::caution,
                    fmt::format("{}: {} dB less at {} than at its best.", b.band.name,
                                number_text(b.slope->value, 1), megahertz_text(b.lowest_hz)),
                    ""});
  }
  const auto bands_of = [&](DropReason reason) {
    std::string names;
    for (const BandGain& b : r.bands)
      if (b.drop == reason) names += (names.empty() ? "" : ", ") + b.band.name;
    return names;
  };
  if (const std::string names = bands_of(DropReason::gain); !names.empty())
    to.push_back(
        {"drop_gain", Severity::note,
         names + ": current falls with the output, as over drive: less drive arrives at the stage.",
         "Try the input match first"});
  if (const std::string names = bands_of(DropReason::output_network); !names.empty())
    to.push_back({"drop_output", Severity::note,
                  names + ": current stays where output drops: the stage works, the output network "
                          "keeps it in as heat.",
                  "Look at the output match, and mind the heat there"});
}

}  // namespace

std::string drop_words(DropReason reason) {
  switch (reason) {
    case DropReason::unknown:
      return "";
    case DropReason::flat:
      return "flat";
    case DropReason::gain:
      return "gain";
    case DropReason::output_network:
      return "output network";
  }
  return "";
}

std::optional<std::size_t> Response::headline() const {
  std::optional<std::size_t> worst;
  for (std::size_t i = 0; i < bands.size(); ++i) {
    if (!bands[i].lowest) continue;
    if (!worst) {
      worst = i;
      continue;
    }
    const BandGain& w = bands[*worst];
    const bool is_worse_band = bands[i].judgement && w.judgement
                                   ? is_worse(*bands[i].judgement, *w.judgement)
                                   : bands[i].lowest->value < w.lowest->value;
    if (is_worse_band) worst = i;
  }
  return worst;
}

Response assess_response(const std::vector<ResponseReading>& readings, const ResponsePlan& plan) {
  Response r;
  for (const ResponseReading& reading : readings) {
    r.refusals.push_back(refusal_of(reading));
    if (!r.refusals.back().empty())
      r.remarks.push_back({"row", Severity::caution,
                           reading.label + ": " + r.refusals.back() + "; it is left out.",
                           "Correct the row"});
  }
  r.sweeps = sweeps_of(readings, r.refusals);
  for (ResponseSweep& s : r.sweeps) {
    for (const double down : {1.0, 3.0}) {
      for (const bool is_lower : {true, false})
        if (auto edge = edge_of(s, down, is_lower)) s.edges.push_back(*edge);
    }
    if (plan.series == nullptr) continue;
    if (plan.series->current) {
      for (ResponsePoint& p : s.points)
        p.expected_a = plan.series->current->at(to_watt(Dbm{p.output_dbm}).value).value;
    }
    if (const auto out = plan.series->curve.output_at(s.drive_dbm))
      s.down_db = s.drive_dbm + plan.series->curve.gain_db() - *out;
  }
  if (!r.sweeps.empty()) {
    // Without a drive series two drives tell too.
    ResponseSweep& last = r.sweeps.back();
    if (!last.down_db && r.sweeps.size() > 1) {
      const double low = r.sweeps.front().points[r.sweeps.front().highest].gain.value;
      last.down_db = std::max(0.0, low - last.points[last.highest].gain.value);
    }
    for (const BandMarker& b : plan.bands)
      r.bands.push_back(band_gain(r.sweeps.front(), r.sweeps.back(), b, plan));
    remark_sweeps(r, plan, r.remarks);
  }
  sort_remarks(r.remarks);
  return r;
}

}  // namespace heron
