#include "core/error.h"
#include "core/method/frequency/frequency_log.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto log = heron::read_frequency_log(heron::parse_csv(text, "in.csv"), 10e6);
    // Whatever was read can be fitted; a long one only takes its time.
    if (log.samples.size() < 64) heron::fit_drift(log.samples);
  } catch (const heron::InputError&) {
  }
  return 0;
}
