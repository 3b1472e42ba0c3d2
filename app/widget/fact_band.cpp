#include "app/widget/fact_band.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

FactBand::FactBand(QWidget* parent) : QWidget(parent) {
  setFixedHeight(64);
}

void FactBand::set_facts(const std::vector<Fact>& facts) {
  facts_ = facts;
  QStringList words;
  for (const Fact& f : facts) words << f.label + " " + f.value + " " + f.note;
  setAccessibleName(words.join(", "));
  update();
}

void FactBand::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme_of(this);
  p.fillRect(QRectF(1, 0, width() - 2, height()), t.strip);
  p.fillRect(QRectF(1, 0, width() - 2, 1), t.hair);
  p.fillRect(QRectF(1, height() - 1, width() - 2, 1), t.hair);
  if (facts_.empty()) return;
  const double w = (width() - 24.0) / static_cast<double>(facts_.size());
  for (std::size_t i = 0; i < facts_.size(); ++i) {
    const Fact& f = facts_[i];
    const double x = 20 + w * static_cast<double>(i);
    if (i > 0) p.fillRect(QRectF(x - 12, 12, 1, 40), t.hair);
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    draw_elided(p, QRectF(x, 8, w - 16, 15), Qt::AlignVCenter, f.label);
    QFont strong = type_font(Type::heading);
    draw_figure_text(p, {x, 38},
                     elided_figure_text(f.value, Type::figure_chosen, Type::heading, w - 16),
                     Type::figure_chosen, Type::heading, t.ink);
    p.setFont(type_font(Type::label));
    p.setPen(t.slate);
    draw_elided(p, QRectF(x, 43, w - 16, 15), Qt::AlignVCenter, f.note);
  }
}

}  // namespace heron
