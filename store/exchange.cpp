#include "store/exchange.h"

#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <map>
#include <memory>
#include <set>
#include <zip.h>

#include "core/method/two_tone_json.h"
#include "store/capture_files.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/result_record.h"
#include "store/step.h"
#include "store/stored_json.h"

namespace heron {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

constexpr const char* kFormat = "even-heron-evaluation";
constexpr std::uint64_t kLargestJsonBytes = 256U << 20U;

[[noreturn]] void refuse(const fs::path& path, const std::string& where, const std::string& why) {
  throw InputError(path.filename().string(), where, why,
                   "Export the evaluation again where it came from");
}

json step_to_json(const Shack& shack, const Step& step, std::set<std::string>& hashes) {
  json out = {{"label", step.label}, {"note", step.note}};
  if (step.output)
    out["output"] = {
        {"typed", step.output->typed}, {"dbm", step.output->dbm}, {"u_db", step.output->u_db}};
  if (step.capture) {
    hashes.insert(step.capture->hash);
    out["capture"] = {{"hash", step.capture->hash}, {"taken_at", step.capture->taken_at}};
    if (const auto record = load_result(shack, step.capture->id)) out["result"] = *record;
  }
  return out;
}

json evaluation_to_json(const Shack& shack, const Evaluation& e, std::set<std::string>& hashes) {
  const Device d = device(shack, e.device_id);
  json specification = json::array();
  for (const SpecLine& line : d.specification) {
    specification.push_back(
        {{"characteristic", line.characteristic}, {"limit", to_json(line.limit)}});
  }
  json list = json::array();
  for (const Test& t : tests(shack, e.id)) {
    json step_list = json::array();
    for (const Step& s : steps(shack, t.id)) step_list.push_back(step_to_json(shack, s, hashes));
    list.push_back({{"characteristic", t.characteristic},
                    {"title", t.title},
                    {"hookup", t.hookup},
                    {"conditions", t.conditions},
                    {"convention", t.convention},
                    {"settings", t.settings},
                    {"limit", t.limit ? to_json(*t.limit) : json(nullptr)},
                    {"note", t.note},
                    {"signed_by", t.signed_by},
                    {"signed_at", t.signed_at},
                    {"steps", step_list}});
  }
  return {{"format", kFormat},
          {"version", 1},
          {"device",
           {{"name", d.name},
            {"kind", d.kind},
            {"serial", d.serial},
            {"note", d.note},
            {"specification", specification}}},
          {"title", e.title},
          {"started_at", e.started_at},
          {"tests", list}};
}

/// An archive being read; every size is checked before it is believed.
class ZipReader {
 public:
  explicit ZipReader(const fs::path& path) : path_(path) {
    int error = 0;
    zip_.reset(zip_open(path.c_str(), ZIP_RDONLY | ZIP_CHECKCONS, &error));
    if (!zip_) refuse(path, "", "this is not an exported evaluation, or it is damaged");
  }
  std::string text(const std::string& name) {
    zip_stat_t stat{};
    if (zip_stat(zip_.get(), name.c_str(), 0, &stat) != 0)
      refuse(path_, name, "it is missing from the file");
    if (stat.size > kLargestJsonBytes) refuse(path_, name, "it is larger than 256 MB");
    std::string content;
    stream(name, [&](const char* bytes, std::size_t count) {
      content.append(bytes, count);
      if (content.size() > kLargestJsonBytes) refuse(path_, name, "it is larger than it says");
    });
    return content;
  }
  void extract(const std::string& name, const fs::path& to) {
    std::ofstream out(to, std::ios::binary);
    stream(name, [&](const char* bytes, std::size_t count) {
      out.write(bytes, static_cast<std::streamsize>(count));
    });
    if (!out.flush()) {
      throw InputError(to.parent_path().string(), "", "the recording could not be written",
                       "Free some space and try again");
    }
  }

 private:
  template <class Take>
  void stream(const std::string& name, const Take& take) {
    const std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> file(
        zip_fopen(zip_.get(), name.c_str(), 0), &zip_fclose);
    if (!file) refuse(path_, name, "it is missing from the file");
    std::vector<char> block(1U << 18U);
    while (true) {
      const zip_int64_t got = zip_fread(file.get(), block.data(), block.size());
      if (got < 0) refuse(path_, name, "it is damaged");
      if (got == 0) break;
      take(block.data(), static_cast<std::size_t>(got));
    }
  }
  fs::path path_;
  struct Closer {
    void operator()(zip_t* zip) const { zip_discard(zip); }
  };
  std::unique_ptr<zip_t, Closer> zip_;
};

bool is_hash(const std::string& text) {
  return text.size() == 64 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

/// Recordings go in first, by content: if the rest fails they are only files nobody names.
std::map<std::string, StoredCapture> import_captures(Shack& shack, ZipReader& zip, const json& root,
                                                     const fs::path& path) {
  std::map<std::string, StoredCapture> captures;
  const fs::path folder = shack.folder() / ".importing";
  fs::create_directories(folder);
  struct Cleanup {
    fs::path folder;
    ~Cleanup() {
      std::error_code ignored;
      fs::remove_all(folder, ignored);
    }
  } cleanup{folder};
  for (const json& t : root.at("tests")) {
    for (const json& s : t.at("steps")) {
      if (!s.contains("capture")) continue;
      const std::string hash = s.at("capture").at("hash");
      if (!is_hash(hash)) refuse(path, "a step's capture", "its hash is not one");
      if (captures.contains(hash)) continue;
      for (const char* ending : {".sigmf-data", ".sigmf-meta"}) {
        zip.extract("captures/" + hash + ending, folder / (hash + ending));
      }
      const StoredCapture stored =
          store_capture(shack.captures_folder(), capture_opener(folder / (hash + ".sigmf-meta")));
      if (stored.hash != hash)
        refuse(path, "capture " + hash.substr(0, 12), "the recording does not match its hash");
      captures.emplace(hash, stored);
      fs::remove(folder / (hash + ".sigmf-data"));
    }
  }
  return captures;
}

Id device_for(Shack& shack, const json& d) {
  const std::string name = d.at("name");
  const std::string serial = d.at("serial");
  for (const Device& known : devices(shack)) {
    if (known.name == name && known.serial == serial) return known.id;
  }
  Device added{0, name, d.at("kind"), serial, d.at("note"), {}};
  for (const json& line : d.at("specification")) {
    added.specification.push_back({line.at("characteristic"), limit_from_json(line.at("limit"))});
  }
  return add_device(shack, added);
}

void import_step(Shack& shack, Id test, const json& s,
                 const std::map<std::string, StoredCapture>& captures) {
  const Id step = add_step(shack, test, s.at("label"));
  if (s.contains("output")) {
    const json& o = s.at("output");
    set_step_output(shack, step, TypedOutput{o.at("typed"), o.at("dbm"), o.at("u_db")});
  }
  if (!s.contains("capture")) return;
  const json& c = s.at("capture");
  const Id attached = attach_capture(shack, step, captures.at(c.at("hash")), c.at("taken_at"));
  if (s.contains("result")) {
    two_tone_from_json(s.at("result"));  // refuses a damaged record here, not when it is shown
    save_result(shack, attached, "two_tone", s.at("result"));
  }
}

}  // namespace

void export_evaluation(const Shack& shack, Id id, const fs::path& zip_path,
                       const std::vector<std::pair<std::string, std::string>>& further_files) {
  const Evaluation e = evaluation(shack, id);
  std::set<std::string> hashes;
  std::vector<std::pair<std::string, std::string>> texts = further_files;
  texts.emplace_back("evaluation.json", evaluation_to_json(shack, e, hashes).dump(1));
  int error = 0;
  zip_t* zip = zip_open(zip_path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
  if (zip == nullptr) {
    throw InputError(zip_path.string(), "", "the file cannot be written",
                     "Choose another folder or name");
  }
  const auto add = [&](const std::string& name, zip_source_t* source) {
    if (source == nullptr || zip_file_add(zip, name.c_str(), source, ZIP_FL_ENC_UTF_8) < 0) {
      const std::string why = zip_strerror(zip);
      zip_source_free(source);
      zip_discard(zip);
      throw InputError(zip_path.string(), name, "it cannot be added (" + why + ")",
                       "Check that the recording is still there");
    }
  };
  for (const auto& [name, text] : texts)
    add(name, zip_source_buffer(zip, text.data(), text.size(), 0));
  for (const std::string& hash : hashes) {
    for (const char* ending : {".sigmf-data", ".sigmf-meta"}) {
      const fs::path file = shack.captures_folder() / (hash + ending);
      add("captures/" + hash + ending, zip_source_file(zip, file.c_str(), 0, -1));
    }
  }
  if (zip_close(zip) != 0) {
    const std::string why = zip_strerror(zip);
    zip_discard(zip);
    throw InputError(zip_path.string(), "", "it could not be written (" + why + ")",
                     "Free some space or choose another folder");
  }
}

Id import_evaluation(Shack& shack, const fs::path& zip_path) {
  ZipReader zip(zip_path);
  const json root = json::parse(zip.text("evaluation.json"), nullptr, false);
  if (root.is_discarded() || !root.is_object() || root.value("format", "") != kFormat) {
    refuse(zip_path, "evaluation.json", "this is not an exported evaluation");
  }
  Id evaluation = 0;
  try {
    if (root.at("version").get<double>() > 1.0)
      refuse(zip_path, "version", "a newer Even Heron wrote this file");
    const auto captures = import_captures(shack, zip, root, zip_path);
    shack.write_together([&] {
      evaluation = add_evaluation(shack, device_for(shack, root.at("device")), root.at("title"),
                                  root.at("started_at"));
      for (const json& t : root.at("tests")) {
        Test added;
        added.evaluation_id = evaluation;
        added.characteristic = t.at("characteristic");
        added.title = t.at("title");
        added.hookup = t.at("hookup");
        added.conditions = t.at("conditions");
        added.convention = t.at("convention");
        added.settings = t.at("settings");
        if (!t.at("limit").is_null()) added.limit = limit_from_json(t.at("limit"));
        added.note = t.at("note");
        const Id test = add_test(shack, added);
        for (const json& s : t.at("steps")) import_step(shack, test, s, captures);
        if (!t.at("signed_by").get<std::string>().empty())
          sign_test(shack, test, t.at("signed_by"), t.at("signed_at"));
      }
    });
  } catch (const json::exception& error) {
    refuse(zip_path, "evaluation.json",
           std::string("a part of it is missing or of the wrong kind (") + error.what() + ")");
  }
  return evaluation;
}

}  // namespace heron
