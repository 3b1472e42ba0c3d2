#include "app/sheet/hookup_strip.h"

#include <QFontMetricsF>
#include <QPainter>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kRatingAt = 0.72;

}  // namespace

HookupStrip::HookupStrip(QWidget* parent) : PaintedButton(parent) {
  setFixedHeight(72);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
}

void HookupStrip::set_step(const QString& device, const TwoToneTest* test, int step) {
  device_ = {device, {}, {}};
  path_ = {tr("Path"),
           test == nullptr || test->test.hookup.empty() ? tr("not described")
                                                        : qt_text(test->test.hookup),
           {}};
  recorder_ = {tr("Recorder"), tr("no recording"), {}};
  output_.clear();
  output_u_.clear();
  fill_ = -1.0;
  is_clipped_ = false;
  if (test != nullptr && step >= 0 && step < static_cast<int>(test->steps.size())) {
    const auto i = static_cast<std::size_t>(step);
    const auto& a = test->analyses[i];
    device_.line = qt_text(test->test.conditions);
    if (const auto output = step_output(test->steps[i], a)) {
      output_ = qt_text(number_text(output->value, 1, true)) + " dBm";
      if (output->expanded() > 0.0)
        output_u_ = QString::fromUtf8("± ") + qt_text(number_text(output->expanded(), 1)) + " dB";
      device_.small =
          tr("%1 PEP, typed")
              .arg(qt_text(engineering_text(to_watt(Dbm{output->value}).value, "W", 3)));
    }
    if (a) {
      const double headroom = -a->peak_dbfs;
      recorder_.line = a->clipped_samples > 0
                           ? tr("clipped: %1 samples at full scale").arg(a->clipped_samples)
                           : tr("%1 dB under full scale").arg(qt_text(number_text(headroom, 1)));
      fill_ = std::clamp(kRatingAt * (1.0 - headroom / 60.0), 0.0, 1.0);
      is_clipped_ = a->clipped_samples > 0;
      if (a->tones.size() == 2 && device_.small.isEmpty()) device_.small = tr("output not typed");
    }
  }
  setAccessibleName(
      tr("Hook-up: %1, %2, %3, %4").arg(device_.name, output_, path_.line, recorder_.line));
  setToolTip(
      QStringLiteral("%1: %2\n%3: %4\n%5: %6")
          .arg(device_.name, device_.line, path_.name, path_.line, recorder_.name, recorder_.line));
  update();
}

void HookupStrip::paint_node(QPainter& p, const QRectF& box, const Node& node) const {
  const Theme& t = theme_of(this);
  const bool is_recorder = &node == &recorder_;
  p.setPen(is_recorder && is_clipped_ ? t.fail : t.hairStrong);
  p.setBrush(t.sheet);
  p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  const QRectF inner = box.adjusted(10, 4, -10, -4);
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  draw_elided(p, QRectF(inner.left(), inner.top(), inner.width(), 17), Qt::AlignVCenter, node.name);
  p.setFont(type_font(Type::label));
  p.setPen(is_recorder && is_clipped_ ? t.fail : t.slate);
  draw_elided(p, QRectF(inner.left(), inner.top() + 17, inner.width(), 15), Qt::AlignVCenter,
              node.line);
  p.setPen(t.mute);
  draw_elided(p, QRectF(inner.left(), inner.top() + 32, inner.width(), 15), Qt::AlignVCenter,
              node.small);
  if (is_recorder && fill_ >= 0.0) {
    const double y = inner.bottom() - 8;
    p.setPen(Qt::NoPen);
    p.setBrush(t.sunk);
    p.drawRoundedRect(QRectF(inner.left(), y, inner.width(), 3), 1.5, 1.5);
    p.setBrush(is_clipped_ ? t.fail : t.water);
    p.drawRoundedRect(QRectF(inner.left(), y, inner.width() * fill_, 3), 1.5, 1.5);
    p.fillRect(QRectF(inner.left() + inner.width() * kRatingAt, y - 4, 2, 10), t.ink);
  }
}

void HookupStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(QRectF(1, 0, width() - 2, height()), t.strip);
  p.fillRect(QRectF(1, 0, width() - 2, 1), t.hair);
  p.fillRect(QRectF(1, height() - 1, width() - 2, 1), t.hair);
  const double gap = 92;
  const double node = std::min(240.0, (width() - 40.0 - 2.0 * gap) / 3.0);
  const double between = (width() - 40.0 - 3.0 * node) / 2.0;
  const Node* nodes[] = {&device_, &path_, &recorder_};
  for (int i = 0; i < 3; ++i) {
    const double x = 20 + i * (node + between);
    paint_node(p, QRectF(x, 8, node, 56), *nodes[i]);
    if (i == 2) break;
    const double from = x + node + 2;
    const double to = x + node + between - 2;
    p.setPen(QPen(t.slate, 1.5));
    p.drawLine(QPointF(from, 36), QPointF(to - 5, 36));
    p.setBrush(t.slate);
    p.setPen(Qt::NoPen);
    p.drawPolygon(QPolygonF({{to, 36}, {to - 7, 33}, {to - 7, 39}}));
    if (i > 0 || output_.isEmpty()) continue;
    const double w = figure_text_width(output_, Type::figure_chosen, Type::control_chosen);
    draw_figure_text(p, {(from + to) / 2 - w / 2, 29}, output_, Type::figure_chosen,
                     Type::control_chosen, t.ink);
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    p.drawText(QRectF(from, 40, to - from, 16), Qt::AlignCenter, output_u_);
  }
  if (shows_focus()) draw_focus_ring(p, QRectF(rect()).adjusted(2, 2, -2, -2), 6, t);
}

}  // namespace heron
