// The menus of the two-tone sheet; the rest of it is in two_tone_sheet.cpp.
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QResizeEvent>
#include <QStackedWidget>

#include "app/live/live_ladder.h"
#include "app/sheet/ladder_picture.h"
#include "app/sheet/two_tone_sheet.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/caution_card.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "report/spectrum_picture.h"

namespace heron {
namespace {

QString limit_words(const Limit& limit) {
  return qt_text(limit.name + ", " + limit_text(limit) + " " + limit.convention);
}

}  // namespace

void TwoToneSheet::refresh_limit_menu(const TwoToneTest* t) {
  QMenu* menu = limit_->menu();
  menu->clear();
  if (t == nullptr) return;
  const bool same = t->test.limit && t->test.limit->convention == shown_convention().toStdString();
  // Where there is little room the name is in the tool tip.
  const bool is_wide = window()->width() >= 1440;
  limit_->set_value(!t->test.limit ? tr("none")
                    : !same        ? limit_words(*t->test.limit)
                    : is_wide ? qt_text(t->test.limit->name + ", " + limit_text(*t->test.limit))
                              : qt_text(limit_text(*t->test.limit)));
  if (t->test.limit) limit_->setToolTip(limit_words(*t->test.limit));
  const Device d =
      device(session_.shack(), evaluation(session_.shack(), t->test.evaluation_id).device_id);
  for (const SpecLine& line : d.specification) {
    if (line.characteristic != "two_tone") continue;
    menu->addAction(limit_words(line.limit), this,
                    [this, limit = line.limit] { session_.set_limit(limit); });
  }
  menu->addAction(tr("Common practice, \u221236 dB re PEP"), this, [this] {
    session_.set_limit(Limit{"common practice", Sense::at_most, -36.0, "dB", kRePep, 20.0});
  });
  menu->addAction(tr("Another limit\u2026"), this, &TwoToneSheet::ask_limit);
  menu->addAction(tr("Save this limit as the device's specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t->test.limit.has_value());
  menu->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });
}

void TwoToneSheet::refresh_more_menu(const TwoToneTest* t) {
  QMenu* menu = more_->menu();
  menu->clear();
  if (t == nullptr) return;
  const double u = 2.0 * t->settings.linearity_u_db;
  QMenu* recorder =
      menu->addMenu(tr("Recorder: %1")
                        .arg(u > 0 ? QString::fromUtf8("± ") + qt_text(number_text(u, 1)) + " dB"
                                   : tr("as stated on the bench")));
  for (const double expanded : {0.0, 0.2, 0.4, 0.7, 1.0}) {
    recorder->addAction(
        expanded == 0.0 ? tr("as stated on the bench")
                        : QString::fromUtf8("± ") + QString::number(expanded) + " dB between lines",
        this, [this, expanded] { session_.set_linearity(expanded / 2.0); });
  }
  recorder->addAction(tr("Another figure\u2026"), this, &TwoToneSheet::ask_linearity);
  QMenu* compare = menu->addMenu(tr("Compare with"));
  compare->addAction(tr("nothing"), this, [this] { compare_with(-1); });
  for (std::size_t i = 0; i < t->steps.size(); ++i) {
    if (static_cast<int>(i) == step_ || !t->analyses[i]) continue;
    compare->addAction(qt_text(t->steps[i].label), this,
                       [this, i] { compare_with(static_cast<int>(i)); });
  }
  menu->addSeparator();
  menu->addAction(tr("Add recordings\u2026"), this, &TwoToneSheet::ask_recordings);
  add_take_actions(menu, step_);
  menu->addAction(tr("Find maximum output with one tone\u2026"), this,
                  &TwoToneSheet::ask_full_output)
      ->setEnabled(!live_->is_running() && live_->full_output_obstacle().what.isEmpty());
  const bool has_capture = !t->steps.empty() && t->steps[static_cast<std::size_t>(step_)].capture;
  menu->addAction(tr("Self-test of the recorder\u2026"), this, &TwoToneSheet::ask_self_test)
      ->setEnabled(has_capture);
  menu->addAction(tr("Power ceiling\u2026"), this, &TwoToneSheet::ask_ceiling);
  menu->addAction(tr("Output\u2019s \u00b1\u2026"), this, &TwoToneSheet::show_output_budget);
}

void TwoToneSheet::refresh_driving_menu(const TwoToneTest* t) {
  QMenu* menu = driving_->menu();
  menu->clear();
  if (t == nullptr) return;
  driving_->set_value(t->amplifier_name.empty() ? tr("nothing") : qt_text(t->amplifier_name));
  ceiling_->set_value(t->ladder_settings.ceiling_dbm
                          ? qt_text(watts_text(*t->ladder_settings.ceiling_dbm))
                          : tr("none"));
  ceiling_->menu()->clear();
  ceiling_->menu()->addAction(tr("Choose it\u2026"), this, &TwoToneSheet::ask_ceiling);
  if (const auto advice = ladder_advice(*t); advice.advised_ceiling_dbm) {
    const double w = std::floor(to_watt(Dbm{*advice.advised_ceiling_dbm}).value * 10.0) / 10.0;
    const QString words = QStringLiteral("%1 W").arg(w);
    ceiling_->menu()->addAction(tr("%1, for the amplifier behind").arg(words), this,
                                [this, w, words] { set_ceiling(to_dbm(Watt{w}).value, words); });
  }
  ceiling_->menu()->addAction(tr("None"), this, [this] { set_ceiling(std::nullopt, {}); });
  menu->addAction(tr("nothing"), this, [this] { session_.set_driving(0, 0); });
  if (!t->driven.points.empty())
    menu->addAction(tr("How much for a wanted output\u2026"), this,
                    &TwoToneSheet::ask_wanted_output);
  // Ladders whose steps are named after their drive can stand behind this one.
  for (const Device& d : devices(session_.shack())) {
    for (const Evaluation& e : evaluations(session_.shack(), d.id)) {
      std::vector<Test> others;
      for (const Test& other : tests(session_.shack(), e.id)) {
        if (other.id != t->test.id && other.characteristic == "two_tone") others.push_back(other);
      }
      if (others.empty() || e.id == t->test.evaluation_id) continue;
      QMenu* sub = menu->addMenu(qt_text(d.name + ", " + e.title));
      for (const Test& other : others) {
        sub->addAction(tr("%1, measured alone").arg(qt_text(other.title)), this,
                       [this, id = other.id, pair = t->test.pair_test_id] {
                         session_.set_driving(id, pair == id ? 0 : pair);
                       });
        sub->addAction(tr("%1, measured as the pair").arg(qt_text(other.title)), this,
                       [this, id = other.id, alone = t->test.amplifier_test_id] {
                         session_.set_driving(alone, id);
                       });
      }
    }
  }
}

}  // namespace heron
