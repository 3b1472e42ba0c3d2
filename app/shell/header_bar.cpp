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
    resize(152, 40);
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
    p.setPen(QPen(t.slate, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.drawPolyline(QPolygonF{{138, 18}, {142, 22}, {146, 18}});
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

/// What this bench is: a press opens it.
class BenchPill : public PaintedButton {
 public:
  explicit BenchPill(QWidget* parent) : PaintedButton(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setToolTip(tr("The bench: parts and instruments, Ctrl B"));
    show_bench(false, 0, false);
  }
  void show_bench(bool is_simulated, int count, bool is_short) {
    is_simulated_ = is_simulated;
    is_real_ = !is_simulated && count > 0;
    if (is_simulated)
      setText(is_short ? tr("Simulated") : tr("Simulated bench"));
    else if (is_real_)
      setText(is_short ? tr("Real · %1").arg(count) : tr("Real bench · %1").arg(count));
    else
      setText(is_short ? tr("Bench") : tr("Bench · recordings only"));
    setAccessibleName(is_simulated ? tr("Simulated bench")
                      : is_real_   ? tr("Real bench, %1 instruments connected").arg(count)
                                   : tr("Bench: recordings only, no instrument is connected"));
    resize(static_cast<int>(advance(Type::control_chosen, text())) + 38, 26);
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    p.setPen(underMouse() ? QPen(t.water) : QPen(Qt::NoPen));
    p.setBrush(t.waterTint);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 12.5, 12.5);
    p.setBrush(is_real_ ? QBrush(t.water) : QBrush(Qt::NoBrush));
    p.setPen(QPen(t.water, is_simulated_ ? 1.8 : 1.4, Qt::SolidLine, Qt::RoundCap));
    if (is_simulated_) {
      QPainterPath wave(QPointF(10.5, 14));
      wave.cubicTo(13, 7, 15, 10, 16, 13);
      wave.cubicTo(17, 16, 19, 19, 21.5, 12);
      p.drawPath(wave);
    } else {
      p.drawEllipse(QPointF(16, 13), 3.4, 3.4);
    }
    p.setFont(type_font(Type::control_chosen));
    p.drawText(QRectF(26, 0, width(), height()), Qt::AlignVCenter, text());
    if (shows_focus()) draw_focus_ring(p, rect(), 12, t);
  }

 private:
  bool is_simulated_ = false;
  bool is_real_ = false;
};

/// Looks like a field, opens the command box.
class FindButton : public PaintedButton {
 public:
  explicit FindButton(QWidget* parent) : PaintedButton(parent) {
    setAccessibleName(tr("Find or run, Ctrl K"));
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
    p.drawText(QRectF(29, 0, 100, 28), Qt::AlignVCenter, tr("Find or run\u2026"));
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
      bench_(nullptr),
      key_clock_(new KeyClock(this)),
      device_(new Chip({}, this)),
      menu_(new QMenu(this)) {
  setFixedHeight(48);
  bench_ = new BenchPill(this);
  find_ = new FindButton(this);
  QWidget::setTabOrder(bench_, key_clock_);
  QWidget::setTabOrder(key_clock_, find_);
  connect(bench_, &QAbstractButton::clicked, this, &HeaderBar::bench_asked);
  home_->move(8, 4);
  connect(home_, &QAbstractButton::clicked, this,
          [this] { menu_->exec(home_->mapToGlobal(QPoint(0, home_->height() + 2))); });
  connect(shack_, &QAbstractButton::clicked, this, &HeaderBar::shack_asked);
  connect(find_, &QAbstractButton::clicked, this, &HeaderBar::find_asked);
  device_->setToolTip(tr("Other devices and evaluations"));
  show_shack({});
}

void HeaderBar::set_bench(bool is_simulated, int count) {
  is_simulated_ = is_simulated;
  answering_ = count;
  lay_out();
}

void HeaderBar::show_bench(const QString& place) {
  show_shack(place);
  is_bench_ = true;
  shack_->setEnabled(true);
  lay_out();
}

void HeaderBar::show_shack(const QString& place) {
  is_shack_ = true;
  is_bench_ = false;
  place_ = place;
  device_->hide();
  shack_->setEnabled(false);
  lay_out();
}

void HeaderBar::show_evaluation(const QString& device, const QString& evaluation) {
  is_shack_ = is_bench_ = false;
  device_->set_value(device);
  device_->show();
  evaluation_ = evaluation;
  shack_->setEnabled(true);
  lay_out();
}

void HeaderBar::lay_out() {
  shack_->move(176, 11);
  static_cast<BenchPill*>(bench_)->show_bench(is_simulated_, answering_, width() < 1440);
  device_->resize(std::min(device_->sizeHint().width(), width() < 1200 ? 200 : 290), 26);
  device_->move(shack_->geometry().right() + 18, 11);
  find_->resize(width() < 1200 ? 150 : 224, 28);
  find_->move(width() - 16 - find_->width(), 10);
  key_clock_->resize(key_clock_->sizeHint());
  key_clock_->move(find_->x() - 10 - key_clock_->width(), 11);
  bench_->move(key_clock_->x() - 10 - bench_->width(), 11);
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
  p.fillRect(QRectF(167, 12, 1, 24), t.hairStrong);
  p.setFont(type_font(Type::question));
  p.setPen(t.hairStrong);
  const double crumbs_end = bench_->x() - 12;
  if (is_shack_) {
    p.setFont(type_font(Type::question));
    p.setPen(t.slate);
    draw_elided(
        p,
        QRectF(shack_->geometry().right() + 8, 0, crumbs_end - shack_->geometry().right() - 8, 47),
        Qt::AlignVCenter, is_bench_ ? tr("/  Bench  %1").arg(place_) : place_);
  } else {
    p.drawText(QRectF(shack_->geometry().right() + 6, 0, 10, 47), Qt::AlignVCenter, "/");
    p.drawText(QRectF(device_->geometry().right() + 10, 0, 10, 47), Qt::AlignVCenter, "/");
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    const double from = device_->geometry().right() + 24;
    draw_elided(p, QRectF(from, 0, crumbs_end - from, 47), Qt::AlignVCenter, evaluation_);
  }
}

}  // namespace heron
