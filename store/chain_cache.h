#pragma once

#include <map>
#include <mutex>
#include <string>

#include "core/chain/chain.h"

namespace heron {

/// Hook-ups that were read already, by their text: most steps of a test were taken on the same one.
/// Any thread may ask.
class ChainCache {
 public:
  /// InputError if the text is damaged.
  Chain read(const std::string& text);

 private:
  std::mutex mutex_;
  std::map<std::string, Chain> kept_;
};

}  // namespace heron
