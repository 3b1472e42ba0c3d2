#include "core/method/two_tone/two_tone_typed.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/station_power.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"
#include "core/signal/median.h"

namespace heron {
namespace {

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  const std::size_t n = values.size();
  return n % 2 == 1 ? values[n / 2] : (values[n / 2 - 1] + values[n / 2]) / 2.0;
}

constexpr int kHighestTyped = 15;

/// What a difference of levels smells of; empty if of nothing known.
std::string smell(double db) {
  const double size = std::abs(db);
  const char* way = db > 0.0 ? "high" : "low";
  if (std::abs(size - 6.02) < 0.5) return fmt::format("6 dB {}: EMF read as PD, a factor 2?", way);
  if (std::abs(size - 20.0) < 0.8) return fmt::format("20 dB {}: a 10:1 probe left in?", way);
  if (std::abs(size - 10.0) < 0.5) return fmt::format("10 dB {}: a decimal point?", way);
  if (std::abs(size - 3.01) < 0.35)
    return fmt::format("3 dB {}: mean power for peak envelope?", way);
  return {};
}

struct Driven {
  std::size_t step;
  double drive_dbm;
  double output_dbm;
};

/// Outputs against what the steps are named after.
void doubt_outputs(const std::vector<TypedStep>& steps, std::vector<ReadingDoubt>& doubts) {
  std::vector<Driven> list;
  for (std::size_t i = 0; i < steps.size(); ++i) {
    if (steps[i].output_dbm && *steps[i].output_dbm > kMostStationDbm)
      doubts.push_back(
          {i, 0,
           fmt::format("Output {}: more than any amateur station sends.",
                       engineering_text(to_watt(Dbm{*steps[i].output_dbm}).value, "W", 3))});
    const auto drive = drive_of_label(steps[i].label);
    if (drive && steps[i].output_dbm) list.push_back({i, *drive, *steps[i].output_dbm});
  }
  if (list.size() < 3) return;
  for (const Driven& d : list) {
    std::vector<double> others;
    for (const Driven& o : list) {
      if (o.step != d.step) others.push_back(o.output_dbm - o.drive_dbm);
    }
    const double usual = median(others);
    std::vector<double> scatter;
    for (const double v : others) scatter.push_back(std::abs(v - usual));
    const double odd = d.output_dbm - d.drive_dbm - usual;
    if (std::abs(odd) < std::max(1.5, 3.5 * kMedianToSigma * median(scatter))) continue;
    const std::string cause = smell(odd);
    doubts.push_back({d.step, 0,
                      cause.empty()
                          ? fmt::format("{} dB off what the other steps lead one to expect.",
                                        number_text(odd, 1, true))
                          : "Output " + cause});
  }
  std::stable_sort(list.begin(), list.end(),
                   [](const Driven& a, const Driven& b) { return a.drive_dbm < b.drive_dbm; });
  for (std::size_t i = 1; i < list.size(); ++i) {
    const double fall = list[i - 1].output_dbm - list[i].output_dbm;
    const bool known = std::any_of(doubts.begin(), doubts.end(), [&](const ReadingDoubt& d) {
      return d.step == list[i].step || d.step == list[i - 1].step;
    });
    if (fall > 0.5 && !known)
      doubts.push_back(
          {list[i].step, 0,
           fmt::format("Output falls by {} dB although drive rises.", number_text(fall, 1))});
  }
}

void doubt_products(const std::vector<TypedStep>& steps, std::vector<ReadingDoubt>& doubts) {
  struct Point {
    std::size_t step;
    double output_dbm;
    double level_db;
  };
  for (int order = 3; order <= 15; order += 2) {
    std::vector<Point> points;
    for (std::size_t i = 0; i < steps.size(); ++i) {
      for (const TypedProduct& p : steps[i].products) {
        if (p.order != order) continue;
        if (p.level_db > -8.0)
          doubts.push_back({i, order,
                            fmt::format("IM{} only {} dB down: stronger than any usable "
                                        "transmitter produces it. The right convention?",
                                        order, number_text(-p.level_db, 1))});
        if (steps[i].output_dbm && !p.is_bound)
          points.push_back({i, *steps[i].output_dbm, p.level_db});
      }
    }
    std::stable_sort(points.begin(), points.end(),
                     [](const Point& a, const Point& b) { return a.output_dbm < b.output_dbm; });
    // One odd value makes two odd slopes: blame the point that both have.
    // Up to 6 dB a dB is ordinary, and a product may dip where two of them cancel.
    constexpr double kSteepest = 6.0;
    constexpr double kFarOff = 20.0;
    std::vector<int> blame(points.size(), 0);
    for (std::size_t i = 1; i < points.size(); ++i) {
      const double dx = std::max(0.3, points[i].output_dbm - points[i - 1].output_dbm);
      const double change = points[i].level_db - points[i - 1].level_db;
      if (std::abs(change) < kFarOff || std::abs(change) / dx <= kSteepest) continue;
      ++blame[i];
      ++blame[i - 1];
    }
    const auto most = std::max_element(blame.begin(), blame.end());
    if (most == blame.end() || *most == 0) continue;
    const auto odd = static_cast<std::size_t>(most - blame.begin());
    const std::size_t at =
        odd + 1 < points.size() && blame[odd + 1] == *most && odd == 0 && points.size() == 2
            ? odd + 1
            : odd;
    const std::size_t other = at > 0 ? at - 1 : at + 1;
    const double dx = std::max(0.3, std::abs(points[at].output_dbm - points[other].output_dbm));
    doubts.push_back(
        {points[at].step, order,
         fmt::format("IM{} changes {} dB per dB of output: no amplifier does that.", order,
                     number_text(std::abs(points[at].level_db - points[other].level_db) / dx, 1))});
  }
}

}  // namespace

TypedProduct parse_product(std::string_view raw, int order, const std::string& convention) {
  const std::string text = normalised_typing(raw);
  TypedProduct product;
  product.order = order;
  product.typed = std::string(raw);
  product.convention = convention;
  std::string rest = text;
  for (const std::string_view mark : {"\u2264", "<=", "<"}) {
    if (!rest.starts_with(mark)) continue;
    product.is_bound = true;
    rest = normalised_typing(rest.substr(mark.size()));
    break;
  }
  const auto number = leading_number(rest);
  const std::string unit = number ? lower_case(number->rest) : "";
  const bool is_known = unit.empty() || unit == "db" || unit == "dbc" || unit == "db pep";
  if (!number || !is_known || !std::isfinite(number->value) || std::abs(number->value) > 150.0)
    throw InputError("\u201c" + std::string(raw) + "\u201d", "", "this is not a product's level",
                     "Type it like \u221231.5, or < \u221260 where only the floor was seen");
  // A product is below the tones; people leave the sign out.
  product.level_db = -std::abs(number->value);
  return product;
}

Reading to_reading(const TypedProduct& p) {
  Reading r;
  r.quantity = "im" + std::to_string(p.order);
  r.value = p.level_db;
  r.unit = "dB";
  r.convention = p.convention;
  r.bound = p.is_bound ? Bound::upper : Bound::none;
  r.typed = p.typed;
  return r;
}

std::optional<TypedProduct> product_from(const Reading& r) {
  for (int order = 3; order <= kHighestTyped; order += 2) {
    if (r.quantity != "im" + std::to_string(order)) continue;
    if (r.unit != "dB" || (r.convention != kRePep && r.convention != kReOneTone))
      throw InputError("a typed reading", r.quantity, "its unit or convention is not known",
                       "Type it again");
    return TypedProduct{order, r.typed, r.value, r.convention, r.bound == Bound::upper};
  }
  return std::nullopt;
}

std::vector<TypedProduct> products_of(const std::vector<Reading>& readings) {
  std::vector<TypedProduct> all;
  for (const Reading& r : readings) {
    if (r.source != ReadingSource::typed || r.role != ReadingRole::at) continue;
    try {
      if (auto product = product_from(r)) all.push_back(std::move(*product));
    } catch (const InputError&) {
      continue;  // whoever reads the evidence says that it is damaged
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const TypedProduct& a, const TypedProduct& b) { return a.order < b.order; });
  return all;
}

TwoToneAnalysis analysis_from_readings(const std::vector<TypedProduct>& products, double u_db) {
  TwoToneAnalysis a;
  a.input = "readings typed by hand";
  a.noise_source = "reading off the screen";
  a.capture.name = a.input;
  a.capture.format = "typed";
  a.tones = {{0.0, 0.0, -6.0206, 0.0}, {0.0, 0.0, -6.0206, 0.0}};
  a.set_references();
  for (const TypedProduct& t : products) {
    TwoToneProduct p;
    p.order = t.order;
    p.side = Side::lower;
    p.level_dbc = t.level_db + (t.convention == kRePep ? a.pep_over_tone_db() : 0.0);
    p.level_db_pep = p.level_dbc - a.pep_over_tone_db();
    p.is_bound = t.is_bound;
    p.u_db = t.is_bound ? 0.0 : u_db;
    p.floor_dbc = -200.0;
    a.products.push_back(p);
  }
  return a;
}

std::vector<ReadingDoubt> doubt_readings(const std::vector<TypedStep>& steps) {
  std::vector<ReadingDoubt> doubts;
  doubt_outputs(steps, doubts);
  doubt_products(steps, doubts);
  std::stable_sort(doubts.begin(), doubts.end(),
                   [](const ReadingDoubt& a, const ReadingDoubt& b) { return a.step < b.step; });
  return doubts;
}

}  // namespace heron
