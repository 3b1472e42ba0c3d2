#include "app/device/device_view.h"

#include <QBuffer>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QImageReader>
#include <QKeyEvent>
#include <QMimeData>
#include <algorithm>

#include "app/device/usual_lines_dialog.h"
#include "app/paint/age_text.h"
#include "app/session/shack_edits.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/specification.h"
#include "store/clock.h"

namespace heron {
namespace {

constexpr int kPhotoPx = 1024;  // longer side, as it is kept

QString counted(qsizetype n, const QString& one, const QString& many) {
  return QString::number(n) + " " + (n == 1 ? one : many);
}

}  // namespace

bool DeviceView::can_edit() const {
  return session_.is_open() && !session_.shack().is_read_only();
}

void DeviceView::connect_all() {
  connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this,
          [this](const QModelIndex& now) {
            if (!now.isValid() || rail_model_->row(now.row()).is_head) return;
            const Id chosen = rail_model_->row(now.row()).device.id;
            if (chosen == device_) return;
            flush();
            show_device(chosen);
          });
  connect(add_, &QAbstractButton::clicked, this, &DeviceView::show_new);
  connect(primary_, &QAbstractButton::clicked, this, [this] {
    flush();
    emit new_evaluation_asked(device_);
  });
  connect(show_, &Segmented::chosen, this, [this] {
    if (device_ != 0) show_lines(device(session_.shack(), device_));
  });
  connect(form_, &DeviceForm::changed, this, [this](const QString& what, const Device& now) {
    if (device_ == 0) {
      const Id added = ShackEdits(session_).add_device(now);
      if (added != 0) show_device(added);
      return;
    }
    Q_UNUSED(what);
    ShackEdits(session_).set_device(device_, now);
  });
  connect(form_, &DeviceForm::refused, this, &DeviceView::failed);
  connect(form_, &DeviceForm::photo_asked, this, [this] {
    const QString path = QFileDialog::getOpenFileName(
        this, tr("A photo of it"), {}, tr("Pictures (*.png *.jpg *.jpeg *.webp);;All files (*)"));
    if (!path.isEmpty()) set_photo(path);
  });
  connect(lines_model_, &LinesModel::changed, this,
          [this](const QString& what, const std::vector<SpecLine>& lines) {
            ShackEdits(session_).set_specification(device_, what, lines);
          });
  connect(lines_model_, &LinesModel::begun, this, [this](int row) {
    // Its limit is what is asked next.
    const QModelIndex limit = lines_model_->index(row, LinesModel::kLimit);
    lines_->setCurrentIndex(limit);
    QMetaObject::invokeMethod(
        this, [this, row] { lines_->edit(lines_model_->index(row, LinesModel::kLimit)); },
        Qt::QueuedConnection);
  });
  connect(lines_, &TypedGrid::refused, this, &DeviceView::failed);
  connect(usual_, &QAbstractButton::clicked, this, &DeviceView::ask_usual_lines);
  connect(story_, &QTableView::activated, this,
          [this](const QModelIndex& index) { open_story(index.row()); });
  connect(story_, &FigureTable::cell_chosen, this, [this](int row, int column) {
    if (column == StoryModel::kWhat) open_story(row);
  });
  connect(story_, &FigureTable::removal_asked, this, [this](int row) {
    const StoryRow& chosen = story_model_->row(row);
    if (chosen.kind == StoryRow::Kind::outside && can_edit())
      ShackEdits(session_).remove_outside_figure(device_, chosen.id);
    else
      emit told(tr("Only figures from elsewhere are taken out here; undo takes the rest back"));
  });
  connect(&session_, &Session::shack_changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void DeviceView::show_device(Id id) {
  device_ = id;
  from_evaluation_ = 0;
  compared_evaluation_ = 0;
  refresh();
}

void DeviceView::show_new() {
  flush();
  device_ = 0;
  refresh();
  form_->name()->setFocus(Qt::OtherFocusReason);
}

void DeviceView::refresh() {
  if (!session_.is_open()) return;
  rail_model_->load(session_.shack());
  count_->setText(tr("%1 in the shack").arg(rail_model_->device_count()));
  // It may have been taken away by undo.
  if (device_ != 0 && rail_model_->row_of(device_) < 0) device_ = 0;
  const Device shown = device_ == 0 ? Device{} : device(session_.shack(), device_);
  {
    const QSignalBlocker quiet(list_->selectionModel());
    list_->setCurrentIndex(device_ == 0 ? QModelIndex()
                                        : rail_model_->index(rail_model_->row_of(device_)));
  }
  list_->viewport()->update();
  title_->setText(device_ == 0 ? tr("A new device") : qt_text(shown.name));
  primary_->setEnabled(device_ != 0 && can_edit() && shown.retired_at.empty());
  consequence_->setText(device_ == 0                  ? tr("Needs a name and a kind")
                        : !shown.retired_at.empty()   ? tr("Retired: it can be brought back")
                        : shown.specification.empty() ? tr("Nothing to judge by yet")
                                                      : tr("Takes these lines over as its limits"));
  QPixmap photo;
  if (device_ != 0) {
    const std::string content = device_photo(session_.shack(), device_);
    photo.loadFromData(reinterpret_cast<const uchar*>(content.data()),
                       static_cast<uint>(content.size()));
  }
  form_->set_device(shown, photo, can_edit());
  show_lines(shown);
  story_model_->set_rows(device_ == 0 ? std::vector<StoryRow>{}
                                      : device_story(session_.shack(), device_));
  // What has no effect to show has the room for its words.
  story_->clearSpans();
  for (int r = 0; r < story_model_->rowCount(); ++r)
    if (const StoryRow& row = story_model_->row(r); !row.effect)
      story_->setSpan(r, StoryModel::kWhat, 1, row.kind == StoryRow::Kind::evaluation ? 2 : 3);
  show_facts(shown);
  show_remarks(shown);
  fill_menus(shown);
  lay_out();
}

void DeviceView::show_lines(const Device& shown) {
  const auto figures = [&](Id evaluation) {
    return known_figures(session_.shack(), device_,
                         evaluation == 0 ? std::nullopt : std::optional(evaluation));
  };
  const bool has_before = device_ != 0 && compared_evaluation_ != 0;
  lines_model_->set_device(
      shown, device_ == 0 ? std::vector<KnownFigure>{} : figures(from_evaluation_),
      has_before ? figures(compared_evaluation_) : std::vector<KnownFigure>{},
      static_cast<LinesModel::Rows>(show_->current()), can_edit() && device_ != 0);
  const DeviceKind* kind = find_device_kind(shown.kind);
  usual_->setText(
      kind == nullptr
          ? tr("Usual lines")
          : tr("Lines %1s usually have").arg(qt_text(std::string(kind->name)).toLower()));
  usual_->setEnabled(kind != nullptr && can_edit() && device_ != 0);
  usual_->setToolTip(kind == nullptr ? tr("Say what kind of device it is first") : QString());
  lines_note_->setText(
      device_ == 0 ? tr("Name it first, at the right")
      : has_before ? tr("hollow mark = %1")
                         .arg(qt_text(evaluation(session_.shack(), compared_evaluation_).title))
      : shown.specification.empty() ? tr("Type a characteristic, then its limit")
                                    : QString());
}

void DeviceView::show_facts(const Device& shown) {
  int passed = 0;
  int failed_lines = 0;
  int close = 0;
  int old = 0;
  for (const LinesModel::Line& line : lines_model_->all_lines()) {
    const Verdict v = line.verdict();
    if (v == Verdict::pass || v == Verdict::accepted) ++passed;
    if (v == Verdict::fail) ++failed_lines;
    if (v == Verdict::too_close) ++close;
    if (v == Verdict::stale) ++old;
  }
  qsizetype evaluations_count = 0;
  qsizetype work = 0;
  qsizetype outside = 0;
  QString first;
  QString last_work;
  for (const StoryRow& row : story_model_->rows()) {
    if (row.kind == StoryRow::Kind::evaluation) {
      ++evaluations_count;
      first = age_text(row.at);
    }
    if (row.kind == StoryRow::Kind::work && ++work == 1) last_work = age_text(row.at);
    if (row.kind == StoryRow::Kind::outside) ++outside;
  }
  QStringList notes;
  if (failed_lines > 0) notes << counted(failed_lines, tr("fails"), tr("fail"));
  if (close > 0) notes << tr("%1 too close").arg(close);
  facts_->set_facts({{tr("Lines met"), tr("%1 of %2").arg(passed).arg(shown.specification.size()),
                      notes.join(", ")},
                     {tr("Out of date"), counted(old, tr("line"), tr("lines")),
                      old > 0 ? tr("older than a year") : QString()},
                     {tr("Evaluations"), QString::number(evaluations_count),
                      first.isEmpty() ? QString() : tr("first: %1").arg(first)},
                     {tr("Work done"), counted(work, tr("entry"), tr("entries")),
                      last_work.isEmpty() ? QString() : tr("last: %1").arg(last_work)},
                     {tr("From elsewhere"), counted(outside, tr("figure"), tr("figures")), {}}});
}

void DeviceView::show_remarks(const Device& shown) {
  std::vector<Remark> remarks =
      device_ == 0 ? std::vector<Remark>{} : device_remarks(session_.shack(), shown);
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  caution_->setVisible(shown.facts.has_high_voltage);
  if (shown.facts.has_high_voltage)
    caution_->set_words(
        tr("Mains or high voltage inside"),
        tr("Supply off, plug out and capacitors discharged before hands reach in. Shown before "
           "each of its tests. Local codes and licensed practice come first."));
}

void DeviceView::fill_menus(const Device& shown) {
  const std::vector<Evaluation> all =
      device_ == 0 ? std::vector<Evaluation>{} : evaluations(session_.shack(), device_);
  const auto title = [&](Id id, const QString& none) {
    for (const Evaluation& e : all)
      if (e.id == id) return qt_text(e.title);
    return none;
  };
  const auto fill = [&](Chip* chip, Id& chosen, const QString& none) {
    chip->menu()->clear();
    chip->set_value(title(chosen, none));
    chip->setEnabled(!all.empty());
    const auto add = [&](const QString& words, Id id) {
      chip->menu()->addAction(words, this, [this, &chosen, id] {
        chosen = id;
        refresh();
      });
    };
    add(none, 0);
    for (const Evaluation& e : all) add(qt_text(e.title), e.id);
  };
  fill(from_, from_evaluation_, tr("all, the latest"));
  fill(compare_, compared_evaluation_, tr("nothing"));
  more_->menu()->clear();
  const auto add = [&](const QString& words, auto action) {
    more_->menu()->addAction(words, this, action)->setEnabled(can_edit() && device_ != 0);
  };
  add(tr("Duplicate\u2026"), [this] { emit copy_asked(device_); });
  if (shown.retired_at.empty())
    add(tr("Retire"), [this] {
      ShackEdits(session_).set_retired(device_, utc_now());
      emit told(tr("Retired, with all that is known of it; Ctrl Z brings it back"));
    });
  else
    add(tr("Bring it back into use"), [this] { ShackEdits(session_).set_retired(device_, {}); });
  if (!device_photo(session_.shack(), device_).empty())
    add(tr("Remove the photo"), [this] { ShackEdits(session_).set_photo(device_, {}); });
  more_->menu()->addSeparator();
  more_->menu()->addAction(tr("Copy the specification"), lines_, &FigureTable::copy_all);
  add(tr("Remove"), [this] { emit removal_asked(device_); });
}

void DeviceView::lay_out() {
  const int total = window()->width();
  rail_->setFixedWidth(rail_width(total));
  right_->setFixedWidth(right_column_width(total));
  const bool is_narrow = total < 1200;
  facts_->setVisible(window()->height() >= 740);
  for (Chip* chip : {from_, compare_}) chip->show_label(!is_narrow);
  lines_->set_columns({is_narrow ? 122 : 152, is_narrow ? 126 : 156, -1, is_narrow ? 0 : 82,
                       is_narrow ? 88 : 94, is_narrow ? 52 : 72, is_narrow ? 98 : 104});
  story_->set_columns({110, -1, is_narrow ? 180 : 220, is_narrow ? 90 : 120});
}

void DeviceView::ask_usual_lines() {
  const Device shown = device(session_.shack(), device_);
  const DeviceKind* kind = find_device_kind(shown.kind);
  if (kind == nullptr) return;
  UsualLinesDialog dialog(*kind, shown.specification, this);
  if (dialog.exec() == QDialog::Accepted) add_usual_lines(dialog.taken());
}

void DeviceView::add_usual_lines(const QStringList& characteristics) {
  const Device shown = device(session_.shack(), device_);
  const DeviceKind* kind = find_device_kind(shown.kind);
  if (kind == nullptr || characteristics.isEmpty()) return;
  std::vector<SpecLine> lines = shown.specification;
  for (const UsualLine& line : usual_lines(*kind)) {
    if (!characteristics.contains(qt_text(std::string(line.characteristic)))) continue;
    SpecLine added{std::string(line.characteristic),
                   spec_limit(line.characteristic, std::string(line.limit)),
                   std::string(line.condition)};
    added.limit.name = "usual";
    lines.push_back(std::move(added));
  }
  ShackEdits(session_).set_specification(device_, tr("usual lines of %1").arg(qt_text(shown.name)),
                                         lines);
}

void DeviceView::open_story(int row) {
  if (row < 0 || row >= story_model_->rowCount()) return;
  const StoryRow& chosen = story_model_->row(row);
  if (chosen.kind == StoryRow::Kind::evaluation) emit evaluation_asked(chosen.id, 0);
}

/// Kept small: it shows which one it is, not how it was soldered.
void DeviceView::set_photo(const QString& path) {
  if (device_ == 0 || !can_edit()) return;
  QImageReader reader(path);
  reader.setAutoTransform(true);
  QImage image = reader.read();
  if (image.isNull()) {
    emit failed(tr("%1 is no picture that can be read").arg(QFileInfo(path).fileName()),
                tr("Use a PNG or JPEG file"));
    return;
  }
  if (std::max(image.width(), image.height()) > kPhotoPx)
    image = image.scaled(kPhotoPx, kPhotoPx, Qt::KeepAspectRatio, Qt::SmoothTransformation);
  QByteArray content;
  QBuffer buffer(&content);
  buffer.open(QIODevice::WriteOnly);
  image.save(&buffer, "JPEG", 85);
  ShackEdits(session_).set_photo(device_, content.toStdString());
}

void DeviceView::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void DeviceView::dropEvent(QDropEvent* event) {
  for (const QUrl& url : event->mimeData()->urls()) {
    set_photo(url.toLocalFile());
    return;
  }
}

/// Ctrl N a new line, Ctrl Shift N work done.
void DeviceView::keyPressEvent(QKeyEvent* event) {
  const bool is_control = (event->modifiers() & Qt::ControlModifier) != 0;
  if (is_control && event->key() == Qt::Key_N && device_ != 0) {
    if ((event->modifiers() & Qt::ShiftModifier) != 0) {
      emit work_asked(device_);
      return;
    }
    const QModelIndex last = lines_model_->index(lines_model_->rowCount() - 1, 0);
    lines_->setFocus(Qt::ShortcutFocusReason);
    lines_->setCurrentIndex(last);
    lines_->edit(last);
    return;
  }
  QWidget::keyPressEvent(event);
}

void DeviceView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  lay_out();
}

}  // namespace heron
