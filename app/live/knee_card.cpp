#include "app/live/knee_card.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

QString dbm_words(double dbm) {
  return qt_text(number_text(dbm, 1, true)) + QStringLiteral("\u00a0dBm");
}

/// On one line, whatever the width.
QString unbroken(const Figure& figure) {
  return qt_text(figure_text(figure, Rounding::compact)).replace(u' ', QChar::Nbsp);
}

}  // namespace

KneeCard::KneeCard(QWidget* window)
    : FloatingCard(tr("Maximum output"), window),
      use_(new PushButton(tr("Add a step there"), ButtonRank::secondary, this)) {
  setFixedSize(460, 412);
  use_->adjustSize();
  use_->move(width() - use_->sizeHint().width() - 20, height() - use_->sizeHint().height() - 14);
  connect(use_, &QAbstractButton::clicked, this, [this] {
    if (found_) emit step_wanted(found_->output_dbm);
    close();
  });
}

void KneeCard::set_points(const std::vector<DrivePoint>& points, bool is_over,
                          const std::vector<Contribution>& level) {
  points_ = points;
  std::sort(points_.begin(), points_.end(),
            [](const DrivePoint& a, const DrivePoint& b) { return a.drive_dbm < b.drive_dbm; });
  found_.reset();
  if (points_.size() >= 3) {
    try {
      found_ = find_full_output(points_);
    } catch (const InputError&) {
      found_.reset();  // too few different drives so far
    }
  }
  if (found_) {
    const std::vector<Figure> figures = to_result(*found_, level).figures;
    text_ =
        tr("Maximum output %1 PEP, %2, from a drive of %3. Each of two equal tones 6.02 dB lower, "
           "%4, gives the same peak: the pair starts from there.")
            .arg(unbroken(figures[0]),
                 qt_text(engineering_text(to_watt(Dbm{found_->output_dbm}).value, "W", 3)),
                 unbroken(figures[1]), dbm_words(found_->each_tone_dbm));
  } else if (!is_over) {
    text_ =
        tr("One tone, harder step by step, until 1 dB more of drive gives less than 0.1 dB "
           "more of output. Esc switches RF off at once.");
  } else {
    text_ =
        tr("Maximum output was not reached: the output still rises at the highest drive that is "
           "allowed, or more came out than the plan allows.");
  }
  use_->setVisible(found_.has_value());
  setAccessibleDescription(text_);
  update();
}

void KneeCard::paintEvent(QPaintEvent* event) {
  FloatingCard::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QRectF area(62, kHead + 22, width() - 62 - 28, 170);
  double low_x = -45.0;
  double high_x = -20.0;
  double low_y = 20.0;
  double high_y = 50.0;
  if (!points_.empty()) {
    low_x = points_.front().drive_dbm - 1.0;
    high_x = std::max(points_.back().drive_dbm + 1.0, low_x + 6.0);
    const auto [least, most] = std::minmax_element(
        points_.begin(), points_.end(),
        [](const DrivePoint& a, const DrivePoint& b) { return a.output_dbm < b.output_dbm; });
    low_y = std::floor((least->output_dbm - 2.0) / 5.0) * 5.0;
    high_y = std::ceil((most->output_dbm + 2.0) / 5.0) * 5.0;
  }
  const auto x = [&](double v) {
    return area.left() + (v - low_x) / (high_x - low_x) * area.width();
  };
  const auto y = [&](double v) {
    return area.bottom() - (v - low_y) / (high_y - low_y) * area.height();
  };
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(20, kHead - 2, 200, 18), Qt::AlignVCenter, tr("Output, dBm PEP"));
  p.setFont(type_font(Type::tick));
  const double step_y = high_y - low_y > 20.0 ? 10.0 : 5.0;
  for (double v = low_y; v <= high_y + 0.1; v += step_y) {
    p.fillRect(QRectF(area.left(), std::round(y(v)), area.width(), 1), t.hair);
    p.setPen(t.mute);
    p.drawText(QRectF(area.left() - 44, y(v) - 8, 36, 16), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(v, 0, true)));
  }
  const double step_x = high_x - low_x > 12.0 ? 5.0 : 2.0;
  for (double v = std::ceil(low_x / step_x) * step_x; v <= high_x; v += step_x)
    p.drawText(QRectF(x(v) - 24, area.bottom() + 4, 48, 14), Qt::AlignCenter,
               qt_text(number_text(v, 0, true)));
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(area.right() - 120, area.bottom() + 20, 120, 16),
             Qt::AlignRight | Qt::AlignVCenter, tr("Drive, dBm"));
  p.setPen(trace_pen(t, 1));
  for (std::size_t i = 0; i + 1 < points_.size(); ++i)
    p.drawLine(QPointF(x(points_[i].drive_dbm), y(points_[i].output_dbm)),
               QPointF(x(points_[i + 1].drive_dbm), y(points_[i + 1].output_dbm)));
  p.setPen(QPen(t.raised, 1.2));
  p.setBrush(t.water);
  for (const DrivePoint& point : points_)
    p.drawEllipse(QPointF(x(point.drive_dbm), y(point.output_dbm)), 4, 4);
  if (found_) {
    const QPointF knee(x(found_->drive_dbm), y(found_->output_dbm));
    p.setPen(QPen(t.ink, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(knee, 8, 8);
    p.setPen(QPen(t.ink, 1, Qt::DashLine));
    p.drawLine(knee + QPointF(0, 9), QPointF(knee.x(), area.bottom()));
    p.setPen(QPen(t.mute, 1.5, Qt::DashLine));
    const QPointF pair(x(std::max(found_->each_tone_dbm, low_x)), area.bottom());
    p.drawLine(pair, pair - QPointF(0, 26));
    p.setFont(type_font(Type::label));
    p.setPen(t.slate);
    const QString words = tr("each of two tones");
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
    const bool has_room = pair.x() + 5 + w < knee.x() - 4;
    p.drawText(QPointF(has_room ? pair.x() + 5 : std::max(area.left(), pair.x() - 6 - w),
                       area.bottom() - 12),
               words);
  }
  p.setFont(type_font(Type::body));
  p.setPen(t.ink);
  // All of what stands above the button belongs to the words.
  const double from = area.bottom() + 40;
  p.drawText(QRectF(20, from, width() - 40, use_->y() - 8 - from), Qt::TextWordWrap, text_);
}

}  // namespace heron
