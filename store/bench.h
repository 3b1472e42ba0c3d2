#pragma once

#include <vector>

#include "core/chain/bench_item.h"
#include "store/shack.h"

namespace heron {

/// A thing of the bench as it stands in the shack.
struct BenchEntry {
  Id id = 0;
  BenchItem item;
  bool is_retired = false;  ///< kept with its figures, no longer offered
  std::string damage = {};  ///< not empty: its record cannot be read, this stands in its place
  /// As a part of a hook-up, with the name by which the chain knows it.
  Part part() const;
};

/// All that was not removed, retired ones last, in the order of the bench's groups.
std::vector<BenchEntry> bench(const Shack& shack);
BenchEntry bench_entry(const Shack& shack, Id id);  ///< InputError if it is not there
Id add_bench_item(Shack& shack, const BenchItem& item);
void set_bench_item(Shack& shack, Id id, const BenchItem& item);
void set_bench_item_retired(Shack& shack, Id id, bool retired);
void set_bench_item_removed(Shack& shack, Id id, bool removed);

/// The name by which chains know a bench item.
std::string bench_name(Id id);

}  // namespace heron
