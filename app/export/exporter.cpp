#include "app/export/exporter.h"

#include <QFileInfo>

#include "app/export/report_pdf.h"
#include "core/error.h"
#include "report/csv.h"
#include "report/gather.h"
#include "report/html.h"
#include "report/json.h"
#include "store/exchange.h"
#include "store/file_sync.h"

namespace heron {
namespace {

void write_text(const QString& path, const std::string& text) {
  AtomicFile::write_whole(QFileInfo(path).absoluteFilePath().toStdString(), text);
}

/// Recordings and all, with the report for whoever has no Even Heron.
PackedEvaluation pack_with_report(const Shack& shack, Id evaluation) {
  const ReportDocument document = gather_report(shack, evaluation);
  PackedEvaluation packed = pack_evaluation(shack, evaluation);
  packed.texts.emplace_back("figures.csv", report_csv(document));
  packed.texts.emplace_back("report.html", report_html(document));
  return packed;
}

}  // namespace

void export_evaluation_file(const Shack& shack, Id evaluation, const QString& path,
                            const Progress& progress, const std::stop_token& stop) {
  const QString ending = QFileInfo(path).suffix().toLower();
  if (ending == "zip") {
    PackedEvaluation packed;
    shack.read_together([&] { packed = pack_with_report(shack, evaluation); });
    write_packed(packed, path.toStdString(), progress, stop);
    return;
  }
  ReportDocument document;
  shack.read_together([&] { document = gather_report(shack, evaluation); });
  if (stop.stop_requested()) throw Cancelled();
  if (ending == "pdf")
    write_report_pdf(document, path);
  else if (ending == "html")
    write_text(path, report_html(document));
  else if (ending == "csv")
    write_text(path, report_csv(document));
  else if (ending == "json")
    write_text(
        path,
        report_json(document).dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
  else
    throw InputError(path.toStdString(), "", "this ending is not known",
                     "Use .pdf, .html, .csv, .json or .zip");
}

}  // namespace heron
