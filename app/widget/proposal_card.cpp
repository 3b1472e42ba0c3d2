#include "app/widget/proposal_card.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "app/widget/push_button.h"
#include "core/method/plot_scale.h"

namespace heron {
namespace {

constexpr double kPlotTop = 54.0;
constexpr double kPlotHeight = 84.0;
constexpr double kMarginSpan = 20.0;

/// Where a value stands in the small plot.
struct SmallScale {
  PlotScale x;
  PlotScale y;
  QRectF area;
  QPointF at(const PlotPoint& p) const { return {x_px(p.x), y_px(p.y)}; }
  double x_px(double value) const { return area.left() + x.share(value) * area.width(); }
  double y_px(double value) const { return area.bottom() - y.share(value) * area.height(); }
};

}  // namespace

ProposalCardView::ProposalCardView(QWidget* parent)
    : Card(parent), next_(new PushButton(tr("Next"), ButtonRank::link, this)) {
  setFixedHeight(226);
  hide();
  connect(next_, &QAbstractButton::clicked, this,
          [this] { show_choice((card_.shown + 1) % card_.choices.size()); });
}

const Proposal* ProposalCardView::proposal() const {
  return card_.shown < card_.choices.size() ? &card_.choices[card_.shown] : nullptr;
}

void ProposalCardView::set_card(const ProposalCard* card) {
  const ProposalCard before = std::exchange(card_, card != nullptr ? *card : ProposalCard{});
  // Who looks through them is not taken back to the first while they stay the same.
  const bool are_same = std::equal(
      card_.choices.begin(), card_.choices.end(), before.choices.begin(), before.choices.end(),
      [](const Proposal& a, const Proposal& b) { return a.words == b.words; });
  if (are_same) card_.shown = before.shown;
  setVisible(!card_.choices.empty());
  next_->setVisible(card_.choices.size() > 1);
  if (!card_.choices.empty()) show_choice(std::min(card_.shown, card_.choices.size() - 1));
}

void ProposalCardView::show_choice(std::size_t index) {
  card_.shown = index;
  setAccessibleName(qt_text(proposal()->words));
  update();
}

void ProposalCardView::resizeEvent(QResizeEvent* event) {
  Card::resizeEvent(event);
  next_->adjustSize();
  next_->move(width() - next_->sizeHint().width() - 14, 8);
}

void ProposalCardView::paint_axes(QPainter& p, const QRectF& area, const Plot& plot) const {
  const Theme& t = theme_of(this);
  const SmallScale scale{x_scale(plot), y_scale(plot.panels.front()), area};
  p.setFont(type_font(Type::tick));
  for (const double tick : scale.y.ticks(5)) {
    const double y = std::round(scale.y_px(tick));
    p.fillRect(QRectF(area.left(), y, area.width(), 1), t.hair);
    p.setPen(t.mute);
    p.drawText(QRectF(area.left() - 34, y - 8, 28, 16), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(scale.y.label(tick)));
  }
  const QString unit = qt_text(scale.x.unit(plot.x.unit));
  const double unit_left = area.right() - QFontMetricsF(p.font()).horizontalAdvance(unit);
  double words_end = area.left() - 20;
  for (const double tick : scale.x.ticks(6)) {
    const QString words = qt_text(scale.x.label(tick));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
    const double left = std::max(scale.x_px(tick) - w / 2, area.left());
    if (left < words_end + 6 || left + w > unit_left - 6) continue;
    p.drawText(QRectF(left, area.bottom() + 2, w + 2, 14), Qt::AlignCenter, words);
    words_end = left + w;
  }
  p.setPen(t.slate);
  p.drawText(QRectF(unit_left - 2, area.bottom() + 2, area.right() - unit_left + 2, 14),
             Qt::AlignRight | Qt::AlignVCenter, unit);
}

void ProposalCardView::paint_plot(QPainter& p, const QRectF& area, const Plot& plot) const {
  const Theme& t = theme_of(this);
  const SmallScale scale{x_scale(plot), y_scale(plot.panels.front()), area};
  for (const PlotLayer& layer : plot.panels.front().layers) {
    if (layer.kind == PlotLayer::Kind::mask) {
      for (std::size_t i = 0; i + 1 < layer.points.size(); i += 2) {
        const QPointF from = scale.at(layer.points[i]);
        p.fillRect(
            QRectF(from.x(), from.y() - 0.75, scale.at(layer.points[i + 1]).x() - from.x(), 1.5),
            t.ink);
      }
    } else if (layer.kind == PlotLayer::Kind::guide) {
      QPolygonF line;
      for (const PlotPoint& point : layer.points) line << scale.at(point);
      p.setBrush(Qt::NoBrush);
      p.setPen(trace_pen(t, 1));
      p.drawPolyline(line);
    } else if (layer.kind == PlotLayer::Kind::stem) {
      for (const PlotPoint& point : layer.points) {
        const QPointF after = scale.at(point);
        const QPointF before(after.x(), scale.y_px(point.before.value_or(point.y)));
        p.setPen(QPen(t.slate, 1.2));
        p.drawLine(before + QPointF(0, 5), after - QPointF(0, 6));
        p.setBrush(t.sheet);
        p.drawEllipse(before, 4, 4);
        draw_verdict(p, after, 9, point.verdict, t);
      }
    }
  }
}

void ProposalCardView::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  const Proposal* shown = proposal();
  if (shown == nullptr) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  const double right = next_->isVisibleTo(this) ? next_->x() - 20 : width() - 32;
  draw_elided(p, QRectF(16, 10, right, 20), Qt::AlignVCenter, qt_text(shown->title));
  p.setFont(type_font(Type::control));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 30, width() - 32, 18), Qt::AlignVCenter, qt_text(shown->subtitle));
  const QRectF area(48, kPlotTop, width() - 64, kPlotHeight);
  paint_axes(p, area, shown->plot);
  p.save();
  p.setClipRect(area.adjusted(0, -6, 0, 6));
  paint_plot(p, area, shown->plot);
  p.restore();
  const double y = kPlotTop + kPlotHeight + 34;
  p.setFont(type_font(Type::control));
  p.setPen(t.ink);
  p.drawText(QPointF(16, y), qt_text(shown->place));
  const QString change = qt_text(shown->change);
  const double w = figure_text_width(change, Type::figure_chosen, Type::control_chosen);
  draw_figure_text(p, {width() - 16 - w, y}, change, Type::figure_chosen, Type::control_chosen,
                   t.ink);
  MarginMark mark;
  mark.margin = shown->after.margin;
  mark.verdict = shown->after.verdict;
  mark.expanded = shown->after.expanded;
  if (shown->before.verdict != Verdict::not_taken) mark.before = shown->before.margin;
  draw_margin_line(p, QRectF(16, y + 6, width() - 32, 16), MarginSize::cell, mark, kMarginSpan, t);
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, y + 24, width() - 32, 16), Qt::AlignVCenter, qt_text(shown->note));
}

}  // namespace heron
