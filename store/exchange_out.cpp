#include <fmt/format.h>
#include <set>
#include <zip.h>

#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/method/evidence_json.h"
#include "core/method/kept_file.h"
#include "core/method/method.h"
#include "core/method/result_json.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/event.h"
#include "store/exchange.h"
#include "store/hookup.h"
#include "store/reading.h"
#include "store/result_record.h"
#include "store/series.h"
#include "store/step.h"

namespace heron {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

/// What belongs to an evaluation beside its record.
struct PackedParts {
  std::set<std::string> hashes;
  std::set<Id> versions;
};

/// A list under a key, if there is anything in it.
template <class T>
void put_list(json& out, const char* key, const std::vector<T>& list) {
  if (list.empty()) return;
  json all = json::array();
  for (const T& one : list) all.push_back(to_json(one));
  out[key] = std::move(all);
}

/// The recording of the user's own that a test's settings name; empty if there is none.
std::string own_file(const Test& t) {
  const Method* method = find_method(t.characteristic);
  if (method == nullptr || !t.settings.contains(std::string(method->settings_key))) return {};
  const json& own = t.settings.at(std::string(method->settings_key));
  if (!own.is_object()) return {};
  for (const SettingField& field : method->settings) {
    for (const SettingChoice& choice : field.choices) {
      if (choice.file.empty()) continue;
      return kept_file_hash(own, std::string(choice.file));
    }
  }
  return {};
}

json capture_to_json(const Shack& shack, const StepCapture& c, PackedParts& parts) {
  parts.hashes.insert(c.hash);
  json out = {{"hash", c.hash}, {"taken_at", c.taken_at}};
  put_list(out, "conditions", conditions_of_capture(shack, c.id));
  if (c.hookup_version_id != 0) {
    out["hookup_version"] = c.hookup_version_id;
    parts.versions.insert(c.hookup_version_id);
  }
  if (const auto record = load_result(shack, c.id)) out["result"] = *record;
  return out;
}

json step_to_json(const Shack& shack, const Step& step, PackedParts& parts) {
  json out = {{"label", step.label}, {"note", step.note}};
  put_list(out, "readings", step.readings);
  put_list(out, "conditions", step.conditions);
  for (const SeriesPtr& log : series_of_step(shack, step.id))
    out["series"].push_back(to_json(*log));
  if (step.capture) {
    out["capture"] = capture_to_json(shack, *step.capture, parts);
    if (out["capture"].contains("result")) {
      out["result"] = out["capture"]["result"];
      out["capture"].erase("result");
    }
  }
  json beside = json::array();
  for (auto c = step.repeats.rbegin(); c != step.repeats.rend(); ++c)
    beside.push_back(capture_to_json(shack, *c, parts));
  if (step.self_test) beside.push_back(capture_to_json(shack, *step.self_test, parts));
  if (!beside.empty()) out["other_captures"] = beside;
  return out;
}

json vouched_to_json(const std::vector<Vouched>& list, PackedParts& parts) {
  json out = json::array();
  for (const Vouched& v : list) {
    parts.versions.insert(v.version_id);
    out.push_back({{"by", v.by},
                   {"why", v.why},
                   {"at", v.at},
                   {"pep_dbm", v.pep_dbm},
                   {"hookup_version", v.version_id}});
  }
  return out;
}

json versions_to_json(const Shack& shack, const std::set<Id>& ids) {
  json out = json::array();
  for (const Id id : ids) {
    const HookupVersion v = hookup_version(shack, id);
    out.push_back({{"id", v.id},
                   {"name", v.name},
                   {"number", v.number},
                   {"made_at", v.made_at},
                   {"chain", to_json(v.chain)}});
  }
  return out;
}

json evaluation_to_json(const Shack& shack, const Evaluation& e, PackedParts& parts) {
  const Device d = device(shack, e.device_id);
  json specification = json::array();
  for (const SpecLine& line : d.specification) {
    specification.push_back({{"characteristic", line.characteristic},
                             {"limit", to_json(line.limit)},
                             {"condition", line.condition}});
  }
  json list = json::array();
  for (const Test& t : tests(shack, e.id)) {
    json step_list = json::array();
    for (const Step& s : steps(shack, t.id)) step_list.push_back(step_to_json(shack, s, parts));
    json out = {{"characteristic", t.characteristic},
                {"title", t.title},
                {"hookup", t.hookup},
                {"conditions", t.conditions},
                {"convention", t.convention},
                {"settings", t.settings},
                {"limit", t.limit ? to_json(*t.limit) : json(nullptr)},
                {"note", t.note},
                {"signed_by", t.signed_by},
                {"signed_at", t.signed_at},
                {"steps", step_list}};
    put_list(out, "events", events(shack, t.id));
    // A stimulus of the user's own goes along: without it nobody could take another step.
    if (const std::string own = own_file(t); !own.empty()) {
      parts.hashes.insert(own);
      out["stimulus"] = {{"hash", own}};
    }
    if (t.hookup_id != 0) {
      const Id version = latest_version(shack, t.hookup_id).id;
      parts.versions.insert(version);
      out["hookup_version"] = version;
    }
    if (t.drive) out["drive"] = to_json(*t.drive);
    if (const auto vouched = all_vouched(shack, t.id); !vouched.empty())
      out["vouched"] = vouched_to_json(vouched, parts);
    list.push_back(out);
  }
  return {{"format", kEvaluationFormat},
          {"version", kEvaluationVersion},
          {"device",
           {{"name", d.name},
            {"kind", d.kind},
            {"serial", d.serial},
            {"note", d.note},
            {"facts", to_json(d.facts)},
            {"specification", specification}}},
          {"title", e.title},
          {"started_at", e.started_at},
          {"goal", e.goal},
          {"end", e.end ? to_json(*e.end) : json()},
          {"tests", list},
          {"hookups", versions_to_json(shack, parts.versions)}};
}

}  // namespace

PackedEvaluation pack_evaluation(const Shack& shack, Id id) {
  PackedEvaluation packed;
  PackedParts parts;
  packed.texts.emplace_back("evaluation.json",
                            evaluation_to_json(shack, evaluation(shack, id), parts).dump(1));
  for (const std::string& hash : parts.hashes) {
    const fs::path path = capture_path(shack, hash);
    packed.captures.push_back(path);
    if (path.extension() == ".sigmf-meta")
      packed.captures.push_back(fs::path(path).replace_extension(".sigmf-data"));
  }
  return packed;
}

void write_packed(const PackedEvaluation& packed, const fs::path& zip_path,
                  const Progress& progress, const std::stop_token& stop) {
  int error = 0;
  zip_t* zip = zip_open(zip_path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
  if (zip == nullptr) {
    throw InputError(zip_path.string(), "", "the file cannot be written",
                     "Choose another folder or name");
  }
  const auto add = [&](const std::string& name, zip_source_t* source) {
    if (source == nullptr || zip_file_add(zip, name.c_str(), source, ZIP_FL_ENC_UTF_8) < 0) {
      zip_source_free(source);
      zip_discard(zip);
      throw InputError(zip_path.string(), name, "it cannot be added",
                       "Check that the recording is still there");
    }
  };
  for (const auto& [name, text] : packed.texts)
    add(name, zip_source_buffer(zip, text.data(), text.size(), 0));
  for (const fs::path& file : packed.captures)
    add("captures/" + file.filename().string(), zip_source_file(zip, file.c_str(), 0, -1));
  struct Callbacks {
    const Progress& progress;
    const std::stop_token& stop;
  } callbacks{progress, stop};
  zip_register_progress_callback_with_state(
      zip, 0.01,
      [](zip_t*, double fraction, void* state) {
        const auto& told = static_cast<Callbacks*>(state)->progress;
        if (told) told(fraction);
      },
      nullptr, &callbacks);
  zip_register_cancel_callback_with_state(
      zip,
      [](zip_t*, void* state) {
        return static_cast<Callbacks*>(state)->stop.stop_requested() ? 1 : 0;
      },
      nullptr, &callbacks);
  if (zip_close(zip) != 0) {
    zip_discard(zip);
    if (stop.stop_requested()) throw Cancelled();
    throw InputError(zip_path.string(), "", "it could not be written",
                     "Free some space or choose another folder");
  }
}

}  // namespace heron
