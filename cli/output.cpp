#include "cli/output.h"

#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

#include "core/method/result_json.h"

namespace heron {

void print_json(const nlohmann::json& object) {
  // File names may hold bytes that are not UTF-8: replaced, so that the object stays valid JSON.
  const std::string text = object.dump(2, ' ', false, nlohmann::json::error_handler_t::replace);
  fmt::print("{}\n", text);
}

void print_remarks(const std::vector<Remark>& remarks) {
  for (const Remark& r : remarks) {
    fmt::print("{:<8} {}{}\n", severity_name(r.severity), r.text,
               r.action.empty() ? "" : " " + r.action + ".");
  }
}

nlohmann::json verdict_json(const Judgement& j, const Limit& limit, const std::string& figure) {
  return {{"figure", figure},
          {"limit", to_json(limit)},
          {"verdict", verdict_id(j.verdict)},
          {"margin", finite_or_null(j.margin)},
          {"expanded", finite_or_null(j.expanded)}};
}

nlohmann::json value_or_null(const std::optional<Figure>& figure, double factor) {
  return figure ? finite_or_null(figure->value * factor) : nlohmann::json(nullptr);
}

std::function<void(double)> terminal_progress(const std::string& what) {
  if (isatty(STDERR_FILENO) == 0) return {};
  return [what, shown = -1](double fraction) mutable {
    const int percent = static_cast<int>(fraction * 100.0);
    if (percent == shown) return;
    shown = percent;
    fmt::print(stderr, "\r{} {} %{}", what, percent, percent == 100 ? "\n" : "");
    std::fflush(stderr);
  };
}

}  // namespace heron
