#include "core/chain/bench_json.h"
#include "core/error.h"

/// A bench file as JSON, and the same bytes as what somebody types into its fields.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    heron::bench_from_text(text, "in.json");
  } catch (const heron::InputError&) {
  }
  heron::BenchItem item = heron::made_item("attenuator");
  for (const heron::BenchField& field : heron::bench_fields("attenuator")) {
    try {
      heron::set_field(item, field, text);
      heron::field_text(item, field);
    } catch (const heron::InputError&) {
    }
  }
  return 0;
}
