#pragma once

#include <string>
#include <vector>

#include "core/method/method.h"
#include "store/shack.h"

namespace heron::demo {

/// What is typed under a head of the grid; empty = nothing.
struct TypedCell {
  std::string head;
  std::string typed;
};

/// A step of a test as somebody typed it at a time.
Id type_step(Shack& shack, Id test, const Method& method, const std::string& label,
             const std::vector<TypedCell>& cells, const std::string& at);

}  // namespace heron::demo
