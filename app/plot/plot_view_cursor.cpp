// Reading curves at a place, for those who look and for those who listen; keys and mouse of a plot
// are in plot_view_input.cpp.
#include <QKeyEvent>
#include <algorithm>
#include <cmath>

#include "app/plot/plot_view.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kSamePlace = 1e-6;

bool is_before(const PlotPoint& p, double x) {
  return p.x < x * (1.0 - kSamePlace);
}

/// Between two points straight over the logarithm; nullopt outside.
std::optional<double> value_at(const PlotLayer& layer, double x) {
  const auto& all = layer.points;
  const auto after = std::lower_bound(all.begin(), all.end(), x, is_before);
  if (after == all.end()) return std::nullopt;
  if (std::abs(after->x - x) <= kSamePlace * x) return after->y;
  if (after == all.begin()) return std::nullopt;
  const PlotPoint& a = *(after - 1);
  return std::lerp(a.y, after->y, std::log(x / a.x) / std::log(after->x / a.x));
}

}  // namespace

const PlotLayer* PlotView::read_curve() const {
  if (plot_.panels.empty() || !plot_.x.is_logarithmic) return nullptr;
  for (const PlotLayer& layer : plot_.panels.front().layers)
    if (layer.kind == PlotLayer::Kind::trace && layer.is_bold && layer.points.size() > 1)
      return &layer;
  return nullptr;
}

std::vector<std::pair<const PlotLayer*, double>> PlotView::values_at(const PlotPanel& panel,
                                                                     double x) {
  std::vector<std::pair<const PlotLayer*, double>> all;
  for (const PlotLayer& layer : panel.layers) {
    if (layer.kind != PlotLayer::Kind::trace || !layer.is_joined || layer.is_right) continue;
    if (const auto y = value_at(layer, x)) all.emplace_back(&layer, *y);
  }
  return all;
}

QString PlotView::cursor_words() const {
  if (!cursor_ || read_curve() == nullptr) return {};
  QStringList words{qt_text(frequency_text(std::round(*cursor_ * 10.0) / 10.0))};
  for (std::size_t i = 0; i < plot_.panels.size(); ++i)
    for (const auto& [layer, y] : values_at(plot_.panels[i], *cursor_)) {
      const QString name = qt_text(i == 0 ? layer->name : plot_.panels[i].y.title);
      words << name + QChar(' ') + qt_text(number_text(y, 1, i > 0));
    }
  return words.join(QStringLiteral(", "));
}

/// The curve's own point that is nearest.
void PlotView::read_at(double x) {
  const PlotLayer* curve = read_curve();
  if (curve == nullptr || !(x > 0.0)) return;
  const PlotPoint* best = &curve->points.front();
  for (const PlotPoint& p : curve->points)
    if (std::abs(std::log(p.x / x)) < std::abs(std::log(best->x / x))) best = &p;
  move_cursor(best->x);
  setAccessibleDescription(cursor_words());
}

/// Left and Right to the next point, with Shift by a decade, End to the last, S to the next line.
bool PlotView::read_by_key(const QKeyEvent& event) {
  const PlotLayer* curve = read_curve();
  if (curve == nullptr) return false;
  const auto& all = curve->points;
  const bool has_shift = (event.modifiers() & Qt::ShiftModifier) != 0;
  const double middle = std::sqrt(all.front().x * all.back().x);
  const double now = cursor_.value_or(middle);
  constexpr double kDecade = 10.0;
  switch (event.key()) {
    case Qt::Key_Left:
    case Qt::Key_Right: {
      const bool is_right = event.key() == Qt::Key_Right;
      if (!cursor_) {
        read_at(middle);
      } else if (has_shift) {
        read_at(std::clamp(is_right ? now * kDecade : now / kDecade, all.front().x, all.back().x));
      } else {
        auto at = std::lower_bound(all.begin(), all.end(), now, is_before);
        if (is_right && at != all.end() && at + 1 != all.end())
          ++at;
        else if (!is_right && at != all.begin())
          --at;
        if (at != all.end()) read_at(at->x);
      }
      return true;
    }
    case Qt::Key_End:
      read_at(all.back().x);
      return true;
    case Qt::Key_S:
    case Qt::Key_X: {
      // The next line, or the next place where two cross.
      const PlotLayer::Kind wanted =
          event.key() == Qt::Key_S ? PlotLayer::Kind::stem : PlotLayer::Kind::ring;
      double next = 0.0;
      double first = 0.0;
      for (const PlotLayer& layer : plot_.panels.front().layers) {
        if (layer.kind != wanted) continue;
        for (const PlotPoint& p : layer.points) {
          if (wanted == PlotLayer::Kind::ring && p.is_pale) continue;  // no crossing
          if (first == 0.0 || p.x < first) first = p.x;
          if (p.x > now * (1.0 + kSamePlace) && (next == 0.0 || p.x < next)) next = p.x;
        }
      }
      if (first == 0.0) return false;
      move_cursor(next > 0.0 ? next : first);
      setAccessibleDescription(cursor_words());
      return true;
    }
    default:
      return false;
  }
}

}  // namespace heron
