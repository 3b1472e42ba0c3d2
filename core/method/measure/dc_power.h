#pragma once

#include <optional>

#include "core/judge/limit.h"
#include "core/quantity/figure.h"

namespace heron {

/// Relative standard uncertainty of a figure that is a product or ratio of others.
double relative_u(const Figure& figure);

/// Output over DC power, %, from a level in dBm, volts and amperes at the device's terminals;
/// nullopt where one is missing or no power is drawn.
/// Example: 61 W from 28 V and 4.6 A are 47.4 %.
std::optional<Figure> dc_efficiency(const std::optional<Figure>& output,
                                    const std::optional<Figure>& volts,
                                    const std::optional<Figure>& amperes);

/// A limit in W as one in dBm, so that its margin is in dB; as it is in dBm; nullopt of any other
/// unit, and where it is no bound.
std::optional<Limit> limit_in_dbm(const Limit& limit);

}  // namespace heron
