// What an analysis says in the common vocabulary; how it is made is in two_tone.cpp.
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/two_tone/two_tone.h"
#include "core/quantity/levels.h"

namespace heron {

void TwoToneAnalysis::set_references() {
  const double p1 = power_ratio_from_db(tones[0].level_dbfs);
  const double p2 = power_ratio_from_db(tones[1].level_dbfs);
  one_tone_dbfs = db_from_power_ratio((p1 + p2) / 2.0);
  pep_dbfs = one_tone_dbfs + pep_over_one_tone(std::sqrt(p2 / p1)).value;
}

const TwoToneProduct* TwoToneAnalysis::worst() const {
  const auto found =
      std::max_element(products.begin(), products.end(),
                       [](const auto& a, const auto& b) { return a.level_dbc < b.level_dbc; });
  return found == products.end() ? nullptr : &*found;
}

const TwoToneProduct* TwoToneAnalysis::find(int order, Side side) const {
  const auto found = std::find_if(products.begin(), products.end(), [&](const TwoToneProduct& p) {
    return p.order == order && p.side == side;
  });
  return found == products.end() ? nullptr : &*found;
}

const TwoToneProduct* TwoToneAnalysis::worse_side(int order) const {
  const TwoToneProduct* lower = find(order, Side::lower);
  const TwoToneProduct* upper = find(order, Side::upper);
  if (lower == nullptr || upper == nullptr) return lower == nullptr ? upper : lower;
  return lower->level_dbc > upper->level_dbc ? lower : upper;
}

std::string product_name(const TwoToneProduct& product) {
  return fmt::format("IM{} {}", product.order, product.side == Side::lower ? "lower" : "upper");
}

void set_linearity(TwoToneAnalysis& a, const RecorderLinearity& linearity, bool has_hookup) {
  a.linearity = linearity;
  if (a.products.empty()) return;
  add_linearity_remark(a.remarks, linearity, has_hookup);
  sort_remarks(a.remarks);
}

Figure product_figure(const TwoToneAnalysis& a, const TwoToneProduct& p,
                      const std::string& convention) {
  Figure figure;
  figure.id = fmt::format("im{}_{}", p.order, p.side == Side::lower ? "lower" : "upper");
  figure.label = product_name(p);
  figure.unit = "dB";
  figure.convention = convention;
  figure.value = convention == kRePep ? p.level_db_pep : p.level_dbc;
  // A bound holds its noise at 95 % already; what else moves it is its guard band.
  if (p.is_bound)
    figure.bound = Bound::upper;
  else
    figure.contributions.push_back({a.noise_source, p.u_db, Scope::independent});
  if (a.repeatability_u_db > 0.0)
    figure.contributions.push_back({"repeatability", a.repeatability_u_db, Scope::independent});
  if (a.linearity.u_db > 0.0) figure.contributions.push_back(a.linearity.contribution());
  return figure;
}

Result to_result(const TwoToneAnalysis& a, const std::string& convention) {
  Result result;
  result.method = "two_tone";
  result.inputs = {a.input};
  const TwoToneProduct* worst = a.worst();
  if (worst != nullptr) {
    Figure figure = product_figure(a, *worst, convention);
    figure.id = "worst";
    figure.label = "Worst product, " + product_name(*worst);
    result.figures.push_back(figure);
    result.headline_id = "worst";
  }
  if (a.tones.size() == 2) {
    Figure pep;
    pep.id = "pep";
    pep.label = "Peak envelope power";
    pep.value = a.pep_dbfs + a.full_scale_dbm.value_or(0.0);
    pep.unit = a.full_scale_dbm ? "dBm" : "dBFS";
    pep.convention = "PEP";
    pep.contributions.push_back(
        {a.noise_source, std::hypot(a.tones[0].u_db, a.tones[1].u_db) / 2.0, Scope::independent});
    result.figures.push_back(pep);
  }
  for (const TwoToneProduct& p : a.products)
    result.figures.push_back(product_figure(a, p, convention));
  result.curves.push_back(a.spectrum);
  result.remarks = a.remarks;
  return result;
}

Limit in_convention(const Limit& limit, const std::string& convention, double pep_over_tone_db) {
  Limit converted = limit;
  if (limit.convention == convention) return converted;
  const Db ratio{pep_over_tone_db};
  if (limit.convention == kReOneTone && convention == kRePep) {
    converted.value = to_pep(DbOneTone{limit.value}, ratio).value;
  } else if (limit.convention == kRePep && convention == kReOneTone) {
    converted.value = to_one_tone(DbPep{limit.value}, ratio).value;
  } else {
    throw InputError("limit \u201c" + limit.name + "\u201d", "",
                     "its convention is not one of intermodulation", "Use re one tone or re PEP");
  }
  converted.convention = convention;
  return converted;
}

}  // namespace heron
