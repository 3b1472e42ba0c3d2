#include "app/widget/level_desk.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/ask.h"
#include "app/widget/push_button.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_level.h"

namespace heron {
namespace {

constexpr int kDeskWidth = 484;
constexpr double kDeskRow = 22.0;
constexpr double kGroup = 21.0;
constexpr double kHeadTop = FloatingCard::kHead + 88;
constexpr double kRowsTop = kHeadTop + 30;

}  // namespace

LevelDesk::LevelDesk(QWidget* window)
    : FloatingCard(tr("Level converter"), window),
      entry_(new QLineEdit(this)),
      tones_(new Segmented(tr("Drive is"), {tr("one tone"), tr("two tones")}, this)),
      impedance_(new Chip(tr("In"), this)),
      path_(new Chip(tr("Through"), this)),
      paste_(new PushButton({}, ButtonRank::secondary, this)),
      copy_all_(new PushButton(tr("Copy all"), ButtonRank::link, this)) {
  set_key_cap("Ctrl L");
  setFixedSize(kDeskWidth, 648);
  QFont big = type_font(Type::readout_small);
  entry_->setFont(big);
  entry_->setGeometry(16, kHead, kDeskWidth - 32, 40);
  entry_->setAccessibleName(tr("A level in any unit"));
  entry_->setPlaceholderText(tr("such as 31 W, 50 µV emf, S9+10"));
  entry_->installEventFilter(this);
  setFocusProxy(entry_);
  tones_->move(16, kHead + 50);
  tones_->resize(tones_->sizeHint());
  const auto set_ohm = [this](double ohm) {
    ohm_ = ohm;
    impedance_->set_value(QStringLiteral("%1 Ω").arg(ohm));
    impedance_->resize(impedance_->sizeHint());
    evaluate();
  };
  for (const double ohm : {50.0, 75.0, 300.0, 600.0})
    impedance_->menu()->addAction(QStringLiteral("%1 Ω").arg(ohm), this,
                                  [set_ohm, ohm] { set_ohm(ohm); });
  impedance_->menu()->addAction(tr("Another…"), this, [this, set_ohm] {
    const auto asked = ask_quantity(this, tr("Impedance"), tr("Voltages belong to an impedance."),
                                    tr("Impedance"), "50 Ω", tr("Use it"), Quantity::impedance);
    if (asked) set_ohm(asked->value);
  });
  connect(entry_, &QLineEdit::textChanged, this, [this] { evaluate(); });
  connect(tones_, &Segmented::chosen, this, [this] { evaluate(); });
  connect(paste_, &QAbstractButton::clicked, this, &LevelDesk::paste);
  connect(copy_all_, &QAbstractButton::clicked, this, [this] {
    QStringList lines;
    for (std::size_t i = 0; i < before_.size(); ++i) {
      QString line = qt_text(before_[i].group + "\t" + before_[i].name + "\t" + before_[i].text());
      if (i < after_.size()) line += "\t" + qt_text(after_[i].text());
      lines << line;
    }
    QApplication::clipboard()->setText(lines.join('\n'));
    emit told(tr("Copied all forms of %1").arg(entry_->text()));
  });
  set_ohm(50.0);
  set_paths({}, -1);
}

void LevelDesk::set_paths(std::vector<Path> paths, int current) {
  paths_ = std::move(paths);
  through_ = current;
  QMenu* menu = path_->menu();
  menu->clear();
  const auto choose = [this](int i) {
    through_ = i;
    path_->set_value(i < 0 ? tr("nothing") : paths_[static_cast<std::size_t>(i)].name);
    path_->resize(std::min(path_->sizeHint().width(), kDeskWidth - 16 - path_->x()), 26);
    evaluate();
  };
  menu->addAction(tr("nothing"), this, [choose] { choose(-1); });
  for (std::size_t i = 0; i < paths_.size(); ++i)
    menu->addAction(paths_[i].name, this, [choose, i] { choose(static_cast<int>(i)); });
  impedance_->move(tones_->geometry().right() + 8, kHead + 50);
  impedance_->resize(impedance_->sizeHint());
  path_->move(impedance_->geometry().right() + 8, kHead + 50);
  choose(current < static_cast<int>(paths_.size()) ? current : -1);
}

void LevelDesk::open_for(QuantityField* target, QPoint corner) {
  target_ = target;
  if (target != nullptr && !target->typed().trimmed().isEmpty()) entry_->setText(target->typed());
  entry_->selectAll();
  evaluate();
  open_at(corner);
  entry_->setFocus(Qt::OtherFocusReason);
}

QString LevelDesk::target_name() const {
  return target_ != nullptr ? target_->edit()->accessibleName() : QString();
}

void LevelDesk::evaluate() {
  before_.clear();
  after_.clear();
  is_wrong_ = false;
  const QString text = entry_->text().trimmed();
  understood_ = text.isEmpty() ? tr("any unit") : QString();
  if (!text.isEmpty()) {
    try {
      LevelInputOptions options;
      options.impedance = Ohm{ohm_};
      options.is_two_tone = tones_->current() == 1;
      options.default_unit = target_ != nullptr && !target_->options().default_unit.empty()
                                 ? target_->options().default_unit
                                 : "dBm";
      const TypedLevel typed = parse_level(text.toStdString(), options);
      DeskView view;
      view.is_two_tone = options.is_two_tone;
      view.impedance = Ohm{ohm_};
      const bool is_path = through_ >= 0;
      view.is_receiver_level = !is_path && typed.level.value < 0.0;
      before_ = desk_rows(typed.level, view);
      understood_ = tr("understood as %1").arg(qt_text(typed.understood).section(" = ", 0, 0)) +
                    (options.is_two_tone ? tr(", peak envelope") : QString());
      if (is_path) {
        const Path& path = paths_[static_cast<std::size_t>(through_)];
        view.is_receiver_level = true;
        after_ = desk_rows(typed.level + Db{total_gain_db(path.chain, path.frequency_hz)}, view);
      }
    } catch (const InputError& error) {
      is_wrong_ = true;
      understood_ = qt_text(error.reason + ". " + error.advice + ".");
      after_.clear();
    }
  }
  row_ = std::clamp(row_, 0, std::max(0, static_cast<int>(before_.size()) - 1));
  if (after_.empty()) is_after_ = false;
  const QString chosen = chosen_text();
  paste_->setText(chosen.isEmpty()     ? tr("Nothing to copy")
                  : target_ != nullptr ? tr("Paste %1").arg(chosen)
                                       : tr("Copy %1").arg(chosen));
  paste_->setEnabled(!chosen.isEmpty());
  paste_->setAccessibleName(paste_->text());
  paste_->resize(paste_->sizeHint());
  paste_->move(width() - 16 - paste_->width(), height() - 46);
  copy_all_->resize(copy_all_->sizeHint());
  copy_all_->move(20, height() - 42);
  setAccessibleDescription(understood_);
  update();
}

QString LevelDesk::chosen_text() const {
  const auto& rows = is_after_ ? after_ : before_;
  if (row_ >= static_cast<int>(rows.size())) return {};
  const DeskRow& row = rows[static_cast<std::size_t>(row_)];
  return row.number == "\u2013" ? QString() : qt_text(row.text());
}

void LevelDesk::paste() {
  const QString text = chosen_text();
  if (text.isEmpty()) return;
  if (target_ == nullptr) {
    copy();
    return;
  }
  target_->take(text);
  QuantityField* target = target_;
  close();
  target->edit()->setFocus(Qt::OtherFocusReason);
}

void LevelDesk::copy() {
  const QString text = chosen_text();
  if (text.isEmpty()) return;
  QApplication::clipboard()->setText(text);
  emit told(tr("Copied %1").arg(text));
}

QRectF LevelDesk::row_box(int row) const {
  double y = kRowsTop;
  std::string group;
  for (int i = 0; i <= row && i < static_cast<int>(before_.size()); ++i) {
    const DeskRow& r = before_[static_cast<std::size_t>(i)];
    if (r.group != group) {
      group = r.group;
      y += kGroup;
    }
    if (i == row) return {1, y, width() - 2.0, kDeskRow};
    y += kDeskRow;
  }
  return {};
}

void LevelDesk::paintEvent(QPaintEvent* event) {
  FloatingCard::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::body));
  p.setPen(is_wrong_ ? t.fail : t.slate);
  // Below the chips, so that long explanations have their line.
  if (is_wrong_) draw_verdict(p, {24, kHeadTop + 2}, 8, Verdict::fail, t);
  draw_elided(p, QRectF(is_wrong_ ? 34 : 20, kHeadTop - 8, width() - 54, 20), Qt::AlignVCenter,
              understood_);
  const double value_right = after_.empty() ? 400 : 318;
  if (before_.empty()) return;
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  if (!after_.empty()) {
    p.drawText(QRectF(value_right - 130, kHeadTop + 12, 170, 16), Qt::AlignCenter, tr("before"));
    p.drawText(QRectF(kDeskWidth - 170, kHeadTop + 12, 150, 16), Qt::AlignCenter,
               tr("behind the hook-up"));
  }
  std::string group;
  for (std::size_t i = 0; i < before_.size(); ++i) {
    const DeskRow& row = before_[i];
    const QRectF box = row_box(static_cast<int>(i));
    if (row.group != group) {
      group = row.group;
      p.fillRect(QRectF(20, box.top() - kGroup + 1, width() - 40, 1), t.hair);
      QFont strong = type_font(Type::label);
      strong.setWeight(QFont::DemiBold);
      p.setFont(strong);
      p.setPen(t.mute);
      p.drawText(QRectF(20, box.top() - kGroup + 2, width() - 40, kGroup), Qt::AlignVCenter,
                 qt_text(group));
    }
    const bool is_chosen = static_cast<int>(i) == row_;
    if (is_chosen) {
      p.fillRect(box, t.waterTint);
      p.fillRect(QRectF(box.left(), box.top(), 3, box.height()), t.water);
    }
    const double baseline = box.center().y() + 4.5;
    p.setFont(type_font(is_chosen ? Type::current : Type::body));
    p.setPen(t.ink);
    p.drawText(QPointF(20, baseline), qt_text(row.name));
    const auto figure = [&](const DeskRow& r, double right, bool strong) {
      const QString number = qt_text(r.number);
      const Type type = strong ? Type::figure_chosen : Type::figure;
      draw_figure_text(p, {right - figure_text_width(number, type, Type::body), baseline}, number,
                       type, Type::body, t.ink);
      p.setFont(type_font(Type::control));
      p.setPen(t.mute);
      p.drawText(QPointF(right + 5, baseline), qt_text(r.unit));
    };
    figure(row, value_right, is_chosen && !is_after_);
    if (i < after_.size()) figure(after_[i], kDeskWidth - 62, is_chosen && is_after_);
  }
  p.fillRect(QRectF(1, height() - 56, width() - 2, 1), t.hair);
  if (target_ != nullptr) {
    p.setFont(type_font(Type::body));
    p.setPen(t.mute);
    draw_elided(p, QRectF(110, height() - 46, paste_->x() - 122, 34),
                Qt::AlignVCenter | Qt::AlignRight, tr("into “%1”").arg(target_name()));
  }
}

bool LevelDesk::handle_key(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
      row_ = std::clamp(row_ + (event->key() == Qt::Key_Up ? -1 : 1), 0,
                        std::max(0, static_cast<int>(before_.size()) - 1));
      evaluate();
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      paste();
      return true;
    case Qt::Key_Escape:
      close();
      return true;
    case Qt::Key_Left:
    case Qt::Key_Right:
      // Inside the text the arrows belong to the text; with Alt, or from elsewhere, to the columns.
      if (entry_->hasFocus() && !(event->modifiers() & Qt::AltModifier)) return false;
      is_after_ = event->key() == Qt::Key_Right && !after_.empty();
      evaluate();
      return true;
    default:
      break;
  }
  if (event->matches(QKeySequence::Copy) && !entry_->hasSelectedText()) {
    copy();
    return true;
  }
  return false;
}

bool LevelDesk::eventFilter(QObject* watched, QEvent* event) {
  if (watched == entry_ && event->type() == QEvent::KeyPress &&
      handle_key(static_cast<QKeyEvent*>(event)))
    return true;
  return FloatingCard::eventFilter(watched, event);
}

void LevelDesk::keyPressEvent(QKeyEvent* event) {
  if (!handle_key(event)) FloatingCard::keyPressEvent(event);
}

void LevelDesk::mousePressEvent(QMouseEvent* event) {
  for (int i = 0; i < static_cast<int>(before_.size()); ++i) {
    if (!row_box(i).contains(event->position())) continue;
    row_ = i;
    is_after_ = !after_.empty() && event->position().x() > 360;
    evaluate();
    return;
  }
  FloatingCard::mousePressEvent(event);
}

void LevelDesk::resizeEvent(QResizeEvent*) {
  evaluate();
}

}  // namespace heron
