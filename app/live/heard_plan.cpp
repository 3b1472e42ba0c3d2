#include "app/live/heard_plan.h"

#include "app/live/heard_keeper.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

/// What somebody does before a place of a receiver.
QString hand_words(const RunRecipe::Listen::Place& place, double beside_hz) {
  if (beside_hz == 0.0)
    return QObject::tr("Dial to %1, AM").arg(qt_text(frequency_text(place.frequency_hz)));
  const QString words = QObject::tr("Dial to %1 USB, or %2 LSB")
                            .arg(qt_text(frequency_text(place.frequency_hz - beside_hz)),
                                 qt_text(frequency_text(place.frequency_hz + beside_hz)));
  return place.by_hand.empty() ? words : words + QStringLiteral("; ") + qt_text(place.by_hand);
}

}  // namespace

void fill_heard(const GeneralTest& t, const std::vector<int>& due, const RunRecipe& recipe,
                bool has_hands, LivePlan& plan) {
  const RunRecipe::Listen& listen = *recipe.listen;
  QString done;
  for (const int i : due) {
    const Step& step = t.steps[static_cast<std::size_t>(i)];
    const auto& place = listen.places[static_cast<std::size_t>(i)];
    if (!place) {
      plan.refusal = {QObject::tr("%1: its frequency is not known.").arg(qt_text(step.label)),
                      QObject::tr("Type it, or call the step by it, such as 14.2 MHz")};
      return;
    }
    if (place->is_noise) {
      plan.refusal = {QObject::tr("%1 is a recording without the signal: there is nothing to set.")
                          .arg(qt_text(step.label)),
                      QObject::tr("Measure its band itself")};
      return;
    }
    const bool is_read = !place->shows.empty();
    if (is_read && !has_hands && (!place->by_hand.empty() || !place->shown)) {
      plan.refusal = {
          QObject::tr("%1: the simulated receiver has no such thing.").arg(qt_text(step.label)),
          QObject::tr("Its S units are simulated: measure those")};
      return;
    }
    RunStep one;
    one.setting = step.label;
    one.listen.emplace();
    one.listen->frequency_hz = place->frequency_hz;
    one.listen->first_dbm = place->first_dbm;
    one.listen->most_dbm = place->most_dbm;
    one.listen->readings = listen.readings;
    if (listen.at_if)
      one.listen->at_if = RunListen::AtIf{listen.at_if->lower_db, listen.at_if->if_hz};
    if (listen.am) one.listen->am = std::pair(listen.am->depth, listen.am->tone_hz);
    one.listen->shows = place->shows;
    one.listen->shown = place->shown.value_or(0.0);
    // On one band it stays tuned.
    const QString wanted = hand_words(*place, listen.beside_hz);
    if (has_hands && !(is_read && wanted == done)) one.prompt = wanted.toStdString();
    done = wanted;
    plan.run.steps.push_back(one);
  }
  plan.run.reads_along = false;
  plan.keeper = std::make_shared<HeardKeeper>(listen);
}

}  // namespace heron
