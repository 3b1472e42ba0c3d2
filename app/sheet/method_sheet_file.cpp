// Files of readings for the sheet of a method; the rest of it is in method_sheet.cpp.
#include <QFileDialog>
#include <QFileInfo>

#include "app/session/step_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/typed_table.h"
#include "core/read_text.h"

namespace heron {

void MethodSheet::add_typed_actions(QMenu* menu) {
  menu->addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
  add_file_action(menu);
}

void MethodSheet::add_file_action(QMenu* menu) {
  const GeneralTest* t = session_.general();
  if (t == nullptr || typed_columns(*t->method).empty()) return;
  QAction* action = menu->addAction(tr("Read a CSV file\u2026"), this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("Readings in columns"), {},
                                                      tr("Tables (*.csv *.txt)"));
    if (!path.isEmpty()) read_file(path);
  });
  action->setToolTip(tr("Columns among: %1").arg(qt_text(typed_columns(*t->method))));
}

void MethodSheet::read_file(const QString& path) {
  constexpr std::size_t kMostMegabytes = 16;
  session_.settle();
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const QString name = QFileInfo(path).fileName();
  try {
    const CsvTable table =
        parse_csv(read_text(path.toStdString(), kMostMegabytes), name.toStdString());
    std::vector<TypedCells> steps;
    for (const TypedRow& row : typed_rows(*t->method, table)) {
      TypedCells to{0, qt_text(row.label), {}};
      for (const auto& [field, typed] : row.cells) to.cells.push_back({field, typed});
      steps.push_back(std::move(to));
    }
    StepEdits(session_).set_fields(tr("%1, read").arg(name), steps);
    emit told(steps.size() == 1 ? tr("One row of %1 read").arg(name)
                                : tr("%1 rows of %2 read").arg(steps.size()).arg(name));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void MethodSheet::add_recordings(const QStringList& paths) {
  const GeneralTest* t = session_.general();
  const bool reads_tables = t != nullptr && is_typed() && !typed_columns(*t->method).empty();
  QStringList recordings;
  for (const QString& path : paths) {
    const QString ending = QFileInfo(path).suffix().toLower();
    const bool is_table = ending == "csv" || ending == "txt" || ending == "tsv";
    if (is_table && reads_logs())
      read_log(path);
    else if (is_table && reads_tables)
      read_file(path);
    else
      recordings << path;
  }
  // What this test cannot use is refused there with what to do instead.
  if (!recordings.isEmpty()) Sheet::add_recordings(recordings);
}

}  // namespace heron
