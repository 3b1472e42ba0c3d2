#pragma once

#include <filesystem>
#include <functional>
#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/chain/chain.h"

namespace heron {

/// Gives the text of a Touchstone file named in a chain.
using NetworkText = std::function<std::string(const std::string& path)>;

/// The "even-heron-chain" format; InputError naming `subject` and the part and key that is wrong.
Chain chain_from_json(const nlohmann::json& record, const std::string& subject,
                      const NetworkText& network);
/// The gain of a network file is written as a table; its reflections are not.
nlohmann::json to_json(const Chain& chain);

/// Reads a chain file; Touchstone paths are relative to it.
Chain read_chain(const std::filesystem::path& path);

}  // namespace heron
