#include "app/bench/ageing_strip.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"

namespace heron {

AgeingStrip::AgeingStrip(QWidget* parent) : QWidget(parent) {
  setFixedHeight(112);
}

void AgeingStrip::set_item(const BenchItem& item, const std::string& today) {
  item_ = item;
  today_ = today;
  const Calibration& c = item.part.calibration;
  const double now = 2.0 * std::hypot(item.part.u_db, ageing_u_db(c, item.part.u_db, today));
  setAccessibleName(tr("± now %1 dB").arg(qt_text(number_text(now, 2))));
  update();
}

void AgeingStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(QRectF(0, 0, width(), 1), t.hair);
  const QRectF r = QRectF(rect()).adjusted(42, 30, -14, -24);
  const Calibration& latest = item_.part.calibration;
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(15, 6, 300, 18), Qt::AlignVCenter, tr("± of it, dB, k = 2"));
  p.setPen(t.mute);
  QString how = latest.interval_months
                    ? tr("interval %1")
                          .arg(qt_text(quantity_text(Quantity::interval, *latest.interval_months)))
                    : tr("no calibration interval");
  how += latest.ageing_u_db_per_month
             ? tr(" · ages by %1 dB a month")
                   .arg(qt_text(number_text(2.0 * *latest.ageing_u_db_per_month, 3)))
             : tr(" · its ± comes again within one interval");
  p.drawText(QRectF(width() - 414.0, 6, 400, 18), Qt::AlignRight | Qt::AlignVCenter, how);
  const auto age = months_between(latest.date, today_);
  if (!age) {
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    p.drawText(r, Qt::AlignCenter, tr("No calibration date: its age is not known."));
    return;
  }
  // From the oldest calibration to some months after the next one is due.
  std::vector<PastCalibration> all = item_.past;
  all.push_back({latest.date, item_.part.u_db, std::nullopt});
  std::stable_sort(all.begin(), all.end(), [](const PastCalibration& a, const PastCalibration& b) {
    return a.date < b.date;
  });
  const double first = -*months_between(all.front().date, today_);
  const double due = latest.interval_months ? *latest.interval_months - *age : 0.0;
  const double last =
      std::max({due, 0.0, 1.0}) + std::max(2.0, 0.15 * (std::max(due, 0.0) - first));
  const auto u_at = [&](const PastCalibration& c, double months_since) {
    Calibration rule = latest;
    rule.date = c.date;
    const double rate = rule.ageing_u_db_per_month ? *rule.ageing_u_db_per_month
                        : rule.interval_months     ? c.u_db / *rule.interval_months
                                                   : 0.0;
    return 2.0 * std::hypot(c.u_db, rate * months_since);
  };
  double top = 0.05;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double start = -*months_between(all[i].date, today_);
    const double end = i + 1 < all.size() ? -*months_between(all[i + 1].date, today_) : last;
    top = std::max(top, u_at(all[i], end - start));
  }
  top *= 1.15;
  const auto x = [&](double months) {
    return r.left() + (months - first) / (last - first) * r.width();
  };
  const auto y = [&](double u) { return r.bottom() - u / top * r.height(); };
  p.fillRect(QRectF(r.left(), r.bottom(), r.width(), 1), t.hairStrong);
  p.setFont(type_font(Type::tick));
  p.setPen(t.mute);
  p.drawText(QRectF(0, r.bottom() - 8, 34, 16), Qt::AlignRight | Qt::AlignVCenter, "0");
  p.drawText(QRectF(0, y(top / 1.15) - 8, 34, 16), Qt::AlignRight | Qt::AlignVCenter,
             qt_text(number_text(top / 1.15, 2)));
  QPolygonF line;
  QPolygonF coming;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const double start = -*months_between(all[i].date, today_);
    const double end = i + 1 < all.size() ? -*months_between(all[i + 1].date, today_) : last;
    for (int k = 0; k <= 24; ++k) {
      const double at = start + (end - start) * k / 24.0;
      (at <= 0.0 ? line : coming) << QPointF(x(at), y(u_at(all[i], at - start)));
    }
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    if (start < -0.8) {
      const QString words =
          (i == 0 ? tr("calibrated %1 ago") : tr("%1 ago")).arg(qt_text(months_text(start)));
      const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 6;
      QRectF box(x(start) - w / 2, r.bottom() + 4, w, 16);
      if (i == 0) box.moveLeft(r.left());
      if (box.right() < x(0) - 24) p.drawText(box, Qt::AlignCenter, words);
    }
  }
  const double now = u_at(all.back(), *age);
  line << QPointF(x(0), y(now));
  coming.prepend(QPointF(x(0), y(now)));
  QPolygonF fill = line;
  fill << QPointF(x(0), r.bottom()) << QPointF(x(first), r.bottom());
  QColor tint = t.water;
  tint.setAlphaF(t.is_dark ? 0.20F : 0.13F);
  p.setPen(Qt::NoPen);
  p.setBrush(tint);
  p.drawPolygon(fill);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.water, 1.6));
  p.drawPolyline(line);
  QPen dashed(t.water, 1.4);
  dashed.setDashPattern({3.2, 2.6});
  p.setPen(dashed);
  p.drawPolyline(coming);
  p.setBrush(t.sheet);
  p.setPen(QPen(t.water, 1.8));
  p.drawEllipse(QPointF(x(0), y(now)), 3.6, 3.6);
  p.setFont(type_font(Type::figure_small));
  p.setPen(t.ink);
  p.drawText(QRectF(x(0) - 76, y(now) - 20, 70, 16), Qt::AlignRight | Qt::AlignVCenter,
             QString::fromUtf8("± ") + qt_text(number_text(now, 2)));
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  p.setFont(strong);
  p.drawText(QRectF(x(0) - 30, r.bottom() + 4, 60, 16), Qt::AlignCenter, tr("today"));
  if (!latest.interval_months) return;
  p.fillRect(QRectF(x(due) - 0.75, r.top() - 4, 1.5, r.height() + 4), t.ink);
  const QString words = due >= 0.0 ? tr("due in %1").arg(qt_text(months_text(due)))
                                   : tr("due %1 ago").arg(qt_text(months_text(due)));
  const double w = QFontMetricsF(strong).horizontalAdvance(words) + 10;
  const bool to_right = x(due) + w < r.right();
  p.setPen(t.ink);
  p.drawText(QRectF(to_right ? x(due) + 5 : x(due) - w, r.top() - 8, w, 16),
             to_right ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter,
             words);
}

}  // namespace heron
