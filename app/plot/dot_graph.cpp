#include "app/plot/dot_graph.h"

#include <algorithm>

namespace heron {
namespace {

constexpr std::size_t kBlock = 64;
constexpr double kDotPx = 3.2;
constexpr double kMostPerPixel = 3.0;  // of single dots

}  // namespace

DotGraph::DotGraph(QCPAxis* x, QCPAxis* y, std::shared_ptr<const Dots> dots, int trace)
    : QCPAbstractPlottable(x, y), dots_(std::move(dots)), trace_(trace) {
  const std::vector<float>& v = dots_->y;
  for (std::size_t from = 0; from < v.size(); from += kBlock) {
    const auto begin = v.begin() + static_cast<std::ptrdiff_t>(from);
    const auto end = v.begin() + static_cast<std::ptrdiff_t>(std::min(from + kBlock, v.size()));
    const auto [least, most] = std::minmax_element(begin, end);
    blocks_.push_back({*least, *most});
  }
}

QCPRange DotGraph::getKeyRange(bool& found, QCP::SignDomain) const {
  found = !dots_->x.empty();
  return found ? QCPRange(dots_->x.front(), dots_->x.back()) : QCPRange();
}

QCPRange DotGraph::getValueRange(bool& found, QCP::SignDomain, const QCPRange&) const {
  found = !dots_->y.empty();
  if (!found) return {};
  const Extremes all = extremes(0, dots_->y.size());
  return {static_cast<double>(all.least), static_cast<double>(all.most)};
}

/// Whole blocks by what is known of them, the rest one by one; `to` is behind the last.
DotGraph::Extremes DotGraph::extremes(std::size_t from, std::size_t to) const {
  Extremes e{dots_->y[from], dots_->y[from]};
  const auto see = [&e](float least, float most) {
    e.least = std::min(e.least, least);
    e.most = std::max(e.most, most);
  };
  while (from < to) {
    if (from % kBlock == 0 && from + kBlock <= to) {
      see(blocks_[from / kBlock].least, blocks_[from / kBlock].most);
      from += kBlock;
    } else {
      see(dots_->y[from], dots_->y[from]);
      ++from;
    }
  }
  return e;
}

void DotGraph::draw(QCPPainter* painter) {
  const std::vector<double>& x = dots_->x;
  const QCPRange range = mKeyAxis->range();
  const auto begin = std::lower_bound(x.begin(), x.end(), range.lower);
  const auto end = std::upper_bound(begin, x.end(), range.upper);
  const auto from = static_cast<std::size_t>(begin - x.begin());
  const auto to = static_cast<std::size_t>(end - x.begin());
  if (from >= to) return;
  const double width = mKeyAxis->axisRect()->width();
  const auto pixel = [this](double key, double value) {
    return QPointF(mKeyAxis->coordToPixel(key), mValueAxis->coordToPixel(value));
  };
  const bool are_few = static_cast<double>(to - from) <= kMostPerPixel * width;
  painter->setBrush(Qt::NoBrush);
  if (are_few) {
    painter->setPen(QPen(colour_, kDotPx, Qt::SolidLine, Qt::RoundCap));
    QVector<QPointF> points;
    for (std::size_t i = from; i < to; ++i)
      points.append(pixel(x[i], static_cast<double>(dots_->y[i])));
    painter->drawPoints(points.constData(), static_cast<int>(points.size()));
    return;
  }
  // Upright strokes have no stairs.
  painter->setAntialiasing(false);
  painter->setPen(QPen(colour_, 1.0));
  QVector<QLineF> strokes;
  std::size_t i = from;
  for (int column = 0; column < static_cast<int>(width) && i < to; ++column) {
    const double right = mKeyAxis->pixelToCoord(mKeyAxis->axisRect()->left() + column + 1.0);
    const auto next = static_cast<std::size_t>(
        std::upper_bound(x.begin() + static_cast<std::ptrdiff_t>(i), end, right) - x.begin());
    if (next == i) continue;
    const Extremes e = extremes(i, next);
    strokes.append(QLineF(pixel(x[i], static_cast<double>(e.most)),
                          pixel(x[i], static_cast<double>(e.least))));
    i = next;
  }
  painter->drawLines(strokes);
}

}  // namespace heron
