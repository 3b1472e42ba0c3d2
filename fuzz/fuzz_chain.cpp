#include <nlohmann/json.hpp>

#include "core/chain/chain_json.h"
#include "core/error.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto record = nlohmann::json::parse(data, data + size, nullptr, false);
  if (record.is_discarded()) return 0;
  try {
    const heron::Chain chain = heron::chain_from_json(
        record, "in.json", [](const std::string&) { return "1 .1 0 .5 0 .5 0 .2 0\n"; });
    heron::evaluate_chain(chain, {30.0, true, 1e9, 10.0});
  } catch (const heron::InputError&) {
  }
  return 0;
}
