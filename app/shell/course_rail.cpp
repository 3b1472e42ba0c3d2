#include "app/shell/course_rail.h"

#include <QContextMenuEvent>
#include <QFontMetricsF>
#include <QMouseEvent>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/rail_card.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/qt_text.h"
#include "app/widget/painted_button.h"
#include "app/widget/rail.h"
#include "app/widget/words.h"
#include "core/method/method.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "store/clock.h"

namespace heron {
namespace {

QString headline_text(const Test& test) {
  if (!test.damage.empty()) return QObject::tr("damaged: %1").arg(qt_text(test.damage));
  if (!test.headline) return QObject::tr("not measured");
  const FormattedFigure f = format_figure(test.headline->figure, Rounding::compact, 1);
  return qt_text(f.shown()) + " " + qt_text(test.headline->figure.unit) +
         (test.headline->figure.convention == "re PEP" ? " PEP"
          : test.headline->figure.convention == "re one tone" ||
                  test.headline->figure.convention == "re carrier"
              ? "c"
              : "");
}

class CourseDelegate : public QStyledItemDelegate {
 public:
  CourseDelegate(CourseModel* model, QListView* view)
      : QStyledItemDelegate(view), model_(model), view_(view) {}

  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
    return {200, model_->row(index.row()).is_head ? 42 : view_->window()->height() < 740 ? 42 : 46};
  }

  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const Theme& t = theme_of(view_);
    const CourseModel::Row& row = model_->row(index.row());
    const QRectF box(option.rect);
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    if (row.is_head) {
      if (row.is_current_head) {
        const QRectF card = box.adjusted(8, 1, -8, -1);
        draw_rail_card(*p, card, false, t);
      }
      QFont strong = type_font(Type::label);
      strong.setWeight(QFont::DemiBold);
      p->setFont(strong);
      p->setPen(t.slate);
      p->drawText(QRectF(16, box.top() + 6, box.width() - 32, 16), Qt::AlignVCenter, row.head);
      p->setFont(type_font(Type::label));
      p->setPen(t.mute);
      draw_elided(*p, QRectF(16, box.top() + 21, box.width() - 32, 16), Qt::AlignVCenter, row.note);
    } else {
      paint_test(*p, box, row, index, t);
    }
    p->restore();
  }

 private:
  bool is_in_hookup() const {
    for (int i = 0; i < model_->rowCount(); ++i) {
      if (model_->row(i).is_current_head) return true;
    }
    return false;
  }
  void paint_test(QPainter& p, const QRectF& box, const CourseModel::Row& row,
                  const QModelIndex& index, const Theme& t) const {
    const bool current = view_->currentIndex() == index && !is_in_hookup();
    draw_rail_ground(p, box, *view_, index, current);
    const double shape_y = box.top() + 16;
    if (!row.starts_group)
      p.fillRect(QRectF(24, box.top(), 1, shape_y - 9 - box.top()), t.hairStrong);
    if (!row.ends_group)
      p.fillRect(QRectF(24, shape_y + 9, 1, box.bottom() + 1 - shape_y - 9), t.hairStrong);
    const Verdict verdict = shown_verdict(row.test.headline, row.test.headline_limit().has_value());
    draw_verdict(p, {24.5, shape_y}, 10, verdict, t,
                 row.test.headline && row.test.headline->is_provisional);
    const double right = box.width() - 20;
    const bool old = row.test.headline && is_out_of_date(row.test.headline->taken_at);
    double name_right = right;
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    if (old || row.test.is_signed()) {
      const QString words = old ? age_text(row.test.headline->taken_at) : QObject::tr("signed");
      p.drawText(QRectF(right - 80, box.top() + 8, 80, 16), Qt::AlignRight | Qt::AlignVCenter,
                 words);
      name_right -= QFontMetricsF(p.font()).horizontalAdvance(words) + 6;
    }
    p.setFont(type_font(current ? Type::current : Type::name));
    p.setPen(row.test.headline ? t.ink : t.slate);
    draw_elided(p, QRectF(38, box.top() + 7, name_right - 38, 18), Qt::AlignVCenter,
                qt_text(row.test.title));
    draw_figure_text(p, {38, box.top() + 36}, headline_text(row.test), Type::figure_small,
                     Type::label, t.slate);
    if (row.test.headline && row.test.headline_limit()) {
      const Judgement& j = row.test.headline->judgement;
      draw_margin_line(p, QRectF(right - 62, box.top() + 24, 62, 16), MarginSize::tiny,
                       {verdict, j.margin, j.expanded, j.bound, std::nullopt},
                       row.test.headline_limit()->span, t);
    }
  }
  CourseModel* model_;
  QListView* view_;
};

}  // namespace

Verdict shown_verdict(const std::optional<Headline>& headline, bool has_limit) {
  if (!headline) return Verdict::not_taken;
  if (is_out_of_date(headline->taken_at)) return Verdict::stale;
  return has_limit ? headline->judgement.verdict : Verdict::not_taken;
}

void CourseModel::set_course(const std::vector<Test>& course,
                             const std::map<Id, QString>& hookups) {
  beginResetModel();
  rows_.clear();
  // Tests that share a hook-up stand together, in the order in which their hook-up first comes. One
  // that was only described counts by its words.
  // What is worked out from others stands on none.
  const std::pair<Id, std::string> calculated{-1, {}};
  const auto key = [&](const Test& t) {
    const Method* method = find_method(t.characteristic);
    if (method != nullptr && method->is_calculated) return calculated;
    return std::pair{t.hookup_id, t.hookup_id != 0 ? std::string() : t.hookup};
  };
  std::vector<std::pair<Id, std::string>> groups;
  for (const Test& t : course) {
    if (std::find(groups.begin(), groups.end(), key(t)) == groups.end()) groups.push_back(key(t));
  }
  int number = 0;
  int letter = 0;
  for (std::size_t h = 0; h < groups.size(); ++h) {
    Row head;
    head.is_head = true;
    const bool is_calculated = groups[h] == calculated;
    const auto name = hookups.find(groups[h].first);
    if (is_calculated) {
      head.head = tr("Calculated");
      head.note = tr("from other tests, no hook-up");
    } else {
      head.head = tr("Hook-up %1").arg(QChar(static_cast<char16_t>('A' + letter++ % 26)));
      head.note = name != hookups.end()      ? name->second
                  : groups[h].second.empty() ? tr("not described")
                                             : qt_text(groups[h].second);
    }
    rows_.push_back(head);
    const std::size_t head_row = rows_.size() - 1;
    bool first = true;
    for (const Test& t : course) {
      if (key(t) != groups[h]) continue;
      Row row;
      row.test = t;
      row.number = ++number;
      row.starts_group = first;
      if (first && !is_calculated) rows_[head_row].first_test = t.id;
      first = false;
      rows_.push_back(row);
    }
    rows_.back().ends_group = true;
  }
  endResetModel();
}

void CourseModel::set_current_head(Id test) {
  std::size_t head = 0;
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    rows_[i].is_current_head = false;
    if (rows_[i].is_head)
      head = i;
    else if (test != 0 && rows_[i].test.id == test)
      rows_[head].is_current_head = true;
  }
}

int CourseModel::row_of(Id test) const {
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    if (!rows_[i].is_head && rows_[i].test.id == test) return static_cast<int>(i);
  }
  return -1;
}

QVariant CourseModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const Row& r = row(index.row());
  if (role == Qt::ToolTipRole && !r.is_head)
    return qt_text(r.test.title) + "\n" + qt_text(r.test.conditions);
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole) return {};
  if (r.is_head) return r.head + ", " + r.note;
  return tr("%1, %2, %3")
      .arg(qt_text(r.test.title), headline_text(r.test),
           qt_text(verdict_word(shown_verdict(r.test.headline, r.test.headline_limit().has_value()),
                                r.test.headline && r.test.headline->is_provisional)));
}

Qt::ItemFlags CourseModel::flags(const QModelIndex& index) const {
  if (!index.isValid()) return Qt::NoItemFlags;
  return row(index.row()).is_head ? Qt::NoItemFlags : Qt::ItemIsEnabled | Qt::ItemIsSelectable;
}

void CourseRail::set_goal(const QString& goal, const QString& end) {
  goal_->setText(goal);
  goal_->setVisible(!goal.isEmpty());
  end_->setText(end);
  end_->setVisible(!end.isEmpty());
}

CourseRail::CourseRail(QWidget* parent)
    : QWidget(parent),
      model_(new CourseModel(this)),
      list_(new QListView),
      count_(new Words({}, Type::label, Tone::mute)),
      goal_(new Words({}, Type::label, Tone::slate)),
      end_(new Words({}, Type::label, Tone::mute)),
      add_(new PushButton(tr("Add a test"), ButtonRank::secondary)),
      export_(new Chip({})) {
  setFixedWidth(240);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 12, 0, 8);
  column->setSpacing(0);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(16, 0, 16, 0);
  head->addWidget(new Words(tr("Test plan"), Type::heading));
  head->addStretch();
  head->addWidget(count_);
  column->addLayout(head);
  column->addSpacing(14);
  for (QLabel* words : {goal_, end_}) {
    words->setWordWrap(true);
    words->setContentsMargins(16, 0, 16, 6);
    words->hide();
    column->addWidget(words);
  }
  list_->setModel(model_);
  list_->setItemDelegate(new CourseDelegate(model_, list_));
  list_->setFrameShape(QFrame::NoFrame);
  list_->setMouseTracking(true);
  watch_keyboard_focus(list_);
  list_->setAccessibleName(tr("Test plan"));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  list_->viewport()->setAutoFillBackground(false);
  list_->viewport()->installEventFilter(this);
  column->addWidget(list_, 1);
  auto* foot = new QHBoxLayout;
  foot->setContentsMargins(8, 8, 8, 0);
  foot->addWidget(add_);
  foot->addStretch();
  export_->set_value(tr("Export"));
  foot->addWidget(export_);
  column->addLayout(foot);
  connect(add_, &QAbstractButton::clicked, this, &CourseRail::test_asked);
  connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this,
          [this](const QModelIndex& now) {
            if (now.isValid() && !model_->row(now.row()).is_head)
              emit test_chosen(model_->row(now.row()).test.id);
          });
  list_->installEventFilter(this);
  connect(list_, &QWidget::customContextMenuRequested, this, &CourseRail::show_menu);
}

Id CourseRail::beside(int row, int by) const {
  const int other = row + by;
  return row < 0 || other < 0 || other >= model_->rowCount() || model_->row(other).is_head
             ? 0
             : model_->row(other).test.id;
}

void CourseRail::show_menu(const QPoint& at) {
  const QModelIndex index =
      list_->indexAt(at).isValid() ? list_->indexAt(at) : list_->currentIndex();
  if (!index.isValid() || model_->row(index.row()).is_head) return;
  QMenu menu(this);
  const Id id = model_->row(index.row()).test.id;
  menu.addAction(tr("Rename this test\u2026\tF2"), this, [this, id] { emit rename_asked(id); });
  menu.addAction(tr("The same for another band or setting\u2026"), this,
                 [this, id] { emit duplicate_asked(id); });
  const auto move = [&](const QString& words, int by) {
    const Id other = beside(index.row(), by);
    menu.addAction(words, this, [this, id, other] { emit swap_asked(id, other); })
        ->setEnabled(other != 0);
  };
  move(tr("Move up\tAlt+Up"), -1);
  move(tr("Move down\tAlt+Down"), 1);
  menu.addSeparator();
  menu.addAction(tr("Remove this test"), this, [this, id] { emit removal_asked(id); });
  menu.exec(list_->viewport()->mapToGlobal(at));
}

bool CourseRail::press(int key, Qt::KeyboardModifiers modifiers) {
  const QModelIndex index = list_->currentIndex();
  if (!index.isValid() || model_->row(index.row()).is_head) return false;
  const Id id = model_->row(index.row()).test.id;
  if (key == Qt::Key_F2 && modifiers == Qt::NoModifier) {
    emit rename_asked(id);
    return true;
  }
  if (modifiers != Qt::AltModifier || (key != Qt::Key_Up && key != Qt::Key_Down)) return false;
  if (const Id other = beside(index.row(), key == Qt::Key_Up ? -1 : 1); other != 0)
    emit swap_asked(id, other);
  return true;
}

void CourseRail::set_in_hookup(bool in_hookup) {
  in_hookup_ = in_hookup;
  const QModelIndex now = list_->currentIndex();
  const Id test =
      now.isValid() && !model_->row(now.row()).is_head ? model_->row(now.row()).test.id : 0;
  model_->set_current_head(in_hookup ? test : 0);
  list_->viewport()->update();
}

bool CourseRail::eventFilter(QObject* watched, QEvent* event) {
  if (watched == list_ && event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    return press(key->key(), key->modifiers());
  }
  if (event->type() == QEvent::MouseButtonRelease) {
    const QModelIndex index = list_->indexAt(static_cast<QMouseEvent*>(event)->pos());
    if (index.isValid() && model_->row(index.row()).is_head) {
      // What is calculated has none.
      if (const Id first = model_->row(index.row()).first_test; first != 0)
        emit hookup_asked(first);
    } else if (index.isValid() && in_hookup_ && index == list_->currentIndex())
      emit test_chosen(model_->row(index.row()).test.id);
  }
  return QWidget::eventFilter(watched, event);
}

void CourseRail::set_course(const std::vector<Test>& course, Id current,
                            const std::map<Id, QString>& hookups) {
  const QSignalBlocker quiet(list_->selectionModel());
  model_->set_course(course, hookups);
  total_ = static_cast<int>(course.size());
  taken_ = static_cast<int>(std::count_if(course.begin(), course.end(),
                                          [](const Test& t) { return t.headline.has_value(); }));
  count_->setText(tr("%1 of %2 measured").arg(taken_).arg(total_));
  const int row = model_->row_of(current);
  if (row >= 0) list_->setCurrentIndex(model_->index(row));
  set_in_hookup(in_hookup_);
  list_->viewport()->update();
  update();
}

void CourseRail::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  if (total_ == 0) return;
  const double gap = 3;
  const double w = (width() - 32 - gap * (total_ - 1)) / total_;
  p.setPen(Qt::NoPen);
  for (int i = 0; i < total_; ++i) {
    p.setBrush(i < taken_ ? t.slate : t.hair);
    p.drawRoundedRect(QRectF(16 + i * (w + gap), 38, w, 3), 1.5, 1.5);
  }
}

}  // namespace heron
