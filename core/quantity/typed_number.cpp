#include "core/quantity/typed_number.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace heron {
namespace {

void replace_all(std::string& text, std::string_view from, std::string_view to) {
  for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size()) {
    text.replace(at, from.size(), to);
  }
}

}  // namespace

std::string normalised_typing(std::string_view raw) {
  std::string text(raw);
  replace_all(text, "\u2212", "-");
  replace_all(text, "\u2013", "-");
  replace_all(text, "\u00b5", "u");
  replace_all(text, "\u03bc", "u");
  replace_all(text, "\u00a0", " ");
  replace_all(text, "\u202f", " ");
  replace_all(text, "\t", " ");
  const auto first = text.find_first_not_of(' ');
  if (first == std::string::npos) return {};
  return text.substr(first, text.find_last_not_of(' ') - first + 1);
}

std::string lower_case(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return text;
}

std::string thousands_question(std::string_view text) {
  if (!text.empty() && (text.front() == '-' || text.front() == '+')) text.remove_prefix(1);
  const auto digits = [&](std::size_t from) {
    std::size_t end = from;
    while (end < text.size() && std::isdigit(static_cast<unsigned char>(text[end])) != 0) ++end;
    return end - from;
  };
  const std::size_t before = digits(0);
  if (before == 0 || before > 3 || text.front() == '0' || before >= text.size() ||
      text[before] != ',' || digits(before + 1) != 3)
    return {};
  const std::size_t end = before + 4;
  if (end < text.size() && (text[end] == ',' || text[end] == '.')) return {};
  const std::string whole(text.substr(0, before));
  const std::string part(text.substr(before + 1, 3));
  return "\u201c" + whole + "," + part + "\u201d may be " + whole + "." + part + " or " + whole +
         part;
}

std::optional<NumberAndRest> leading_number(std::string text) {
  std::size_t at = 0;
  bool negative = false;
  if (at < text.size() && (text[at] == '-' || text[at] == '+')) {
    negative = text[at] == '-';
    ++at;
    while (at < text.size() && text[at] == ' ') ++at;
  }
  std::size_t end = at;
  int marks = 0;
  while (end < text.size() && (std::isdigit(static_cast<unsigned char>(text[end])) ||
                               text[end] == '.' || text[end] == ',')) {
    if (text[end] == ',' || text[end] == '.') {
      ++marks;
      text[end] = '.';
    }
    ++end;
  }
  if (end == at || marks > 1) return std::nullopt;
  // An exponent only if digits follow, so that "2 EMF" stays a unit.
  if (end < text.size() && (text[end] == 'e' || text[end] == 'E')) {
    std::size_t exponent = end + 1;
    if (exponent < text.size() && (text[exponent] == '-' || text[exponent] == '+')) ++exponent;
    if (exponent < text.size() && std::isdigit(static_cast<unsigned char>(text[exponent]))) {
      end = exponent;
      while (end < text.size() && std::isdigit(static_cast<unsigned char>(text[end]))) ++end;
    }
  }
  double value = 0.0;
  const auto result = std::from_chars(text.data() + at, text.data() + end, value);
  if (result.ec != std::errc{} || result.ptr != text.data() + end) return std::nullopt;
  const auto rest = text.find_first_not_of(' ', end);
  return NumberAndRest{negative ? -value : value,
                       rest == std::string::npos ? "" : text.substr(rest)};
}

std::optional<double> parse_number(std::string_view text) {
  const auto number = leading_number(normalised_typing(text));
  if (!number || !number->rest.empty() || !std::isfinite(number->value)) return std::nullopt;
  return number->value;
}

}  // namespace heron
