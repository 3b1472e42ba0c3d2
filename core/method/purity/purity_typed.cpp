#include "core/method/purity/purity_typed.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

std::string_view trimmed_of(std::string_view text) {
  const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\r'; };
  while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
  return text;
}

[[noreturn]] void refuse_line(std::string_view text, const std::string& why) {
  throw InputError(
      "line", std::string(text), why,
      "Type a frequency and a level, such as 28.4 MHz -41.2 dBc or 28.4 MHz < -60 dBm; or a range "
      "with nothing in it, such as 1 MHz to 150 MHz < -65 dBc");
}

/// Where the frequency ends: behind its unit, else behind the first word.
std::size_t frequency_end(std::string_view text) {
  const std::string low = lower_case(std::string(text));
  const std::size_t unit = low.find("hz");
  if (unit != std::string::npos) return unit + 2;
  return std::min(text.find_first_of(" \t"), text.size());
}

}  // namespace

TypedLine parse_typed_line(std::string_view whole) {
  const std::string_view text = trimmed_of(whole);
  TypedLine line;
  line.typed = std::string(text);
  // "1 to 150 MHz": the first number takes the second one's unit.
  const std::size_t to = lower_case(std::string(text)).find(" to ");
  if (to != std::string::npos) {
    const std::string_view rest = trimmed_of(text.substr(to + 4));
    std::string first(trimmed_of(text.substr(0, to)));
    const std::size_t upper_end = frequency_end(rest);
    const std::string upper(rest.substr(0, upper_end));
    if (lower_case(first).find("hz") == std::string::npos)
      first += upper.substr(std::min(upper.find_first_not_of("0123456789., "), upper.size()));
    TypedLine range = parse_typed_line(first + " " + std::string(rest.substr(upper_end)));
    range.typed = line.typed;
    range.to_hz = parse_quantity(upper, Quantity::frequency).value;
    if (!range.is_bound) refuse_line(whole, "a range needs a level that nothing reaches");
    if (!(range.to_hz > range.frequency_hz)) refuse_line(whole, "its range does not rise");
    return range;
  }
  const std::size_t end = frequency_end(text);
  std::string_view level = trimmed_of(text.substr(end));
  if (end == 0 || level.empty()) refuse_line(whole, "a level is missing");
  line.frequency_hz = parse_quantity(text.substr(0, end), Quantity::frequency).value;
  if (line.frequency_hz <= 0.0) refuse_line(whole, "its frequency is none");
  for (const std::string_view mark : {"<=", "<", "\u2264"}) {
    if (!level.starts_with(mark)) continue;
    line.is_bound = true;
    level = trimmed_of(level.substr(mark.size()));
    break;
  }
  const std::string low = lower_case(std::string(level));
  const bool has_unit =
      std::any_of(low.begin(), low.end(), [](char c) { return c >= 'a' && c <= 'z'; });
  line.is_dbc = !has_unit || low.ends_with("dbc") || low.ends_with("db");
  if (line.is_dbc) {
    std::string number(level);
    const std::size_t unit = low.find("db");
    if (unit != std::string::npos) number.resize(unit);
    line.level = parse_quantity(number + " dB", Quantity::gain).value;
  } else {
    line.level = parse_quantity(level, Quantity::level).value;
  }
  if (line.is_dbc && line.level > 20.0)
    refuse_line(whole, "a line lies below its carrier: a minus sign is missing");
  return line;
}

std::vector<TypedLine> parse_typed_lines(const std::string& text) {
  std::vector<TypedLine> lines;
  std::istringstream all(text);
  std::string raw;
  for (int number = 1; std::getline(all, raw); ++number) {
    const std::string whole = raw.substr(0, raw.find('#'));
    const std::string line(trimmed_of(whole));
    if (line.empty()) continue;
    try {
      lines.push_back(parse_typed_line(line));
    } catch (const InputError& error) {
      throw InputError("lines", "line " + std::to_string(number), error.reason, error.advice);
    }
  }
  return lines;
}

std::string typed_lines_words(const std::vector<TypedLine>& lines) {
  if (lines.empty()) return "No lines: nothing typed counts.";
  const TypedLine& last = lines.back();
  const std::string from = frequency_text(last.frequency_hz);
  const std::string where =
      last.to_hz > 0.0 ? "nothing else from " + from + " to " + frequency_text(last.to_hz) : from;
  return std::to_string(lines.size()) + (lines.size() == 1 ? " line: " : " lines. The last: ") +
         where + (last.is_bound ? ", at most " : " at ") + number_text(last.level, 1) +
         (last.is_dbc ? " dBc" : " dBm");
}

PuritySource typed_purity_source(const std::vector<TypedLine>& lines, double carrier_hz,
                                 const std::vector<PuritySource>& measured, double reading_u_db) {
  PuritySource s;
  s.name = "typed lines";
  s.is_typed = true;
  s.resolution_hz = 1.0;
  const PurityReading* carrier = nullptr;
  for (const PuritySource& m : measured) {
    const PurityReading* r = carrier_in(m, carrier_hz);
    if (r == nullptr || (carrier != nullptr && r->level_dbm <= carrier->level_dbm)) continue;
    carrier = r;
    s.is_absolute = m.is_absolute;
  }
  const auto is_carrier = [&](const TypedLine& l) {
    return l.to_hz <= 0.0 &&
           std::abs(l.frequency_hz - carrier_hz) <= frequency_tolerance_hz(carrier_hz);
  };
  const auto typed = std::find_if(lines.begin(), lines.end(), [&](const TypedLine& l) {
    return is_carrier(l) && !l.is_dbc && !l.is_bound;
  });
  const bool any_dbm =
      std::any_of(lines.begin(), lines.end(), [](const TypedLine& l) { return !l.is_dbc; });
  std::optional<double> reference;
  if (carrier != nullptr) reference = carrier->level_dbm;
  if (reference && any_dbm && !s.is_absolute)
    throw InputError("typed lines", "",
                     "they are in dBm, the recordings only relative to the carrier",
                     "Type them in dBc, or state the recorder\u2019s full scale");
  if (typed != lines.end() && !reference) {
    reference = typed->level;
    s.is_absolute = true;
  }
  if (!reference && any_dbm)
    throw InputError("typed lines", "carrier", "lines in dBm without their carrier",
                     "Type the carrier\u2019s level too, such as 14.2 MHz 4.8 dBm");
  if (!reference) {
    // Relative levels only: the carrier is what they are relative to.
    reference = 0.0;
    PurityReading r;
    r.frequency_hz = carrier_hz;
    s.readings.push_back(r);
  }
  // What was typed hangs on the carrier that an instrument read.
  if (carrier != nullptr) s.readings.push_back(*carrier);
  for (const TypedLine& l : lines) {
    if (is_carrier(l) && (carrier != nullptr || l.is_dbc)) continue;
    if (l.to_hz > 0.0) {
      s.seen.push_back({l.frequency_hz, l.to_hz, l.is_dbc ? *reference + l.level : l.level});
      continue;
    }
    PurityReading r;
    r.frequency_hz = l.frequency_hz;
    r.level_dbm = l.is_dbc ? *reference + l.level : l.level;
    r.u_db = reading_u_db;
    r.is_bound = l.is_bound;
    if (l.is_bound) r.floor_dbm = r.level_dbm;
    r.typed = l.typed;
    s.readings.push_back(std::move(r));
  }
  std::sort(s.readings.begin(), s.readings.end(),
            [](const PurityReading& a, const PurityReading& b) {
              return a.frequency_hz < b.frequency_hz;
            });
  if (!s.readings.empty()) {
    s.from_hz = s.readings.front().frequency_hz;
    s.to_hz = s.readings.back().frequency_hz;
  }
  return s;
}

}  // namespace heron
