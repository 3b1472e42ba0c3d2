#include "app/purity/filter_card.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/purity/purity_model.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "app/widget/push_button.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kPlotTop = 54.0;
constexpr double kPlotHeight = 84.0;
constexpr double kDeepestDb = -90.0;

}  // namespace

FilterCard::FilterCard(QWidget* parent)
    : Card(parent), other_(new PushButton(tr("Next"), ButtonRank::link, this)) {
  setFixedHeight(226);
  hide();
  connect(other_, &QAbstractButton::clicked, this,
          [this] { show_order((shown_ + 1) % static_cast<int>(advice_.size())); });
}

void FilterCard::set_analysis(const std::optional<PurityAnalysis>& analysis,
                              const std::vector<FilterAdvice>& advice) {
  analysis_ = analysis;
  advice_ = advice;
  shown_ = -1;
  setVisible(analysis.has_value() && !advice.empty());
  if (!isVisibleTo(parentWidget())) {
    text_.clear();
    return;
  }
  const FilterAdvice* best = lowest_enough(advice_);
  // None that does it: the strongest, and its words say so.
  show_order(best != nullptr ? static_cast<int>(best - advice_.data())
                             : static_cast<int>(advice_.size()) - 1);
}

void FilterCard::show_order(int index) {
  shown_ = index;
  const FilterAdvice& f = advice_[static_cast<std::size_t>(index)];
  text_ = tr("Order %1, %2 dB ripple, cut-off %3: %4 from %5 to %6 dBc, costs %7 dB of carrier. %8")
              .arg(f.order)
              .arg(kFilterRippleDb)
              .arg(qt_text(frequency_text(std::round(f.cutoff_hz / 1e5) * 1e5)),
                   qt_text(engineering_text(f.worst_hz, "Hz", 4)),
                   qt_text(number_text(f.worst_before_dbc, 1)),
                   qt_text(number_text(f.worst_after_dbc, 1)),
                   qt_text(number_text(f.pass_band_loss_db, 1)),
                   f.is_enough ? tr("All lines then pass.") : tr("Not enough."));
  setAccessibleName(text_);
  update();
}

void FilterCard::resizeEvent(QResizeEvent* event) {
  Card::resizeEvent(event);
  other_->adjustSize();
  other_->move(width() - other_->sizeHint().width() - 14, 8);
}

void FilterCard::paint_response(QPainter& p, const QRectF& area, const FilterAdvice& f) const {
  const Theme& t = theme_of(this);
  const double carrier = analysis_->carrier_hz;
  const double from = carrier * 0.5;
  double to = carrier * 4.0;
  for (const PurityLine& l : analysis_->lines)
    to = std::max(to, std::min(l.frequency_hz * 1.1, carrier * 12));
  const auto x = [&](double hz) {
    return area.left() + std::log(hz / from) / std::log(to / from) * area.width();
  };
  const auto y = [&](double db) {
    return area.top() + std::clamp(db / kDeepestDb, 0.0, 1.0) * area.height();
  };
  p.setFont(type_font(Type::tick));
  for (const double db : {0.0, -30.0, -60.0, -90.0}) {
    p.fillRect(QRectF(area.left(), std::round(y(db)), area.width(), 1), t.hair);
    p.setPen(t.mute);
    p.drawText(QRectF(area.left() - 34, y(db) - 8, 28, 16), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(db, 0)));
  }
  p.save();
  p.setClipRect(area.adjusted(0, -6, 0, 0));
  for (const MaskStep& s : mask_steps(analysis_->mask, {carrier, analysis_->carrier_dbm}, from, to))
    p.fillRect(QRectF(x(s.from_hz), y(s.limit_dbc) - 0.75, x(s.to_hz) - x(s.from_hz), 1.5), t.ink);
  QPainterPath response;
  for (int i = 0; i <= 120; ++i) {
    const double hz = from * std::pow(to / from, i / 120.0);
    const QPointF at(x(hz), y(-chebyshev_loss_db(f.order, kFilterRippleDb, hz / f.cutoff_hz)));
    if (i == 0)
      response.moveTo(at);
    else
      response.lineTo(at);
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(trace_pen(t, 1));
  p.drawPath(response);
  p.restore();
  const QPointF before(x(f.worst_hz), y(f.worst_before_dbc));
  const QPointF after(x(f.worst_hz), y(f.worst_after_dbc));
  p.setPen(QPen(t.slate, 1.2));
  p.drawLine(before + QPointF(0, 5), after - QPointF(0, 6));
  p.setBrush(t.sheet);
  p.drawEllipse(before, 4, 4);
  draw_verdict(p, after, 9, f.is_enough ? Verdict::pass : Verdict::fail, t);
  p.setFont(type_font(Type::tick));
  p.setPen(t.mute);
  double words_end = area.left() - 20;
  for (const double n : {1.0, 2.0, 3.0, 5.0, 8.0}) {
    if (n * carrier > to) break;
    const QString words = QString::number(n * carrier / 1e6, 'g', 3);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
    const double left = std::clamp(x(n * carrier) - w / 2, area.left(), area.right() - w - 28);
    if (left < words_end + 6) continue;
    p.drawText(QRectF(left, area.bottom() + 2, w + 2, 14), Qt::AlignCenter, words);
    words_end = left + w;
  }
  p.setPen(t.slate);
  p.drawText(QRectF(area.right() - 26, area.bottom() + 2, 26, 14),
             Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("MHz"));
}

void FilterCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  if (shown_ < 0 || !analysis_) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const FilterAdvice& f = advice_[static_cast<std::size_t>(shown_)];
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  draw_elided(p, QRectF(16, 10, other_->x() - 20, 20), Qt::AlignVCenter,
              f.is_enough ? tr("Filter that would comply") : tr("No filter complies"));
  p.setFont(type_font(Type::control));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 30, width() - 32, 18), Qt::AlignVCenter,
              tr("Ideal low-pass, order %1, cut-off %2")
                  .arg(f.order)
                  .arg(qt_text(frequency_text(std::round(f.cutoff_hz / 1e5) * 1e5))));
  paint_response(p, QRectF(48, kPlotTop, width() - 64, kPlotHeight), f);
  double y = kPlotTop + kPlotHeight + 34;
  const PurityLine* worst = nullptr;
  for (const PurityLine& l : analysis_->lines) {
    if (l.frequency_hz == f.worst_hz) worst = &l;
  }
  p.setFont(type_font(Type::control));
  p.setPen(t.ink);
  p.drawText(QPointF(16, y), worst != nullptr ? line_name(*worst) : tr("Worst line"));
  const QString change = tr("%1 → %2 dBc")
                             .arg(qt_text(number_text(f.worst_before_dbc, 1)),
                                  qt_text(number_text(f.worst_after_dbc, 1)));
  const double w = figure_text_width(change, Type::figure_chosen, Type::control_chosen);
  draw_figure_text(p, {width() - 16 - w, y}, change, Type::figure_chosen, Type::control_chosen,
                   t.ink);
  MarginMark mark;
  mark.margin = f.margin_db;
  mark.verdict = f.is_enough         ? Verdict::pass
                 : f.margin_db < 0.0 ? Verdict::fail
                                     : Verdict::too_close;
  if (worst != nullptr && worst->judgement) {
    mark.before = worst->judgement->margin;
    mark.expanded = worst->judgement->expanded;
  }
  draw_margin_line(p, QRectF(16, y + 6, width() - 32, 16), MarginSize::cell, mark, 20.0, t);
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, y + 24, width() - 32, 16), Qt::AlignVCenter,
              f.is_enough ? tr("Costs %1 dB of carrier; all lines then pass")
                                .arg(qt_text(number_text(f.pass_band_loss_db, 1)))
                          : tr("Lines below the cut-off stay as they are"));
}

}  // namespace heron
