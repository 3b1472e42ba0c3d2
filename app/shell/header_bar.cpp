#include "app/shell/header_bar.h"

#include <QFontMetricsF>
#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/paint/heron_glyph.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {
namespace {

double advance(Type type, const QString& text) {
  return QFontMetricsF(type_font(type)).horizontalAdvance(text);
}

/// The heron and the name: opens the program's menu.
class HomeButton : public PaintedButton {
 public:
  explicit HomeButton(QWidget* parent) : PaintedButton(parent) {
    setAccessibleName(tr("Even Heron, menu"));
    setToolTip(tr("Menu"));
    setFocusPolicy(Qt::StrongFocus);
    resize(136, 40);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    if (underMouse()) {
      p.setPen(Qt::NoPen);
      p.setBrush(t.hoverPaper);
      p.drawRoundedRect(rect(), 6, 6);
    }
    draw_heron(p, {6, 4, 32, 32}, t);
    p.setFont(type_font(Type::wordmark));
    p.setPen(t.ink);
    p.drawText(QRectF(44, 0, 100, 40), Qt::AlignVCenter, "Even Heron");
    if (shows_focus()) draw_focus_ring(p, rect(), 6, t);
  }
};

class CrumbLink : public PaintedButton {
 public:
  CrumbLink(const QString& text, QWidget* parent) : PaintedButton(parent) {
    setText(text);
    setAccessibleName(text);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    resize(static_cast<int>(advance(Type::button, text)) + 12, 26);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    const Theme& t = theme_of(this);
    p.setFont(type_font(Type::button));
    p.setPen(isEnabled() ? t.water : t.ink);
    p.drawText(rect(), Qt::AlignCenter, text());
    if (shows_focus()) draw_focus_ring(p, rect(), 4, t);
  }
};

/// Looks like a field, opens the command box.
class FindButton : public PaintedButton {
 public:
  explicit FindButton(QWidget* parent) : PaintedButton(parent) {
    setAccessibleName(tr("Find or do, Ctrl K"));
    setFocusPolicy(Qt::StrongFocus);
    resize(224, 28);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    p.setPen(underMouse() ? t.water : t.hairStrong);
    p.setBrush(t.sheet);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    p.setPen(QPen(t.mute, 1.5, Qt::SolidLine, Qt::RoundCap));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(QPointF(15, 13), 4.2, 4.2);
    p.drawLine(QPointF(18.3, 16.3), QPointF(21, 19));
    p.setFont(type_font(Type::body));
    p.drawText(QRectF(29, 0, 100, 28), Qt::AlignVCenter, tr("Find or do\u2026"));
    const QRectF key(width() - 48, 6, 42, 17);
    p.setPen(Qt::NoPen);
    p.setBrush(t.sunk);
    p.drawRoundedRect(key, 4, 4);
    p.setPen(t.slate);
    p.setFont(type_font(Type::label));
    p.drawText(key, Qt::AlignCenter, "Ctrl K");
    if (shows_focus()) draw_focus_ring(p, rect(), 6, t);
  }
};

}  // namespace

HeaderBar::HeaderBar(QWidget* parent)
    : QWidget(parent),
      home_(new HomeButton(this)),
      shack_(new CrumbLink(tr("Shack"), this)),
      find_(nullptr),
      device_(new Chip({}, this)),
      menu_(new QMenu(this)) {
  setFixedHeight(48);
  find_ = new FindButton(this);
  home_->move(8, 4);
  connect(home_, &QAbstractButton::clicked, this,
          [this] { menu_->exec(home_->mapToGlobal(QPoint(0, home_->height() + 2))); });
  connect(shack_, &QAbstractButton::clicked, this, &HeaderBar::shack_asked);
  connect(find_, &QAbstractButton::clicked, this, &HeaderBar::find_asked);
  device_->setToolTip(tr("Other devices and evaluations"));
  show_shack({});
}

void HeaderBar::show_shack(const QString& place) {
  is_shack_ = true;
  place_ = place;
  device_->hide();
  shack_->setEnabled(false);
  lay_out();
}

void HeaderBar::show_evaluation(const QString& device, const QString& evaluation) {
  is_shack_ = false;
  device_->set_value(device);
  device_->show();
  evaluation_ = evaluation;
  shack_->setEnabled(true);
  lay_out();
}

void HeaderBar::lay_out() {
  shack_->move(158, 11);
  device_->resize(std::min(device_->sizeHint().width(), width() < 1200 ? 230 : 320), 26);
  device_->move(shack_->geometry().right() + 18, 11);
  find_->move(width() - 16 - find_->width(), 10);
  update();
}

void HeaderBar::resizeEvent(QResizeEvent*) {
  lay_out();
}

void HeaderBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(rect(), t.paper);
  p.fillRect(QRectF(0, 47, width(), 1), t.hair);
  p.fillRect(QRectF(150, 12, 1, 24), t.hairStrong);
  p.setFont(type_font(Type::question));
  p.setPen(t.hairStrong);
  // What this bench is and what it may key: no instrument is connected, so nothing can transmit.
  const QString rf = tr("RF not controlled");
  const double rf_width = advance(Type::control, rf) + 38;
  const QRectF rf_box(find_->x() - 12 - rf_width, 11, rf_width, 26);
  const QString bench = tr("Recordings only");
  const double bench_width = advance(Type::control_chosen, bench) + 38;
  const QRectF bench_box(rf_box.left() - 10 - bench_width, 11, bench_width, 26);
  const double crumbs_end = bench_box.left() - 12;
  if (is_shack_) {
    p.setFont(type_font(Type::question));
    p.setPen(t.slate);
    draw_elided(
        p,
        QRectF(shack_->geometry().right() + 8, 0, crumbs_end - shack_->geometry().right() - 8, 47),
        Qt::AlignVCenter, place_);
  } else {
    p.drawText(QRectF(shack_->geometry().right() + 6, 0, 10, 47), Qt::AlignVCenter, "/");
    p.drawText(QRectF(device_->geometry().right() + 10, 0, 10, 47), Qt::AlignVCenter, "/");
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    const double from = device_->geometry().right() + 24;
    draw_elided(p, QRectF(from, 0, crumbs_end - from, 47), Qt::AlignVCenter, evaluation_);
  }
  p.setPen(Qt::NoPen);
  p.setBrush(t.waterTint);
  p.drawRoundedRect(bench_box, 13, 13);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.water, 1.4));
  p.drawEllipse(QPointF(bench_box.left() + 16, 24), 3.4, 3.4);
  p.setFont(type_font(Type::control_chosen));
  p.setPen(t.water);
  p.drawText(bench_box.adjusted(26, 0, 0, 0), Qt::AlignVCenter, bench);
  p.setPen(t.hair);
  p.setBrush(t.sheet);
  p.drawRoundedRect(rf_box.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  p.setPen(QPen(t.mute, 1.4));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(QRectF(rf_box.left() + 11, 20, 8, 8), 2, 2);
  p.setFont(type_font(Type::control));
  p.setPen(t.mute);
  p.drawText(rf_box.adjusted(27, 0, 0, 0), Qt::AlignVCenter, rf);
}

}  // namespace heron
