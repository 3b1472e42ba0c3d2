#include "core/json_once.h"

#ifdef HERON_JSON_ONCE
template class nlohmann::basic_json<>;
#endif
