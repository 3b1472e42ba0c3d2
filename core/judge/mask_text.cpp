#include "core/judge/mask_text.h"

#include <fmt/format.h>
#include <regex>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr const char* kForms =
    "Write it like 1 MHz to 30 MHz: -43 dBc, or 43 + 10 lg P, at most 70 dB, or -36 dBm";

constexpr std::size_t kLongestLine = 200;

[[noreturn]] void refuse_range(int number, const std::string& why) {
  throw InputError("mask", fmt::format("line {}", number), why, kForms);
}

double number_of(const std::string& text, int line) {
  const auto value = parse_number(text);
  if (!value) refuse_range(line, "\u201c" + text + "\u201d is no number");
  return *value;
}

double frequency_of(const std::string& text, const std::string& unit_of_other, int line) {
  const bool has_unit = lower_case(text).find("hz") != std::string::npos;
  try {
    return parse_quantity(has_unit ? text : text + " " + unit_of_other, Quantity::frequency).value;
  } catch (const InputError& error) {
    refuse_range(line, error.reason);
  }
}

void read_range(std::string left, int line, MaskSegment& s) {
  static const std::regex offset("^(?:carrier)?\\s*(?:\u00b1|\\+/?-)\\s*", std::regex::icase);
  std::smatch found;
  if (std::regex_search(left, found, offset)) {
    s.is_offset = true;
    left = found.suffix();
  }
  static const std::regex between("^(.+?)\\s*(?:to|\u2013|-)\\s*(.+)$", std::regex::icase);
  if (!std::regex_match(left, found, between))
    refuse_range(line, "it does not say from where to where");
  const std::string from = found[1];
  const std::string to = found[2];
  static const std::regex unit("[kmg]?hz\\s*$", std::regex::icase);
  std::smatch of_to;
  const std::string shared = std::regex_search(to, of_to, unit) ? of_to.str() : "MHz";
  s.from_hz = frequency_of(from, shared, line);
  s.to_hz = frequency_of(to, shared, line);
  if (s.from_hz < 0.0 || s.to_hz <= s.from_hz)
    refuse_range(line, "the range does not run from low to high");
}

void read_limit(const std::string& right, int line, MaskSegment& s) {
  static const std::regex formula(
      "^([0-9.,]+)\\s*\\+\\s*([0-9.,]+)\\s*(?:lg|log)\\s*\\(?P\\)?(?:\\s*,?\\s*at "
      "most\\s*([0-9.,]+)"
      "\\s*(?:db)?)?$",
      std::regex::icase);
  static const std::regex level("^([-+]?\\s*[0-9.,]+)\\s*(dbc|dbm)$", std::regex::icase);
  std::smatch found;
  if (std::regex_match(right, found, formula)) {
    s.formula = PowerFormula{number_of(found[1], line), number_of(found[2], line), std::nullopt};
    if (found[3].matched) s.formula->at_most = number_of(found[3], line);
    return;
  }
  if (!std::regex_match(right, found, level)) refuse_range(line, "its limit is not understood");
  std::string digits = found[1];
  std::erase(digits, ' ');
  const double value = number_of(digits, line);
  if (lower_case(found[2]) == "dbm") {
    s.limit_dbm = value;
    return;
  }
  if (value > 0.0) refuse_range(line, "its limit is above the carrier");
  s.limit_dbc = value;
}

}  // namespace

std::string mask_text(const Mask& mask) {
  std::string out;
  for (const MaskSegment& s : mask.segments) {
    out += fmt::format("{}{} to {}: ", s.is_offset ? "carrier \u00b1 " : "",
                       frequency_text(s.from_hz), frequency_text(s.to_hz));
    if (s.limit_dbc) out += fmt::format("\u2212{:g} dBc", -*s.limit_dbc);
    if (s.limit_dbm)
      out += fmt::format("{}{:g} dBm", *s.limit_dbm < 0.0 ? "\u2212" : "+", std::abs(*s.limit_dbm));
    if (s.formula) {
      out += fmt::format("{:g} + {:g} lg P", s.formula->a, s.formula->b_log_watt);
      if (s.formula->at_most) out += fmt::format(", at most {:g} dB", *s.formula->at_most);
    }
    out += '\n';
  }
  return out;
}

Mask parse_mask_text(std::string_view text, const std::string& name) {
  Mask mask;
  mask.name = name;
  int number = 0;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    std::string_view raw = text.substr(0, end);
    text.remove_prefix(std::min(end + 1, text.size()));
    ++number;
    raw = raw.substr(0, raw.find('#'));
    const std::string line = normalised_typing(raw);
    if (line.empty()) continue;
    if (line.size() > kLongestLine) refuse_range(number, "it is too long for a range");
    const std::size_t colon = line.find(':');
    if (colon == std::string::npos) refuse_range(number, "a colon is missing");
    MaskSegment s;
    read_range(normalised_typing(line.substr(0, colon)), number, s);
    read_limit(normalised_typing(line.substr(colon + 1)), number, s);
    mask.segments.push_back(s);
  }
  if (mask.segments.empty()) throw InputError("mask", "", "there is no range in it", kForms);
  return mask;
}

}  // namespace heron
