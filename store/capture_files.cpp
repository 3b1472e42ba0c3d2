#include "store/capture_files.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <fmt/format.h>
#include <memory>
#include <nlohmann/json.hpp>
#include <openssl/evp.h>
#include <vector>

#include "core/error.h"
#include "store/file_sync.h"
#include "store/reading.h"
#include "store/rows.h"

namespace heron {
namespace {

class Sha256 {
 public:
  Sha256() : context_(EVP_MD_CTX_new(), &EVP_MD_CTX_free) {
    EVP_DigestInit_ex(context_.get(), EVP_sha256(), nullptr);
  }
  void add(const void* data, std::size_t bytes) { EVP_DigestUpdate(context_.get(), data, bytes); }
  std::string hex() {
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned length = 0;
    EVP_DigestFinal_ex(context_.get(), digest, &length);
    std::string text;
    for (unsigned i = 0; i < length; ++i) text += fmt::format("{:02x}", digest[i]);
    return text;
  }

 private:
  std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> context_;
};

nlohmann::json sigmf_meta(const CaptureInfo& info, const std::string& datatype) {
  nlohmann::json capture = {{"core:sample_start", 0}};
  if (info.center_hz) capture["core:frequency"] = *info.center_hz;
  if (!info.recorded_at.empty()) capture["core:datetime"] = info.recorded_at;
  return {{"global",
           {{"core:datatype", datatype},
            {"core:sample_rate", info.sample_rate_hz},
            {"core:version", "1.0.0"},
            {"core:recorder", "Even Heron"},
            {"core:extensions", {{{"name", "heron"}, {"version", "1.0.0"}, {"optional", true}}}},
            {"heron:source_name", info.name},
            {"heron:source_format", info.format},
            {"heron:source_bits", info.bits}}},
          {"captures", nlohmann::json::array({capture})},
          {"annotations", nlohmann::json::array()}};
}

void to_int16(const std::vector<float>& in, std::size_t count, std::vector<std::int16_t>& out) {
  // Samples of 16 bits or fewer are whole numbers here; rounding by halves keeps it one
  // instruction.
  for (std::size_t i = 0; i < count; ++i) {
    const float scaled = in[i] * 32768.0F;
    const float rounded = scaled + (scaled < 0.0F ? -0.5F : 0.5F);
    out[i] = static_cast<std::int16_t>(std::clamp(rounded, -32768.0F, 32767.0F));
  }
}

}  // namespace

StoredCapture store_capture(const std::filesystem::path& captures_folder, const CaptureOpener& open,
                            const Progress& progress, const std::stop_token& stop) {
  const auto reader = open();
  StoredCapture stored;
  stored.info = reader->info();
  const bool as_int16 = !stored.info.is_float && stored.info.bits <= 16;
  const std::string datatype =
      std::string(stored.info.is_complex ? "c" : "r") + (as_int16 ? "i16_le" : "f32_le");

  Sha256 hash;
  const std::string head = fmt::format("{} {:.6f} {:.3f}\n", datatype, stored.info.sample_rate_hz,
                                       stored.info.center_hz.value_or(0.0));
  hash.add(head.data(), head.size());
  // The address of the reader makes the name unique among imports of one process.
  AtomicFile data(captures_folder, fmt::format("{}-data", static_cast<const void*>(reader.get())));
  const std::size_t floats = reader->floats_per_frame();
  std::vector<float> block((1U << 16U) * floats);
  std::vector<std::int16_t> integers(block.size());
  std::int64_t done = 0;
  while (const std::size_t frames = reader->read(block)) {
    if (stop.stop_requested()) throw Cancelled();
    const std::size_t count = frames * floats;
    const void* bytes = block.data();
    std::size_t size = count * sizeof(float);
    if (as_int16) {
      to_int16(block, count, integers);
      bytes = integers.data();
      size = count * sizeof(std::int16_t);
    }
    hash.add(bytes, size);
    data.write(bytes, size);
    done += static_cast<std::int64_t>(frames);
    if (progress) progress(static_cast<double>(done) / static_cast<double>(stored.info.frames));
  }
  stored.hash = hash.hex();
  if (std::filesystem::exists(captures_folder / (stored.hash + ".sigmf-meta"))) return stored;
  AtomicFile meta(captures_folder, stored.hash + "-meta");
  meta.write(sigmf_meta(stored.info, datatype).dump(2));
  // The meta file comes last: a pair is there once its meta file is.
  data.commit(stored.hash + ".sigmf-data");
  meta.commit(stored.hash + ".sigmf-meta");
  stored.is_new = true;
  return stored;
}

StoredCapture store_trace(const std::filesystem::path& captures_folder, const std::string& text,
                          const std::string& name, std::size_t points) {
  Sha256 hash;
  hash.add(text.data(), text.size());
  StoredCapture stored;
  stored.hash = hash.hex();
  stored.info.name = name;
  stored.info.format = fmt::format("CSV trace, {} points", points);
  stored.info.frames = static_cast<std::int64_t>(points);
  const std::string file_name = stored.hash + ".csv";
  if (std::filesystem::exists(captures_folder / file_name)) return stored;
  AtomicFile file(captures_folder, stored.hash + "-csv");
  file.write(text);
  file.commit(file_name);
  stored.is_new = true;
  return stored;
}

void discard_capture(const std::filesystem::path& captures_folder, const StoredCapture& capture) {
  if (!capture.is_new) return;
  std::error_code ignored;
  for (const char* ending : {".sigmf-meta", ".sigmf-data", ".csv"})
    std::filesystem::remove(captures_folder / (capture.hash + ending), ignored);
}

std::filesystem::path capture_path(const Shack& shack, const std::string& hash) {
  const std::filesystem::path trace = shack.captures_folder() / (hash + ".csv");
  return std::filesystem::exists(trace) ? trace : shack.captures_folder() / (hash + ".sigmf-meta");
}

Id attach_capture(Shack& shack, Id step, const StoredCapture& capture,
                  const Attachment& attachment) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT OR IGNORE INTO capture(hash, name, format, sample_rate_hz, frames, added_at) "
        "VALUES (?, ?, ?, ?, ?, ?)");
    insert.bind(1, capture.hash);
    insert.bind(2, capture.info.name);
    insert.bind(3, capture.info.format);
    insert.bind(4, capture.info.sample_rate_hz);
    insert.bind(5, static_cast<int64_t>(capture.info.frames));
    insert.bind(6, utc_now());
    insert.exec();
    SQLite::Statement attach(
        db,
        "INSERT INTO step_capture(step_id, capture_hash, taken_at, hookup_version_id) VALUES (?, "
        "?, ?, ?)");
    attach.bind(1, static_cast<int64_t>(step));
    attach.bind(2, capture.hash);
    attach.bind(3, attachment.taken_at.empty() ? utc_now() : attachment.taken_at);
    if (attachment.hookup_version_id != 0)
      attach.bind(4, static_cast<int64_t>(attachment.hookup_version_id));
    attach.exec();
    id = db.getLastInsertRowid();
    if (attachment.added)
      insert_condition(
          db, step, {kAddedAttenuation, attachment.added->db, "dB", attachment.added->typed}, id);
  });
  return id;
}

}  // namespace heron
