#include "app/shell/plan_dialog.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/qt_text.h"
#include "app/widget/float_frame.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"
#include "core/method/method_table.h"

namespace heron {
namespace {

constexpr int kWide = 560;
constexpr int kShownRows = 9;

}  // namespace

PlanDialog::PlanDialog(const QString& device, const DeviceKind* kind, std::set<std::string> repeats,
                       QWidget* parent)
    : QDialog(parent, Qt::Dialog | Qt::FramelessWindowHint),
      repeats_(std::move(repeats)),
      title_(new QLineEdit(tr("Evaluation"))),
      list_(new CheckList(true)),
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
  list_->setFixedHeight(kShownRows * CheckList::kRowHeight);
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
  const bool is_repeat = repeats_.contains(characteristic);
  list_->add(qt_text(std::string(c->test)),
             is_repeat ? tr("the last one is provisional: to be repeated") : reason,
             qt_text(characteristic), is_taken || is_repeat);
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
  for (const QString& id : list_->taken()) all.push_back(id.toStdString());
  return all;
}

void PlanDialog::paintEvent(QPaintEvent*) {
  QPainter p(this);
  draw_float_frame(p, *this);
}

}  // namespace heron
