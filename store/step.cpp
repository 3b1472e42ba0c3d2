#include "store/step.h"

#include <algorithm>

#include "store/rows.h"

namespace heron {

namespace {

using nlohmann::json;

std::vector<TypedProduct> stored_products(const std::string& text) {
  try {
    return typed_products_from_json(parse_stored(text, "typed readings"));
  } catch (const json::exception&) {
    throw InputError("shack", "typed readings", "the stored record is damaged",
                     "Type the readings again");
  }
}

void read_captures(SQLite::Database& db, Step& s) {
  SQLite::Statement rows(
      db,
      "SELECT sc.id, sc.capture_hash, c.name, sc.taken_at, sc.hookup_version_id, "
      "sc.added_attenuation_db, sc.added_attenuation_typed FROM step_capture sc JOIN capture c ON "
      "c.hash = sc.capture_hash "
      "WHERE sc.step_id = ? AND sc.removed_at IS NULL ORDER BY sc.id DESC");
  rows.bind(1, static_cast<int64_t>(s.id));
  while (rows.executeStep()) {
    StepCapture c{rows.getColumn(0).getInt64(),
                  rows.getColumn(1).getString(),
                  rows.getColumn(2).getString(),
                  rows.getColumn(3).getString(),
                  rows.getColumn(4).isNull() ? 0 : rows.getColumn(4).getInt64(),
                  std::nullopt};
    if (!rows.getColumn(5).isNull())
      c.added = AddedAttenuation{rows.getColumn(5).getDouble(), rows.getColumn(6).getString()};
    if (!c.added) {
      if (!s.capture) s.capture = c;
    } else if (c.added->db == 0.0) {
      s.repeats.push_back(c);
    } else if (!s.self_test) {
      s.self_test = c;
    }
  }
}

}  // namespace

json to_json(const std::vector<TypedProduct>& products) {
  json list = json::array();
  for (const TypedProduct& p : products)
    list.push_back({{"order", p.order},
                    {"typed", p.typed},
                    {"level_db", p.level_db},
                    {"convention", p.convention},
                    {"bound", p.is_bound}});
  return list;
}

std::vector<TypedProduct> typed_products_from_json(const json& list) {
  std::vector<TypedProduct> products;
  for (const json& r : list) {
    const int order = static_cast<int>(std::clamp(r.at("order").get<double>(), 3.0, 15.0));
    products.push_back(
        {order, r.at("typed"), r.at("level_db"), r.at("convention"), r.value("bound", false)});
  }
  return products;
}

std::vector<Step> steps(const Shack& shack, Id test) {
  std::vector<Step> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(
        db,
        "SELECT id, label, output_typed, output_dbm, output_u_db, note, products_json, "
        "sweep_from_hz, sweep_to_hz FROM step "
        "WHERE test_id = ? AND removed_at IS NULL ORDER BY position, id");
    rows.bind(1, static_cast<int64_t>(test));
    while (rows.executeStep()) {
      Step s;
      s.id = rows.getColumn(0).getInt64();
      s.test_id = test;
      s.label = rows.getColumn(1).getString();
      if (!rows.getColumn(3).isNull()) {
        s.output = TypedOutput{rows.getColumn(2).getString(), rows.getColumn(3).getDouble(),
                               rows.getColumn(4).getDouble()};
      }
      s.note = rows.getColumn(5).getString();
      if (!rows.getColumn(6).isNull())
        s.products = read_or_damage(s.damage, "typed readings", [&] {
                       return stored_products(rows.getColumn(6).getString());
                     }).value_or(std::vector<TypedProduct>{});
      if (!rows.getColumn(7).isNull() && !rows.getColumn(8).isNull())
        s.sweep_hz = {rows.getColumn(7).getDouble(), rows.getColumn(8).getDouble()};
      read_captures(db, s);
      all.push_back(s);
    }
  });
  return all;
}

Id add_step(Shack& shack, Id test, const std::string& label,
            const std::optional<std::pair<double, double>>& sweep_hz) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO step(test_id, position, label, sweep_from_hz, sweep_to_hz) VALUES (?1, "
        "(SELECT "
        "COALESCE(MAX(position), 0) + 1 FROM step WHERE test_id = ?1), ?2, ?3, ?4)");
    insert.bind(1, static_cast<int64_t>(test));
    insert.bind(2, label);
    if (sweep_hz) {
      insert.bind(3, sweep_hz->first);
      insert.bind(4, sweep_hz->second);
    }
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_step_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "step", id, removed);
}
void set_step_label(Shack& shack, Id id, const std::string& label) {
  set_column(shack, "step", "label", id, label);
}

void set_step_output(Shack& shack, Id id, const std::optional<TypedOutput>& output) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(
        db, "UPDATE step SET output_typed = ?, output_dbm = ?, output_u_db = ? WHERE id = ?");
    update.bind(1, output ? output->typed : "");
    if (output) {
      update.bind(2, output->dbm);
      update.bind(3, output->u_db);
    }
    update.bind(4, static_cast<int64_t>(id));
    update.exec();
  });
}

void set_step_products(Shack& shack, Id id, const std::vector<TypedProduct>& products) {
  set_column(shack, "step", "products_json", id,
             products.empty() ? std::nullopt : std::optional(to_json(products).dump()));
}

void set_step_capture_hookup(Shack& shack, Id step_capture, Id hookup_version) {
  set_reference(shack, "step_capture", "hookup_version_id", step_capture, hookup_version);
}

void set_step_capture_removed(Shack& shack, Id step_capture, bool removed) {
  set_removed(shack, "step_capture", step_capture, removed);
}

}  // namespace heron
