#pragma once

#include <QString>
#include <utility>
#include <vector>

namespace heron {

/// Where the keys of the window are pressed.
enum class KeyPlace { start, shack, sheet, hookup, bench, device };

/// Keys and what they do there, those that hold everywhere last.
std::vector<std::pair<QString, QString>> keys_of(KeyPlace place);

}  // namespace heron
