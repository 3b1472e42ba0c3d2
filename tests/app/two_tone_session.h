#pragma once

#include <QMenu>

#include "app/plot/plot_view.h"
#include "app/session/session.h"
#include "app/session/test_edits.h"
#include "tests/store/two_tone_of.h"

namespace heron::testing {

/// The shown test, if it is one of two tones.
inline std::optional<TwoToneTest> two_tone_of(const Session& session) {
  const GeneralTest* t = session.general();
  if (t == nullptr || t->method->id != "two_tone") return std::nullopt;
  return two_tone_of(*t);
}

/// How good the recorder is, as a 95 % interval in dB.
inline void set_linearity(Session& session, double expanded_db) {
  nlohmann::json settings = session.general()->evidence.settings;
  settings["ladder"]["linearity_db"] = expanded_db;
  TestEdits(session).set_settings("recorder linearity", settings);
}

/// The points of the first layer of a kind of the shown plot; none if there is no such layer.
inline std::vector<PlotPoint> points_of(const PlotView& plot, PlotLayer::Kind kind) {
  const PlotLayer* layer = plot.plot().panels.front().find(kind);
  return layer != nullptr ? layer->points : std::vector<PlotPoint>();
}
inline QCPRange x_range_of(PlotView& plot) {
  return plot.axisRect(0)->axis(QCPAxis::atBottom)->range();
}

/// Chooses an entry of a menu by the start of its words; false if there is none.
inline bool choose_entry(QMenu* menu, const QString& words) {
  QList<QAction*> actions = menu->actions();
  for (int i = 0; i < actions.size(); ++i) {
    if (actions[i]->menu() != nullptr) actions += actions[i]->menu()->actions();
    if (!actions[i]->text().startsWith(words)) continue;
    actions[i]->trigger();
    return true;
  }
  return false;
}

}  // namespace heron::testing
