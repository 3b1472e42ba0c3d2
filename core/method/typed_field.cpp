#include <cmath>

#include "core/method/method.h"
#include "core/method/provisional.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

TypedQuantity parsed(const TypedField& field, const std::string& typed) {
  // No power at all is a reading too.
  const auto number = leading_number(normalised_typing(typed));
  const bool is_in_watts = number && (number->rest.empty() || lower_case(number->rest) == "w");
  if (field.asked == Quantity::power && is_in_watts && number->value == 0.0) return {0.0, "= 0 W"};
  QuantityOptions options;
  options.default_unit = std::string(field.typed_unit.empty() ? field.unit : field.typed_unit);
  options.is_two_tone = field.is_two_tone;
  return parse_quantity(typed, field.asked, options);
}

/// What an instrument showed, as somebody would type it into the same cell: a bare number, rounded
/// to its uncertainty.
std::string as_if_typed(const TypedField& field, const Reading& r) {
  const bool is_in_watts = field.unit == "dBm" && field.typed_unit == "W";
  if (r.u <= 0.0 || (!is_in_watts && !field.typed_unit.empty()))
    return quantity_text(field.asked, r.value);
  const Figure shown = to_figure(r, "");
  return format_figure(is_in_watts ? in_watts(shown) : shown).value;
}

}  // namespace

std::string with_bare_unit(const Method& method, const TypedField& field,
                           const nlohmann::json& settings, const std::string& typed) {
  if (method.bare_unit == nullptr || typed.empty()) return typed;
  const auto number = leading_number(normalised_typing(rough_typing(typed).second));
  const std::string_view unit = method.bare_unit(field, settings);
  return number && number->rest.empty() && !unit.empty() ? typed + " " + std::string(unit) : typed;
}

Reading read_typed(const TypedField& field, const std::string& typed,
                   const std::string& convention) {
  if (const auto [is_rough, rest] = rough_typing(typed); is_rough) {
    Reading r = read_typed(field, rest, convention);
    r.is_provisional = true;
    return r;
  }
  if (field.read != nullptr) return field.read(field, typed, convention);
  Reading r;
  r.quantity = field.quantity;
  r.value = parsed(field, typed).value;
  r.unit = field.unit;
  r.convention = field.convention;
  r.role = field.role;
  r.typed = typed;
  r.u = std::hypot(field.u, field.u_relative * std::abs(r.value));
  return r;
}

Condition condition_typed(const TypedField& field, const std::string& typed) {
  return {std::string(field.quantity), parsed(field, typed).value, std::string(field.unit), typed};
}

std::string typed_in(const TypedField& field, const EvidenceStep& step) {
  if (field.kind == TypedField::Kind::condition) {
    const Condition* c = find_condition(step.conditions, std::string(field.quantity));
    if (c == nullptr) return {};
    return c->typed.empty() ? quantity_text(field.asked, c->value) : c->typed;
  }
  const Reading* r = find_reading(step.readings, std::string(field.quantity), field.role);
  if (r == nullptr) return {};
  const std::string typed = r->typed.empty() ? as_if_typed(field, *r) : r->typed;
  return r->is_provisional ? as_rough(typed) : typed;
}

}  // namespace heron
