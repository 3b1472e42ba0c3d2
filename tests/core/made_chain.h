#pragma once

#include "core/chain/chain.h"

namespace heron::testing {

/// Well matched.
inline Part made_part(const char* name, const char* kind, double gain_db, double u_db) {
  Part p;
  p.name = name;
  p.kind = kind;
  p.gain = Gain(gain_db);
  p.u_db = u_db;
  p.vswr = 1.0;
  return p;
}

/// A pad of so many dB (± 0.2 dB) and a sampler behind it.
inline Chain pad_and_sampler(double loss_db) {
  Chain chain;
  chain.parts = {made_part("power pad", "attenuator", -loss_db, 0.1),
                 made_part("sampler", "instrument", 0.0, 0.0)};
  return chain;
}

}  // namespace heron::testing
