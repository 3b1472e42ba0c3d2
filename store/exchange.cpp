#include "store/exchange.h"

#include <cstring>
#include <fmt/format.h>
#include <fstream>
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

[[noreturn]] void refuse_part(const fs::path& path, const json::exception& error) {
  refuse(path, "evaluation.json",
         std::string("a part of it is missing or of the wrong kind (") + error.what() + ")");
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
    if (size_of(name) > kLargestJsonBytes) refuse(path_, name, "it is larger than 256 MB");
    std::string content;
    stream(name, [&](const char* bytes, std::size_t count) {
      content.append(bytes, count);
      if (content.size() > kLargestJsonBytes) refuse(path_, name, "it is larger than it says");
    });
    return content;
  }
  void extract(const std::string& name, const fs::path& to, const Progress& progress,
               const std::stop_token& stop) {
    const std::uint64_t size = size_of(name);
    std::ofstream out(to, std::ios::binary);
    std::uint64_t written = 0;
    stream(name, [&](const char* bytes, std::size_t count) {
      if (stop.stop_requested()) throw Cancelled();
      written += count;
      // More than the archive says is a bomb, not a recording.
      if (written > size) refuse(path_, name, "it is larger than it says");
      out.write(bytes, static_cast<std::streamsize>(count));
      if (progress) progress(static_cast<double>(written) / static_cast<double>(size));
    });
    if (!out.flush()) {
      throw InputError(to.parent_path().string(), "", "the recording could not be written",
                       "Free some space and try again");
    }
  }

 private:
  std::uint64_t size_of(const std::string& name) {
    zip_stat_t stat{};
    if (zip_stat(zip_.get(), name.c_str(), 0, &stat) != 0)
      refuse(path_, name, "it is missing from the file");
    return stat.size;
  }
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

/// The hashes that a record's steps name, each once.
std::set<std::string> named_captures(const json& root, const fs::path& path) {
  std::set<std::string> hashes;
  for (const json& t : root.at("tests")) {
    for (const json& s : t.at("steps")) {
      if (!s.contains("capture")) continue;
      const std::string hash = s.at("capture").at("hash");
      if (!is_hash(hash)) refuse(path, "a step's capture", "its hash is not one");
      hashes.insert(hash);
    }
  }
  return hashes;
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
  const auto hashes = named_captures(root, path);
  for (const std::string& hash : hashes) {
    const auto done = static_cast<double>(captures.size());
    const auto part = [&](double from, double to) {
      return [&, from, to](double f) {
        if (progress)
          progress((done + from + (to - from) * f) / static_cast<double>(hashes.size()));
      };
    };
    zip.extract("captures/" + hash + ".sigmf-data", folder / (hash + ".sigmf-data"), part(0.0, 0.5),
                stop);
    zip.extract("captures/" + hash + ".sigmf-meta", folder / (hash + ".sigmf-meta"), {}, stop);
    const StoredCapture stored = store_capture(
        captures_folder, capture_opener(folder / (hash + ".sigmf-meta")), part(0.5, 1.0), stop);
    if (stored.hash != hash)
      refuse(path, "capture " + hash.substr(0, 12), "the recording does not match its hash");
    captures.emplace(hash, stored);
    fs::remove(folder / (hash + ".sigmf-data"));
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

PackedEvaluation pack_evaluation(const Shack& shack, Id id) {
  PackedEvaluation packed;
  std::set<std::string> hashes;
  packed.texts.emplace_back("evaluation.json",
                            evaluation_to_json(shack, evaluation(shack, id), hashes).dump(1));
  for (const std::string& hash : hashes) {
    for (const char* ending : {".sigmf-data", ".sigmf-meta"})
      packed.captures.push_back(shack.captures_folder() / (hash + ending));
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
      const std::string why = zip_strerror(zip);
      zip_source_free(source);
      zip_discard(zip);
      throw InputError(zip_path.string(), name, "it cannot be added (" + why + ")",
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
    const std::string why = zip_strerror(zip);
    zip_discard(zip);
    if (stop.stop_requested()) throw Cancelled();
    throw InputError(zip_path.string(), "", "it could not be written (" + why + ")",
                     "Free some space or choose another folder");
  }
}

UnpackedEvaluation unpack_evaluation(const fs::path& zip_path, const fs::path& captures_folder,
                                     const Progress& progress, const std::stop_token& stop) {
  ZipReader zip(zip_path);
  UnpackedEvaluation unpacked{
      zip_path, json::parse(zip.text("evaluation.json"), nullptr, false), {}};
  const json& root = unpacked.record;
  try {
    if (!root.is_object() || root.value("format", json()) != kFormat)
      refuse(zip_path, "evaluation.json", "this is not an exported evaluation");
    if (root.at("version").get<double>() > 1.0)
      refuse(zip_path, "version", "a newer Even Heron wrote this file");
    unpacked.captures = unpack_captures(zip, root, zip_path, captures_folder, progress, stop);
  } catch (const json::exception& error) {
    refuse_part(zip_path, error);
  }
  return unpacked;
}

Id add_unpacked(Shack& shack, const UnpackedEvaluation& unpacked) {
  const json& root = unpacked.record;
  Id evaluation = 0;
  try {
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
        for (const json& s : t.at("steps")) import_step(shack, test, s, unpacked.captures);
        if (!t.at("signed_by").get<std::string>().empty())
          sign_test(shack, test, t.at("signed_by"), t.at("signed_at"));
      }
    });
  } catch (const json::exception& error) {
    refuse_part(unpacked.from, error);
  }
  return evaluation;
}

}  // namespace heron
