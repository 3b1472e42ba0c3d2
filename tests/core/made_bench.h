#pragma once

#include <map>
#include <optional>
#include <stdexcept>
#include <string>
#include <utility>
#include <vector>

#include "core/chain/bench_item.h"
#include "core/chain/chain.h"

namespace heron::testing {

inline const BenchField& field(const std::string& sort, const std::string& key) {
  static std::map<std::string, std::vector<BenchField>> kept;
  auto& fields = kept.try_emplace(sort, bench_fields(sort)).first->second;
  for (const BenchField& f : fields) {
    if (f.key == key) return f;
  }
  throw std::logic_error("no field " + key);
}

inline BenchItem item(const std::string& sort,
                      const std::vector<std::pair<std::string, std::string>>& typed) {
  BenchItem made = made_item(sort);
  for (const auto& [key, text] : typed) set_field(made, field(sort, key), text);
  return made;
}

inline Part pad(const std::string& name, double gain_db, double watt, std::optional<double> tau_s) {
  Part part;
  part.name = name;
  part.kind = "attenuator";
  part.gain = Gain(gain_db);
  part.max_input_w = watt;
  part.time_constant_s = tau_s;
  part.vswr = 1.0;
  return part;
}

inline Part sampler() {
  Part part;
  part.name = "sampler";
  part.kind = "instrument";
  part.max_input_dbm = 20.0;
  part.full_scale_dbm = 5.0;
  part.best_input_dbm = std::pair{-22.0, -6.0};
  part.vswr = 1.0;
  return part;
}

inline Chain chain_of(std::vector<Part> parts) {
  Chain chain;
  chain.parts = std::move(parts);
  return chain;
}

}  // namespace heron::testing
