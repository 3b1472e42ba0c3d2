#include "app/widget/what_if_panel.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QScrollBar>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/push_button.h"

namespace heron {
namespace {

constexpr int kWhatIfHeight = 50;
constexpr int kFieldWidth = 98;
constexpr int kTrackY = 39;
constexpr int kEdge = 16;
constexpr double kThumb = 6.0;

}  // namespace

/// One value: name and where it comes from, field, slider.
class WhatIfRow : public QWidget {
 public:
  explicit WhatIfRow(WhatIfPanel* panel) : panel_(panel), edit_(new QLineEdit(this)) {
    setFixedHeight(kWhatIfHeight);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    edit_->setAlignment(Qt::AlignRight);
    edit_->setFont(type_font(Type::figure_small));
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
      if (!edit_->isModified()) return;
      edit_->setModified(false);
      emit panel_->moved({value_.key, std::nullopt, edit_->text().toStdString()});
    });
  }

  void set_value(const WhatIf& value, bool can_edit) {
    value_ = value;
    can_edit_ = can_edit;
    edit_->setReadOnly(!can_edit);
    if (!edit_->hasFocus() || !edit_->isModified()) edit_->setText(qt_text(value.text));
    edit_->setAccessibleName(qt_text(value.head));
    setAccessibleName(qt_text(value.head + ", " + value.text + ", " + value.caption));
    update();
  }
  QLineEdit* edit() { return edit_; }
  const WhatIf& value() const { return value_; }

 protected:
  void resizeEvent(QResizeEvent*) override {
    edit_->setGeometry(width() - kEdge - kFieldWidth, 4, kFieldWidth, 26);
  }

  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    const double words = width() - 2.0 * kEdge - kFieldWidth - 6;
    p.setFont(strong_label());
    p.setPen(t.slate);
    draw_elided(p, QRectF(kEdge, 2, words, 15), Qt::AlignVCenter, qt_text(value_.head));
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(kEdge, 17, words, 15), Qt::AlignVCenter, qt_text(value_.caption));
    const double left = kEdge + kThumb;
    const double right = width() - kEdge - kThumb;
    p.setPen(Qt::NoPen);
    p.setBrush(t.sunk);
    p.drawRoundedRect(QRectF(left, kTrackY - 1.5, right - left, 3), 1.5, 1.5);
    const double now = x_of(held_.value_or(value_.value));
    const double built = x_of(value_.built);
    const bool is_changed = held_ ? *held_ != value_.built : value_.is_changed();
    if (is_changed) {
      p.setBrush(t.water);
      p.drawRoundedRect(QRectF(std::min(now, built), kTrackY - 1.5, std::abs(now - built), 3), 1.5,
                        1.5);
    }
    // Few enough to be seen.
    if (value_.stops.size() > 1 && value_.stops.size() < 12) {
      p.setPen(QPen(t.mute, 1));
      for (const double stop : value_.stops)
        p.drawLine(QPointF(x_of(stop), kTrackY - 4), QPointF(x_of(stop), kTrackY + 4));
    }
    if (is_changed) {
      p.setPen(QPen(t.mute, 1.5));
      p.setBrush(t.sheet);
      p.drawEllipse(QPointF(built, kTrackY), 4.0, 4.0);
    }
    p.setPen(QPen(is_changed ? t.water : t.slate, 1.6));
    p.setBrush(t.sheet);
    p.drawEllipse(QPointF(now, kTrackY), kThumb, kThumb);
    if (is_changed) {
      p.setPen(Qt::NoPen);
      p.setBrush(t.water);
      p.drawEllipse(QPointF(now, kTrackY), 2.2, 2.2);
    }
    if (hasFocus()) draw_focus_ring(p, QRectF(rect()).adjusted(6, 0, -6, -1), 4.0, t);
  }

  void mousePressEvent(QMouseEvent* event) override {
    setFocus(Qt::MouseFocusReason);
    if (!can_edit_ || event->position().y() < kTrackY - 9) return;
    hold(event->position().x());
  }
  void mouseMoveEvent(QMouseEvent* event) override {
    setCursor(can_edit_ && event->position().y() >= kTrackY - 9 ? Qt::SizeHorCursor
                                                                : Qt::ArrowCursor);
    if (held_) hold(event->position().x());
  }
  void mouseReleaseEvent(QMouseEvent*) override {
    if (!held_) return;
    const double value = *std::exchange(held_, std::nullopt);
    emit panel_->moved({value_.key, value, {}});
  }

  void keyPressEvent(QKeyEvent* event) override {
    const std::size_t at = index();
    switch (event->key()) {
      case Qt::Key_Up:
        if (at > 0) panel_->go_to(at - 1);
        return;
      case Qt::Key_Down:
        panel_->go_to(at + 1);
        return;
      case Qt::Key_Left:
      case Qt::Key_Right: {
        if (!can_edit_) return;
        WhatIf fine = value_;
        if ((event->modifiers() & Qt::ShiftModifier) != 0) fine.stops.clear();
        emit panel_->moved({value_.key, next_value(fine, event->key() == Qt::Key_Right), {}});
        return;
      }
      case Qt::Key_Backspace:
        if (can_edit_) emit panel_->moved({value_.key, std::nullopt, {}});
        return;
      case Qt::Key_Return:
      case Qt::Key_Enter:
        edit_->setFocus(Qt::OtherFocusReason);
        edit_->selectAll();
        return;
      default:
        QWidget::keyPressEvent(event);
    }
  }
  void focusInEvent(QFocusEvent* event) override {
    QWidget::focusInEvent(event);
    panel_->ensureWidgetVisible(this, 0, 4);
    update();
  }
  void focusOutEvent(QFocusEvent* event) override {
    QWidget::focusOutEvent(event);
    update();
  }

 private:
  std::size_t index() const {
    const auto& rows = panel_->rows_;
    return static_cast<std::size_t>(std::find(rows.begin(), rows.end(), this) - rows.begin());
  }
  double x_of(double value) const {
    const double left = kEdge + kThumb;
    const double right = width() - kEdge - kThumb;
    if (!(value_.most > value_.least)) return (left + right) / 2.0;
    const double share = std::log(value / value_.least) / std::log(value_.most / value_.least);
    return std::lerp(left, right, std::clamp(share, 0.0, 1.0));
  }
  void hold(double x) {
    const double left = kEdge + kThumb;
    const double right = width() - kEdge - kThumb;
    const double share = std::clamp((x - left) / std::max(1.0, right - left), 0.0, 1.0);
    const double value =
        settled_value(value_, value_.least * std::pow(value_.most / value_.least, share));
    if (held_ == value) return;
    held_ = value;
    update();
    emit panel_->sliding({value_.key, value, {}});
  }

  WhatIfPanel* panel_;
  QLineEdit* edit_;
  WhatIf value_;
  std::optional<double> held_;
  bool can_edit_ = false;
};

WhatIfPanel::WhatIfPanel(QWidget* parent)
    : QScrollArea(parent), as_built_(new PushButton(tr("All as built"), ButtonRank::link)) {
  setFrameShape(QFrame::NoFrame);
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFocusPolicy(Qt::NoFocus);
  auto* inside = new QWidget;
  column_ = new QVBoxLayout(inside);
  column_->setContentsMargins(0, 6, 0, 8);
  column_->setSpacing(0);
  auto* foot = new QHBoxLayout;
  foot->setContentsMargins(kEdge, 2, kEdge, 0);
  foot->addWidget(as_built_);
  foot->addStretch();
  column_->addLayout(foot);
  column_->addStretch();
  setWidget(inside);
  connect(as_built_, &QAbstractButton::clicked, this, [this] { emit moved({}); });
  setAccessibleName(tr("What if it were otherwise"));
  follow_theme();
  hide();
}

void WhatIfPanel::set_values(const std::vector<WhatIf>& values, bool can_edit) {
  values_ = values;
  setVisible(!values.empty());
  while (rows_.size() > values.size()) {
    rows_.back()->deleteLater();
    rows_.pop_back();
  }
  while (rows_.size() < values.size()) {
    rows_.push_back(new WhatIfRow(this));
    column_->insertWidget(static_cast<int>(rows_.size()) - 1, rows_.back());
  }
  for (std::size_t i = 0; i < values.size(); ++i) rows_[i]->set_value(values[i], can_edit);
  as_built_->setVisible(can_edit && std::any_of(values.begin(), values.end(),
                                                [](const WhatIf& w) { return w.is_changed(); }));
}

QLineEdit* WhatIfPanel::field(const std::string& key) const {
  for (WhatIfRow* row : rows_)
    if (row->value().key == key) return row->edit();
  return nullptr;
}

QWidget* WhatIfPanel::row(const std::string& key) const {
  for (WhatIfRow* row : rows_)
    if (row->value().key == key) return row;
  return nullptr;
}

void WhatIfPanel::go_to(std::size_t row) {
  if (row < rows_.size()) rows_[row]->setFocus(Qt::OtherFocusReason);
}

void WhatIfPanel::follow_theme() {
  QPalette p = palette();
  p.setColor(QPalette::Window, theme_of(this).strip);
  viewport()->setPalette(p);
  viewport()->setAutoFillBackground(true);
  widget()->setPalette(p);
  widget()->setAutoFillBackground(true);
}

void WhatIfPanel::changeEvent(QEvent* event) {
  QScrollArea::changeEvent(event);
  if (event->type() == QEvent::PaletteChange && widget() != nullptr) follow_theme();
}

}  // namespace heron
