#include "store/older_step.h"

#include <algorithm>

#include "core/method/result_json.h"
#include "store/reading.h"
#include "store/rows.h"
#include "store/step.h"

namespace heron {
namespace {

using nlohmann::json;

/// What a damaged record becomes: its words stay, and it counts as no reading.
Reading damaged(const std::string& text) {
  Reading r;
  r.quantity = kDamagedReading;
  r.typed = text;
  return r;
}

std::vector<Reading> products_or_damage(const std::string& text) {
  try {
    return older_products(parse_stored(text, "typed readings"));
  } catch (const InputError&) {
    return {damaged(text)};
  } catch (const json::exception&) {
    return {damaged(text)};
  }
}

}  // namespace

std::vector<Reading> older_products(const json& list) {
  std::vector<Reading> products;
  for (const json& r : list) {
    const int order = static_cast<int>(std::clamp(r.at("order").get<double>(), 3.0, 15.0));
    if (order % 2 == 0) refuse_damaged("a product of no odd order");
    Reading product;
    product.quantity = "im" + std::to_string(order);
    product.typed = r.at("typed");
    product.value = r.at("level_db");
    product.unit = "dB";
    product.convention = r.at("convention");
    product.bound = r.value("bound", false) ? Bound::upper : Bound::none;
    if (product.convention != "re PEP" && product.convention != "re one tone")
      refuse_damaged("a product relative to something unknown");
    products.push_back(std::move(product));
  }
  return products;
}

Reading older_output(const std::string& typed, double dbm, double u_db) {
  return to_reading(TypedOutput{typed, dbm, u_db});
}

std::vector<Condition> older_sweep(double from_hz, double to_hz) {
  return {{kSweepFrom, from_hz, "Hz"}, {kSweepTo, to_hz, "Hz"}};
}

Condition older_attenuation(double db, const std::string& typed) {
  return {kAddedAttenuation, db, "dB", typed};
}

void move_older_steps(SQLite::Database& db) {
  const auto is_number = [](const SQLite::Column& c) { return c.isFloat() || c.isInteger(); };
  SQLite::Statement steps(
      db,
      "SELECT id, output_typed, output_dbm, output_u_db, products_json, sweep_from_hz, sweep_to_hz "
      "FROM step ORDER BY id");
  while (steps.executeStep()) {
    const Id step = steps.getColumn(0).getInt64();
    if (is_number(steps.getColumn(2)))
      insert_reading(db, step,
                     older_output(steps.getColumn(1).getString(), steps.getColumn(2).getDouble(),
                                  steps.getColumn(3).getDouble()));
    else if (!steps.getColumn(2).isNull())
      insert_reading(db, step, damaged(steps.getColumn(2).getString()));
    if (!steps.getColumn(4).isNull()) {
      for (const Reading& r : products_or_damage(steps.getColumn(4).getString()))
        insert_reading(db, step, r);
    }
    if (is_number(steps.getColumn(5)) && is_number(steps.getColumn(6))) {
      for (const Condition& c :
           older_sweep(steps.getColumn(5).getDouble(), steps.getColumn(6).getDouble()))
        insert_condition(db, step, c);
    }
  }
  SQLite::Statement captures(
      db,
      "SELECT id, step_id, added_attenuation_db, added_attenuation_typed FROM step_capture WHERE "
      "added_attenuation_db IS NOT NULL ORDER BY id");
  while (captures.executeStep())
    insert_condition(
        db, captures.getColumn(1).getInt64(),
        older_attenuation(captures.getColumn(2).getDouble(), captures.getColumn(3).getString()),
        captures.getColumn(0).getInt64());
  steps.reset();
  captures.reset();
  for (const char* column : {"output_typed", "output_dbm", "output_u_db", "products_json",
                             "sweep_from_hz", "sweep_to_hz"})
    db.exec(std::string("ALTER TABLE step DROP COLUMN ") + column);
  for (const char* column : {"added_attenuation_db", "added_attenuation_typed"})
    db.exec(std::string("ALTER TABLE step_capture DROP COLUMN ") + column);
}

}  // namespace heron
