#include "core/method/measure/mask_layer.h"

namespace heron {

PlotLayer mask_layer(const Mask& mask, const CarrierPower& carrier, double from_hz, double to_hz) {
  PlotLayer layer{PlotLayer::Kind::mask, mask.name, 1, true, {}};
  for (const MaskStep& s : mask_steps(mask, carrier, from_hz, to_hz)) {
    layer.points.push_back({s.from_hz, s.limit_dbc});
    layer.points.push_back({s.to_hz, s.limit_dbc});
  }
  return layer;
}

}  // namespace heron
