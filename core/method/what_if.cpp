#include "core/method/what_if.h"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr double kSame = 1e-9;

double three_digits(double value) {
  const double unit = std::pow(10.0, std::floor(std::log10(value)) - 2.0);
  return std::round(value / unit) * unit;
}

}  // namespace

double settled_value(const WhatIf& of, double value) {
  const double inside = std::clamp(value, of.least, of.most);
  if (of.stops.empty()) return three_digits(inside);
  return *std::min_element(of.stops.begin(), of.stops.end(), [&](double a, double b) {
    return std::abs(std::log(a / inside)) < std::abs(std::log(b / inside));
  });
}

double next_value(const WhatIf& of, bool is_up) {
  if (of.stops.empty())
    return std::clamp(is_up ? of.value * 1.01 : of.value / 1.01, of.least, of.most);
  if (is_up) {
    const auto next = std::upper_bound(of.stops.begin(), of.stops.end(), of.value * (1.0 + kSame));
    return next == of.stops.end() ? of.stops.back() : *next;
  }
  const auto at = std::lower_bound(of.stops.begin(), of.stops.end(), of.value * (1.0 - kSame));
  return at == of.stops.begin() ? of.stops.front() : *(at - 1);
}

}  // namespace heron
