#include "app/sheet/pair_card.h"

#include <QPainter>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/quantity/format.h"

namespace heron {

PairCard::PairCard(QWidget* parent) : Card(parent) {
  setFixedHeight(112);
  hide();
}

void PairCard::set_test(const TwoToneTest* test, std::optional<double> exciter_dbm) {
  const DrivenPoint* at = nullptr;
  if (test != nullptr && exciter_dbm) {
    for (const DrivenPoint& p : test->driven.points) {
      if (at == nullptr ||
          std::abs(p.exciter_dbm - *exciter_dbm) < std::abs(at->exciter_dbm - *exciter_dbm))
        at = &p;
    }
    if (at != nullptr && std::abs(at->exciter_dbm - *exciter_dbm) > 0.3) at = nullptr;
  }
  setVisible(at != nullptr);
  if (at == nullptr) {
    text_.clear();
    return;
  }
  name_ = tr("With %1 behind").arg(qt_text(test->amplifier_name));
  const QString top = qt_text(number_text(at->in_phase_db, 1));
  const QString out = qt_text(watts_text(at->amplifier_dbm));
  if (at->power_sum_db) {
    value_ = tr("%1 to %2 dB").arg(qt_text(number_text(*at->power_sum_db, 1)), top);
    caption_ = tr("%1 out, from power sum to in phase").arg(out);
  } else {
    value_ = tr("< %1 dB").arg(top);
    caption_ = tr("%1 out, even in phase").arg(out);
  }
  has_limit_ = test->test.limit.has_value();
  if (has_limit_) {
    // Passes only if its upper edge does; fails only if there is a lower one and it does not.
    const double half = (at->in_phase_db - at->power_sum_db.value_or(at->in_phase_db)) / 2.0;
    mark_.margin = test->test.limit->value - (at->in_phase_db - half);
    mark_.expanded = half + 2.0 * at->u_db;
    mark_.verdict = mark_.margin > mark_.expanded                        ? Verdict::pass
                    : at->power_sum_db && mark_.margin < -mark_.expanded ? Verdict::fail
                                                                         : Verdict::too_close;
  }
  text_ = name_ + ": " + value_ + ", " + caption_ +
          (has_limit_ ? ", " + qt_text(verdict_word(mark_.verdict)) : QString());
  setAccessibleName(text_);
  update();
}

void PairCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  double right = width() - 16;
  if (has_limit_) {
    const QString word = qt_text(verdict_word(mark_.verdict));
    p.setFont(type_font(Type::control_chosen));
    p.setPen(verdict_colour(t, mark_.verdict));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(word);
    p.drawText(QRectF(right - w, 10, w, 18), Qt::AlignVCenter, word);
    draw_verdict(p, {right - w - 11, 19}, 9, mark_.verdict, t);
    right -= w + 22;
  }
  p.setFont(type_font(Type::control));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 10, right - 16, 18), Qt::AlignVCenter, name_);
  draw_figure_text(p, {16, 54}, value_, Type::readout_small, Type::body, t.ink);
  if (has_limit_)
    draw_margin_line(p, QRectF(16, 62, width() - 32, 16), MarginSize::cell, mark_, 20.0, t);
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 86, width() - 32, 16), Qt::AlignVCenter, caption_);
}

}  // namespace heron
