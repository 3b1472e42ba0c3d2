#include "app/sheet/uncertainty_card.h"

#include <QPainter>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kBudgetWidth = 448;
constexpr int kBudgetRow = 33;
constexpr double kBarLeft = 176;
constexpr double kBarWidth = 160;
constexpr double kFirstRow = FloatingCard::kHead + 52;

QString scope_words(Scope scope) {
  return scope == Scope::common ? QObject::tr("common to all steps")
                                : QObject::tr("independent each time");
}

/// The next round value above.
double round_above(double value) {
  const double decade = std::pow(10.0, std::floor(std::log10(std::max(value, 1e-9))));
  for (const double step : {1.0, 2.0, 2.5, 4.0, 5.0, 8.0, 10.0}) {
    if (value <= step * decade * 0.999) return step * decade;
  }
  return 10.0 * decade;
}

}  // namespace

UncertaintyCard::UncertaintyCard(const Figure& figure, const QString& where,
                                 std::optional<double> margin, QWidget* window)
    : FloatingCard(tr("Uncertainty budget"), window),
      figure_(figure),
      where_(where),
      margin_(margin),
      budget_(budget_of(figure)) {
  const double size = margin_ ? std::abs(*margin_) : 0.0;
  reach_ =
      round_above(std::max(budget_.expanded, size < 2.0 * budget_.expanded ? size : 0.0) * 1.02);
  const auto rows = static_cast<int>(budget_.rows.size());
  setFixedSize(kBudgetWidth, static_cast<int>(kFirstRow) + rows * kBudgetRow + 190);
  setAccessibleDescription(text());
}

QString UncertaintyCard::text() const {
  QStringList lines;
  for (const BudgetRow& r : budget_.rows) {
    lines << tr("%1: ± %2 %3, %4 % of the square, %5")
                 .arg(qt_text(r.name), qt_text(number_text(r.expanded, 2)),
                      qt_text(difference_unit(figure_.unit)))
                 .arg(r.share * 100.0, 0, 'f', 0)
                 .arg(scope_words(r.scope));
  }
  lines << tr("Together: ± %1 %2, 95 % interval, k = 2")
               .arg(qt_text(number_text(budget_.expanded, 2)),
                    qt_text(difference_unit(figure_.unit)));
  lines << qt_text(help_sentence(budget_, difference_unit(figure_.unit), margin_));
  return lines.join('\n');
}

double UncertaintyCard::x_of(double value) const {
  return kBarLeft + value / reach_ * kBarWidth;
}

void UncertaintyCard::paint_axis(QPainter& p, double y) const {
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QPointF(20, y), tr("Contribution"));
  for (int i = 0; i <= 4; ++i) {
    const double value = reach_ * i / 4.0;
    p.fillRect(QRectF(std::round(x_of(value)), y + 8, 1,
                      kBudgetRow * static_cast<double>(budget_.rows.size()) + 40),
               t.hair);
    if (i % 2 == 1) continue;
    p.setFont(type_font(Type::tick));
    p.setPen(t.mute);
    p.drawText(QRectF(x_of(value) - 30, y - 12, 60, 16), Qt::AlignCenter,
               qt_text(number_text(value, reach_ < 0.5 ? 2
                                          : reach_ < 5 ? 1
                                                       : 0)));
  }
  p.setFont(type_font(Type::label));
  p.drawText(QRectF(350, y - 12, kBudgetWidth - 370, 16), Qt::AlignRight | Qt::AlignVCenter,
             tr("± %1 · share").arg(qt_text(difference_unit(figure_.unit))));
}

double UncertaintyCard::paint_rows(QPainter& p, double y) const {
  const Theme& t = theme_of(this);
  for (const BudgetRow& r : budget_.rows) {
    p.setFont(type_font(Type::name));
    p.setPen(t.ink);
    draw_elided(p, QRectF(20, y - 2, kBarLeft - 30, 17), Qt::AlignVCenter, qt_text(r.name));
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(20, y + 13, kBarLeft - 30, 15), Qt::AlignVCenter, scope_words(r.scope));
    const QRectF bar(kBarLeft, y + 5, std::max(2.0, x_of(r.expanded) - kBarLeft), 12);
    if (r.scope == Scope::common) {
      p.fillRect(bar, t.water);
    } else {
      p.setPen(t.water);
      p.setBrush(QBrush(t.water, Qt::BDiagPattern));
      p.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
    }
    p.setFont(type_font(Type::figure));
    p.setPen(t.ink);
    p.drawText(QRectF(340, y, 38, 22), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(r.expanded, 2)));
    p.setPen(t.mute);
    p.drawText(QRectF(386, y, kBudgetWidth - 406, 22), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(r.share * 100.0, 'f', 0) + " %");
    y += kBudgetRow;
  }
  return y;
}

void UncertaintyCard::paintEvent(QPaintEvent* event) {
  FloatingCard::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setFont(type_font(Type::body));
  p.setPen(t.slate);
  draw_elided(p, QRectF(20, kHead - 8, kBudgetWidth - 40, 18), Qt::AlignVCenter, where_);
  paint_axis(p, kFirstRow - 14);
  double y = paint_rows(p, kFirstRow);
  p.fillRect(QRectF(20, y, kBudgetWidth - 40, 1), t.hairStrong);
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  p.drawText(QPointF(20, y + 18), tr("Together, U"));
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QPointF(20, y + 33), tr("k = 2, 95 %"));
  p.fillRect(QRectF(kBarLeft, y + 9, x_of(budget_.expanded) - kBarLeft, 14), t.ink);
  p.setFont(type_font(Type::figure_chosen));
  p.setPen(t.ink);
  p.drawText(QRectF(340, y + 5, 38, 22), Qt::AlignRight | Qt::AlignVCenter,
             qt_text(number_text(budget_.expanded, 2)));
  p.setFont(type_font(Type::figure));
  p.setPen(t.mute);
  p.drawText(QRectF(386, y + 5, kBudgetWidth - 406, 22), Qt::AlignRight | Qt::AlignVCenter,
             "100 %");
  if (margin_) {
    // The margin through all bars: while the ink bar crosses it, the verdict is too close.
    const double size = std::abs(*margin_);
    const QColor colour = size <= budget_.expanded ? t.marg : *margin_ > 0 ? t.pass : t.fail;
    const QString words =
        tr("margin %1 %2")
            .arg(qt_text(number_text(*margin_, 1, true)), qt_text(difference_unit(figure_.unit)));
    p.setFont(type_font(Type::label));
    p.setPen(colour);
    const double at = std::min(x_of(size), kBarLeft + kBarWidth);
    if (size <= reach_) {
      p.fillRect(QRectF(at - 1, kFirstRow - 2, 2, y + 38 - kFirstRow), colour);
      p.drawText(QRectF(at - 70, y + 37, 140, 16), Qt::AlignCenter, words);
    } else {
      p.setBrush(colour);
      p.setPen(Qt::NoPen);
      p.drawPolygon(QPolygonF({{at + 2, y + 39}, {at + 9, y + 44}, {at + 2, y + 49}}));
      p.setPen(colour);
      p.drawText(QRectF(at - 146, y + 36, 140, 16), Qt::AlignRight | Qt::AlignVCenter, words);
    }
  }
  y += 58;
  p.setFont(type_font(Type::body));
  p.setPen(t.slate);
  p.drawText(QRectF(20, y, kBudgetWidth - 40, 18), Qt::AlignVCenter,
             budget_.step_to_step > 0.0
                 ? tr("Step against step, only the hatched part counts: ± %1 %2")
                       .arg(qt_text(number_text(budget_.step_to_step, 2)),
                            qt_text(difference_unit(figure_.unit)))
                 : tr("Step against step, all of it cancels on one hook-up."));
  p.fillRect(QRectF(1, y + 26, kBudgetWidth - 2, 1), t.hair);
  p.setPen(Qt::NoPen);
  p.setBrush(t.bill);
  const QPointF c(26, y + 45);
  p.drawPolygon(QPolygonF({c + QPointF(-5, -4.5), c + QPointF(5.5, 0), c + QPointF(-5, 4.5)}));
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  p.drawText(QRectF(40, y + 36, kBudgetWidth - 60, 18), Qt::AlignVCenter,
             tr("Largest improvement"));
  p.setFont(type_font(Type::body));
  p.drawText(QRectF(40, y + 56, kBudgetWidth - 60, 40), Qt::TextWordWrap,
             qt_text(help_sentence(budget_, difference_unit(figure_.unit), margin_)));
}

}  // namespace heron
