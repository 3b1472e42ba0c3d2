#pragma once

#include "store/hookup.h"

namespace heron::demo {

/// Notched noise through an invented transmitter over its drive, and its occupied bandwidth over
/// settings with one stimulus. The noise test's id.
Id add_noise(Shack& shack, Id evaluation, Id hookup, const std::string& taken_at);
Id add_bandwidth(Shack& shack, Id evaluation, Id hookup, const std::string& taken_at);

}  // namespace heron::demo
