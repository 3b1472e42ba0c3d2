#include "store/result_record.h"

#include "store/rows.h"

namespace heron {

void save_result(Shack& shack, Id step_capture, const std::string& method,
                 const nlohmann::json& record) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT OR REPLACE INTO result(step_capture_id, method, record_json, computed_at) "
        "VALUES (?, ?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(step_capture));
    insert.bind(2, method);
    insert.bind(3, record.dump());
    insert.bind(4, utc_now());
    insert.exec();
  });
}

std::optional<std::string> load_result_text(const Shack& shack, Id step_capture) {
  std::optional<std::string> text;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement row(db, "SELECT record_json FROM result WHERE step_capture_id = ?");
    row.bind(1, static_cast<int64_t>(step_capture));
    if (row.executeStep()) text = row.getColumn(0).getString();
  });
  return text;
}

std::optional<nlohmann::json> load_result(const Shack& shack, Id step_capture) {
  const auto text = load_result_text(shack, step_capture);
  return text ? std::optional(parse_stored(*text, "a result")) : std::nullopt;
}

}  // namespace heron
