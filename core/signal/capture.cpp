#include "core/signal/capture.h"

#include <array>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <limits>

#include "core/error.h"
#include "core/signal/sigmf_capture.h"
#include "core/signal/wav_capture.h"

namespace heron {

float CaptureInfo::clip_level() const {
  if (is_float) return std::numeric_limits<float>::infinity();
  const int effective_bits = std::min(bits, 24);
  return 1.0F - 1.5F * std::ldexp(1.0F, 1 - effective_bits);
}

void CaptureReader::refuse_non_finite(std::span<const float> samples,
                                      std::int64_t first_frame) const {
  // A sum is not finite if a part is not: one pass without branches, the search only on trouble.
  float sum = 0.0F;
  for (const float v : samples) sum += v * 0.0F;
  if (sum == 0.0F) return;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    if (std::isfinite(samples[i])) continue;
    const auto frame = first_frame + static_cast<std::int64_t>(i / floats_per_frame());
    throw InputError(
        info_.name, fmt::format("sample {}", frame),
        std::isnan(samples[i]) ? "the sample is not a number" : "the sample is infinite",
        "Record again, or cut this part out of the recording");
  }
}

std::unique_ptr<CaptureReader> open_capture(const std::filesystem::path& path) {
  namespace fs = std::filesystem;
  const std::string name = path.string();
  std::error_code error;
  const fs::file_status status = fs::status(path, error);
  if (!fs::exists(status)) {
    throw InputError(name, "", "there is no such file", "Check the name and the folder");
  }
  if (fs::is_directory(status)) {
    throw InputError(name, "", "this is a folder, not a recording",
                     "Choose one WAV or SigMF file inside it");
  }
  if (!fs::is_regular_file(status)) {
    throw InputError(name, "", "this is not an ordinary file", "Choose a WAV or SigMF file");
  }
  std::ifstream file(path, std::ios::binary);
  if (!file) {
    throw InputError(name, "", fmt::format("it cannot be read ({})", std::strerror(errno)),
                     "Check the file's permissions");
  }
  const std::string extension = path.extension().string();
  if (extension == ".sigmf-meta" || extension == ".sigmf-data") return open_sigmf(path);

  std::array<char, 12> head{};
  file.read(head.data(), head.size());
  if (file.gcount() == 0) {
    throw InputError(name, "", "the file is empty", "Record again");
  }
  const std::string_view magic(head.data(), static_cast<std::size_t>(file.gcount()));
  if (magic.starts_with("RIFF") || magic.starts_with("RF64") || magic.starts_with("riff")) {
    return open_wav(path);
  }
  throw InputError(name, "at its first bytes", "this is neither a WAV nor a SigMF recording",
                   "Export it as WAV (two channels = I and Q, one channel = audio) or as SigMF");
}

CaptureOpener capture_opener(const std::filesystem::path& path) {
  return [path] { return open_capture(path); };
}

}  // namespace heron
