#include "app/shell/shack_view.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QVBoxLayout>
#include <map>

#include "app/paint/age_text.h"
#include "app/paint/verdict_mark.h"
#include "app/shell/course_rail.h"
#include "app/shell/shack_list.h"
#include "app/shell/shack_model.h"
#include "app/table/table_head.h"
#include "app/theme/qt_text.h"
#include "app/widget/card.h"
#include "app/widget/offer_card.h"
#include "app/widget/words.h"
#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// The verdict shapes with their words, once.
class VerdictKey : public QWidget {
 public:
  VerdictKey() { setFixedSize(760, 26); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    struct Entry {
      Verdict verdict;
      QString word;
      bool is_hollow = false;
    };
    const Entry entries[] = {{Verdict::not_taken, tr("not measured")},
                             {Verdict::stale, tr("out of date")},
                             {Verdict::too_close, tr("hollow: provisional"), true},
                             {Verdict::fail, tr("fail")},
                             {Verdict::too_close, tr("too close")},
                             {Verdict::accepted, tr("accepted")},
                             {Verdict::incomplete, tr("not all judged")},
                             {Verdict::pass, tr("pass")}};
    p.setFont(type_font(Type::label));
    double x = width();
    for (const auto& [verdict, word, is_hollow] : entries) {
      const double w = QFontMetricsF(p.font()).horizontalAdvance(word);
      p.setPen(t.slate);
      p.drawText(QRectF(x - w, 0, w + 1, height()), Qt::AlignVCenter, word);
      draw_verdict(p, {x - w - 10, height() / 2.0}, 9, verdict, t, is_hollow);
      x -= w + 32;
    }
  }
};

}  // namespace

ShackView::ShackView(Session& session, QWidget* parent)
    : QWidget(parent),
      session_(session),
      summary_(new Words({}, Type::question, Tone::slate)),
      start_(new PushButton(tr("Start an evaluation"), ButtonRank::primary)),
      add_device_(new PushButton(tr("Add a device"), ButtonRank::secondary)),
      filter_(new Segmented(tr("Show"), {tr("All"), tr("Due"), tr("Failing")})),
      matrix_(new FigureTable(tr("Devices and characteristics"))),
      model_(new ShackModel(this)),
      due_(new ShackList(tr("Due next"), tr("oldest first"),
                         tr("Nothing is older than twelve months, and nothing provisional."))),
      recent_(new ShackList(
          tr("Since last time"), tr("hollow mark = before"),
          tr("A figure measured again in a later evaluation shows its change here."))) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 18, 16, 8);
  column->setSpacing(8);
  auto* head = new QHBoxLayout;
  auto* words = new QVBoxLayout;
  words->setSpacing(1);
  words->addWidget(new Words(tr("The shack"), Type::title));
  words->addWidget(summary_);
  head->addLayout(words, 1);
  head->addWidget(add_device_, 0, Qt::AlignTop);
  head->addSpacing(2);
  head->addWidget(start_, 0, Qt::AlignTop);
  column->addLayout(head);
  column->addSpacing(2);

  auto* card = new Card;
  auto* inside = new QVBoxLayout(card);
  inside->setContentsMargins(1, 10, 1, 1);
  inside->setSpacing(8);
  auto* controls = new QHBoxLayout;
  controls->setContentsMargins(11, 0, 19, 0);
  controls->addWidget(filter_);
  controls->addStretch();
  controls->addWidget(new VerdictKey);
  inside->addLayout(controls);
  matrix_->setModel(model_);
  matrix_->setItemDelegate(new ShackDelegate(matrix_, matrix_));
  matrix_->verticalHeader()->setDefaultSectionSize(60);
  matrix_->setSelectionBehavior(QAbstractItemView::SelectItems);
  matrix_->keep_slack(60);
  static_cast<TableHead*>(matrix_->horizontalHeader())->set_left(true);
  inside->addWidget(matrix_, 1);
  matrix_card_ = card;
  column->addWidget(card, 1);
  first_steps_ = make_first_steps();
  column->addWidget(first_steps_, 1);
  first_steps_->hide();

  auto* cards = new QHBoxLayout;
  cards->setSpacing(8);
  cards->addWidget(due_, 1);
  cards->addWidget(recent_, 1);
  column->addLayout(cards);
  due_->setFixedHeight(142);
  recent_->setFixedHeight(142);

  summary_->setText(tr("No shack is open: open one, or make a new one (Ctrl K)."));
  start_->setEnabled(false);
  add_device_->setEnabled(false);
  connect(filter_, &Segmented::chosen, this, &ShackView::refresh);
  connect(matrix_, &QTableView::doubleClicked, this,
          [this](const QModelIndex& i) { open_row(i.row(), i.column()); });
  connect(matrix_, &QTableView::activated, this,
          [this](const QModelIndex& i) { open_row(i.row(), i.column()); });
  connect(matrix_, &FigureTable::row_chosen, this, &ShackView::reveal);
  connect(matrix_, &FigureTable::cell_chosen, this, [this](int row, int cell) {
    if (cell > 0 && cell < model_->columnCount() - 1 &&
        model_->row(row).cells[static_cast<std::size_t>(cell - 1)].test != 0)
      open_row(row, cell);
  });
  connect(start_, &QAbstractButton::clicked, this, [this] {
    const int row = matrix_->chosen_row();
    if (row >= 0 && row < model_->rowCount())
      emit new_evaluation_asked(model_->row(row).device.id);
    else
      emit device_asked();
  });
  connect(add_device_, &QAbstractButton::clicked, this, &ShackView::device_asked);
  matrix_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(matrix_, &QWidget::customContextMenuRequested, this, &ShackView::show_row_menu);
  connect(due_, &ShackList::chosen, this, &ShackView::evaluation_asked);
  connect(recent_, &ShackList::chosen, this, &ShackView::evaluation_asked);
}

QWidget* ShackView::make_first_steps() {
  auto* all = new QWidget;
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 6, 0, 6);
  column->setSpacing(10);
  auto* device = new PushButton(tr("Add a device"), ButtonRank::primary);
  connect(device, &QAbstractButton::clicked, this, &ShackView::device_asked);
  column->addWidget(new OfferCard(
      device, tr("1  What do you want to measure?"),
      tr("A transceiver, an amplifier, a receiver, a synthesizer: its name and kind are enough to "
         "begin with. Its kind says which tests it usually gets.")));
  auto* bench = new PushButton(tr("Go to the bench"), ButtonRank::secondary);
  connect(bench, &QAbstractButton::clicked, this, &ShackView::bench_asked);
  column->addWidget(new OfferCard(
      bench, tr("2  What stands between it and you?"),
      tr("Pads, loads, couplers and instruments, each with its loss, its rating and its \u00b1. "
         "They can come later: then figures are told without what the hook-up adds.")));
  auto* type = new PushButton(tr("Add a device first"), ButtonRank::secondary);
  type->setEnabled(false);
  column->addWidget(new OfferCard(
      type, tr("3  Measure"),
      tr("Type what meters show, drop a recording on the sheet, or let instruments do it. Each "
         "figure says how sure it is, and whether it is good enough.")));
  column->addStretch(1);
  return all;
}

void ShackView::refresh() {
  if (!session_.is_open()) return;
  const int row = std::max(0, matrix_->chosen_row());
  model_->load(session_.shack(), static_cast<ShackModel::Filter>(filter_->current()));
  matrix_->choose_row(std::min(row, model_->rowCount() - 1));
  const auto count = model_->all_rows().size();
  matrix_card_->setVisible(count > 0);
  first_steps_->setVisible(count == 0);
  start_->setVisible(count > 0);
  add_device_->setVisible(count > 0);
  due_->setVisible(count > 0);
  recent_->setVisible(count > 0);
  if (count == 0) {
    summary_->setText(tr("Nothing here yet: add the first device."));
  } else {
    const auto counted = [](int n, const QString& one, const QString& many) {
      return QString::number(n) + " " + (n == 1 ? one : many);
    };
    summary_->setText(counted(static_cast<int>(count), tr("device"), tr("devices")) +
                      tr(" at %1. ").arg(qt_text(session_.shack().place())) +
                      counted(model_->failing_count(), tr("figure fails its limit"),
                              tr("figures fail their limit")) +
                      tr(", %1 out of date").arg(model_->due_count()) +
                      (model_->repeats() > 0 ? tr(", %1 to be repeated.").arg(model_->repeats())
                                             : QStringLiteral(".")));
  }
  start_->setEnabled(!session_.shack().is_read_only());
  add_device_->setEnabled(!session_.shack().is_read_only());

  std::multimap<std::string, ShackList::Row> due_by_age;
  std::vector<ShackList::Row> recent;
  for (const ShackRow& r : model_->all_rows()) {
    for (std::size_t c = 0; c < r.cells.size(); ++c) {
      const ShackCell& cell = r.cells[c];
      if (!cell.headline) continue;
      const Characteristic& what = model_->characteristic(static_cast<int>(c) + 1);
      const QString name = QString::fromUtf8(what.test.data()) + ", " + qt_text(r.device.name);
      const double span = cell.limit ? cell.limit->span : what.span;
      const Judgement& j = cell.headline->judgement;
      if (cell_verdict(cell) == Verdict::stale)
        due_by_age.insert(
            {cell.headline->taken_at,
             {name, tr("%1 old, interval 12 mo").arg(age_text(cell.headline->taken_at)),
              MarginMark{Verdict::stale, 0.0, 0.0, Bound::none, std::nullopt}, span, false,
              cell.evaluation, cell.test}});
      if (is_to_repeat(cell))
        due_by_age.insert(
            {cell.headline->taken_at,
             {name, tr("provisional: to be repeated"),
              MarginMark{cell_verdict(cell), j.margin, j.expanded, j.bound, std::nullopt}, span,
              false, cell.evaluation, cell.test, true}});
      if (cell.before) {
        MarginMark mark{cell_verdict(cell), j.margin, j.expanded, j.bound,
                        cell.before->judgement.margin};
        recent.push_back({name,
                          qt_text(number_text(cell.before->figure.value, 1)) +
                              QString::fromUtf8(" → ") + cell_figure(*cell.headline),
                          mark, span, cell.limit.has_value(), cell.evaluation, cell.test});
      }
    }
  }
  std::vector<ShackList::Row> due;
  for (const auto& [taken_at, one] : due_by_age) due.push_back(one);
  due_->set_rows(due);
  recent_->set_rows(recent);
  lay_out_columns();
}

void ShackView::reveal(int row) {
  if (row >= model_->rowCount() || matrix_->currentIndex().column() != 0) return;
  const std::vector<ShackCell>& cells = model_->row(row).cells;
  std::optional<int> first;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    const int column = static_cast<int>(c) + 1;
    if (!cells[c].is_wanted) continue;
    if (matrix_->is_in_sight(column)) return;
    if (!first) first = column;
  }
  if (first) matrix_->scroll_to_column(*first);
}

void ShackView::lay_out_columns() {
  const int shown = model_->columnCount() - 2;
  if (shown <= 0) return;
  // What helps next keeps some room at the right.
  // Where they do not fit it scrolls, and then there is room for what a cell says.
  constexpr int kTightPx = 88;
  const int room = (width() - 32 - 206 - 130) / shown;
  const int cell = room < kTightPx ? 112 : std::min(room, 136);
  std::vector<int> widths{206};
  for (int i = 0; i < shown; ++i) widths.push_back(cell);
  widths.push_back(-1);
  matrix_->set_columns(widths);
}

void ShackView::show_row_menu(const QPoint& at) {
  const int row =
      matrix_->indexAt(at).row() >= 0 ? matrix_->indexAt(at).row() : matrix_->chosen_row();
  if (row < 0 || row >= model_->rowCount()) return;
  const ShackRow& r = model_->row(row);
  const Id device = r.device.id;
  const bool may_change = !session_.shack().is_read_only();
  QMenu menu(this);
  if (r.latest_evaluation != 0)
    menu.addAction(tr("Open its latest evaluation"), this,
                   [this, e = r.latest_evaluation] { emit evaluation_asked(e, 0); });
  const auto add = [&](const QString& words, auto action) {
    menu.addAction(words, this, action)->setEnabled(may_change);
  };
  add(tr("Start an evaluation\u2026"), [this, device] { emit new_evaluation_asked(device); });
  add(tr("Write down what was done\u2026"), [this, device] { emit work_asked(device); });
  add(tr("Device card"), [this, device] { emit device_edit_asked(device); });
  add(tr("Duplicate\u2026"), [this, device] { emit device_copy_asked(device); });
  menu.addSeparator();
  add(tr("Remove"), [this, device] { emit device_removal_asked(device); });
  menu.exec(matrix_->viewport()->mapToGlobal(at));
}

void ShackView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  lay_out_columns();
}

void ShackView::open_row(int row, int column) {
  if (row < 0 || row >= model_->rowCount()) return;
  const ShackRow& r = model_->row(row);
  if (column > 0 && column < model_->columnCount() - 1) {
    const ShackCell& cell = r.cells[static_cast<std::size_t>(column - 1)];
    if (cell.test != 0) {
      emit evaluation_asked(cell.evaluation, cell.test);
      return;
    }
  }
  emit device_edit_asked(r.device.id);
}

}  // namespace heron
