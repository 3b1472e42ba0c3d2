#include <algorithm>
#include <fmt/format.h>
#include <functional>
#include <stdexcept>

#include "core/chain/chain_json.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/json_fields.h"
#include "core/method/evidence_json.h"
#include "core/method/kept_file.h"
#include "core/method/result_json.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/event.h"
#include "store/exchange.h"
#include "store/general.h"
#include "store/hookup.h"
#include "store/loaded.h"
#include "store/older_step.h"
#include "store/reading.h"
#include "store/result_record.h"
#include "store/series.h"
#include "store/step.h"
#include "store/zip_reader.h"

namespace heron {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

[[noreturn]] void refuse_part(const fs::path& path, const json::exception& error) {
  refuse_archive(path, "evaluation.json", json_fault(error));
}

/// Every capture that a record names, with the result made from it; nullptr if it has none.
void for_each_capture(const json& root,
                      const std::function<void(const json& capture, const json* result)>& take) {
  const auto member = [](const json& r) {
    return r.contains("result") ? &r.at("result") : nullptr;
  };
  for (const json& t : root.at("tests")) {
    if (t.contains("stimulus")) take(t.at("stimulus"), nullptr);
    for (const json& s : t.at("steps")) {
      for (const json& c : s.value("other_captures", json::array())) take(c, member(c));
      if (s.contains("capture")) take(s.at("capture"), member(s));
    }
  }
}

/// The captures of a record by hash, each once, and what a trace of that hash was called: the
/// result that was made from it knows.
std::map<std::string, std::string> named_captures(const json& root, const fs::path& path) {
  std::map<std::string, std::string> names;
  for_each_capture(root, [&](const json& c, const json* result) {
    const std::string hash = c.at("hash");
    if (!is_capture_hash(hash)) refuse_archive(path, "a step's capture", "its hash is not one");
    std::string& name = names[hash];
    if (name.empty() && result != nullptr) name = result->value("input", std::string());
  });
  return names;
}

/// A folder that is there as long as this is.
class WorkFolder {
 public:
  explicit WorkFolder(fs::path folder) : folder_(std::move(folder)) {
    std::error_code ignored;
    fs::remove_all(folder_, ignored);
    fs::create_directories(folder_);
  }
  ~WorkFolder() {
    std::error_code ignored;
    fs::remove_all(folder_, ignored);
  }
  WorkFolder(const WorkFolder&) = delete;
  WorkFolder& operator=(const WorkFolder&) = delete;
  fs::path operator/(const std::string& name) const { return folder_ / name; }

 private:
  fs::path folder_;
};

/// Recordings go in first, by content: if the rest fails they are only files nobody names.
std::map<std::string, StoredCapture> unpack_captures(ZipReader& zip, const json& root,
                                                     const fs::path& path,
                                                     const fs::path& captures_folder,
                                                     const Progress& progress,
                                                     const std::stop_token& stop) {
  std::map<std::string, StoredCapture> captures;
  const WorkFolder folder(captures_folder.parent_path() / ".importing");
  const auto named = named_captures(root, path);
  for (const auto& [hash, name] : named) {
    const auto done = static_cast<double>(captures.size());
    const auto part = [&](double from, double to) {
      const auto all = static_cast<double>(named.size());
      return progress_between(progress, (done + from) / all, (done + to) / all);
    };
    if (zip.contains("captures/" + hash + ".csv")) {
      const std::string text = zip.text("captures/" + hash + ".csv");
      const std::string called = name.empty() ? "trace.csv" : name;
      const StoredCapture stored =
          store_trace(captures_folder, text, called, parse_csv(text, called).rows.size());
      if (stored.hash != hash)
        refuse_archive(path, "capture " + hash.substr(0, 12), "the trace does not match its hash");
      captures.emplace(hash, stored);
      continue;
    }
    zip.extract("captures/" + hash + ".sigmf-data", folder / (hash + ".sigmf-data"), part(0.0, 0.5),
                stop);
    zip.extract("captures/" + hash + ".sigmf-meta", folder / (hash + ".sigmf-meta"), {}, stop);
    const StoredCapture stored = store_capture(
        captures_folder, capture_opener(folder / (hash + ".sigmf-meta")), part(0.5, 1.0), stop);
    if (stored.hash != hash)
      refuse_archive(path, "capture " + hash.substr(0, 12),
                     "the recording does not match its hash");
    captures.emplace(hash, stored);
    fs::remove(folder / (hash + ".sigmf-data"));
  }
  return captures;
}

std::optional<Id> known_device(const Shack& shack, const json& d) {
  const std::string name = d.at("name");
  const std::string serial = d.at("serial");
  for (const Device& known : devices(shack)) {
    if (known.name == name && known.serial == serial) return known.id;
  }
  return std::nullopt;
}

Id add_device_of(Shack& shack, const json& d) {
  Device added{0, d.at("name"), d.at("kind"), d.at("serial"), d.at("note"), {}};
  for (const json& line : d.at("specification")) {
    added.specification.push_back({line.at("characteristic"), limit_from_json(line.at("limit")),
                                   line.value("condition", "")});
  }
  if (d.contains("facts")) added.facts = facts_from_json(d.at("facts"));
  return add_device(shack, added);
}

/// Hook-ups of the file as they are in this shack: one of the same name and parts is the same.
std::map<Id, HookupVersion> import_hookups(Shack& shack, const json& root, std::vector<Id>& made) {
  std::map<Id, HookupVersion> versions;
  for (const json& r : root.value("hookups", json::array())) {
    const std::string name = r.at("name");
    const Chain chain =
        chain_from_json(r.at("chain"), "hook-up \u201c" + name + "\u201d",
                        [](const std::string& file) -> std::string {
                          throw InputError("hook-up", file, "its file is not in the archive",
                                           "Export the evaluation again");
                        });
    std::optional<HookupVersion> same;
    for (const Hookup& known : hookups(shack)) {
      if (known.name != name) continue;
      const auto latest = readable_version(shack, known.id);
      if (latest && to_json(latest->chain) == to_json(chain)) same = latest;
    }
    if (!same) {
      std::string free = name;
      const auto taken = [&](const std::string& wanted) {
        const auto all = hookups(shack);
        return std::any_of(all.begin(), all.end(),
                           [&](const Hookup& h) { return h.name == wanted; });
      };
      for (int i = 2; taken(free); ++i) free = fmt::format("{} ({})", name, i);
      made.push_back(add_hookup(shack, free, chain));
      same = latest_version(shack, made.back());
    }
    versions.emplace(r.at("id").get<Id>(), *same);
  }
  return versions;
}

/// Everything that the steps of a file refer to, as it is in this shack.
struct ImportedParts {
  const std::map<std::string, StoredCapture>& captures;
  const std::map<Id, HookupVersion>& versions;
  Id version(const json& r) const {
    return r.contains("hookup_version") ? versions.at(r.at("hookup_version").get<Id>()).id : 0;
  }
};

void import_capture(Shack& shack, Id step, const json& c, const json* result,
                    const ImportedParts& parts) {
  const Id attached = attach_capture(shack, step, parts.captures.at(c.at("hash")),
                                     {c.at("taken_at"), parts.version(c), std::nullopt});
  for (const json& condition : c.value("conditions", json::array()))
    set_condition(shack, step, condition_from_json(condition), attached);
  if (c.contains("added_attenuation_db"))
    set_condition(shack, step,
                  older_attenuation(c.at("added_attenuation_db"),
                                    c.value("added_attenuation_typed", std::string())),
                  attached);
  if (result == nullptr) return;
  save_result(shack, attached, checked_method(*result), *result);
}

/// What was read at a step and under what, as this version or an older one wrote it.
void import_readings(Shack& shack, Id step, const json& s) {
  for (const json& r : s.value("readings", json::array()))
    add_reading(shack, step, reading_from_json(r));
  for (const json& c : s.value("conditions", json::array()))
    set_condition(shack, step, condition_from_json(c));
  for (const json& r : s.value("series", json::array()))
    add_series(shack, step, series_from_json(r));
  if (s.contains("output")) {
    const json& o = s.at("output");
    add_reading(shack, step, older_output(o.at("typed"), o.at("dbm"), o.at("u_db")));
  }
  if (s.contains("products")) {
    for (const Reading& r : older_products(s.at("products"))) add_reading(shack, step, r);
  }
  if (s.contains("sweep_hz")) {
    for (const Condition& c : older_sweep(s.at("sweep_hz").at(0), s.at("sweep_hz").at(1)))
      set_condition(shack, step, c);
  }
}

void import_step(Shack& shack, Id test, const json& s, const ImportedParts& parts) {
  const Id step = add_step(shack, test, s.at("label"));
  import_readings(shack, step, s);
  for (const json& c : s.value("other_captures", json::array()))
    import_capture(shack, step, c, c.contains("result") ? &c.at("result") : nullptr, parts);
  if (s.contains("capture"))
    import_capture(shack, step, s.at("capture"), s.contains("result") ? &s.at("result") : nullptr,
                   parts);
}

Test test_from_json(const json& t, Id evaluation, const std::map<Id, HookupVersion>& versions) {
  Test added;
  added.evaluation_id = evaluation;
  added.characteristic = t.at("characteristic");
  added.title = t.at("title");
  added.hookup = t.at("hookup");
  added.conditions = t.at("conditions");
  added.convention = t.at("convention");
  added.settings = t.at("settings");
  // Another shack counts its tests otherwise.
  if (added.settings.is_object()) added.settings.erase(kComparedWith);
  if (!t.at("limit").is_null()) added.limit = limit_from_json(t.at("limit"));
  added.note = t.at("note");
  if (t.contains("hookup_version"))
    added.hookup_id = versions.at(t.at("hookup_version").get<Id>()).hookup_id;
  if (t.contains("drive"))
    added.drive = drive_from_json(t.at("drive"), "evaluation.json", "the drive of " + added.title);
  return added;
}

}  // namespace

UnpackedEvaluation unpack_evaluation(const fs::path& zip_path, const fs::path& captures_folder,
                                     const Progress& progress, const std::stop_token& stop) {
  ZipReader zip(zip_path);
  UnpackedEvaluation unpacked{
      zip_path, json::parse(zip.text("evaluation.json"), nullptr, false), {}};
  const json& root = unpacked.record;
  try {
    if (!root.is_object() || root.value("format", json()) != kEvaluationFormat)
      refuse_archive(zip_path, "evaluation.json", "this is not an exported evaluation");
    if (root.at("version").get<double>() > kEvaluationVersion)
      refuse_archive(zip_path, "version", "a newer Even Heron wrote this file");
    unpacked.captures = unpack_captures(zip, root, zip_path, captures_folder, progress, stop);
  } catch (const json::exception& error) {
    refuse_part(zip_path, error);
  }
  return unpacked;
}

std::optional<Id> same_evaluation(const Shack& shack, const UnpackedEvaluation& unpacked) {
  const json& root = unpacked.record;
  try {
    const std::string title = root.at("title");
    const std::string started_at = root.at("started_at");
    const auto device = known_device(shack, root.at("device"));
    if (!device) return std::nullopt;
    for (const Evaluation& e : evaluations(shack, *device)) {
      if (e.title == title && e.started_at == started_at) return e.id;
    }
  } catch (const json::exception& error) {
    refuse_part(unpacked.from, error);
  }
  return std::nullopt;
}

AddedEvaluation add_unpacked(Shack& shack, const UnpackedEvaluation& unpacked) {
  const json& root = unpacked.record;
  AddedEvaluation added;
  try {
    shack.write_together([&] {
      auto device = known_device(shack, root.at("device"));
      if (!device) device = added.device = add_device_of(shack, root.at("device"));
      const Id evaluation = added.evaluation =
          add_evaluation(shack, *device, root.at("title"), root.at("started_at"));
      // Older archives know of neither.
      if (const std::string goal = root.value("goal", ""); !goal.empty())
        set_evaluation_goal(shack, evaluation, goal);
      if (root.contains("end") && !root.at("end").is_null())
        set_evaluation_end(shack, evaluation, evaluation_end_from_json(root.at("end")));
      const auto versions = import_hookups(shack, root, added.hookups);
      const ImportedParts parts{unpacked.captures, versions};
      for (const json& t : root.at("tests")) {
        const Id test = add_test(shack, test_from_json(t, evaluation, versions));
        for (const json& s : t.at("steps")) import_step(shack, test, s, parts);
        for (const json& e : t.value("events", json::array()))
          add_event(shack, test, event_from_json(e));
        for (const json& v : t.value("vouched", json::array()))
          vouch(shack, test,
                {v.at("by"), v.at("why"), v.at("at"), v.at("pep_dbm"), parts.version(v)});
        refresh_headline(shack, test);
        if (!t.at("signed_by").get<std::string>().empty())
          sign_test(shack, test, t.at("signed_by"), t.at("signed_at"));
      }
    });
  } catch (const json::exception& error) {
    refuse_part(unpacked.from, error);
  } catch (const std::out_of_range&) {
    refuse_archive(unpacked.from, "evaluation.json",
                   "it names a hook-up or recording that is not in it");
  }
  return added;
}

void set_added_removed(Shack& shack, const AddedEvaluation& added, bool removed) {
  shack.write_together([&] {
    set_evaluation_removed(shack, added.evaluation, removed);
    if (added.device != 0) set_device_removed(shack, added.device, removed);
    for (const Id hookup : added.hookups) set_hookup_removed(shack, hookup, removed);
  });
}

}  // namespace heron
