#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/phase_noise/loop_json.h"
#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_family.h"
#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_table.h"
#include "core/method/phase_noise/noise_trace.h"

namespace {

/// Whatever is a curve can be worked with.
void use(const heron::NoiseCurve& curve) {
  heron::slopes_of(curve);
  heron::integrate(curve, curve.low_hz(), curve.high_hz());
  heron::change_sentence(heron::compare_noise(curve, heron::multiplied(curve, 2.0)));
  heron::without_floor(curve, heron::rebinned(curve, 10));
  const heron::FamilyMember family[] = {{"a", curve}, {"b", heron::rebinned(curve, 3)}};
  heron::pivot_of(heron::crossings_of(family));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  try {
    if (size > 0 && data[0] == '{') {
      for (const heron::LoopDesign& d : heron::parse_loops(text, "in.json")) heron::loop_figures(d);
      return 0;
    }
    const heron::CsvTable table = heron::parse_csv(text, "in.csv");
    if (heron::is_noise_table(table))
      use(heron::noise_of_table(table));
    else
      use(heron::noise_of_traces(std::vector{heron::parse_trace(text, "in.csv")}));
  } catch (const heron::InputError&) {
  }
  return 0;
}
