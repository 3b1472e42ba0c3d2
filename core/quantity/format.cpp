#include "core/quantity/format.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace heron {
namespace {
constexpr const char* kMinus = "\u2212";
}

std::string number_text(double value, int decimals, bool plus_sign) {
  if (!std::isfinite(value)) return "\u2013";
  const double place = std::pow(10.0, -decimals);
  std::string digits = decimals < 0
                           ? fmt::format("{:.0f}", std::round(std::abs(value) / place) * place)
                           : fmt::format("{:.{}f}", std::abs(value), decimals);
  const bool is_zero = digits.find_first_not_of("0.") == std::string::npos;
  if (is_zero) return digits;
  if (value < 0.0) return kMinus + digits;
  return plus_sign ? "+" + digits : digits;
}

int decimals_for(double expanded_uncertainty, Rounding rounding) {
  if (!(expanded_uncertainty > 0.0) || !std::isfinite(expanded_uncertainty)) return 0;
  int exponent = static_cast<int>(std::floor(std::log10(expanded_uncertainty)));
  int digits = 2;
  if (rounding == Rounding::compact) {
    const double lead = expanded_uncertainty / std::pow(10.0, exponent);
    digits = lead < 2.95 ? 2 : 1;
  }
  // 0.0996 rounds to 0.10: one decade up, so one decimal fewer shows the same digits.
  const double scale = std::pow(10.0, digits - 1 - exponent);
  if (std::round(expanded_uncertainty * scale) >= std::pow(10.0, digits)) ++exponent;
  return digits - 1 - exponent;
}

FormattedFigure format_figure(const Figure& figure, Rounding rounding, int fallback_decimals,
                              bool plus_sign) {
  FormattedFigure text;
  const double expanded = figure.expanded();
  const bool rounded = expanded > 0.0 && std::isfinite(expanded) && figure.bound == Bound::none;
  const bool is_count = figure.unit.starts_with("of ");
  const int decimals = rounded    ? std::min(decimals_for(expanded, rounding), 9)
                       : is_count ? 0
                                  : fallback_decimals;
  text.value = number_text(figure.value, decimals, plus_sign);
  if (rounded) text.uncertainty = number_text(expanded, decimals);
  if (figure.bound == Bound::upper) text.bound = "\u2264";
  if (figure.bound == Bound::lower) text.bound = "\u2265";
  return text;
}

std::string figure_text(const Figure& figure, Rounding rounding) {
  const FormattedFigure text = format_figure(figure, rounding, 1);
  std::string out = text.shown();
  if (!text.uncertainty.empty()) out += " \u00b1 " + text.uncertainty;
  return with_unit(out, figure.unit);
}

std::string with_unit(const std::string& number, const std::string& unit) {
  if (unit.empty()) return number;
  // A degree sign stands close to its number.
  return unit == "\u00b0" ? number + unit : number + " " + unit;
}

std::string figure_cell(const Figure& figure, int fallback_decimals, bool plus_sign) {
  const FormattedFigure f = format_figure(figure, Rounding::compact, fallback_decimals, plus_sign);
  return f.shown() + (f.uncertainty.empty() ? "" : " \u00b1 " + f.uncertainty);
}

std::string engineering_text(double value, const std::string& unit, int significant) {
  if (!std::isfinite(value)) return "\u2013";
  struct Prefix {
    int exponent;
    const char* symbol;
  };
  static constexpr std::array<Prefix, 10> prefixes{{{-18, "a"},
                                                    {-15, "f"},
                                                    {-12, "p"},
                                                    {-9, "n"},
                                                    {-6, "\u00b5"},
                                                    {-3, "m"},
                                                    {0, ""},
                                                    {3, "k"},
                                                    {6, "M"},
                                                    {9, "G"}}};
  int exponent = 0;
  if (value != 0.0) {
    exponent = static_cast<int>(std::floor(std::log10(std::abs(value)) / 3.0 + 1e-12)) * 3;
  }
  exponent = std::clamp(exponent, -18, 9);
  const auto* prefix = std::find_if(prefixes.begin(), prefixes.end(),
                                    [&](const Prefix& p) { return p.exponent == exponent; });
  const double scaled = value / std::pow(10.0, exponent);
  const double magnitude = std::abs(scaled);
  const int before_point = magnitude < 10.0 ? 1 : magnitude < 100.0 ? 2 : 3;
  std::string digits = number_text(scaled, std::max(0, significant - before_point));
  if (digits.find('.') != std::string::npos) {
    digits.erase(digits.find_last_not_of('0') + 1);
    if (digits.back() == '.') digits.pop_back();
  }
  return digits + " " + prefix->symbol + unit;
}

std::string short_unit(const Figure& figure) {
  return figure.unit == "dB" && figure.convention == "re carrier" ? "dBc" : figure.unit;
}

std::string difference_unit(const std::string& unit) {
  return unit.starts_with("dB") ? "dB" : unit;
}

std::string ordinal(int number) {
  const int tens = number % 100;
  const int ones = tens >= 11 && tens <= 13 ? 0 : number % 10;
  return fmt::format("{}{}", number, ones == 1 ? "st" : ones == 2 ? "nd" : ones == 3 ? "rd" : "th");
}

}  // namespace heron
