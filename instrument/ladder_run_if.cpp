// How a run reads the level at a receiver's IF.
#include <algorithm>

#include "core/quantity/format.h"
#include "instrument/ladder_run.h"

namespace heron {
namespace {

constexpr double kNothingDbm = -200.0;
constexpr double kTooMuchDbm = 200.0;  // SCPI says 9.9E37 of an overload, and of nothing

}  // namespace

std::vector<double> LadderRun::levels_at_if(const RunListen& how, std::size_t index, RfGuard& guard,
                                            const std::stop_token& stop) {
  std::vector<double> levels;
  for (int i = 0; i < how.readings; ++i) {
    time_.wait(how.apart_s, [&](double) { stay_alive(guard, stop); });
    const double dbm = how.at_if->if_hz ? look_.line_dbm(*how.at_if->if_hz, guard, time_.factor())
                                        : with_.power_meter->ask_number(Role::power_meter, "read");
    if (!(dbm > kNothingDbm && dbm < kTooMuchDbm))
      throw step_refused(plan_.steps[index].setting, "the meter at the IF shows no level",
                         "Look whether it is connected there, and not overloaded");
    levels.push_back(dbm);
  }
  return levels;
}

void LadderRun::take_at_if(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const RunStep step = plan_.steps[index];
  const RunListen& how = *step.listen;
  set_carrier(how, index, std::min({how.first_dbm, how.most_dbm, plan_.most_generator_dbm}), guard,
              stop);
  if (events_.tune) events_.tune(index, 0.0);
  TakenStep taken;
  taken.index = index;
  taken.generator_dbm = generator_dbm_;
  taken.at_if.emplace();
  const double keyed_at_s = key_carrier();
  settle_heard(index, guard, stop);
  show(RunState::Kind::taking, index, length_s(step));
  taken.at_if->shown = levels_at_if(how, index, guard, stop);
  set_heard_level(generator_dbm_ - how.at_if->lower_db, index, guard, stop);
  show(RunState::Kind::taking, index, length_s(step));
  taken.at_if->lower_generator_dbm = generator_dbm_;
  taken.at_if->lower = levels_at_if(how, index, guard, stop);
  taken.shown_by = how.at_if->if_hz ? look_.harmonics_by() : with_.power_meter->name();
  end_carrier(std::move(taken), keyed_at_s, guard);
}

}  // namespace heron
