#include "app/bench/bench_view.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QStackedWidget>
#include <algorithm>
#include <cmath>

#include "app/bench/bench_words.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/chain/bench_json.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/read_text.h"
#include "store/clock.h"
#include "store/file_sync.h"

namespace heron {
namespace {

constexpr std::uintmax_t kLargestFileMb = 64;

bool is_touchstone(const QString& path) {
  const QString ending = QFileInfo(path).suffix().toLower();
  return ending == "s2p" || ending == "s1p" || ending == "s3p" || ending == "s4p" || ending == "ts";
}

}  // namespace

std::optional<BenchEntry> BenchView::entry() const {
  if (item_ == 0) return std::nullopt;
  try {
    return bench_entry(session_.shack(), item_);
  } catch (const InputError&) {
    return std::nullopt;
  }
}

void BenchView::refresh() {
  if (!session_.is_open()) return;
  const auto all = bench(session_.shack());
  const QSignalBlocker quiet(list_->selectionModel());
  model_->set_bench(all, utc_now());
  count_->setText(all.size() == 1 ? tr("1 item") : tr("%1 items").arg(all.size()));
  const bool is_there =
      std::any_of(all.begin(), all.end(), [&](const BenchEntry& e) { return e.id == item_; });
  if (!is_there) item_ = all.empty() ? 0 : all.front().id;
  const int row = model_->row_of(item_);
  if (row >= 0) list_->setCurrentIndex(model_->index(row));
  list_->viewport()->update();
  show_all();
}

void BenchView::show_item(Id item) {
  form_->flush();
  item_ = item;
  refresh();
}

void BenchView::fill_more_menu(const BenchEntry& entry) {
  QMenu* menu = more_->menu();
  menu->clear();
  menu->addAction(tr("Duplicate"), this, &BenchView::duplicate);
  menu->addAction(entry.is_retired ? tr("Back into use") : tr("Retire"), this,
                  [this, retired = entry.is_retired] { edits_.set_retired(item_, !retired); });
  menu->addAction(tr("Remove it"), this, [this] { edits_.remove_item(item_); });
  menu->addSeparator();
  menu->addAction(tr("A Touchstone file for it\u2026"), this, [this] {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Its curve"), {}, tr("Two-port files (*.s2p *.ts);;All files (*)"));
    if (!file.isEmpty()) take_files({file});
  });
  menu->addAction(tr("Remove the curve"), this,
                  [this] {
                    auto e = this->entry();
                    if (!e) return;
                    const double here = e->item.part.gain.at(
                        std::clamp(frequency_hz_, e->item.part.gain.points().front().frequency_hz,
                                   e->item.part.gain.points().back().frequency_hz),
                        "curve");
                    e->item.part.network.reset();
                    e->item.curve_name.clear();
                    e->item.part.gain = Gain(here);
                    edits_.set_item(item_, e->item, tr("removal of the curve"));
                  })
      ->setEnabled(!entry.item.part.gain.is_constant());
}

void BenchView::ask_calibration() {
  auto e = entry();
  if (!e) return;
  const bool has_gain =
      find_bench_sort(e->item.sort)->kind != "instrument" && e->item.part.gain.is_constant();
  const QString today = day_of(utc_now());
  std::vector<AskField> fields = {{tr("The day"), today}};
  const auto number = [](double db) { return qt_text(number_text(db, 2)) + tr(" dB"); };
  if (has_gain)
    fields.push_back(
        quantity_field(tr("Its gain"), number(e->item.part.gain.largest_db()), Quantity::gain));
  fields.push_back(
      quantity_field(tr("± of it, 95 %"), number(2 * e->item.part.u_db), Quantity::uncertainty));
  const auto apply = [&](const QStringList& texts) {
    BenchItem item = e->item;
    const auto read = [&](int i, Quantity quantity) {
      return parse_quantity(texts[i].toStdString(), quantity).value;
    };
    const auto last = texts.size() - 1;
    calibrate(item, texts[0].toStdString(),
              has_gain ? std::optional(read(1, Quantity::gain)) : std::nullopt,
              read(last, Quantity::uncertainty) / 2.0);
    if (has_gain) item.typed["gain_db"] = texts[1].toStdString();
    item.typed["u_db"] = texts[last].toStdString();
    return item;
  };
  AskDialog dialog(tr("Enter a calibration"), tr("What was known before is kept with its figures."),
                   fields, tr("Enter it"), complaint_about(apply), this);
  if (dialog.exec() != QDialog::Accepted) return;
  edits_.set_item(item_, apply(dialog.texts()), tr("calibration"));
}

void BenchView::primary_action() {
  if (primary_->isEnabled() && item_ != 0) ask_calibration();
}

Id BenchView::add(const QString& sort) {
  const Id id = edits_.add_item(blank_item(sort.toStdString()));
  if (id == 0) return 0;
  show_item(id);
  show_details(true);
  if (QLineEdit* name = form_->edit("name")) {
    name->setFocus(Qt::OtherFocusReason);
    name->selectAll();
  }
  return id;
}

void BenchView::duplicate() {
  auto e = entry();
  if (!e) return;
  e->item.part.name += tr(", copy").toStdString();
  e->item.serial.clear();
  const Id id = edits_.add_item(e->item);
  if (id != 0) show_item(id);
}

void BenchView::take_files(const QStringList& paths, bool onto_shown) {
  for (const QString& path : paths) {
    const QString name = QFileInfo(path).fileName();
    try {
      const std::string text = read_text(path.toStdString(), kLargestFileMb);
      if (!is_touchstone(path)) {
        const int count = edits_.add_items(bench_from_text(text, name.toStdString()), name);
        emit told(tr("%1 items imported from %2").arg(count).arg(name));
        continue;
      }
      auto e = entry();
      const bool fits = onto_shown && e && find_bench_sort(e->item.sort)->kind != "instrument";
      BenchItem item = fits ? e->item : made_item("cable");
      if (!fits) item.part.name = QFileInfo(path).completeBaseName().toStdString();
      set_curve(item, text, name.toStdString());
      if (fits) {
        edits_.set_item(item_, item, tr("curve of %1").arg(qt_text(item.part.name)));
      } else {
        const Id id = edits_.add_item(item);
        if (id != 0) show_item(id);
      }
      show_details(false);
      emit told(tr("%1 is now the curve of %2").arg(name, qt_text(item.part.name)));
    } catch (const InputError& error) {
      emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    }
  }
}

bool BenchView::export_to(const QString& path) {
  try {
    std::vector<BenchItem> items;
    for (const BenchEntry& e : bench(session_.shack())) items.push_back(e.item);
    AtomicFile::write_whole(path.toStdString(), bench_to_json(items).dump(1) + "\n");
    emit told(tr("Saved %1").arg(path));
    return true;
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

void BenchView::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void BenchView::dropEvent(QDropEvent* event) {
  QStringList paths;
  for (const QUrl& url : event->mimeData()->urls()) {
    if (url.isLocalFile()) paths << url.toLocalFile();
  }
  event->acceptProposedAction();
  take_files(paths);
}

void BenchView::show_details(bool details) {
  show_->set_current(details ? 2 : wants_vswr_ ? 1 : 0);
  stack_->setCurrentIndex(details ? 1 : 0);
}

void BenchView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  const int total = window()->width();
  rail_->setFixedWidth(rail_width(total));
  right_->setFixedWidth(right_column_width(total));
  // How many figures hang on it is told by the remarks, too.
  used_->set_columns(total < 1100 ? std::vector<int>{160, -1, 84, 80, 110, 0}
                                  : std::vector<int>{160, -1, 84, 80, 130, 110});
}

}  // namespace heron
