#include <CLI/CLI.hpp>
#include <cstdio>
#include <fmt/format.h>
#include <fstream>
#include <memory>

#include "cli/output.h"
#include "core/error.h"
#include "report/csv.h"
#include "report/gather.h"
#include "report/html.h"
#include "report/json.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/file_sync.h"

namespace heron {
namespace {

struct ReportOptions {
  std::string shack;
  long long evaluation = 0;
  std::string format = "html";
  std::string out;
  bool list = false;
  bool json = false;
};

int list_evaluations(const Shack& shack, bool as_json) {
  nlohmann::json out = common_json("report", {shack.folder().string()});
  out["evaluations"] = nlohmann::json::array();
  for (const Device& d : devices(shack)) {
    for (const Evaluation& e : evaluations(shack, d.id)) {
      out["evaluations"].push_back(
          {{"id", e.id}, {"device", d.name}, {"title", e.title}, {"started_at", e.started_at}});
      if (!as_json) fmt::print("{:>4}  {}, {}\n", e.id, d.name, e.title);
    }
  }
  if (as_json) print_json(out);
  return kDone;
}

int run(const ReportOptions& o) {
  const auto shack = Shack::open(o.shack);
  if (o.list || o.evaluation == 0) return list_evaluations(*shack, o.json);
  const ReportDocument document = gather_report(*shack, o.evaluation);
  const std::string format = o.json ? "json" : o.format;
  std::string text;
  if (format == "html")
    text = report_html(document);
  else if (format == "csv")
    text = report_csv(document);
  else
    text =
        report_json(document).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
  if (o.out.empty()) {
    fmt::print("{}", text);
    return kDone;
  }
  AtomicFile::write_whole(o.out, text);
  return kDone;
}

}  // namespace

CommandRun add_report_command(CLI::App& app) {
  auto o = std::make_shared<ReportOptions>();
  CLI::App* c = app.add_subcommand("report", "The report of one evaluation in a shack");
  c->add_option("shack", o->shack, "Folder of the shack")->required();
  c->add_option("--evaluation", o->evaluation, "Its number; without it the evaluations are listed");
  c->add_option("--format", o->format, "html, csv or json")
      ->check(CLI::IsMember({"html", "csv", "json"}))
      ->capture_default_str();
  c->add_option("--out", o->out, "File to write (default: standard output)");
  c->add_flag("--list", o->list, "List the evaluations");
  c->add_flag("--json", o->json, "JSON, also for the list");
  return [o] { return run(*o); };
}

}  // namespace heron
