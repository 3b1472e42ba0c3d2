#pragma once

namespace heron {

/// Which side of its suppressed carrier a signal lies on.
enum class Sideband { upper, lower };

}  // namespace heron
