#include "store/evaluation.h"

#include "core/chain/chain_json.h"
#include "core/method/result_json.h"
#include "store/rows.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kTestColumns =
    "SELECT id, evaluation_id, position, characteristic, title, hookup, conditions, convention, "
    "settings_json, limit_json, headline_json, note, signed_by, signed_at, "
    "hookup_id, drive_json, amplifier_test_id, pair_test_id FROM test ";

json to_json(const Headline& h) {
  json out = {{"figure", heron::to_json(h.figure)},
              {"at", h.at},
              {"taken_at", h.taken_at},
              {"verdict", verdict_id(h.judgement.verdict)},
              {"margin", finite_or_null(h.judgement.margin)},
              {"expanded", finite_or_null(h.judgement.expanded)}};
  if (h.limit) out["limit"] = heron::to_json(*h.limit);
  if (h.is_provisional) out["provisional"] = true;
  return out;
}

Verdict verdict_from_id(const std::string& id) {
  for (const Verdict v : {Verdict::pass, Verdict::too_close, Verdict::fail, Verdict::stale,
                          Verdict::incomplete, Verdict::accepted}) {
    if (verdict_id(v) == id) return v;
  }
  return Verdict::not_taken;
}

Headline headline_from_json(const json& r) {
  try {
    Headline h;
    h.figure = figure_from_json(r.at("figure"));
    h.at = r.at("at");
    h.taken_at = r.at("taken_at");
    h.judgement.verdict = verdict_from_id(r.at("verdict"));
    h.judgement.margin = r.at("margin").is_number() ? r.at("margin").get<double>() : 0.0;
    h.judgement.expanded = r.at("expanded").is_number() ? r.at("expanded").get<double>() : 0.0;
    h.judgement.bound = h.figure.bound;
    if (r.contains("limit")) h.limit = limit_from_json(r.at("limit"));
    h.is_provisional = r.value("provisional", false);
    return h;
  } catch (const json::exception&) {
    throw InputError("shack", "a test's headline", "the stored record is damaged",
                     "Analyse the test again");
  }
}

Test test_at(SQLite::Statement& row) {
  Test t;
  t.id = row.getColumn(0).getInt64();
  t.evaluation_id = row.getColumn(1).getInt64();
  t.position = row.getColumn(2).getInt();
  t.characteristic = row.getColumn(3).getString();
  t.title = row.getColumn(4).getString();
  t.hookup = row.getColumn(5).getString();
  t.conditions = row.getColumn(6).getString();
  t.convention = row.getColumn(7).getString();
  const auto stored = [&](int column, const char* what) {
    return parse_stored(row.getColumn(column).getString(), what);
  };
  t.settings = read_or_damage(t.damage, "settings", [&] {
                 json settings = stored(8, "settings");
                 if (!settings.is_object()) refuse_damaged("settings");
                 return settings;
               }).value_or(json::object());
  if (!row.getColumn(9).isNull())
    t.limit =
        read_or_damage(t.damage, "limit", [&] { return limit_from_json(stored(9, "limit")); });
  if (!row.getColumn(10).isNull())
    t.headline = read_or_damage(t.damage, "last figure",
                                [&] { return headline_from_json(stored(10, "last figure")); });
  t.note = row.getColumn(11).getString();
  t.signed_by = row.getColumn(12).getString();
  t.signed_at = row.getColumn(13).getString();
  t.hookup_id = row.getColumn(14).isNull() ? 0 : row.getColumn(14).getInt64();
  if (!row.getColumn(15).isNull())
    t.drive = read_or_damage(t.damage, "planned drive", [&] {
      return drive_from_json(stored(15, "planned drive"), "shack", "a test's drive");
    });
  t.amplifier_test_id = row.getColumn(16).isNull() ? 0 : row.getColumn(16).getInt64();
  t.pair_test_id = row.getColumn(17).isNull() ? 0 : row.getColumn(17).getInt64();
  return t;
}

Evaluation evaluation_at(SQLite::Statement& row) {
  Evaluation e{row.getColumn(0).getInt64(), row.getColumn(1).getInt64(),
               row.getColumn(2).getString(), row.getColumn(3).getString(),
               row.getColumn(4).getString()};
  // One that cannot be read counts as open: nothing that was measured depends on it.
  std::string damage;
  if (!row.getColumn(5).isNull())
    e.end = read_or_damage(damage, "end", [&] {
      return evaluation_end_from_json(parse_stored(row.getColumn(5).getString(), "end"));
    });
  return e;
}

constexpr const char* kEvaluations =
    "SELECT id, device_id, title, started_at, goal, end_json FROM evaluation ";

}  // namespace

std::vector<Evaluation> evaluations(const Shack& shack, Id device) {
  return rows_of(shack,
                 std::string(kEvaluations) +
                     "WHERE device_id = ? AND removed_at IS NULL ORDER BY "
                     "started_at DESC, id DESC",
                 device, evaluation_at);
}

Evaluation evaluation(const Shack& shack, Id id) {
  return row_of(shack, std::string(kEvaluations) + "WHERE id = ?", id, "evaluation", evaluation_at);
}

Id add_evaluation(Shack& shack, Id device, const std::string& title,
                  const std::string& started_at) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db, "INSERT INTO evaluation(device_id, title, started_at) VALUES (?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(device));
    insert.bind(2, title);
    insert.bind(3, started_at.empty() ? utc_now() : started_at);
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_evaluation_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "evaluation", id, removed);
}
void set_evaluation_title(Shack& shack, Id id, const std::string& title) {
  set_column(shack, "evaluation", "title", id, title);
}

void set_evaluation_goal(Shack& shack, Id id, const std::string& goal) {
  set_column(shack, "evaluation", "goal", id, goal);
}
void set_evaluation_end(Shack& shack, Id id, const std::optional<EvaluationEnd>& end) {
  set_column(shack, "evaluation", "end_json", id,
             end ? std::optional(to_json(*end).dump()) : std::nullopt);
}

std::string EvaluationEnd::words() const {
  std::string all = is_partial ? "Ended in part" : "Ended";
  if (!reason.empty()) all += ": " + reason;
  if (!next.empty()) all += ". Next: " + next;
  return all;
}

json to_json(const EvaluationEnd& end) {
  return {{"at", end.at}, {"partial", end.is_partial}, {"reason", end.reason}, {"next", end.next}};
}

EvaluationEnd evaluation_end_from_json(const json& from) {
  try {
    return {from.at("at"), from.at("partial"), from.at("reason"), from.at("next")};
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

bool is_evaluation_there(const Shack& shack, Id id) {
  return !rows_of(shack,
                  "SELECT 1 FROM evaluation e JOIN device d ON d.id = e.device_id WHERE e.id = ? "
                  "AND e.removed_at IS NULL AND d.removed_at IS NULL",
                  id, [](SQLite::Statement&) { return true; })
              .empty();
}

std::vector<Test> tests(const Shack& shack, Id evaluation) {
  return rows_of(shack,
                 std::string(kTestColumns) +
                     "WHERE evaluation_id = ? AND removed_at IS NULL ORDER BY position",
                 evaluation, test_at);
}

Test test(const Shack& shack, Id id) {
  return row_of(shack, std::string(kTestColumns) + "WHERE id = ?", id, "test", test_at);
}

Id add_test(Shack& shack, const Test& t) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO test(evaluation_id, position, characteristic, title, hookup, conditions, "
        "convention, settings_json, limit_json, note, hookup_id, drive_json) VALUES (?1, (SELECT "
        "COALESCE(MAX(position), 0) + 1 FROM test WHERE evaluation_id = ?1), ?2, ?3, ?4, ?5, ?6, "
        "?7, ?8, ?9, ?10, ?11)");
    insert.bind(1, static_cast<int64_t>(t.evaluation_id));
    insert.bind(2, t.characteristic);
    insert.bind(3, t.title);
    insert.bind(4, t.hookup);
    insert.bind(5, t.conditions);
    insert.bind(6, t.convention);
    insert.bind(7, t.settings.dump());
    if (t.limit) insert.bind(8, heron::to_json(*t.limit).dump());
    insert.bind(9, t.note);
    if (t.hookup_id != 0) insert.bind(10, static_cast<int64_t>(t.hookup_id));
    if (t.drive) insert.bind(11, heron::to_json(*t.drive).dump());
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_test_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "test", id, removed);
}
void set_test_title(Shack& shack, Id id, const std::string& title) {
  set_column(shack, "test", "title", id, title);
}

void set_test_order(Shack& shack, const std::vector<Id>& order) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE test SET position = ? WHERE id = ?");
    for (std::size_t i = 0; i < order.size(); ++i) {
      update.bind(1, static_cast<int64_t>(i + 1));
      update.bind(2, static_cast<int64_t>(order[i]));
      update.exec();
      update.reset();
    }
  });
}

void set_test_note(Shack& shack, Id id, const std::string& note) {
  set_column(shack, "test", "note", id, note);
}
void set_test_hookup(Shack& shack, Id id, const std::string& hookup) {
  set_column(shack, "test", "hookup", id, hookup);
}
void set_test_conditions(Shack& shack, Id id, const std::string& conditions) {
  set_column(shack, "test", "conditions", id, conditions);
}
void set_test_convention(Shack& shack, Id id, const std::string& convention) {
  set_column(shack, "test", "convention", id, convention);
}
void set_test_settings(Shack& shack, Id id, const json& settings) {
  set_column(shack, "test", "settings_json", id, settings.dump());
}

void set_test_hookup_id(Shack& shack, Id id, Id hookup) {
  set_reference(shack, "test", "hookup_id", id, hookup);
}

void set_test_drive(Shack& shack, Id id, const std::optional<Drive>& drive) {
  set_column(shack, "test", "drive_json", id,
             drive ? std::optional(heron::to_json(*drive).dump()) : std::nullopt);
}

void set_test_driving(Shack& shack, Id id, Id amplifier_test, Id pair_test) {
  set_reference(shack, "test", "amplifier_test_id", id, amplifier_test);
  set_reference(shack, "test", "pair_test_id", id, pair_test);
}

void set_test_limit(Shack& shack, Id id, const std::optional<Limit>& limit) {
  set_column(shack, "test", "limit_json", id,
             limit ? std::optional(heron::to_json(*limit).dump()) : std::nullopt);
}

void set_test_headline(Shack& shack, Id id, const std::optional<Headline>& headline) {
  set_column(shack, "test", "headline_json", id,
             headline ? std::optional(to_json(*headline).dump()) : std::nullopt);
}

void sign_test(Shack& shack, Id id, const std::string& name, const std::string& at) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE test SET signed_by = ?, signed_at = ? WHERE id = ?");
    update.bind(1, name);
    update.bind(2, name.empty() ? "" : at);
    update.bind(3, static_cast<int64_t>(id));
    update.exec();
  });
}

}  // namespace heron
