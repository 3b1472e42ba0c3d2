#pragma once

#include <QRectF>
#include <QString>
#include <algorithm>
#include <optional>
#include <vector>

#include "core/chain/chain.h"
#include "core/chain/node_verdict.h"
#include "core/chain/swap.h"
#include "core/quantity/levels.h"

namespace heron {

/// What band, diagram and table of the hook-up editor show alike. Column 0 is the source.
struct HookupScene {
  QString source;       ///< "Reedling 30"
  QString source_line;  ///< what it sends: "two tones"
  Chain chain;
  Drive drive;
  std::optional<ChainResult> result;  ///< nullopt: `trouble` says why
  std::vector<NodeVerdict> verdicts;  ///< one a part
  std::optional<ChainSwap> swap;
  QString trouble;
  int chosen = 0;  ///< column
  bool in_volts = false;

  int columns() const { return static_cast<int>(chain.parts.size()) + 1; }
  /// Of column i > 0.
  const Part& part(int column) const { return chain.parts[static_cast<std::size_t>(column - 1)]; }
  const ChainNode* node(int column) const {
    const auto i = static_cast<std::size_t>(column - 1);
    return column > 0 && result && i < result->nodes.size() ? &result->nodes[i] : nullptr;
  }
  const NodeVerdict* verdict(int column) const {
    const auto i = static_cast<std::size_t>(column - 1);
    return column > 0 && i < verdicts.size() ? &verdicts[i] : nullptr;
  }
};

/// The average rating of a part as a level.
inline std::optional<double> average_dbm(const Part& part) {
  return part.max_input_w ? std::optional(to_dbm(Watt{*part.max_input_w}).value) : std::nullopt;
}

/// Where the columns stand: the same in band and diagram.
struct HookupColumns {
  static constexpr double kLeft = 52;
  static constexpr double kRight = 64;
  double width = 0;
  int count = 1;
  double column() const { return (width - kLeft - kRight) / std::max(1, count); }
  double node() const { return std::min(132.0, std::max(60.0, column() - 16.0)); }
  double centre(int i) const { return kLeft + (i + 0.5) * column(); }
  QRectF box(int i, double top, double height) const {
    return {centre(i) - node() / 2, top, node(), height};
  }
  int at(double x) const {
    const int i = static_cast<int>((x - kLeft) / column());
    return x < kLeft || i >= count ? -1 : i;
  }
};

}  // namespace heron
