#include "app/shell/command_box.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/shell/command_words.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"
#include "app/widget/float_frame.h"

namespace heron {
namespace {

constexpr int kCommandRole = Qt::UserRole;

class CommandDelegate : public QStyledItemDelegate {
 public:
  CommandDelegate(const std::vector<Command>& commands, QListWidget* view)
      : QStyledItemDelegate(view), commands_(commands), view_(view) {}
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {100, 34};
  }
  void paint(QPainter* p, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override {
    const Theme& t = theme_of(view_);
    const Command& c = commands_[static_cast<std::size_t>(index.data(kCommandRole).toInt())];
    const QRectF box(option.rect);
    p->save();
    if (view_->currentIndex() == index) {
      p->fillRect(box, t.waterTint);
      p->fillRect(QRectF(box.left(), box.top(), 3, box.height()), t.water);
    }
    p->setFont(type_font(Type::label));
    p->setPen(t.mute);
    p->drawText(QRectF(box.left() + 16, box.top(), 60, box.height()), Qt::AlignVCenter, c.kind);
    p->drawText(box.adjusted(0, 0, -16, 0), Qt::AlignVCenter | Qt::AlignRight, c.shortcut);
    p->setFont(type_font(Type::name));
    p->setPen(t.ink);
    draw_elided(*p,
                QRectF(box.left() + 82, box.top(), box.width() - (c.shortcut.isEmpty() ? 98 : 170),
                       box.height()),
                Qt::AlignVCenter, c.name);
    p->restore();
  }

 private:
  const std::vector<Command>& commands_;
  QListWidget* view_;
};

}  // namespace

CommandBox::CommandBox(QWidget* parent)
    : QWidget(parent, Qt::Popup), edit_(new QLineEdit), list_(new QListWidget) {
  resize(520, 400);
  setAccessibleName(tr("Find or run"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 10, 1, 8);
  column->setSpacing(8);
  auto* box = new QVBoxLayout;
  box->setContentsMargins(12, 0, 12, 0);
  edit_->setFixedHeight(34);
  edit_->setPlaceholderText(tr("A device, a test or a command"));
  edit_->setAccessibleName(tr("Find or run"));
  edit_->installEventFilter(this);
  box->addWidget(edit_);
  column->addLayout(box);
  list_->setFrameShape(QFrame::NoFrame);
  list_->setItemDelegate(new CommandDelegate(commands_, list_));
  list_->setFocusPolicy(Qt::NoFocus);
  column->addWidget(list_, 1);
  connect(edit_, &QLineEdit::textChanged, this, &CommandBox::filter);
  connect(edit_, &QLineEdit::returnPressed, this, &CommandBox::run_current);
  connect(list_, &QListWidget::itemClicked, this, [this] { run_current(); });
}

void CommandBox::open(std::vector<Command> commands) {
  list_->clear();
  commands_ = std::move(commands);
  edit_->clear();
  filter({});
  move(parentWidget()->mapToGlobal(QPoint(parentWidget()->width() - width() - 16, 46)));
  show();
  edit_->setFocus();
}

void CommandBox::filter(const QString& words) {
  list_->clear();
  // Those first of which words begin as typed: "no limit" is not "another limit".
  std::vector<std::size_t> fitting;
  for (std::size_t i = 0; i < commands_.size(); ++i)
    if (answers_to(commands_[i].name + " " + commands_[i].kind, words)) fitting.push_back(i);
  std::stable_partition(fitting.begin(), fitting.end(), [&](std::size_t i) {
    return begins_as(commands_[i].name + " " + commands_[i].kind, words);
  });
  for (const std::size_t i : fitting) {
    const QString all = commands_[i].name + " " + commands_[i].kind;
    auto* item = new QListWidgetItem(list_);
    item->setData(kCommandRole, static_cast<int>(i));
    item->setData(Qt::AccessibleTextRole, all);
  }
  list_->setCurrentRow(0);
}

QStringList CommandBox::shown() const {
  QStringList names;
  for (int i = 0; i < list_->count(); ++i)
    names << commands_[static_cast<std::size_t>(list_->item(i)->data(kCommandRole).toInt())].name;
  return names;
}

void CommandBox::run_current() {
  const QListWidgetItem* item = list_->currentItem();
  if (item == nullptr) return;
  const auto run = commands_[static_cast<std::size_t>(item->data(kCommandRole).toInt())].run;
  hide();
  run();
}

bool CommandBox::eventFilter(QObject* watched, QEvent* event) {
  if (watched == edit_ && event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      const int step = key == Qt::Key_Down ? 1 : -1;
      list_->setCurrentRow(
          std::clamp(list_->currentRow() + step, 0, std::max(0, list_->count() - 1)));
      return true;
    }
    if (key == Qt::Key_Escape) {
      hide();
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

void CommandBox::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme_of(this);
  draw_float_frame(p, *this);
  if (list_->count() == 0) {
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    p.drawText(
        QRectF(16, 60, width() - 32, 60), Qt::TextWordWrap,
        tr("Nothing of that name. Try part of a device\u2019s name, or \u201cexport\u201d."));
  }
}

}  // namespace heron
