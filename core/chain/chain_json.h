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
/// Whole: a network file's points go along, so that nothing outside is needed to read it again.
nlohmann::json to_json(const Chain& chain);

/// One part of such a file; `place` is where it stands.
Part part_from_json(const nlohmann::json& record, const std::string& subject,
                    const std::string& place, const NetworkText& network);
nlohmann::json to_json(const Part& part);

/// What is planned to be put into a chain.
nlohmann::json to_json(const Drive& drive);
Drive drive_from_json(const nlohmann::json& record, const std::string& subject,
                      const std::string& place);

/// Reads a chain file; Touchstone paths are relative to it.
Chain read_chain(const std::filesystem::path& path);

}  // namespace heron
