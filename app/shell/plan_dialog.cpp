#include "app/shell/plan_dialog.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/qt_text.h"
#include "app/widget/float_frame.h"
#include "app/widget/painted_button.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"
#include "core/method/method_table.h"

namespace heron {
namespace {

constexpr int kWide = 560;
constexpr int kRowHeight = 42;
constexpr int kShownRows = 9;
constexpr int kCharacteristic = Qt::UserRole;
constexpr int kReason = Qt::UserRole + 1;

/// A box, the test, and why it stands there.
class PlanDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {0, kRowHeight};
  }
  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const auto* view = static_cast<const QWidget*>(parent());
    const Theme& t = theme_of(view);
    const QRectF row(option.rect);
    const bool is_taken = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
    p->setRenderHint(QPainter::Antialiasing);
    if (option.state & QStyle::State_Selected) p->fillRect(row, t.waterTint);
    const QRectF box(row.left() + 12, row.center().y() - 8, 16, 16);
    p->setPen(QPen(is_taken ? t.water : t.hairStrong, 1.5));
    p->setBrush(is_taken ? t.water : t.sheet);
    p->drawRoundedRect(box, 3, 3);
    if (is_taken) {
      p->setPen(QPen(t.sheet, 2));
      p->drawPolyline(QPolygonF{{box.left() + 3.5, box.center().y()},
                                {box.left() + 7, box.bottom() - 4},
                                {box.right() - 3.5, box.top() + 4.5}});
    }
    p->setFont(type_font(Type::name));
    p->setPen(is_taken ? t.ink : t.mute);
    draw_elided(*p, QRectF(row.left() + 40, row.top() + 4, row.width() - 90, 18), Qt::AlignVCenter,
                index.data(Qt::DisplayRole).toString());
    p->setFont(type_font(Type::label));
    p->setPen(is_taken ? t.slate : t.mute);
    draw_elided(*p, QRectF(row.left() + 40, row.top() + 22, row.width() - 90, 16), Qt::AlignVCenter,
                index.data(kReason).toString());
    // Where it is taken hold of.
    p->setPen(QPen(t.hairStrong, 1.5));
    for (const double dy : {-3.0, 0.0, 3.0})
      p->drawLine(QPointF(row.right() - 28, row.center().y() + dy),
                  QPointF(row.right() - 16, row.center().y() + dy));
    p->fillRect(QRectF(row.left() + 12, row.bottom(), row.width() - 24, 1), t.hair);
    if ((option.state & QStyle::State_HasFocus) && has_keyboard_focus(view))
      draw_focus_ring(*p, row.adjusted(2, 2, -2, -2), 5, t);
  }
};

}  // namespace

PlanDialog::PlanDialog(const QString& device, const DeviceKind* kind, QWidget* parent)
    : QDialog(parent, Qt::Dialog | Qt::FramelessWindowHint),
      title_(new QLineEdit(tr("Evaluation"))),
      list_(new QListWidget),
      go_(new PushButton(tr("Start"), ButtonRank::primary)) {
  setObjectName("ask");
  const QString heading = tr("Start an evaluation of %1").arg(device);
  setWindowTitle(heading);
  setFixedWidth(kWide);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 18);
  column->setSpacing(8);
  column->addWidget(new Words(heading, Type::heading));
  column->addWidget(new Words(tr("Title"), Type::label, Tone::mute));
  title_->setFixedHeight(30);
  title_->setFont(type_font(Type::body));
  title_->setAccessibleName(tr("Title"));
  title_->selectAll();
  column->addWidget(title_);
  auto* words = new Words(
      kind != nullptr
          ? tr("These are usual for its kind, %1, in the order in which they are best done. Take "
               "out what is not needed; others can be added at any time.")
                .arg(qt_text(std::string(kind->name)).toLower())
          : tr("Nothing is known of its kind: take what is to be measured. Tests can be added at "
               "any time."),
      Type::body, Tone::slate);
  words->setWordWrap(true);
  words->setMinimumHeight(words->heightForWidth(kWide - 40));
  column->addWidget(words);
  list_->setAccessibleName(tr("Tests, in their order"));
  list_->setItemDelegate(new PlanDelegate(list_));
  list_->setDragDropMode(QAbstractItemView::InternalMove);
  list_->setFrameShape(QFrame::NoFrame);
  list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  list_->setFixedHeight(kShownRows * kRowHeight);
  watch_keyboard_focus(list_);
  list_->installEventFilter(this);
  column->addWidget(list_);
  column->addWidget(new Words(tr("Space takes one in or out; Alt with an arrow moves it."),
                              Type::label, Tone::mute));
  auto* row = new QHBoxLayout;
  row->addStretch();
  auto* leave = new PushButton(tr("Cancel"), ButtonRank::secondary);
  row->addWidget(leave);
  row->addWidget(go_);
  column->addLayout(row);
  if (kind != nullptr)
    for (const UsualTest& t : kind->tests)
      add(std::string(t.characteristic), qt_text(std::string(t.reason)), true);
  for (const Characteristic& c : characteristics()) {
    const bool is_there = kind != nullptr &&
                          std::any_of(kind->tests.begin(), kind->tests.end(),
                                      [&](const UsualTest& t) { return t.characteristic == c.id; });
    if (c.has_method && !is_there)
      add(std::string(c.id), qt_text(std::string(c.question)),
          kind == nullptr && list_->count() == 0);
  }
  list_->setCurrentRow(0);
  connect(list_, &QListWidget::itemChanged, this, &PlanDialog::refresh);
  connect(title_, &QLineEdit::textChanged, this, &PlanDialog::refresh);
  connect(title_, &QLineEdit::returnPressed, this, [this] {
    if (go_->isEnabled()) accept();
  });
  connect(leave, &QAbstractButton::clicked, this, &QDialog::reject);
  connect(go_, &QAbstractButton::clicked, this, &QDialog::accept);
  refresh();
}

void PlanDialog::add(const std::string& characteristic, const QString& reason, bool is_taken) {
  const Characteristic* c = find_characteristic(characteristic);
  if (c == nullptr || !c->has_method) return;
  auto* item = new QListWidgetItem(qt_text(std::string(c->test)));
  item->setData(kCharacteristic, qt_text(characteristic));
  item->setData(kReason, reason);
  item->setData(Qt::AccessibleTextRole, item->text() + ", " + reason);
  item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable |
                 Qt::ItemIsDragEnabled);
  item->setCheckState(is_taken ? Qt::Checked : Qt::Unchecked);
  list_->addItem(item);
}

void PlanDialog::move_current(int by) {
  const int from = list_->currentRow();
  const int to = from + by;
  if (from < 0 || to < 0 || to >= list_->count()) return;
  list_->insertItem(to, list_->takeItem(from));
  list_->setCurrentRow(to);
}

bool PlanDialog::eventFilter(QObject* watched, QEvent* event) {
  if (watched != list_ || event->type() != QEvent::KeyPress)
    return QDialog::eventFilter(watched, event);
  const auto* key = static_cast<QKeyEvent*>(event);
  if (key->modifiers() == Qt::AltModifier &&
      (key->key() == Qt::Key_Up || key->key() == Qt::Key_Down)) {
    move_current(key->key() == Qt::Key_Up ? -1 : 1);
    return true;
  }
  return QDialog::eventFilter(watched, event);
}

void PlanDialog::refresh() {
  const auto count = tests().size();
  go_->setText(count == 1 ? tr("Start with 1 test") : tr("Start with %1 tests").arg(count));
  go_->setEnabled(count > 0 && !title().isEmpty());
  go_->updateGeometry();
}

QString PlanDialog::title() const {
  return title_->text().trimmed();
}

std::vector<std::string> PlanDialog::tests() const {
  std::vector<std::string> all;
  for (int i = 0; i < list_->count(); ++i)
    if (list_->item(i)->checkState() == Qt::Checked)
      all.push_back(list_->item(i)->data(kCharacteristic).toString().toStdString());
  return all;
}

void PlanDialog::paintEvent(QPaintEvent*) {
  QPainter p(this);
  draw_float_frame(p, *this);
}

}  // namespace heron
