#include "app/plot/picture_graph.h"

#include <algorithm>
#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kBend = 1.25;        // faint noise stays faint
constexpr double kMiddle = 0.55;      // where the colour is water
constexpr double kWaterShare = 0.70;  // of it there

QColor between(const QColor& a, const QColor& b, double share) {
  const auto mix = [share](float from, float to) {
    return static_cast<float>(std::lerp(static_cast<double>(from), static_cast<double>(to), share));
  };
  return QColor::fromRgbF(mix(a.redF(), b.redF()), mix(a.greenF(), b.greenF()),
                          mix(a.blueF(), b.blueF()));
}

/// Cells that a pixel covers, at least one of them.
std::pair<std::size_t, std::size_t> cells(double from, double to, std::pair<double, double> edges,
                                          std::size_t count) {
  const double width = (edges.second - edges.first) / static_cast<double>(count);
  const double low = std::floor((std::min(from, to) - edges.first) / width + 0.5);
  const double high = std::floor((std::max(from, to) - edges.first) / width + 0.5);
  const double most = static_cast<double>(count);
  if (high < 0.0 || low >= most) {
    if (std::max(from, to) < edges.first || std::min(from, to) > edges.second) return {0, 0};
  }
  const double first = std::clamp(low, 0.0, most - 1.0);
  return {static_cast<std::size_t>(first),
          static_cast<std::size_t>(std::clamp(high, first + 1.0, most))};
}

}  // namespace

QColor picture_colour(const Theme& theme, double share) {
  const double s = std::pow(std::clamp(share, 0.0, 1.0), kBend);
  const QColor water = between(theme.sheet, theme.water, kWaterShare);
  return s < kMiddle ? between(theme.sheet, water, s / kMiddle)
                     : between(water, theme.ink, (s - kMiddle) / (1.0 - kMiddle));
}

PictureGraph::PictureGraph(QCPAxis* x, QCPAxis* y, PlotPicture picture)
    : QCPAbstractPlottable(x, y), picture_(std::move(picture)) {}

void PictureGraph::dress(const Theme& theme) {
  for (std::size_t i = 0; i < colours_.size(); ++i)
    colours_[i] = picture_colour(theme, static_cast<double>(i) / 255.0).rgb();
  image_ = {};
}

QCPRange PictureGraph::getKeyRange(bool& found, QCP::SignDomain) const {
  found = true;
  return {picture_.x.first, picture_.x.second};
}

QCPRange PictureGraph::getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const {
  found = true;
  return {picture_.y.first, picture_.y.second};
}

void PictureGraph::render(const QSize& size) {
  image_ = QImage(size, QImage::Format_ARGB32);
  image_.fill(Qt::transparent);
  const std::vector<float>& levels = *picture_.levels;
  const double range = std::max(1e-9, picture_.highest - picture_.lowest);
  std::vector<std::pair<std::size_t, std::size_t>> rows;
  for (int y = 0; y < size.height(); ++y) {
    const double from = image_y_.upper - image_y_.size() * y / size.height();
    const double to = image_y_.upper - image_y_.size() * (y + 1) / size.height();
    rows.push_back(cells(from, to, picture_.y, picture_.rows));
  }
  for (int x = 0; x < size.width(); ++x) {
    const double from = image_x_.lower + image_x_.size() * x / size.width();
    const double to = image_x_.lower + image_x_.size() * (x + 1) / size.width();
    const auto [first, last] = cells(from, to, picture_.x, picture_.columns);
    for (int y = 0; y < size.height(); ++y) {
      const auto [low, high] = rows[static_cast<std::size_t>(y)];
      double most = -1e9;
      for (std::size_t c = first; c < last; ++c)
        for (std::size_t r = low; r < high; ++r)
          most = std::max(most, static_cast<double>(levels[c * picture_.rows + r]));
      if (most < -1e8) continue;  // nothing known
      const double share = std::clamp((most - picture_.lowest) / range, 0.0, 1.0);
      image_.setPixel(x, y, colours_[static_cast<std::size_t>(share * 255.0)]);
    }
  }
}

void PictureGraph::draw(QCPPainter* painter) {
  if (!picture_.levels || picture_.levels->size() < picture_.columns * picture_.rows) return;
  const QRect area = mKeyAxis->axisRect()->rect();
  if (area.isEmpty()) return;
  const QCPRange x = mKeyAxis->range();
  const QCPRange y = mValueAxis->range();
  const auto differs = [](const QCPRange& a, const QCPRange& b) {
    return a.lower != b.lower || a.upper != b.upper;
  };
  if (image_.size() != area.size() || differs(x, image_x_) || differs(y, image_y_)) {
    image_x_ = x;
    image_y_ = y;
    render(area.size());
  }
  painter->drawImage(area.topLeft(), image_);
}

void draw_picture_scale(QCPPainter& p, QCPAxisRect& rect, const PlotPicture& picture,
                        const Theme& theme) {
  constexpr double kWide = 10.0;
  constexpr double kHigh = 90.0;
  const QRectF r(rect.rect());
  const QRectF bar(r.right() + 12, r.bottom() - std::min(kHigh, r.height()), kWide,
                   std::min(kHigh, r.height()));
  for (int y = 0; y < static_cast<int>(bar.height()); ++y)
    p.fillRect(QRectF(bar.left(), bar.top() + y, kWide, 1),
               picture_colour(theme, 1.0 - y / bar.height()));
  p.setPen(QPen(theme.hairStrong, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(bar);
  p.setFont(type_font(Type::tick));
  p.setPen(theme.mute);
  for (const double share : {0.0, 0.5, 1.0}) {
    const double level = std::lerp(picture.lowest, picture.highest, share);
    const double y = bar.bottom() - share * bar.height();
    p.drawText(QRectF(bar.right() + 4, std::clamp(y - 8, bar.top() - 4, bar.bottom() - 12), 40, 16),
               Qt::AlignVCenter, qt_text(number_text(level, 0)));
  }
  p.setFont(type_font(Type::label));
  const QString unit = qt_text(picture.unit);
  const double wide = QFontMetricsF(p.font()).horizontalAdvance(unit) + 2;
  p.drawText(QRectF(rect.parentPlot()->width() - wide - 8, r.top() - 45, wide, 16),
             Qt::AlignVCenter | Qt::AlignRight, unit);
}

}  // namespace heron
