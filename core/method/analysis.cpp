#include "core/method/analysis.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <vector>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {

RecorderLoad recorder_load(const CaptureOpener& open, const std::stop_token& stop) {
  const auto reader = open();
  const float clip = reader->info().clip_level();
  std::vector<float> block((1U << 14U) * reader->floats_per_frame());
  RecorderLoad load;
  float peak = 0.0F;
  for (std::size_t got = reader->read(block); got > 0; got = reader->read(block)) {
    if (stop.stop_requested()) throw Cancelled();
    for (std::size_t i = 0; i < got * reader->floats_per_frame(); ++i) {
      peak = std::max(peak, std::abs(block[i]));
      if (clip > 0.0F && std::abs(block[i]) >= clip) ++load.clipped_samples;
    }
  }
  load.peak_dbfs = db_from_voltage_ratio(std::max(1e-10, static_cast<double>(peak)));
  return load;
}

std::string load_words(const RecorderLoad& load) {
  const std::string away = number_text(std::abs(load.peak_dbfs), 1);
  if (load.is_clipped() && load.peak_dbfs > kFullScaleDbfs)
    return fmt::format("clipped: {} samples at full scale", load.clipped_samples);
  if (load.is_clipped()) return fmt::format("limited {} dB under full scale", away);
  return fmt::format("{} dB {} full scale", away, load.peak_dbfs <= 0.0 ? "under" : "over");
}

}  // namespace heron
