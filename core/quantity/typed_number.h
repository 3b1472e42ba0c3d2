#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace heron {

/// ASCII form of what was typed: true minus to '-', both micro signs to 'u', no-break spaces to
/// spaces, trimmed.
std::string normalised_typing(std::string_view raw);

std::string lower_case(std::string text);

struct NumberAndRest {
  double value;
  std::string rest;  ///< what follows it, without spaces before
};
/// The number that a normalised text begins with, decimal point or comma; nullopt if none.
std::optional<NumberAndRest> leading_number(std::string text);

/// "1,500": one and a half, or fifteen hundred? Says how to type it; empty where it is clear.
std::string thousands_question(std::string_view normalised_text);

/// A plain number with decimal point or comma and any minus sign; nullopt if it is not one.
std::optional<double> parse_number(std::string_view text);

}  // namespace heron
