#include "app/sheet/hookup_strip.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/chain/node_verdict.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/keyed_parts.h"

namespace heron {
namespace {

constexpr double kRatingAt = 0.72;  // where the bar's tick stands

QString dbm_text(double dbm) {
  return qt_text(number_text(dbm, 1, true)) + " dBm";
}

QString u_text(double expanded) {
  return expanded > 0.0 ? QString::fromUtf8("± ") + qt_text(number_text(expanded, 1)) + " dB"
                        : QString();
}

}  // namespace

HookupStrip::HookupStrip(QWidget* parent) : PaintedButton(parent) {
  setFixedHeight(72);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
}

/// The chain at the level that was measured or typed, else at the planned one.
void HookupStrip::add_chain(const StripContent& content) {
  const PlannedTest& test = *content.test;
  const bool has_step = content.step < test.taken_on.size();
  const auto& taken = has_step ? test.taken_on[content.step] : test.hookup;
  const HookupVersion& on = taken ? *taken : *test.hookup;
  Drive drive = test.test.drive.value_or(Drive{37.0, true, 14.2e6, std::nullopt});
  const bool is_known = content.output.has_value();
  if (is_known) drive.pep_dbm = content.output->value;
  ChainResult result;
  try {
    result = evaluate_chain(on.chain, drive);
  } catch (const InputError& error) {
    Node node;
    node.name = qt_text(on.name);
    node.line = qt_text(error.reason);
    node.verdict = Verdict::too_close;
    nodes_.push_back(node);
    return;
  }
  nodes_.front().level = dbm_text(drive.pep_dbm);
  if (is_known) nodes_.front().level_u = u_text(content.output->expanded());
  if (!is_known) nodes_.front().level_u = tr("planned");
  for (std::size_t i = 0; i < result.nodes.size(); ++i) {
    const Part& part = on.chain.parts[i];
    const ChainNode& at = result.nodes[i];
    const NodeVerdict v = judge_node(part, at, drive);
    Node node;
    node.name = qt_text(part.name);
    node.verdict = v.verdict;
    node.line = qt_text(v.limit);
    const double mean = at.level_dbm - peak_to_average_db(drive);
    if (part.max_input_w) {
      const double watt = to_watt(Dbm{mean}).value;
      node.line = tr("%1 mean · rated %2")
                      .arg(qt_text(engineering_text(watt, "W", 2)),
                           qt_text(engineering_text(*part.max_input_w, "W", 2)));
      node.fill = std::min(1.0, watt / *part.max_input_w * kRatingAt);
    } else if (v.limit_dbm) {
      const double under = *v.limit_dbm - at.level_dbm;
      node.fill = std::clamp(kRatingAt * (1.0 - under / 60.0), 0.0, 1.0);
    }
    if (at.max_key_down_s)
      node.note = *at.max_key_down_s > 0.0
                      ? tr("%1 max").arg(qt_text(duration_text(std::floor(*at.max_key_down_s))))
                      : tr("0 s max");
    if (i + 1 < result.nodes.size()) {
      node.level = dbm_text(result.nodes[i + 1].level_dbm);
      node.level_u = u_text(2.0 * result.nodes[i + 1].u_db);
      node.figure.value = result.nodes[i + 1].level_dbm;
      node.figure.unit = "dBm";
      node.figure.convention = "PEP";
      node.figure.contributions = result.nodes[i + 1].contributions;
    }
    nodes_.push_back(node);
  }
}

void HookupStrip::add_words(const StripContent& content) {
  const PlannedTest& test = *content.test;
  Node path;
  path.name = tr("Path");
  path.line = test.test.hookup.empty() ? tr("not described") : qt_text(test.test.hookup);
  path.small = tr("Press to build the hook-up");
  nodes_.push_back(path);
  Node recorder;
  recorder.name = content.is_read_by_hand ? tr("Meter") : tr("Recorder");
  recorder.line = content.is_read_by_hand ? tr("typed at the device") : tr("no recording");
  if (content.is_read_by_hand && !content.read_by.isEmpty()) recorder.line = content.read_by;
  if (!content.recorded.isEmpty()) recorder.line = content.recorded;
  if (!content.logged_by.isEmpty()) {
    recorder.name = tr("Log");
    recorder.line = content.logged_by;
  }
  nodes_.push_back(recorder);
}

void HookupStrip::add_recorder(const RecorderLoad& load) {
  Node& recorder = nodes_.back();
  recorder.line = qt_text(load_words(load));
  recorder.fill = std::clamp(kRatingAt * (1.0 + load.peak_dbfs / 60.0), 0.0, 1.0);
  if (load.is_clipped()) recorder.verdict = Verdict::fail;
}

void HookupStrip::set_plan(const QString& device, const std::vector<LevelPoint>& plan) {
  nodes_.clear();
  for (const LevelPoint& point : plan) {
    Node node;
    node.name = point.name.empty() ? device : qt_text(point.name);
    node.line = qt_text(point.line);
    node.small = qt_text(point.small);
    node.verdict = point.verdict;
    node.place = point.place;
    if (point.level) {
      node.level = dbm_text(point.level->value);
      node.level_u = u_text(point.level->expanded());
      node.figure = *point.level;
    } else {
      node.level = qt_text(point.said);
      node.level_u = qt_text(point.said_under);
    }
    nodes_.push_back(node);
  }
  tell_nodes(tr("Levels"));
}

void HookupStrip::set_step(const QString& device, const StripContent& content) {
  if (content.plan != nullptr && !content.plan->empty()) {
    set_plan(device, *content.plan);
    return;
  }
  nodes_.clear();
  Node source;
  source.name = device;
  const PlannedTest* test = content.test;
  if (test != nullptr) source.line = qt_text(test->test.conditions);
  nodes_.push_back(source);
  if (test != nullptr) {
    const bool is_on_chain =
        content.step < test->taken_on.size() && test->taken_on[content.step].has_value();
    if (test->hookup || is_on_chain)
      add_chain(content);
    else
      add_words(content);
    if (const auto& output = content.output) {
      nodes_.front().level = dbm_text(output->value);
      nodes_.front().level_u = u_text(output->expanded());
      nodes_.front().figure = *output;
      nodes_.front().small =
          tr("%1 PEP, %2")
              .arg(qt_text(engineering_text(to_watt(Dbm{output->value}).value, "W", 3)),
                   content.is_output_typed ? tr("typed") : tr("measured"));
    } else if (content.is_taken) {
      nodes_.front().small = tr("output not typed");
    }
    if (content.recorder) add_recorder(*content.recorder);
  }
  tell_nodes(tr("Hook-up"));
}

void HookupStrip::tell_nodes(const QString& what) {
  QStringList words;
  QStringList tips;
  for (const Node& n : nodes_) {
    words << n.name + (n.line.isEmpty() ? QString() : ", " + n.line) +
                 (n.level.isEmpty() ? QString() : ", " + n.level);
    tips << n.name + ": " + n.line + (n.note.isEmpty() ? QString() : ", " + n.note);
  }
  setAccessibleName(what + ": " + words.join(", "));
  setToolTip(tips.join('\n'));
  update();
}

void HookupStrip::paint_node(QPainter& p, const QRectF& box, const Node& node,
                             bool is_small) const {
  const Theme& t = theme_of(this);
  const bool is_doubtful = node.verdict == Verdict::fail || node.verdict == Verdict::too_close;
  const QColor mark = is_doubtful ? verdict_colour(t, node.verdict) : t.water;
  p.setPen(is_doubtful ? mark : t.hairStrong);
  p.setBrush(t.sheet);
  p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  const QRectF inner = box.adjusted(10, 4, -10, -4);
  double name_right = inner.right();
  if (!node.note.isEmpty() && !is_small) {
    p.setFont(type_font(Type::control_chosen));
    p.setPen(is_doubtful ? mark : t.slate);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(node.note);
    p.drawText(QRectF(inner.right() - w, inner.top(), w, 17), Qt::AlignVCenter, node.note);
    name_right -= w + 8;
  }
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  draw_elided(p, QRectF(inner.left(), inner.top(), name_right - inner.left(), 17), Qt::AlignVCenter,
              node.name);
  p.setFont(type_font(Type::label));
  p.setPen(is_doubtful && node.note.isEmpty() ? mark : t.slate);
  draw_elided(p, QRectF(inner.left(), inner.top() + 17, inner.width(), 15), Qt::AlignVCenter,
              is_small && !node.note.isEmpty() ? node.note : node.line);
  if (node.place) {
    // The window, with a quarter of its width beyond each end.
    const double y = inner.bottom() - 8;
    const auto x = [&](double share) {
      return inner.left() + inner.width() * (std::clamp(share, -0.25, 1.25) + 0.25) / 1.5;
    };
    p.setPen(Qt::NoPen);
    p.setBrush(t.sunk);
    p.drawRoundedRect(QRectF(inner.left(), y, inner.width(), 3), 1.5, 1.5);
    p.fillRect(QRectF(x(0.0) - 1, y - 4, 2, 10), t.ink);
    p.fillRect(QRectF(x(1.0) - 1, y - 4, 2, 10), t.ink);
    p.setBrush(mark);
    p.drawEllipse(QPointF(x(*node.place), y + 1.5), 4, 4);
    return;
  }
  if (node.fill < 0.0) {
    p.setPen(t.mute);
    draw_elided(p, QRectF(inner.left(), inner.top() + 32, inner.width(), 15), Qt::AlignVCenter,
                node.small);
    return;
  }
  const double y = inner.bottom() - 8;
  p.setPen(Qt::NoPen);
  p.setBrush(t.sunk);
  p.drawRoundedRect(QRectF(inner.left(), y, inner.width(), 3), 1.5, 1.5);
  p.setBrush(mark);
  p.drawRoundedRect(QRectF(inner.left(), y, inner.width() * node.fill, 3), 1.5, 1.5);
  p.fillRect(QRectF(inner.left() + inner.width() * kRatingAt, y - 4, 2, 10), t.ink);
}

void HookupStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(QRectF(1, 0, width() - 2, height()), t.strip);
  p.fillRect(QRectF(1, 0, width() - 2, 1), t.hair);
  p.fillRect(QRectF(1, height() - 1, width() - 2, 1), t.hair);
  u_boxes_.assign(nodes_.size(), QRectF());
  const auto count = static_cast<int>(nodes_.size());
  if (count == 0) return;
  const double room = width() - 40.0;
  const double gap = count > 4 ? 48 : 92;
  // Every node the same, until the middle ones have to give way to the ends.
  double end = std::min(240.0, (room - gap * (count - 1)) / count);
  double middle = end;
  if (count > 4) {
    end = std::max(end, 118.0);
    middle = std::max(54.0, (room - gap * (count - 1) - 2 * end) / (count - 2));
  }
  const double used = 2 * end + (count - 2) * middle;
  const double between = count > 1 ? (room - (count == 1 ? end : used)) / (count - 1) : 0.0;
  double x = 20;
  for (int i = 0; i < count; ++i) {
    const Node& node = nodes_[static_cast<std::size_t>(i)];
    const bool is_end = i == 0 || i + 1 == count;
    const double w = is_end ? end : middle;
    paint_node(p, QRectF(x, 8, w, 56), node, w < 110);
    if (i + 1 == count) break;
    const double from = x + w + 2;
    const double to = x + w + between - 2;
    p.setPen(QPen(t.slate, 1.5));
    p.drawLine(QPointF(from, 36), QPointF(to - 5, 36));
    p.setBrush(t.slate);
    p.setPen(Qt::NoPen);
    p.drawPolygon(QPolygonF({{to, 36}, {to - 7, 33}, {to - 7, 39}}));
    if (!node.level.isEmpty() && between > 40) {
      QString level = node.level;
      if (count > 4 ||
          figure_text_width(level, Type::figure_chosen, Type::control_chosen) > between - 6)
        level = level.section(' ', 0, 0);
      const double width = figure_text_width(level, Type::figure_chosen, Type::control_chosen);
      draw_figure_text(p, {(from + to) / 2 - width / 2, 29}, level, Type::figure_chosen,
                       Type::control_chosen, t.ink);
      p.setFont(type_font(Type::label));
      p.setPen(t.mute);
      p.drawText(QRectF(from, 40, to - from, 16), Qt::AlignCenter, node.level_u);
      if (!node.figure.contributions.empty())
        u_boxes_[static_cast<std::size_t>(i)] = QRectF(from, 38, to - from, 20);
    }
    x += w + between;
  }
  if (shows_focus()) draw_focus_ring(p, QRectF(rect()).adjusted(2, 2, -2, -2), 6, t);
}

void HookupStrip::mousePressEvent(QMouseEvent* event) {
  for (std::size_t i = 0; i < u_boxes_.size() && i < nodes_.size(); ++i) {
    if (!u_boxes_[i].contains(event->position())) continue;
    emit uncertainty_asked(tr("Level behind %1").arg(nodes_[i].name), nodes_[i].figure);
    return;
  }
  PaintedButton::mousePressEvent(event);
}

}  // namespace heron
