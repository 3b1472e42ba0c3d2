#pragma once

#include <nlohmann/json.hpp>

// For precompiled headers. Without optimisation each file that uses it would compile nearly all of
// it; where nothing is optimised (HERON_JSON_ONCE), json_once.cpp has it for all.
#if defined(HERON_JSON_ONCE) && !defined(__OPTIMIZE__)
extern template class nlohmann::basic_json<>;
#endif
