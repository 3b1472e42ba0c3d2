#include "core/method/analysis.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {

std::string load_words(const RecorderLoad& load) {
  const std::string away = number_text(std::abs(load.peak_dbfs), 1);
  if (load.is_clipped() && load.peak_dbfs > kFullScaleDbfs)
    return fmt::format("clipped: {} samples at full scale", load.clipped_samples);
  if (load.is_clipped()) return fmt::format("limited {} dB under full scale", away);
  return fmt::format("{} dB {} full scale", away, load.peak_dbfs <= 0.0 ? "under" : "over");
}

}  // namespace heron
