#pragma once

#include <cstddef>
#include <functional>
#include <stop_token>

namespace heron {

/// Runs `work` on `threads` threads (0 = one a core) but at most `most`, this one among them, until
/// all have returned. The token asks the others to stop once one has failed; what the first one
/// threw is thrown here.
void on_threads(unsigned threads, std::size_t most,
                const std::function<void(const std::stop_token& failed)>& work);

}  // namespace heron
